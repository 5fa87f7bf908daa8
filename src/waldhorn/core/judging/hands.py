"""Hands: what eyes, ears and hands found, as evidence. Each may miss a fault and may cry wolf.

How often each finds a fault stands with the fault (`faults`), how often it is wrong and what would settle it, here.
What stands against *keep* until then is asked about in `questions`.

References
----------
.. [1] Bench practice, for the chances; the pit may know its own hands better.
.. [2] Good, Probability and the Weighing of Evidence, 1950 (odds times d/f when found, (1 − d)/(1 − f) when not).
"""

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from types import MappingProxyType

import numpy as np
from numpy.typing import NDArray

from waldhorn.core.base.history import Event, History, Inspected
from waldhorn.core.base.vocabulary import FAULTS, GRAVE, EventKind, FaultKind, GuardKind, HallKind, Look, Spin, Sweep
from waldhorn.core.judging.evidence import FRESH
from waldhorn.core.judging.faults import ENTRY
from waldhorn.core.judging.hypotheses import Grid
from waldhorn.core.measuring import inspection


@dataclass(frozen=True, slots=True)
class Sense:
    """Something eyes or hands can find: how often it is found bad, and in doubt, on a motor without any fault it tells
    of [1]_; the quantities that settle it, all of them, and what to do for that in words; how it is named in a
    sentence, what it is called when it is bad, and when it is in doubt."""

    false_bad: float
    false_doubt: float
    settled_by: tuple[str, ...]
    ask: str
    name: str
    bad: str = "bad"
    doubt: str = "in doubt"


SENSES: Mapping[str, Sense] = MappingProxyType({
    "leads": Sense(0.03, 0.1, ("resistance_imbalance",), "read the winding resistance", "leads"),
    "screws": Sense(0.05, 0.15, (), "mend them", "screws"),
    "windings": Sense(0.03, 0.05, ("resistance_imbalance",), "read the winding resistance", "windings"),
    "magnets": Sense(0.01, 0.05, ("detent_peak",), "take the detent", "magnets"),
    "bell_seam": Sense(0.02, 0.08, ("run_out",), "gauge the gap", "bell seam"),
    "wrap": Sense(0.03, 0.1, ("detent_peak",), "take the detent", "wrap or sleeve"),
    "retention": Sense(0.05, 0.15, (), "seat it", "retention"),
    "shaft": Sense(0.05, 0.15, ("run_out",), "gauge the gap", "shaft", "bad by eye", "in doubt by eye"),
    "face_gap": Sense(0.05, 0.15, ("run_out",), "gauge the gap", "face gap"),
    "air_gap": Sense(0.05, 0.15, ("run_out",), "gauge the gap", "air gap"),
    "bearings": Sense(0.05, 0.15, ("noise_avg", "no_load_current"), "listen and spin up", "bearings", "bad by hand",
                      "in doubt by hand"),
    "sensor_port": Sense(0.03, 0.1, ("timing_spread",), "run the sweep", "sensor board"),
    "end_bell": Sense(0.03, 0.1, ("timing_mean",), "run the sweep", "end bell"),
    "balance": Sense(0.05, 0.15, ("noise_avg",), "listen at full throttle", "balance marks"),
    "by_ear": Sense(0.2, 0.3, ("noise_avg",), "read the noise", "sound", "louder by ear", "odd by ear"),
    "warmth": Sense(0.2, 0.3, ("temperature",), "read the heat", "motor", "hotter by hand", "warm by hand"),
    "lamps": Sense(0.02, 0.2, ("timing_spread",), "watch the lamps again", "Hall lamps", "not right", "missed a state"),
    "first_spin": Sense(0.05, 0.15, ("noise_avg", "no_load_current"), "listen and spin up", "first spin", "rough"),
    "sweep": Sense(0.05, 0.15, ("timing_spread",), "run the sweep again", "sweep", "hunts"),
})  # fmt: skip
SEEN_TWICE = 0.1  # of its false alarms, for lamps that say the same again [1]
_LAMPS: Mapping[HallKind, str] = MappingProxyType(
    {HallKind.STUCK: "stuck", HallKind.INVERTED: "inverted", HallKind.SWAPPED: "swapped"}
)
_LONGEST_NOTE = 24  # letters of a note that fit a sentence


