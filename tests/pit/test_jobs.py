"""Work that takes longer than a page may."""

import threading

import pytest

from waldhorn.core.base.errors import InputError
from waldhorn.pit.files import jobs


def test_it_says_how_far_it_is_and_what_came_of_it():
    go, seen = threading.Event(), threading.Event()

    def work(job):
        job.at("reading", 1, 4)
        seen.set()
        go.wait(10)
        return 42

    job = jobs.start("a", work)
    assert seen.wait(10)
    assert (job.words, job.share, job.done) == ("reading", 0.25, False)
    assert jobs.start("a", lambda _: 43) is job  # it goes on already
    go.set()
    assert job.wait(10)
    assert (job.result, job.refused) == (42, None)
    assert jobs.find("a") is job
    jobs.forget("a")
    assert jobs.find("a") is None


def test_it_is_called_off_between_two_steps_but_not_once_it_is_stored():
    begun = threading.Event()

    def endless(job):
        begun.set()
        while True:
            job.at("reading", 0, 1)

    job = jobs.start("b", endless)
    assert begun.wait(10)
    assert job.can_be_cancelled
    job.cancel()
    assert job.wait(10)
    assert job.refused.sentence == "called off: nothing was stored"

    def past_recall(job):
        job.stored()
        job.cancel()
        job.at("judging", 1, 2)
        return "kept"

    kept = jobs.start("c", past_recall)
    assert kept.wait(10)
    assert (kept.result, kept.can_be_cancelled) == ("kept", False)


@pytest.mark.parametrize(("error", "shown"), [(InputError("files", "no"), "refused"), (KeyError("x"), "failed")])
def test_what_goes_wrong_is_there_to_be_said(error, shown):
    def work(_):
        raise error

    job = jobs.start(f"d-{shown}", work)
    assert job.wait(10)
    assert getattr(job, shown) is error
    assert job.result is None
