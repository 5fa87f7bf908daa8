"""What a notebook holds besides rows of numbers, and what a good technician says to it."""

from dataclasses import replace

import pytest

from made import NOW, day, full, history
from made_opinions import GAPS, PAST, SAID, found, happened, said
from waldhorn.core.base.conditions import Conditions
from waldhorn.core.base.history import Check, CrossTried, Motor, Overruled, Reading
from waldhorn.core.base.vocabulary import CONDEMNED, Look, NoteKind, Purpose, Ran, Source, Spin, State
from waldhorn.core.judging import baseline_doubt, demands, hands, slips, weighing
from waldhorn.core.judging.baseline import own_references
from waldhorn.core.judging.evidence_sources import Residual
from waldhorn.core.judging.questions import Why
from waldhorn.core.judging.verdict import JudgingContext, judge
from waldhorn.core.measuring.measures import QUANTITIES
from waldhorn.core.measuring.observations import all_groups
from waldhorn.core.rigs.day_shift import Moved, RigShift, common, shifts

WORST = ("keep", "watch", "unproven", "repair", "retire")


@pytest.mark.parametrize("name", SAID)
def test_what_is_said_first(name):
    make, words = SAID[name]
    assert make().headline == words


@pytest.mark.parametrize("name", SAID)
def test_no_question_is_longer_than_ten_words(name):
    judged = SAID[name][0]()
    assert all(len(a.says.replace(":", "").split()) <= 14 and len(a.says) <= 80 for a in judged.asks)
    assert len((judged.next_test or "").split()) <= 10


def test_a_finding_ends_when_it_is_looked_at_again_or_mended_and_not_by_overruling():
    bad = found("bearings", "bad", "gritty")
    assert said(full(30), inspected=[bad]).verdict == "unproven"
    assert said(full(30), full(31, name="b"), inspected=[bad, found("bearings", "ok", at=31)]).verdict == "keep"
    mended = said(full(30), full(40), inspected=[bad], events=[happened("bearings_replaced", 35)])
    assert not any(a.why is Why.HAND for a in mended.asks)
    still = said(full(30), inspected=[bad], overruled=(Overruled("c30", "bearings", "it is fine", day(30)),))
    assert still.verdict == "unproven"


def test_a_doubt_stands_against_keep_until_its_tests_are_read():
    doubt = found("bearings", "doubt", "dry")
    assert said(full(30, leave=("noise",)), inspected=[doubt]).verdict == "unproven"
    assert said(full(30), inspected=[doubt]).verdict == "keep"


def test_every_sense_finds_what_it_tells_of_more_often_than_not_at_all():
    for name, sense in hands.SENSES.items():
        for bad, doubt in hands.telling(name).values():
            assert (bad > sense.false_bad, doubt >= sense.false_doubt) == (True, True), name


@pytest.mark.parametrize("sense", hands.SENSES)
def test_a_finding_makes_its_fault_likelier_and_what_was_found_good_makes_it_less_likely(sense):
    fault = hands.first_of(sense)
    odds = {}
    for state in (None, *Look):
        findings = [hands.Finding(sense, state, day(1))] if state else []
        odds[state] = weighing.presence(weighing.weigh((), found=findings), fault).probability
    assert odds[Look.OK] < odds[None] < odds[Look.BAD]
    assert odds[None] <= odds[Look.DOUBT] + 1e-9
    assert odds[Look.DOUBT] < odds[Look.BAD]


def test_two_hands_of_one_day_are_one_witness_and_of_two_days_two():
    def worn(*findings):
        return weighing.presence(weighing.weigh((), found=findings), "worn_bearing").probability

    gritty = hands.Finding("bearings", Look.BAD, day(1))
    rough = hands.Finding("first_spin", Look.BAD, day(1))
    assert any(worn(gritty, rough) == pytest.approx(worn(one)) for one in (gritty, rough))
    assert worn(gritty, replace(rough, at=day(9))) > 1.5 * worn(gritty, rough)


def test_the_odds_of_a_fault_at_its_limit_move_by_what_a_hand_is_worth():
    """Odds times d/f when found, (1 − d)/(1 − f) when not: 0.7 and 0.05 for gritty bearings."""
    laid = weighing.grid()
    at_limit = [
        i for i in range(laid.share.size)
        if laid.members[laid.hypothesis[i]] == ("worn_bearing",) and abs(laid.severity[:, i].max() - 1) < 1e-9
    ]  # fmt: skip
    for state, ratio in ((Look.BAD, 0.7 / 0.05), (Look.OK, 0.3 / 0.95)):
        log = hands.log_likelihood(laid, [hands.Finding("bearings", state, day(1))])
        assert 2.718281828 ** (log[at_limit[0]] - log[0]) == pytest.approx(ratio)


