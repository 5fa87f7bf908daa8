"""The code on a motor's tag: what was read of it last, in at most 300 bytes, so that another pit can read it without a
network. `WH1:` and base45 of the zlib-compressed JSON of docs/formats.md."""

import json
import zlib
from typing import Any

import base45  # type: ignore[import-untyped]
from pydantic import BaseModel, ConfigDict, ValidationError

from waldhorn.core.base.errors import InputError
from waldhorn.core.base.history import Motor
from waldhorn.core.judging.verdict import Judgement
from waldhorn.core.measuring.measures import QUANTITIES

PREFIX = "WH1:"
MOST_BYTES = 300
MOST_ON_TAPE = 100  # so that 11 mm still read
_MOST_UNPACKED = 4096
SAID = tuple(sorted((n for n, q in QUANTITIES.items() if q.on_tag), key=lambda n: QUANTITIES[n].on_tag))


class TagCode(BaseModel):
    """A tag's code: tag, model, by measure the value, from how many readings and on which day, verdict and day."""

    model_config = ConfigDict(extra="ignore")

    t: str
    m: str = ""
    b: dict[str, tuple[float, int, str]] = {}
    v: str = ""
    d: str = ""


def encode(motor: Motor, judged: Judgement, most: int = MOST_BYTES) -> str:
    """The code of a motor: as many of its measures as fit into so many bytes, the weightiest first."""
    read = {e.quantity.name: e for e in judged.evidence if e.now is not None and e.at}
    said: dict[str, Any] = {}
    code = ""
    for name in ("", *SAID):
        if name and (e := read.get(name)) and e.now is not None and e.at:
            said[name] = [float(f"{e.now:.4g}"), e.n_now, e.at.date().isoformat()]
        packed = _packed(
            {
                "t": motor.tag,
                "m": motor.model,
                "b": said,
                "v": judged.verdict.value,
                "d": judged.as_of.date().isoformat(),
            }
        )
        if code and len(packed) > most:
            break
        code = packed
    return code


def _packed(document: dict[str, Any]) -> str:
    text = json.dumps(document, ensure_ascii=False, separators=(",", ":")).encode()
    return f"{PREFIX}{base45.b45encode(zlib.compress(text, 9)).decode()}"


def decode(text: str) -> TagCode:
    """What a code says; raises InputError where it is none, or torn."""
    try:
        unpacker = zlib.decompressobj()
        plain = unpacker.decompress(base45.b45decode(text.strip().removeprefix(PREFIX)), _MOST_UNPACKED)
        return TagCode.model_validate_json(plain)
    except (ValueError, zlib.error, ValidationError) as error:
        raise InputError("find", "this code is torn or was not read whole: scan it again") from error


def is_code(text: str) -> bool:
    """Whether a text is the code of a tag."""
    return text.strip().startswith(PREFIX)