@dataclass(frozen=True, slots=True)
class Finding:
    """What a sense found, when, in the person's words; `times` in a row."""

    sense: str
    state: Look
    at: datetime
    note: str = ""
    times: int = 1

    @property
    def words(self) -> str:
        """What was found, as a person said it where that is short.

        >>> Finding("bearings", Look.BAD, datetime.min, "gritty").words, Finding("shaft", Look.BAD, datetime.min).words
        ('bearings gritty by hand', 'shaft bad by eye')
        """
        sense = SENSES[self.sense]
        usual = sense.bad if self.state is Look.BAD else sense.doubt
        note = " ".join(self.note.split()).rstrip(".").lower()
        if not note or len(note) > _LONGEST_NOTE:
            return f"{sense.name} {usual}"
        how = next((h for h in (" by hand", " by eye") if usual.endswith(h) and h.split()[-1] not in note), "")
        return f"{sense.name} {note.removeprefix(f'{sense.name} ')}{how}"


def telling(sense: str) -> dict[FaultKind, tuple[float, float]]:
    """The faults a sense finds, with how often at their act limit: bad, and in doubt.

    >>> [str(f) for f in telling("bearings")]
    ['worn_bearing']
    """
    return {f: ENTRY[f].found_by[sense] for f in FAULTS if sense in ENTRY[f].found_by}


def first_of(sense: str) -> FaultKind | None:
    """The fault a sense tells of first; a worn bearing where several are alike, since it is the commonest [1]."""
    chances = telling(sense)
    return max(chances, key=lambda f: (chances[f][0], f is FaultKind.WORN_BEARING, f), default=None)


def suspicion(found: Mapping[str, Look]) -> dict[FaultKind, Look]:
    """The faults that findings point to, with the graver state of those that point there: doubt or bad.

    >>> [(str(f), str(s)) for f, s in suspicion({"bearings": Look.DOUBT, "face_gap": Look.BAD}).items()]
    [('worn_bearing', 'doubt'), ('bent_shaft', 'bad')]
    """
    raised: dict[FaultKind, Look] = {}
    for name, state in found.items():
        if name in SENSES and state in (Look.DOUBT, Look.BAD):
            for fault in telling(name):
                raised[fault] = Look.BAD if Look.BAD in (state, raised.get(fault)) else Look.DOUBT
    return raised


def open_inspections(known: History) -> dict[str, Inspected]:
    """The latest inspection finding of each item, the graver of two at one time, unless it was mended since."""
    latest = {f.item: f for f in sorted(known.inspected, key=lambda f: (f.at, list(Look).index(f.state)))}
    mended: dict[str, datetime] = {}
    for e in known.events:
        for item in inspection.mended_by(e):
            mended[item] = max(e.at, mended.get(item, e.at))
    return {item: f for item, f in latest.items() if item not in mended or mended[item] < f.at}


def open_findings(known: History) -> dict[str, Look]:
    """The state of each inspection finding that stands and was not overruled since: what power asks for. What was
    overruled is still as it was found."""
    lifted: dict[str, datetime] = {}
    for o in known.overruled:
        lifted[o.subject] = max(o.at, lifted.get(o.subject, o.at))
    return {item: f.state for item, f in open_inspections(known).items() if item not in lifted or lifted[item] < f.at}