def test_the_first_check_had_the_slip_and_five_after_it_agree():
    checks = [full(7 * i, name=f"v{i}", amps=0.2 if i == 0 else 2.0) for i in range(6)]
    judged = said(*checks, past=())
    assert judged.verdict == "keep"
    assert [a.says for a in judged.asks if a.why is Why.BASELINE] == [
        "No-load current once read 0.20, else 2.00: decimal point?"
    ]
    back = Overruled("v5", baseline_doubt.PUT_BACK + "no_load_current", "I saw it myself", day(36))
    assert said(*checks, past=(), overruled=(back,)).verdict != "keep"


def test_two_baseline_visits_that_contradict_each_other_are_asked_about_and_no_later_one_is_blamed():
    judged = said(full(30, amps=2.6), past=(full(0, amps=1.6), full(14, amps=2.6)))
    assert judged.verdict not in CONDEMNED
    current = next(e for e in judged.evidence if e.quantity.name == "no_load_current")
    assert current.has(NoteKind.BASELINE_IN_DOUBT)
    assert current.change.u > 10


def test_a_fault_that_came_between_the_first_checks_is_not_taken_for_a_slip():
    worn = {"noise": 89.0, "amps": 2.72, "wander": 1.64, "surface": 53.6}
    judged = said(full(7, **worn), full(14, name="b", **worn), full(21, name="c", **worn), past=(full(0),))
    assert judged.verdict == "repair"


def test_an_error_in_the_baseline_is_one_error_however_many_visits_follow():
    few, many = (Residual("noise_avg", 8.0, 1.5, 2, visits, 2, 1) for visits in (2, 9))
    assert many.slip == pytest.approx(few.slip, rel=0.05)
    assert Residual("noise_avg", 8.0, 1.5, 2, 9).slip < 1e-15


@pytest.mark.parametrize(("ratio", "words"), [(10, "decimal point?"), (0.1, "decimal point?"), (1000, "mA?")])
def test_a_slip_is_named_by_its_sharpest_match(ratio, words):
    nothing = weighing.weigh([Residual("kv", 0.0, 0.7), Residual("noise_avg", 0.0, 1.5)]).weights
    slip = slips.against_faults(QUANTITIES["no_load_current"], 2.0 * ratio, 2.0, 4.0, nothing)
    assert (slip.words, slip.named, slip.odds > 100) == (words, True, True)


@pytest.mark.parametrize("ratio", [0.9, 1.0, 1.1, 1.3, 1.8])
def test_what_a_fault_can_do_is_no_slip(ratio):
    current, before = QUANTITIES["no_load_current"], weighing.weigh(()).weights
    assert slips.against_faults(current, 2.0 * ratio, 2.0, 4.0, before) is None


def test_after_two_set_ups_made_anew_it_is_never_a_third():
    for amps, noise in ((2.0, 90.0), (2.9, 81.0)):
        for visits in (3, 4, 6):
            judged = said(*[full(30 + i, name=f"n{i}", noise=noise, amps=amps) for i in range(visits)])
            assert not any(w in (judged.next_test or "") for w in ("again, repeat", "anew", "check supply"))


def test_a_resistance_off_by_six_percent_in_four_visits_is_a_joint():
    checks = [full(30 + i, name=f"n{i}") for i in range(4)]
    pairs = [("ab", 16.0), ("bc", 17.5), ("ca", 17.5)]

    def with_ohms(check, values):
        from waldhorn.core.base.history import Reading

        more = [Reading(f"winding_resistance_{p}", v, check.at, 1) for p, v in values]
        return replace(check, readings=check.readings + tuple(more))

    sound = [("ab", 16.0), ("bc", 16.05), ("ca", 15.95)]
    past = [with_ohms(c, sound) for c in PAST]
    judged = said(*[with_ohms(c, pairs) for c in checks], past=past)
    assert judged.headline == "Repair: solder the joint or lead anew."


def test_a_creep_ends_when_the_latest_reading_is_back():
    creeping = [full(4 * i, name=f"k{i}", noise=81 + 0.6 * i) for i in range(10)]
    assert "creeps" in said(*creeping, past=()).headline
    back = said(*creeping, full(40, name="back"), past=())
    assert "creeps" not in back.headline


