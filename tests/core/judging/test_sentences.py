"""Every class of sentence a judgement says, in a table that a person reads in five minutes: docs/judging-sentences.md.

`APPROVE=1 make test-fast` writes it anew; read the difference before you commit it.
"""

import os
from dataclasses import replace
from pathlib import Path

from made import BEARING, NOW, WORN, day, full, history, siblings
from made_opinions import GAPS, PAST, SAID, found, happened, said
from waldhorn.core.base.vocabulary import Spin
from waldhorn.core.judging.answer import Cause
from waldhorn.core.judging.verdict import JudgingContext, judge
from waldhorn.core.rigs.day_shift import RigShift
from waldhorn.core.rigs.reference_motor import Drifted

PAGE = Path(__file__).parents[3] / "docs" / "judging-sentences.md"
HEAD = """# What it says

One line a class of answer, made by `APPROVE=1 make test-fast` from made-up motors and read by a person before it stands
here. Left what was found, then what is said first, then what else is asked.

| found | said | asked besides |
|---|---|---|
"""
MORE = {
    "nothing has moved": lambda: said(full(30)),
    "worn bearings by every sign": lambda: said(full(30, **BEARING)),
    "weak magnets": lambda: said(full(30, kv=3640.0, amps=2.1, peaks=tuple(0.85 * p for p in (18.0, 18.3, 18.1) * 4))),
    "bearings or shaft, which is not told": lambda: said(
        replace(full(30, noise=94.0, wander=1.2, leave=("peaks", "surface", "timing")), first_spin=Spin.ROUGH),
        past=(), context=siblings(noise=85.0)),
    "noise 9 dB up, alone": lambda: said(full(30, noise=90.0)),
    "the same in four clampings": lambda: said(*[full(30 + i, name=f"n{i}", noise=90.0) for i in range(4)]),
    "hotter by 12 K, alone": lambda: said(full(30, surface=56.0)),
    "two runs far apart": lambda: said(full(30, wander=(0.2, 2.0))),
    "one check, nothing to compare with": lambda: said(full(30), past=()),
    "nothing read yet": lambda: said(past=()),
    "magnets loose": lambda: said(full(30), inspected=[found("magnets", "bad", "loose")]),
    "bearings replaced, as loud as before": lambda: said(
        full(30, **WORN), full(36, **WORN), events=[happened("bearings_replaced", 33)]),
    "retired, and fine since": lambda: said(full(30, **WORN), full(40), events=[happened("retired", 31)]),
    "a slow creep": lambda: said(*[full(4 * i, name=f"k{i}", noise=81 + 0.6 * i) for i in range(10)], past=()),
    "the rig's reference motor was out": lambda: said(
        full(30), context=JudgingContext(drifted=(Drifted("bench", "kv", day(29)),))),
    "four motors of a day moved alike": lambda: said(
        full(30, kv=3519.0), context=JudgingContext(shifts=(RigShift("bench", "kv", day(30).date(), 3.45, 0.5, 4),))),
    "another rig": lambda: said(full(30, under={"rig": "pier"})),
    "a hot start": lambda: said(full(30, surface=64.0, under={"motor_c": 40.0})),
    "only the pull was read": lambda: said(full(30), full(40, leave=("noise", "surface", "peaks", "timing", "wander"))),
    "the first check a tenth": lambda: said(
        *[full(7 * i, name=f"v{i}", amps=0.2 if i == 0 else 2.0) for i in range(6)], past=()),
    "a crash, all of it read": lambda: said(
        full(30, **GAPS), events=[happened("crash")], inspected=[found("magnets", "ok")], past=PAST),
    "a year on the shelf": lambda: judge(history(full(0), full(14), full(400)), day(401)),
}  # fmt: skip


def page():
    """The table, each sentence once."""
    rows, told, causes = [], set(), set()
    for name, make in {**SAID, **{n: (m, "") for n, m in MORE.items()}}.items():
        judged = make[0]()
        besides = " · ".join(a.says for a in judged.besides[:3])
        causes.add(judged.cause)
        if (judged.headline, besides) not in told:
            told.add((judged.headline, besides))
            rows.append(f"| {name} | {judged.headline} | {besides} |")
    return HEAD + "\n".join(rows) + "\n", causes


def test_the_page_of_sentences_is_what_is_said():
    text, causes = page()
    if os.environ.get("APPROVE"):
        PAGE.write_text(text, encoding="utf-8")
    assert PAGE.read_text(encoding="utf-8") == text
    assert {Cause.ASKED, Cause.CONDEMNED, Cause.SOUND, Cause.CREEPING, Cause.POLE_SETTING, Cause.NO_BETTER} <= causes


def test_they_read_like_a_colleague_in_a_noisy_hall():
    for line in PAGE.read_text(encoding="utf-8").splitlines()[8:]:
        _, _, words, besides, _ = (cell.strip() for cell in line.split("|"))
        assert len(words.split()) <= 18, words
        assert all(len(one.split()) <= 14 for one in besides.split(" · ")), besides
        assert "e+0" not in line
        assert "confidence" not in line


def test_what_is_judged_now_is_judged_as_of_now():
    assert said(full(30)).as_of == NOW
