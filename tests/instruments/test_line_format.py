"""Recipes: how the lines of any instrument are read, and what cannot be a line format."""

import asyncio

import pytest
from hypothesis import given
from hypothesis import strategies as st

from loops import in_a_loop
from waldhorn.core.base.errors import InputError
from waldhorn.instruments import capture, line_protocol
from waldhorn.instruments.line_format import LineFormat, Reader, guessed, line_format_of
from waldhorn.instruments.ports import overhear
from waldhorn.instruments.replay import replay
from waldhorn.simulator.analyser import BenchServer
from waldhorn.simulator.clamped import simulated
from waldhorn.simulator.csv_output import PlainMouth

COLUMNS = {"rpm": {"at": "2"}, "volts": {"at": "3"}, "amps": {"at": "4", "factor": 0.001}}
PATTERN = r"N=(?P<n>\d+)k? U=(?P<u>[\d.,]+)V I=(?P<i>[\d.]+)"


def line_format(**more):
    return line_format_of({"name": "meter", "kind": "separated", "told": COLUMNS} | more)


@pytest.mark.parametrize(
    ("made", "line", "rpm", "volts", "amps"),
    [
        (line_format(), b"1.2,11820,7.38,1920\r\n", 11820, 7.38, 1.92),
        (line_format(separator=";"), "1;11820;7,38;1920;°".encode(), 11820, 7.38, 1.92),
        (line_format(separator=" "), b"  1   11820 7.38   1920", 11820, 7.38, 1.92),
        (
            line_format(kind="json", told={"rpm": {"at": "m.speed", "unit": "krpm"}, "volts": {"at": "u"},
                                      "amps": {"at": "i", "unit": "mA"}}),
            b'{"m": {"speed": "11.82"}, "u": 7.38, "i": 1920}', 11820, 7.38, 1.92,
        ),
        (
            line_format(kind="pattern", pattern=PATTERN,
                   told={"rpm": {"at": "n"}, "volts": {"at": "u"}, "amps": {"at": "i"}}),
            b"## N=11820 U=7.38V I=1.92 ok", 11820, 7.38, 1.92,
        ),
    ],
)  # fmt: skip
def test_a_line_is_read_by_columns_keys_or_groups(made, line, rpm, volts, amps):
    said = Reader(made).read(line)
    assert isinstance(said, line_protocol.Sample)
    assert (said.rpm, said.volts, said.amps) == pytest.approx((rpm, volts, amps))


@pytest.mark.parametrize(
    ("line", "why"),
    [
        (b"seconds,rpm,volts,milliamps", "rpm: “rpm” is no number"),
        (b"1.2,11820", "no volts, amps in it"),
        (b"1.2,11820,nan,3", "volts: “nan” is no number"),
        (b"1.2,-5,7.4,3", "rpm -5 cannot be"),
        (b"x" * 5000, "longer than 4096 bytes"),
    ],
)
def test_what_does_not_fit_is_said_and_never_fatal(line, why):
    said = Reader(line_format()).read(line)
    assert isinstance(said, line_protocol.Unread)
    assert why in said.why


@given(st.binary(max_size=200))
def test_no_line_is_fatal(line):
    for kind in (
        line_format(),
        line_format(kind="json"),
        line_format(kind="pattern", pattern="(?P<a>.)", told={"rpm": {"at": "a"}}),
    ):
        assert isinstance(Reader(kind).read(line), line_protocol.Sample | line_protocol.Unread)


@pytest.mark.parametrize(
    ("given", "says"),
    [
        ({"kind": "pattern", "pattern": "(", "told": {}}, "the pattern cannot be read"),
        ({"kind": "pattern", "pattern": "(?P<n>.)", "told": {"rpm": {"at": "m"}}}, "no group m"),
        ({"told": {"rpm": {"at": "0"}}}, "no column"),
        ({"told": {"rpm": {"at": "rpm"}}}, "no column"),
        ({"told": {"rpm": {"at": "1", "unit": "mV"}}}, "not a unit of speed"),
        ({"told": {"torque": {"at": "1"}}}, "told torque"),
        ({"name": ""}, "name"),
        ({"max_v": 0}, "max_v"),
    ],
)
def test_what_cannot_be_a_recipe_is_refused(given, says):
    with pytest.raises(InputError) as refused:
        line_format(**given)
    assert says in refused.value.sentence


@pytest.mark.parametrize("text", ["", "{", "[]", '{"waldhorn_recipe": 2}'])
def test_what_is_no_recipe_at_all_is_refused(text):
    with pytest.raises(InputError):
        line_format_of(text)


def test_a_recipe_goes_out_as_json_and_comes_back_the_same():
    assert line_format_of(line_format(separator="\t", baud=9600).model_dump_json()) == line_format(
        separator="\t", baud=9600
    )


def test_a_pattern_that_would_hold_up_others_does_not():
    made = line_format(kind="pattern", pattern="(?P<a>(a+)+)$", told={"rpm": {"at": "a"}})
    said = Reader(made).read(b"a" * 3000 + b"!")  # with a matcher that goes back it would not end
    assert isinstance(said, line_protocol.Unread)


@pytest.mark.parametrize(
    ("heard", "kind", "told"),
    [
        (["seconds,throttle %,volts,amps,rpm,degC,dB"], "separated",
         {"t": "1", "pct": "2", "volts": "3", "amps": "4", "rpm": "5", "motor_c": "6", "sound_db": "7"}),
        (["Zeit;Drehzahl;Strom;Spannung"], "separated", {"rpm": "2", "amps": "3", "volts": "4"}),
        (['{"rpm": 1, "U": 7, "I": 2}'], "json", {"rpm": "rpm", "volts": "U", "amps": "I"}),
        (["11820 7.38 1.92"], "separated", {}),
    ],
)  # fmt: skip
def test_a_first_guess_comes_from_what_columns_and_keys_are_called(heard, kind, told):
    found = guessed("x", heard)
    assert found["kind"] == kind
    assert {n: w["at"] for n, w in found["told"].items()} == told


def plain_lines(count):
    """What a simulated bench prints through its second mouth, so many lines of it."""

    async def print_them():
        bench = BenchServer(simulated(7, "none", 1.0), speed=40.0)
        mouth = PlainMouth(bench)
        port = await mouth.start()
        found = await asyncio.to_thread(overhear, f"127.0.0.1:{port}", 60, count)
        await mouth.stop()
        return found

    return in_a_loop(print_them())


def test_the_second_mouth_of_the_simulated_bench_is_read_and_replayed():
    heard = plain_lines(560)
    made = line_format_of(guessed("mouth", heard))
    assert LineFormat.model_validate(made).missing == []
    taken = [c for c in replay("\n".join(heard).encode(), line_format=made) if isinstance(c, capture.Captured)]
    assert [c.pct for c in taken] == [15.0, 50.0, 100.0]
    assert all(c.volts > 1 and c.rpm > 500 and c.steady for c in taken)
