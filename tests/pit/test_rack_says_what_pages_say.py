"""Whatever the rack says of a motor is what its page, its tag, the API and `judge --json` say, after every change."""

import random
from datetime import timedelta

import pytest

from made import NOW
from waldhorn.core.base.conditions import Conditions
from waldhorn.core.base.errors import InputError, InputErrors
from waldhorn.core.base.history import Motor, Reading
from waldhorn.exchange import tag_code
from waldhorn.exchange.judgement import to_json
from waldhorn.pit.bench import bench, checks
from waldhorn.pit.bench.steps import STEPS
from waldhorn.pit.judging import judging, view_cache
from waldhorn.pit.motors import corrections, facts, machines, motor_page
from waldhorn.pit.rigs import rigs
from waldhorn.pit.settings import limits_and_prices
from waldhorn.pit.writing import Writing, changing
from waldhorn.store import cached_verdicts, changes, motors, readings
from waldhorn.store import rigs as rig_store
from waldhorn.store.models import CachedVerdictRow, CheckRow

TAGS = ("A-1", "A-2", "A-3", "A-4", "A-5")
MODELS = ("Skerry 36", "Gannet 28")
STEPS_A_WALK = 14


class Pit:
    """A pit in which things happen, each at a later time."""

    def __init__(self, store, seed):
        self.store, self.chance, self.at = store, random.Random(seed), NOW
        with changing(store, Writing(self.at)) as session:
            for tag in TAGS:
                model = self.chance.choice(MODELS)
                facts.add(session, Motor(tag, model=model, label_kv=3450, poles=4, machine="tow boat"), self.at)
        for tag in TAGS:
            for _ in range(2):
                self.read(tag)

    def later(self):
        self.at += timedelta(hours=self.chance.randint(1, 40))
        return self.at

    def tags(self):
        with self.store.reading() as session:
            return motors.all_tags(session)

    def a_tag(self):
        return self.chance.choice(self.tags())

    # what people do

    def read(self, tag=""):
        """A visit, as a file or the API brings it."""
        tag, at = tag or self.a_tag(), self.later()
        rig = self.chance.choice(("pier", "pier", "lake"))
        off = self.chance.choice((1.0, 1.0, 1.01, 1.09))
        db = self.chance.choice((80.0, 81.0, 88.5))
        with changing(self.store, Writing(at)) as session:
            under = Conditions(rig=rig, method="loaded-supply")
            ids = readings.check_ids(session, [(motors.find(session, tag).id, str(at), at, under)])
            full = {"rig": rig, "throttle_pct": 100.0, "method": "loaded-supply"}
            loud = {"rig": rig, "throttle_pct": 100.0, "placement": "stand", "distance_cm": 10.0}
            found = []
            for run in (1, 2):
                found += [
                    Reading("supply_volts", 7.4, at, run, Conditions(**full)),
                    Reading(
                        "no_load_current", 2.2 * self.chance.uniform(0.99, 1.01) * off, at, run, Conditions(**full)
                    ),
                    Reading("rpm", 25_500 * self.chance.uniform(0.998, 1.002) * off, at, run, Conditions(**full)),
                    Reading("noise_avg", db + self.chance.uniform(-0.5, 0.5), at, run, Conditions(**loud)),
                ]
            readings.add(session, [(next(iter(ids.values())), r) for r in found])
            motors.touch(session, [motors.find(session, tag).id])

    def on_the_bench(self):
        """A run typed into a check that stays open."""
        tag, at = self.a_tag(), self.later()
        check, _ = motor_page.open_check(self.store, Writing(at), tag, "quick")
        typed = {
            "volts": "7.4",
            "amps": f"{self.chance.choice((2.2, 3.1))}",
            "rpm": f"{self.chance.choice((25500, 27400))}",
        }
        steps = {"setup": {"rig": "pier", "method": "loaded-supply"}, "look": {"shaft": "bad"}, "pull": typed}
        name = self.chance.choice(("setup", "look", "pull"))
        bench.carry_out(
            self.store, Writing(at), check, name, lambda s, ctx: checks.take_step(s, ctx, STEPS[name], steps[name])
        )

    def hang_back(self):
        tag, at = self.a_tag(), self.later()
        with self.store.reading() as session:
            found = cached_verdicts.open_checks(session, [motors.find(session, tag).id])
        for check in found.values():
            if self.chance.random() < 0.5:
                bench.hang_back(self.store, Writing(at), check)
            else:
                typed = {"verdict": "keep", "reason": "runs well", "signed_by": "Oda"}
                bench.sign(self.store, Writing(at), check, typed)

    def happens(self):
        event = self.chance.choice(
            ("crash", "overheated", "run", "bearings_replaced", "put_away", "removed", "cleaned")
        )
        self.carry_out(lambda s, row: facts.add_event(s, row, {"event": event}, self.at))

    def name_yardstick(self):
        self.amend({"yardstick": "yes"})

    def correct_facts(self):
        self.amend(
            self.chance.choice(({"model": MODELS[0]}, {"model": MODELS[1]}, {"poles": "6"}, {"machine": "raft"}))
        )

    def amend(self, other):
        def command(session, row):
            typed = {"tag": row.tag, "model": row.model, "kind": row.kind, "sensored": "yes", "poles": f"{row.poles}"}
            typed |= {"machine": row.machine, "label_kv": "3450", "yardstick": "yes" if row.yardstick else "no"}
            facts.amend(session, row, typed | other, self.at)

        self.carry_out(command)

    def shake(self):
        at = self.later()
        with changing(self.store, Writing(at)) as session:
            rows = session.query(CheckRow.motor_id).distinct()
            values = {f"shakes-{i}": str(self.chance.randint(0, 5)) for (i,) in rows}
            machines.take_shaking(session, "tow boat", {"way": "hand"} | values, at)

    def put_right(self):
        tag = self.a_tag()
        with self.store.reading() as session:
            found = [r for _, rows in readings.book(session, motors.find(session, tag).id) for r in rows]
        if not found:
            return
        one = self.chance.choice(found)
        other = self.a_tag()
        typed = self.chance.choice(
            (
                {"do": "aside", "reason": "slip"},
                {"value": f"{one.value * 1.02:.3f}"},
                {"do": "move", "to": other, "which": "check"},
            )
        )
        corrections.put_right(self.store, Writing(self.later()), tag, one.id, typed)

    def merge(self):
        other = self.a_tag()
        self.carry_out(lambda s, row: corrections.merge(s, row, {"same": other}, self.at))

    def undo(self):
        with self.store.reading() as session:
            row = motors.find(session, self.a_tag())
            last = changes.of_motor(session, row.id, 6)
        if last:
            motor_page.undo(self.store, Writing(self.later()), row.tag, self.chance.choice(last).id)

    def set_limits(self):
        typed = {"watch-kv": "1", "act-kv": "2", "signed_by": "Oda"}
        with changing(self.store, Writing(self.later())) as session:
            limits_and_prices.save_limits(session, "", typed, self.at)

    def rename_rig(self):
        with changing(self.store, Writing(self.later())) as session:
            rigs.rename(session, "lake", {"name": f"lake {self.chance.randint(1, 99)}"})

    def carry_out(self, command):
        motor_page.carry_out(self.store, Writing(self.later()), self.a_tag(), command)

    def step(self):
        bench = (self.read, self.on_the_bench, self.on_the_bench, self.hang_back)
        motor = (self.happens, self.name_yardstick, self.correct_facts, self.shake, self.put_right, self.merge)
        what = self.chance.choice((*bench, *motor, self.undo, self.undo, self.set_limits, self.rename_rig))
        try:
            what()
        except (InputError, InputErrors) as refused:
            return f"{what.__name__}: refused: {refused}"
        return what.__name__


