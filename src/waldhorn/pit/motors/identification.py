"""What is this motor? What was seen and measured of one without a label, held against the rack."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from statistics import median

from sqlalchemy.orm import Session

from waldhorn.core.base.errors import InputError
from waldhorn.core.base.history import Motor
from waldhorn.core.base.units import Notation, read_number
from waldhorn.core.motors import identification
from waldhorn.core.motors.facts import KINDS
from waldhorn.core.motors.identification import SizeName
from waldhorn.core.motors.winding import why_not_wound
from waldhorn.pit.judging import basis
from waldhorn.store import motors

NEAR = 0.06  # a share by which KV and mass of a sibling may lie off
LIKE = 2.0  # times its mass: strength by mass grows with the size of a motor
STRONG, WEAK = 1.15, 0.85  # motor constant by mass against the rack's
# field: its words, dimension and what it can be at all
NUMBERS: Mapping[str, tuple[str, str, float, float]] = {
    "can_mm": ("can diameter", "length", 5, 300),
    "length_mm": ("can length", "length", 5, 400),
    "mass_g": ("mass", "mass", 1, 20_000),
    "slots": ("slots", "count", 3, 60),
    "poles": ("poles", "count", 2, 60),
    "kv": ("KV by the drill", "speed_per_volt", 10, 50_000),
    "ohm": ("resistance of two leads", "resistance", 0.5, 50_000),
}
READ = {"read_kv": "kv", "read_mohm": "ohm"}  # what was read of it, as taking in keeps it
NOTHING_SAID = "Say what you can see and measure."
# What is worth measuring, the most telling first, and what it would tell.
WORTH = (
    ("kv", "turn it with the drill and read two leads: KV tells the winding"),
    ("poles", "count the magnets: without the poles no speed can be believed"),
    ("ohm", "measure two leads with four wires: with KV it tells how strong the motor is for its size"),
    ("mass_g", "weigh it: strength by mass is what compares it with the rack"),
    ("slots", "count the teeth: with the poles they say how it was wound"),
    ("can_mm", "measure the can: it says which reading of a size name is right"),
)


@dataclass(frozen=True)
class Told:
    """What can be told: the motor as far as it is known, the answer in a line, sentences, what is odd, siblings of the
    rack, both readings of the size name, what to measure next, and the facts to take in."""

    motor: Motor
    headline: str = ""
    said: list[str] = field(default_factory=list)
    odd: list[str] = field(default_factory=list)
    siblings: list[tuple[Motor, str]] = field(default_factory=list)
    sizes: list[SizeName] = field(default_factory=list)
    next: list[str] = field(default_factory=list)
    facts: dict[str, str] = field(default_factory=dict)


def read(typed: Mapping[str, str], notation: Notation) -> tuple[dict[str, float], dict[str, str]]:
    """The numbers of a form, and what is wrong with the others."""
    found, wrong = {}, {}
    for name, (words, dimension, low, high) in NUMBERS.items():
        if text := typed.get(name, "").strip():
            try:
                found[name] = read_number(text, words, dimension, low, high, notation)
            except InputError as refused:
                wrong[name] = refused.sentence
    for name in ("slots", "poles"):
        if name in found and found[name] != int(found[name]):
            wrong[name] = f"{found.pop(name):g} {name} cannot be: a whole number"
    if found.get("poles", 2) % 2:
        wrong["poles"] = f"{found.pop('poles'):g} poles cannot be: they come in pairs"
    return found, wrong


def tell(session: Session, typed: Mapping[str, str], seen: Mapping[str, float]) -> Told:
    """What can be told of a motor from what was seen of it."""
    kind = typed.get("kind", "")
    kind = kind if kind in KINDS else ""
    slots, poles = int(seen.get("slots", 0)), int(seen.get("poles", 0))
    told = Told(
        Motor(tag="", kind=kind, slots=slots or None, poles=poles or None),
        sizes=identification.read_size(typed.get("size", ""), seen.get("can_mm"), seen.get("length_mm")),
        next=[words for name, words in WORTH if name not in seen],
    )
    told.facts.update(_facts(kind, seen, typed.get("size", "").strip(), told.sizes))
    if slots and poles and (why := why_not_wound(slots, poles)):
        told.odd.append(f"{slots} slots with {poles} poles cannot be: {why}. Count again.")
    if kv := seen.get("kv"):
        delta, wye = identification.other_connection(kv)
        told.said.append(f"Connected the other way it would have {delta:.0f} KV (from wye) or {wye:.0f} (from delta).")
    if kv and (ohm := seen.get("ohm")):
        _strength(
            told,
            identification.motor_constant(kv, ohm / 1000),
            seen.get("mass_g"),
            [b for b in basis.driven(session) if not kind or b.motor.kind == kind],
        )
    told.siblings.extend(_siblings(kind, seen, motors.every(session)))
    for motor, _ in told.siblings:
        if kv and motor.turns and motor.label_kv:
            count = identification.turns(kv, motor.label_kv, motor.turns)
            told.said.append(f"On the stator of {motor.tag} it would have {count:.1f} turns, so {round(count)}.")
            break
    return replace(told, headline=_headline(told, typed.get("size", "").strip(), seen))


def _headline(told: Told, size: str, seen: Mapping[str, float]) -> str:
    """The most that is known, in a line."""
    if told.siblings:
        like = told.siblings[0][0]
        return f"It could be a {like.model or like.tag}."
    if {"kv", "mass_g"} & set(seen):
        return "Nothing on the rack is quite like it."
    if len(fitting := [s for s in told.sizes if s.fits]) == 1:
        return f"{size} is the size of its {fitting[0].of}."
    counted = [f"{n:g} {name}" for name in ("slots", "poles") if (n := seen.get(name))]
    known = [told.motor.kind, " and ".join(counted)]
    return f"So far: {', '.join(k for k in known if k)}." if any(known) else NOTHING_SAID


def _facts(kind: str, seen: Mapping[str, float], size: str, sizes: Sequence[SizeName]) -> dict[str, str]:
    """What is handed to taking in, in stored units: its facts, and what was read of it. KV by the drill is a reading
    and no label."""
    facts = {n: f"{seen[n]:g}" for n in ("can_mm", "length_mm", "mass_g", "slots", "poles") if n in seen}
    fitting = [s for s in sizes if s.fits]
    if len(fitting) == 1:
        names = ("stator_mm", "stator_length_mm") if fitting[0].of == "stator" else ("can_mm", "length_mm")
        told = zip(names, (fitting[0].diameter_mm, fitting[0].length_mm), strict=True)
        facts = {n: f"{v:g}" for n, v in told if v} | facts
    facts |= {n: f"{seen[of]:g}" for n, of in READ.items() if of in seen}
    facts |= {"variant": size} if size else {}
    return facts | ({"kind": kind} if kind else {}) | ({"poles_known_by": "counted"} if "poles" in seen else {})


def _strength(told: Told, constant: float, mass_g: float | None, bases: list[basis.Basis]) -> None:
    words = f"Its motor constant is {constant:.1f} mN·m/√W"
    others = [
        identification.motor_constant(b.constants.kv, b.constants.resistance_ohm) / b.motor.mass_g
        for b in bases
        if b.constants and b.motor.mass_g and mass_g and 1 / LIKE < b.motor.mass_g / mass_g < LIKE
    ]
    if not mass_g or not others:
        told.said.append(f"{words}.")
        return
    share = constant / mass_g / median(others)
    kind = "strong for its mass" if share > STRONG else "weak for its mass" if share < WEAK else "as its mass promises"
    told.said.append(
        f"{words}, {100 * (share - 1):+.0f} % by mass against its like on the rack: {kind}.".replace("-", "−")
    )
    if share < WEAK:
        told.odd.append("So weak for its mass, resistance or KV may be misread, or the magnets have gone.")


def _siblings(kind: str, seen: Mapping[str, float], of: Sequence[Motor]) -> list[tuple[Motor, str]]:
    """Motors of the rack that could be its like, the nearest first, with what agrees."""
    found = []
    for motor in of:
        if kind and motor.kind != kind:
            continue
        pairs = (("KV", seen.get("kv"), motor.label_kv), ("mass", seen.get("mass_g"), motor.mass_g))
        off = [(n, abs(a / b - 1)) for n, a, b in pairs if a and b]
        same = [n for n in ("slots", "poles") if n in seen and getattr(motor, n) == int(seen[n])]
        differ = [n for n in ("slots", "poles") if n in seen and getattr(motor, n) not in (None, int(seen[n]))]
        near = [n for n, d in off if d <= NEAR]
        if not differ and near and len(near) == len(off):
            found.append((sum(d for _, d in off) - len(same) - len(near), motor, ", ".join([*near, *same])))
    return [(motor, words) for _, motor, words in sorted(found, key=lambda f: (f[0], f[1].tag))[:6]]
