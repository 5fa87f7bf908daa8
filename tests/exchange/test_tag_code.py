"""The code of a tag: what it says, how long it is, and what is no code."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from made import NOW, full, history
from waldhorn.core.base.errors import InputError
from waldhorn.core.base.history import Motor
from waldhorn.core.judging.verdict import judge
from waldhorn.exchange.tag_code import MOST_BYTES, decode, encode, is_code

CHECKS = (full(0), full(7), full(60, noise=88.0, amps=2.7))


def test_a_code_says_what_was_read_last():
    known = history(*CHECKS)
    code = encode(known.motor, judge(known, NOW))
    said = decode(f"  {code}\n")
    assert (said.t, said.m, said.v, said.d) == ("VS-07", "Skerry 36", judge(known, NOW).verdict, "2026-09-12")
    assert said.b["no_load_current"] == (2.7, 2, "2026-06-30")
    assert said.b["noise_avg"][0] == pytest.approx(88.0, abs=0.1)


@pytest.mark.long
@given(st.text(min_size=1, max_size=40), st.text(max_size=60))
def test_a_code_is_never_longer_than_a_small_square_reads(tag, model):
    known = history(*CHECKS, motor=Motor(tag, model, label_kv=3450, poles=4))
    code = encode(known.motor, judge(known, NOW))
    assert len(code) <= MOST_BYTES
    assert (decode(code).t, decode(code).m) == (tag, model)


@given(st.text(max_size=80))
def test_what_is_no_code_is_refused(text):
    with pytest.raises(InputError, match="scan it again"):
        decode(f"WH1:{text}")


def test_a_torn_code_and_one_that_unpacks_to_too_much_are_refused():
    import zlib

    import base45

    code = encode(history(*CHECKS).motor, judge(history(*CHECKS), NOW))
    much = b'{"t": "A-1", "m": "' + b" " * 5000 + b'"}'  # but for its length a code like another
    for torn in (code[:-9], *("WH1:" + base45.b45encode(zlib.compress(t)).decode() for t in (b" " * 10**6, much))):
        with pytest.raises(InputError):
            decode(torn)
    assert (is_code(code), is_code("VS-07")) == (True, False)