def answers(store, at):
    """What each place says of every motor: its verdict and its first sentence, and how it hangs."""
    with store.reading() as session:
        judged = judging.judge_all(session, at)
        kept = {row.motor_id: row for row in session.query(CachedVerdictRow)}
        tags = {i: tag for tag, i in motors.ids_by_tag(session).items()}
        assert set(kept) == set(tags) == set(judged)
        rack = {tags[i]: row.tool_verdict for i, row in kept.items()}
        page = {tags[i]: view_cache.look_at(session, i, at).judgement.verdict for i in tags}
        told = {tags[i]: to_json(j)["verdict"] for i, j in judged.items()}
        code = {
            tags[i]: tag_code.decode(tag_code.encode(motors.several(session, [i])[i], j, tag_code.MOST_BYTES)).v
            for i, j in judged.items()
        }
        said = {tags[i]: (row.headline, judged[i].headline, row.overruled_by) for i, row in kept.items()}
        gone = {tags[i]: bool(judging.off_the_rack(readings.history(session, i))) == kept[i].retired for i in tags}
    return rack, page, told, code, said, gone


@pytest.mark.parametrize("seed", [pytest.param(n, marks=pytest.mark.long if n else ()) for n in range(8)])
def test_after_random_changes_every_place_says_the_same(store, seed):
    pit, done = Pit(store, seed), []
    for _ in range(STEPS_A_WALK):
        done.append(pit.step())
        rack, page, told, code, said, gone = answers(store, pit.at)
        assert rack == page == told == code, done
        assert all(gone.values()), (done, gone)
        for tag, (headline, judged, overruled) in said.items():
            assert overruled or headline == judged or headline.endswith("away.") or "Retired" in headline, (tag, done)


def test_a_moment_after_the_last_reading_the_judge_says_what_it_says_now(store):
    """Also where the lines between rigs were worked out later, as after bringing a season in."""
    at = NOW
    with store.writing() as session:
        for place in range(7):
            kv = 900 * 1.2**place
            [motor_id] = motors.add(session, [Motor(f"B-{place}", model=f"M {place}", label_kv=kv, poles=4)])
            rigs_read = ("pier", "lake", "pier", "lake") if place < 6 else ("pier", "pier", "lake")
            for rig in rigs_read:
                scale = 1.0 if rig == "pier" else 1.19
                at += timedelta(hours=7)
                under = Conditions(rig=rig, method="loaded-supply", throttle_pct=100.0)
                ids = readings.check_ids(session, [(motor_id, str(at), at, under)])
                pairs = (("supply_volts", 7.4), ("no_load_current", 1.1 * 1.25**place * scale), ("rpm", 7.4 * kv))
                found = [Reading(m, v * (1 + run / 1000), at, run, under) for run in (1, 2) for m, v in pairs]
                readings.add(session, [(next(iter(ids.values())), r) for r in found])
    later = at + timedelta(days=1)
    judging.settle_apart(store, later)
    with store.reading() as session:
        lines = rig_store.said_of_rigs(session)[1]
        assert lines
        assert rig_store.said_of_rigs(session, at + timedelta(seconds=1))[1] == lines
        said = [
            {
                i: {n: v for n, v in to_json(j).items() if n != "as_of"}
                for i, j in judging.judge_all(session, as_of).items()
            }
            for as_of in (at + timedelta(seconds=1), later)
        ]
    assert said[0] == said[1]
