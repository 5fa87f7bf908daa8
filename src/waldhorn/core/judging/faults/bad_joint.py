"""A bad joint or lead: a resistance in series with one phase."""

from waldhorn.core.base.vocabulary import EventKind, FaultKind, Verdict
from waldhorn.core.judging.faults.entry import FaultEntry

ENTRY = FaultEntry(
    kind=FaultKind.BAD_JOINT,
    words="a bad joint or lead",
    short="joint or lead",
    part="a joint or lead",
    paragraph=(
        "A solder joint, a plug or a strand of one lead has given way and stands in series with its phase. Two of"
        " the three pairs read higher by the same; without load nothing else shows, under load that lead gets hot."
    ),
    remedy=Verdict.REPAIR,
    remedy_words="solder the joint or lead anew",
    ended_by=(EventKind.MENDED, EventKind.REWOUND),
    signature={"kv": -0.3, "temperature": 2, "heat_per_energy": 14, "resistance_imbalance": 5},
    after={EventKind.CRASH: 2},
    found_by={"leads": (0.6, 0.4)},
    looked_for=False,
    share=0.3,
)