def test_a_motor_that_was_hot_before_its_run_says_nothing_by_its_heat():
    hot = said(full(30, surface=64.0, under={"motor_c": 40.0}))
    heat = next(e for e in hot.evidence if e.quantity.name == "temperature")
    assert heat.has(NoteKind.HOT_MOTOR)
    assert any(a.says == "It was 18 K warm before: let it cool" for a in hot.asks)


def test_where_energy_is_known_heat_is_judged_by_the_kilojoule():
    past = tuple(full(at, gaps=(0.6,) * 4, energy=1000.0) for at in (0, 14))
    heat = {"leave": ("kv", "amps", "noise"), "surface": 62.0}  # 40 K for 22 K before

    def state_of(case, name):
        return next(e for e in case.evidence if e.quantity.name == name).state

    longer = said(full(30, energy=1800.0, **heat), past=past)
    assert (state_of(longer, "temperature"), state_of(longer, "heat_per_energy")) == (State.WITHIN, State.WITHIN)
    short = said(full(30, energy=500.0, surface=40.0), past=past)  # 18 K for 22 K, of half the energy: 64 % more
    assert state_of(short, "heat_per_energy") is not State.WITHIN
    unknown = said(full(30, **heat), past=past)
    assert state_of(unknown, "temperature") is not State.WITHIN


def peers(yardstick=False, **changed):
    of = {}
    for i in range(6):
        theirs = history(full(3, **changed))
        for name, mine in own_references(all_groups(theirs), theirs.events).items():
            kind = Source.YARDSTICK if yardstick and i == 0 else Source.OWN
            of.setdefault(name, []).extend(replace(b, source=kind) for b in mine)
    return JudgingContext(of)


def test_a_first_look_condemns_what_screams_among_its_siblings():
    screams = replace(full(30, noise=94.0, wander=1.6, leave=("peaks", "surface", "timing")), first_spin=Spin.ROUGH)
    judged = said(screams, past=(), context=peers(noise=85.0))
    assert judged.verdict == "repair"
    assert "bearings" in judged.headline
    assert said(full(30), past=(), context=peers()).verdict == "keep"


def test_a_sibling_that_is_better_than_the_rest_is_kept():
    assert said(full(30, noise=77.0), past=(), context=peers(noise=85.0)).verdict == "keep"


def test_what_a_person_knows_to_be_good_is_the_yardstick():
    context = peers(yardstick=True, noise=85.0)
    noise = next(e for e in said(full(30), past=(), context=context).evidence if e.quantity.name == "noise_avg")
    assert (noise.reference.source, noise.reference.n) == ("yardstick", 1)


def test_an_absolute_limit_condemns_where_there_is_nothing_else_and_clears_nothing():
    loud = said(full(30, noise=97.0), past=())
    noise = next(e for e in loud.evidence if e.quantity.name == "noise_avg")
    assert (noise.reference.source, noise.state) == ("ceiling", "past")
    quiet = said(full(30, noise=88.0), past=())
    assert next(e for e in quiet.evidence if e.quantity.name == "noise_avg").reference is None


def test_a_label_condemns_nobody():
    for kv in (0.8, 0.91, 1.09, 1.2):
        judged = said(full(30, kv=3450 * kv), past=())
        assert (judged.verdict in CONDEMNED, judged.by_limits in CONDEMNED) == (False, False)
    assert any(a.why is Why.LABEL for a in said(full(30, kv=3450 * 0.91), past=()).asks)


def test_what_was_not_read_today_is_said_and_not_called_as_it_was():
    judged = said(full(30), full(40, leave=("noise", "surface", "peaks", "timing", "wander")))
    assert any(a.says.startswith("Not read today: ") for a in judged.asks)
    assert "noise" not in judged.reason.split("Would not have shown")[0]


def test_an_event_asks_for_an_early_date_once_its_tests_are_read():
    sound = said(full(30, **GAPS))
    crashed = said(full(30, **GAPS), events=[happened("crash")], inspected=[found("magnets", "ok")])
    assert (sound.verdict, crashed.verdict) == ("keep", "keep")
    assert (crashed.check_by.runs, crashed.check_by.date) < (sound.check_by.runs, sound.check_by.date)
    assert demands.due_after(history(full(0)), day(0)) is None


def test_a_year_on_the_shelf_asks_for_the_bearings():
    stored = judge(history(full(0), full(14), full(400)), day(401))
    assert stored.headline == "Unproven: a year on the shelf: turn the bearings by hand."
    assert judge(history(full(0), full(14), full(200)), day(401)).verdict == "keep"


