"""A recording of two channels: what a drill that wanders, a weak phase, a weak magnet and a poor recorder look like."""

import numpy as np
import pytest

from waldhorn.core.base.errors import InputError
from waldhorn.core.measuring import back_emf
from waldhorn.core.measuring.back_emf_recording import analyse, read

KV = 3430


def recording(
    rpm=1000.0, poles=4, wander=0.02, weak_pair=None, weak=1.0, phases=(1.0, 1.0, 1.0), seconds=1.0, noise=0.002
):
    """Seconds, A to B and B to C of a sinusoidal motor in a drill whose speed wanders."""
    rng = np.random.default_rng(4)
    t = np.arange(int(seconds * 5000)) / 5000
    speed = rpm * (1 + wander * np.sin(2 * np.pi * 1.7 * t))
    electrical = np.cumsum(speed / 60) / 5000 * poles / 2
    pair = np.floor(electrical).astype(int) % (poles // 2)
    size = np.where(pair == weak_pair, weak, 1.0) * speed / KV / np.sqrt(3)
    a, b, c = (p * size * np.sin(2 * np.pi * (electrical - k / 3)) for k, p in enumerate(phases))
    return t, a - b + noise * rng.standard_normal(len(t)), b - c + noise * rng.standard_normal(len(t))


@pytest.mark.parametrize("wander", [0.0, 0.02, 0.05])
@pytest.mark.parametrize("poles", [4, 14])
def test_kv_comes_from_the_waveform_alone_however_the_drill_wanders(wander, poles):
    found = analyse(*recording(wander=wander, poles=poles), poles)
    assert back_emf.peak_kv(found.wave) == pytest.approx(KV, rel=0.002)
    assert found.wave.rpm == pytest.approx(1000, rel=0.01)
    assert back_emf.unbalance_pct(found.wave) < 0.1
    assert back_emf.weak_phase(found.wave) is None
    assert found.odd_pair is None
    assert not found.may_be_cut


def test_a_phase_five_percent_low_is_the_worked_example_and_is_named():
    found = analyse(*recording(phases=(1.0, 1.0, 0.95), noise=0.0002), 4)
    assert back_emf.unbalance_pct(found.wave) == pytest.approx(1.70, rel=0.005)
    assert back_emf.weak_phase(found.wave)[0] == "C"
    assert found.odd_pair is None


@pytest.mark.parametrize(("weak", "percent"), [(0.93, -7.0), (1.06, 6.0)])
def test_a_magnet_that_stands_out_does_so_once_a_turn(weak, percent):
    found = analyse(*recording(poles=14, weak_pair=3, weak=weak, rpm=600), 14)
    assert found.odd_pair[1] == pytest.approx(percent, abs=1.2)
    assert len(found.pairs) == 7
    assert back_emf.unbalance_pct(found.wave) < 0.2


def test_two_poles_have_no_pair_to_compare_and_a_slow_drill_is_said():
    assert analyse(*recording(poles=2), 2).odd_pair is None
    assert analyse(*recording(rpm=500, poles=4), 4).may_be_cut


def test_without_poles_the_drills_speed_is_asked_for():
    told = recording(wander=0.0)
    assert analyse(*told, None, 1000).wave.rpm == 1000
    with pytest.raises(InputError, match="type the drill's speed"):
        analyse(*told, None)


@pytest.mark.parametrize(
    ("spoil", "says"),
    [
        (lambda t, ab, bc: (t[:40], ab[:40], bc[:40]), "too few"),
        (lambda t, ab, bc: (t[:600], ab[:600], bc[:600]), "whole electrical turns: record 6 or more"),
        (lambda t, ab, bc: (np.delete(t, 50), np.delete(ab, 50), np.delete(bc, 50)), "even steps"),
        (lambda t, ab, bc: (t, np.clip(ab, -0.2, 0.2), bc), "cut off"),
        (lambda t, ab, bc: (t, ab, np.zeros_like(bc)), "nothing on one of the channels"),
        (lambda t, ab, bc: (t[::25], ab[::25], bc[::25]), "record faster, or drill slower"),
    ],
    ids=["few", "short", "gap", "clipped", "dead", "slow"],
)
def test_a_poor_recording_is_refused_in_words(spoil, says):
    with pytest.raises(InputError) as refused:
        analyse(*spoil(*recording()), 4)
    assert says in refused.value.sentence


def test_a_pasted_recording_is_read_in_the_usual_separators():
    assert [c.tolist() for c in read("t;ab;bc\n0;0,5;1\n0,1;2;3\n")] == [[0.0, 0.1], [0.5, 2.0], [1.0, 3.0]]
    with pytest.raises(InputError, match="line 2"):
        read("0 1 2\n1 2")
    with pytest.raises(InputError, match="a row a line"):
        read("0 1 2")
