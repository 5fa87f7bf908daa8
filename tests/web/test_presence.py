"""Every open page hears what others did, and nothing of what it did itself."""

import asyncio
import json
import time
from pathlib import Path

import pytest

from loops import in_a_loop
from waldhorn.core.base.history import Motor
from waldhorn.pit.bench import checks
from waldhorn.store import motors, seats
from waldhorn.store.engine import open_store
from waldhorn.store.seats import Role, Seat
from waldhorn.store.writing import Writing
from waldhorn.web.common import presence as module
from waldhorn.web.common.pages import now
from waldhorn.web.common.presence import Presence, TooMany

JK, AB = Seat("1", "JK", Role.TECHNICIAN), Seat("2", "AB", Role.LOOK)


def lay_on_bench(store, tag, who="", screen=""):
    with store.writing(Writing(now(), who, screen)) as session:
        return checks.open_check(session, motors.find(session, tag), now()).id


@pytest.fixture
def rack(store):
    with store.writing() as session:
        motors.add(session, [Motor("VS-01"), Motor("VS-02")])
    return store


def told(store, act, *paths, something=True):
    """What pages at these places are told when something is done, each as a list of events; all are waited for unless
    there is nothing to tell."""

    async def run():
        presence = Presence(store)
        task = presence.start()
        await asyncio.sleep(0.1)
        screens = [
            await presence.enter(f"screen {n}", (JK, AB)[n % 2], path, presence.standing())
            for n, path in enumerate(paths)
        ]
        await asyncio.to_thread(act)
        await asyncio.sleep(module.GATHER_S + 0.4)
        until = time.monotonic() + 20
        while something and time.monotonic() < until and any(s.queue.empty() for s in screens):
            await asyncio.sleep(0.05)
        presence.close()
        task.cancel()
        return [[s.queue.get_nowait() for _ in range(s.queue.qsize())] for s in screens]

    return in_a_loop(run())


def test_what_one_does_is_told_the_others_with_the_motor_and_who(rack):
    own, other = told(rack, lambda: lay_on_bench(rack, "VS-01", "JK", "screen 0"), "/", "/")
    assert [e["kind"] for e in own] == ["seen"]
    [event] = other
    assert (event["kind"], event["tags"], event["who"], event["all"]) == ("changed", ["VS-01"], "JK", False)
    assert event["did"] == "VS-01: check opened"
    assert event["at"] == own[0]["at"]


def test_what_another_program_stores_is_told_too(rack):
    file = Path(str(rack.engine.url.database))

    def elsewhere():
        other = open_store(file)
        lay_on_bench(other, "VS-02")
        other.close()

    module_poll, module.POLL_S = module.POLL_S, 0.1
    try:
        [events] = told(rack, elsewhere, "/")
    finally:
        module.POLL_S = module_poll
    assert ["VS-02"] in [e["tags"] for e in events]  # it may be looked at between two of its commits


def test_what_is_typed_tells_nobody(rack):
    check = lay_on_bench(rack, "VS-01")

    def typing():
        with rack.writing(Writing(now(), screen="elsewhere")) as session:
            checks.keep_draft(session, check, "pull", {"volts": "7"})

    assert told(rack, typing, "/", something=False) == [[]]


def test_a_page_that_was_drawn_before_something_happened_is_told_at_once(rack):
    async def run():
        presence = Presence(rack)
        before = presence.standing()
        lay_on_bench(rack, "VS-01")
        screen = await presence.enter("a", JK, "/", before)
        fresh = await presence.enter("b", JK, "/", presence.standing())
        return screen.queue.get_nowait(), fresh.queue.empty()

    event, nothing = in_a_loop(run())
    assert event["all"]
    assert nothing


def test_who_is_at_the_same_check_is_said_to_each_and_unsaid(rack):
    async def run():
        presence = Presence(rack)
        at = presence.standing()
        one = await presence.enter("a", JK, "/checks/c1", at)
        two = await presence.enter("b", AB, "/checks/c1/live", at)
        await presence.enter("c", AB, "/checks/c2", at)
        presence.leave(two)
        return [one.queue.get_nowait()["who"] for _ in range(one.queue.qsize())], two.queue.get_nowait()["who"]

    assert in_a_loop(run()) == ([[], ["AB"], []], ["JK"])


def test_a_seat_that_is_put_out_hears_nothing_more(rack):
    async def run():
        presence = Presence(rack)
        screen = await presence.enter("a", AB, "/", presence.standing())
        presence.put_out(AB.id)
        said = [part async for part in presence.events(screen)]
        return [json.loads(part.removeprefix(b"data: "))["kind"] for part in said], presence.screens

    assert in_a_loop(run()) == (["out"], [])


def test_no_more_streams_are_kept_than_can_be(rack, monkeypatch):
    monkeypatch.setattr(module, "MOST_STREAMS", 4)
    monkeypatch.setattr(module, "MOST_OF_A_SEAT", 2)

    async def run():
        presence = Presence(rack)
        for seat in (JK, JK, AB):
            await presence.enter("s", seat, "/", "")
        with pytest.raises(TooMany):
            await presence.enter("s", JK, "/", "")
        await presence.enter("s", AB, "/", "")
        with pytest.raises(TooMany):
            await presence.enter("s", Seat("3", "CD", Role.LOOK), "/", "")

    in_a_loop(run())


def test_a_page_that_does_not_listen_holds_up_nobody(rack):
    async def run():
        presence = Presence(rack)
        deaf = await presence.enter("a", JK, "/", "")
        for _ in range(500):
            deaf.tell({"kind": "seen"})
        return deaf.queue.qsize()

    assert in_a_loop(run()) == module.MOST_WAITING


def test_a_seat_that_another_program_took_away_hears_nothing_more(rack):
    with rack.writing() as session:
        seat, _ = seats.join(session, "JK", Role.TECHNICIAN, "phone", now())

    def elsewhere():
        other = open_store(rack.file.path)
        with other.writing() as session:
            seats.drop_passphrase(session, Role.TECHNICIAN, now())
        other.close()

    async def run():
        presence = Presence(rack)
        task = presence.start()
        screen = await presence.enter("a", seat, "/", presence.standing())
        await asyncio.to_thread(elsewhere)
        heard = await asyncio.wait_for(screen.queue.get(), 20)
        presence.close()
        task.cancel()
        return heard

    assert in_a_loop(run()) == {"kind": module.OUT}