def test_motors_of_a_day_that_moved_alike_are_the_rigs():
    day_of = day(30).date()
    moved = [Moved(str(i), d, 1.1) for i, d in enumerate((3.5, 3.1, 3.9, 3.3))]
    [shift] = shifts({("bench", "kv", day_of): moved, ("bench", "noise_avg", day_of): moved[:2]})
    assert (shift.motors, round(shift.value, 2)) == (4, 3.45)
    assert common([Moved("a", 3.5, 1.1), Moved("b", -3.1, 1.1), Moved("c", 0.2, 1.1)]) is None
    assert common([*moved, Moved("other", 14.0, 1.1)])[2] == moved
    context = JudgingContext(shifts=(RigShift("bench", "kv", day_of, 3.45, 0.55, 4),))
    judged = said(full(30, kv=3400 * 1.035), context=context)
    assert judged.headline == "Unproven: 4 motors moved alike (+3.5 %): check bench."
    assert next(e for e in judged.evidence if e.quantity.name == "kv").residual is None


def test_another_rig_without_a_line_says_what_would_make_it_comparable():
    judged = said(full(30, under={"rig": "other"}))
    first = "Read on bench before, other now: read five motors on both first"
    assert (judged.verdict, first in [a.says for a in judged.asks]) == ("keep", True)
    happened_since = said(full(30, under={"rig": "other"}), events=[happened("crash", 20)])
    assert happened_since.headline == "Unproven: crashed 21 May: gauge the gap and first spin."


def test_poles_out_of_what_a_kind_can_be_are_asked_about():
    motor = Motor("x", kind="inrunner", poles=28, poles_known_by="counted", label_kv=3450)
    assert "28 poles on an inrunner: count again" in [a.says for a in said(full(30), motor=motor).asks]


def test_a_swap_answers_a_complaint():
    tried = CrossTried("c30", Ran.POORLY, Ran.WELL, Ran.POORLY, None, None, day(30))
    judged = said(full(30), events=[happened("returned", detail="no top end")], crossed=(tried,))
    assert judged.headline == "Keep. Fine on the bench: look at the machine."


@pytest.mark.parametrize("noise", [81.0, 83.0, 86.0, 90.0])
def test_a_worse_finding_never_gives_a_milder_answer(noise):
    ranks = [
        WORST.index(said(full(30, noise=noise), inspected=[found("bearings", state)] if state else []).verdict)
        for state in ("ok", "doubt", "bad")
    ]
    assert ranks == sorted(ranks)


@pytest.mark.parametrize(
    ("kind", "at", "stands"),
    [
        ("bearings_replaced", 31, False),
        ("bearings_replaced", 29, True),
        ("run", 31, True),
        ("timing_changed", 31, True),
    ],
)
def test_a_rough_first_spin_ends_by_what_mends_it_and_only_after_it(kind, at, stands):
    rough = replace(full(30), first_spin=Spin.ROUGH)
    known = replace(history(*PAST, rough), events=(happened(kind, at),))
    bad = [f.sense for f in hands.hand_findings(known) if f.state is Look.BAD]
    assert bad == (["first_spin"] if stands else [])


def test_rows_beyond_the_ratings_are_said_and_change_no_answer():
    under = Conditions(on_shaft="5045", cells=4)
    read = (("load_volts", 14.2), ("load_current", 34.2), ("temperature", 71.0))
    rows = tuple(Reading(m, v, day(31), 1, under, Purpose.LOAD) for m, v in read)
    rated = replace(history().motor, rated_a=30.0, rated_cells=3, rated_w=500.0)
    driven = Check("driven", day(31), rows)
    sound = judge(history(*PAST, full(30), motor=rated), NOW)
    beyond = judge(history(*PAST, full(30), driven, motor=rated), NOW)
    assert [a.says for a in beyond.asks if a.why is Why.LOAD] == [
        "Driven beyond what it is made for: 34 A, rated 30",
        "Driven beyond what it is made for: 4S, rated 3",
        "Driven beyond what it is made for: 71 °C, stop at 60",
    ]
    assert [a for a in sound.asks if a.why is Why.LOAD] == []
    assert beyond.verdict == sound.verdict


@pytest.mark.parametrize("order", [("ok", "bad"), ("bad", "ok")])
def test_of_two_findings_of_one_time_the_graver_stands(order):
    noted = [found("by_ear", state, "rough" if state == "bad" else "") for state in order]
    assert said(full(30), inspected=noted).headline.startswith("Unproven: sound rough")
