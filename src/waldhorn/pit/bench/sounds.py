"""Sounds of a running motor: read, kept as FLAC, and the shape of the latest held against the first."""

import io
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from sqlalchemy.orm import Session

from waldhorn.core.base.errors import InputError, NotThere
from waldhorn.core.measuring import sound
from waldhorn.pit.bench import checks
from waldhorn.pit.bench.context import CheckContext
from waldhorn.pit.bench.steps import STEPS
from waldhorn.pit.bench.steps.step import Curve
from waldhorn.store import changes, findings
from waldhorn.store.findings import MOST_SOUNDS, Recording
from waldhorn.store.models import ChangeKind, SoundRow

MOST_BYTES = 8 * 1024 * 1024
MEDIA_TYPE = "audio/flac"
LONGEST_NOTE = 80
_BLOCK = 65_536  # samples; what is read at once of all channels
_COUNTED_S = 600.0  # of a recording that is too long: so far its length is told
NOTICEABLE_DB = 3.0  # of the bands of bearings against all others; less a hand that moved makes


@dataclass(frozen=True)
class Heard:
    """The sounds of a step: those of this check and the first of an earlier one, newest first; the shape of the latest
    over that of the first, and what it tells."""

    recordings: Sequence[Recording] = ()
    curve: Curve | None = None
    words: Sequence[str] = ()


def attach(session: Session, ctx: CheckContext, step: str, data: bytes, rate_hz: int | None, note: str) -> str:
    """Keep a sound with a step of a check; returns its id. `data` is a WAV or FLAC file, or with `rate_hz` bare 32-bit
    floats of one channel. Raises InputError for what is no such sound."""
    checks.must_be_open(ctx)
    if step not in STEPS or not STEPS[step].heard:
        raise InputError("sound", "nothing is listened to in this step")
    if sum(r.check == ctx.check.id for r in ctx.found.recordings) >= MOST_SOUNDS:
        raise InputError("sound", f"this check has {MOST_SOUNDS} recordings already: that is enough")
    note = read_note(note)
    flac = as_flac(*_read(data, rate_hz))
    title = STEPS[step].title.lower()
    change_id = changes.record(session, ChangeKind.SOUND, ctx.now, ctx.motor_id, ctx.check.id, detail=title)
    row = SoundRow(check_id=ctx.check.id, change_id=change_id, at=ctx.now, step=step, note=note, flac=flac)
    session.add(row)
    session.flush()
    return row.id


def flac(session: Session, sound_id: str) -> bytes:
    """A recording, as FLAC; raises NotThere."""
    row = findings.sound(session, sound_id)
    if row is None:
        raise NotThere("There is no such recording.")
    return row.flac


def read_note(typed: str) -> str:
    """What ran, where it stood, what recorded it, as typed; raises InputError."""
    if len(note := typed.strip()) > LONGEST_NOTE:
        raise InputError("note", f"is longer than {LONGEST_NOTE} letters")
    return note


def as_flac(samples: NDArray[np.float64], rate_hz: int) -> bytes:
    """A sound as it is kept."""
    import soundfile  # loads a library

    out = io.BytesIO()
    soundfile.write(out, samples, rate_hz, format="FLAC", subtype="PCM_16")
    return out.getvalue()


def heard(session: Session, ctx: CheckContext, step: str) -> Heard:
    """The sounds of a step, and the shape of this check's latest."""
    every = ctx.recordings(step)
    mine = [r for r in every if r.check == ctx.check.id]
    first = next((r for r in every if r.check != ctx.check.id and r.at < ctx.check.at), None)
    shown = [*reversed(mine), *([first] if first else [])]
    if not mine or (now := _samples(session, mine[-1])) is None:
        return Heard(shown)
    power = sound.third_octaves(*now)
    before = _samples(session, first) if first else None
    words = ["Too loud for the microphone: further away, or with its gain down."] if sound.is_cut_off(now[0]) else []
    if first is None or before is None:
        return Heard(shown, _curve(power), words)
    then = sound.third_octaves(*before)
    day = f"{first.at:%d %B}".lstrip("0")
    return Heard(shown, _curve(power, then), [*words, _told(power, then, day)])


def _told(now: Mapping[float, float], then: Mapping[float, float], day: str) -> str:
    rose = sound.bearings_rose_db(now, then)
    bands = f"{sound.BEARINGS_HZ[0] / 1000:.0f} to {sound.bearings_up_to_hz(now, then) / 1000:.0f} kHz"
    if rose >= NOTICEABLE_DB:
        return f"{bands}, where bearings ring, stands {rose:.1f} dB higher against the rest than on {day}."
    if rose <= -NOTICEABLE_DB:
        return f"{bands} stands {-rose:.1f} dB lower against the rest than on {day}: same place, same device?"
    return f"The same shape as on {day}, as far as bearings ring ({bands}): {rose:+.1f} dB."


def _curve(power: dict[float, float], before: dict[float, float] | None = None) -> Curve:
    shape = sound.shape_db(power, before)
    dashed = sound.shape_db(before, power) if before else {}
    floor = max(-70.0, min([*shape.values(), *dashed.values()]))
    places = {c: np.log10(c) for c in shape}
    return Curve(
        "dB of the whole, by third octaves",
        [(places[c], max(db, floor)) for c, db in shape.items()],
        [],
        (min(places.values()), max(places.values())),
        (floor, 0.0),
        ("100 Hz", f"{max(shape) / 1000:.0f} kHz"),
        (f"{floor:.0f}", "0 dB"),
        before=[(places[c], max(db, floor)) for c, db in dashed.items()],
    )


def _read(data: bytes, rate_hz: int | None) -> tuple[NDArray[np.float64], int]:
    """The first channel and its rate in Hz; raises InputError."""
    if len(data) > MOST_BYTES:
        raise InputError("sound", f"the recording has {len(data) / 1e6:.1f} MB: 8 MB at most")
    import soundfile

    bare = {"samplerate": rate_hz, "channels": 1, "format": "RAW", "subtype": "FLOAT", "endian": "LITTLE"}
    try:
        with soundfile.SoundFile(io.BytesIO(data), **(bare if rate_hz else {})) as opened:
            rate = opened.samplerate
            blocks, count = [], 0
            for block in opened.blocks(_BLOCK, dtype="float64", always_2d=True):  # whatever length the file declares
                if count <= sound.MOST_S * min(rate, sound.MOST_RATE_HZ):
                    blocks.append(block[:, 0].copy())
                count += len(block)
                if count > _COUNTED_S * rate:
                    break
            samples = np.concatenate(blocks or [np.zeros(0)])
    except (soundfile.SoundFileError, ValueError, TypeError) as error:
        raise InputError("sound", "this is no sound that can be read: WAV or FLAC") from error
    sound.check(samples, rate, count / rate)
    return np.clip(samples, -1.0, 1.0), rate


def _samples(session: Session, recording: Recording) -> tuple[NDArray[np.float64], int] | None:
    row = findings.sound(session, recording.id)
    try:
        return _read(row.flac, None) if row else None
    except InputError:  # damaged in the store
        return None