def hand_findings(known: History) -> tuple[Finding, ...]:
    """Everything eyes and hands found that stands: what is bad or in doubt until it was looked at again and found good
    or was mended, what was good since the last grave event and lately.

    Returns
    -------
    tuple of Finding
        Oldest first.
    """
    items = [Finding(n, f.state, f.at, f.note) for n, f in open_inspections(known).items() if n in SENSES]
    every = [*items, *_of_steps(known)]
    if not every:
        return ()
    last = max(f.at for f in every)
    grave = max((e.at for e in known.events if e.event in GRAVE), default=last - FRESH)
    since = max(last - FRESH, grave)
    standing = (f for f in every if f.state is not Look.OK or f.at >= since)
    return tuple(sorted(standing, key=lambda f: (f.at, f.sense)))


def _of_steps(known: History) -> list[Finding]:
    """Lamps, first spin and sweep: each as it was seen last, unless mended since."""
    lamps = sorted((f for f in known.lamps if f.kind is not HallKind.INCOMPLETE), key=lambda f: f.at)
    seen: list[Finding] = []
    if lamps:
        last = lamps[-1]
        times = 0
        for one in reversed(lamps):
            if one.kind is not last.kind:
                break
            times += 1
        state = Look.OK if last.kind is HallKind.GOOD else Look.BAD
        seen.append(Finding("lamps", state, last.at, _LAMPS.get(last.kind, ""), times))
    checks = sorted(known.checks, key=lambda c: (c.at, c.id))
    spins = [(c.at, Look.BAD if c.first_spin is Spin.ROUGH else Look.OK) for c in checks if c.first_spin]
    spins += [(g.at, Look.BAD) for g in known.guard_trips if g.kind is GuardKind.ERRATIC]
    sweeps = [(c.at, Look.BAD if c.sweep is Sweep.HUNTED else Look.OK) for c in checks if c.sweep]
    for sense, course in (("first_spin", spins), ("sweep", sweeps)):
        if course:
            at, state = max(course, key=lambda one: one[0])
            seen.append(Finding(sense, state, at))
    return [f for f in seen if f.state is Look.OK or not _mended(f, known.events)]


def _mended(finding: Finding, events: Iterable[Event]) -> bool:
    chances = telling(finding.sense)
    most = max((bad for bad, _ in chances.values()), default=0.0)
    ended = {e for f, (bad, _) in chances.items() if bad >= most for e in ENTRY[f].ended_by} - {EventKind.MENDED}
    return any(e.event in ended and e.at >= finding.at for e in events)


def log_likelihood(laid: Grid, findings: Sequence[Finding]) -> NDArray[np.float64]:
    """What findings say of every hypothesis point, as logarithms up to a constant.

    Parameters
    ----------
    laid : Grid
    findings : sequence of Finding

    Returns
    -------
    array
        Points.

    Notes
    -----
    Formula: P(found | s) = 1 − (1 − f)·Π_i ((1 − d_i)/(1 − f))^s_i over the faults it tells of, their severities s_i 1
    at the act limit: f without any, d with one at its limit, more beyond. Of what one day's hands say of one fault
    first the most telling finding counts, and what was found good only where nothing was found.

    Source: [2]_, chances from [1]_.
    """
    groups: dict[tuple[date, FaultKind | None], list[tuple[Finding, NDArray[np.float64]]]] = defaultdict(list)
    for one in findings:
        groups[one.at.date(), first_of(one.sense)].append((one, _of(laid, one)))
    total = np.zeros(laid.share.shape)
    for together in groups.values():
        noticed = [log for f, log in together if f.state is not Look.OK] or [log for _, log in together]
        total += max(noticed, key=lambda log: float(log.max() - log.min()))
    return total


def _of(laid: Grid, finding: Finding) -> NDArray[np.float64]:
    sense = SENSES[finding.sense]
    doubt = finding.state is Look.DOUBT
    false = (sense.false_doubt if doubt else sense.false_bad) * (SEEN_TWICE if finding.times > 1 else 1.0)
    missed = np.full(laid.share.shape, 1 - false)
    for fault, chances in telling(finding.sense).items():
        ratio = (1 - chances[1 if doubt else 0]) / (1 - false)
        missed = missed * ratio ** laid.severity[FAULTS.index(fault)]
    return np.asarray(np.log(missed if finding.state is Look.OK else 1 - missed))
