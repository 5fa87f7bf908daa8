"""The facts of a motor: what cannot be, said in place. Not for measured values."""

from waldhorn.core.base.history import Motor
from waldhorn.core.base.vocabulary import PolesBy
from waldhorn.core.motors import own_facts
from waldhorn.core.motors.winding import can_be_wound

KINDS = ("inrunner", "outrunner")
MAGNETS = ("neodymium", "samarium-cobalt", "ferrite")
POLES_KNOWN_BY = tuple(PolesBy)

_POSITIVE = {
    "label_kv": "label KV",
    "turns": "turns",
    "mass_g": "mass",
    "lead_mm": "lead length",
    "lead_awg": "lead gauge",
    "rated_a": "rated current",
    "rated_w": "rated power",
    "rated_rpm": "rated speed",
    "can_mm": "can diameter",
    "length_mm": "can length",
    "rotor_mm": "rotor diameter",
    "rotor_length_mm": "rotor length",
    "price": "price",
    "rated_cells": "rated cells",
    "stator_mm": "stator diameter",
    "stator_length_mm": "stator length",
    "shaft_mm": "shaft",
    "laminations_mm": "laminations",
}


MOST_POLES = 60
LONGEST_TAG = 40
NOT_IN_A_TAG = "/\\?#%"
_NO_TAGS = (".", "..", "new")


def impossible(motor: Motor) -> dict[str, str]:
    """What cannot be true of a motor, by field.

    Parameters
    ----------
    motor : Motor

    Returns
    -------
    dict of field name to a sentence saying what is wrong and what would be right
        Empty when all is possible.

    Notes
    -----
    Source: magnet faces come in pairs; star of slots for the slot count (see `winding`).

    Examples
    --------
    >>> impossible(Motor(tag="VS-07", poles=7))
    {'poles': '7 poles cannot be: magnet faces come in pairs, so 6 or 8'}
    """
    wrong: dict[str, str] = {}
    if said := _no_tag(motor.tag):
        wrong["tag"] = said
    for name, words in _POSITIVE.items():
        value = getattr(motor, name)
        if value is not None and value <= 0:
            wrong[name] = f"{words} {value:g} must be above 0, or left empty if not known"
    wrong |= _poles(motor.poles)
    if said := own_facts.wrong(motor.own):
        wrong["own"] = said
    poles = None if "poles" in wrong else motor.poles
    if motor.slots is not None and not can_be_wound(motor.slots, poles):
        wrong["slots"] = _no_winding(motor.slots, poles)
    for name, value, allowed in (
        ("kind", motor.kind, ("", *KINDS)),
        ("magnet", motor.magnet, MAGNETS),
        ("poles_known_by", motor.poles_known_by, ("", *POLES_KNOWN_BY)),
    ):
        if value not in allowed:
            wrong[name] = f"“{value}” is not a {name.replace('_', ' ')}: one of {', '.join(a for a in allowed if a)}"
    return wrong


def _no_tag(tag: str) -> str:
    """Why a text cannot be a tag; empty where it can."""
    if not tag.strip():
        return "a motor needs a tag: what is written on it, or the next free one"
    if len(tag) > LONGEST_TAG:
        return f"a tag has at most {LONGEST_TAG} characters, this one has {len(tag)}"
    if bad := [c for c in tag if c in NOT_IN_A_TAG or not c.isprintable()]:
        shown = " ".join(c if c.isprintable() else f"U+{ord(c):04X}" for c in dict.fromkeys(bad))
        would_do = "".join("-" if c in NOT_IN_A_TAG else c for c in tag if c.isprintable()).strip("- ")
        return f"a tag cannot hold {shown}: {would_do} would do" if would_do else f"a tag cannot hold {shown}"
    if tag.strip().casefold() in _NO_TAGS:
        return f"“{tag}” cannot be a tag: it means something else in an address; {tag.strip('.')}-1 would do"
    return ""


def _poles(poles: int | None) -> dict[str, str]:
    if poles is None:
        return {}
    if poles < 2 or poles > MOST_POLES:
        return {"poles": f"{poles} poles cannot be: 2 to {MOST_POLES}, always even"}
    if poles % 2:
        return {"poles": f"{poles} poles cannot be: magnet faces come in pairs, so {poles - 1} or {poles + 1}"}
    return {}


def _no_winding(slots: int, poles: int | None) -> str:
    near = [n for n in range(max(3, slots - 6), slots + 7) if can_be_wound(n, poles)]
    near = sorted(sorted(near, key=lambda n: (abs(n - slots), n))[:3])
    of = f" with {poles} poles" if poles and slots >= 3 and slots % 3 == 0 else ""
    return f"{slots} slots{of} cannot carry three phases: {', '.join(map(str, near))} can"
