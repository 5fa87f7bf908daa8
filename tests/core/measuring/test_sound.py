"""The shape of a sound: a tone in its band, shape without level, and what cannot be told from a recording."""

import numpy as np
import pytest

from waldhorn.core.base.errors import InputError
from waldhorn.core.measuring import sound

RATE = 48_000
T = np.arange(2 * RATE) / RATE


def noise(seed=1):
    return np.random.default_rng(seed).normal(0, 0.05, len(T))


@pytest.mark.parametrize("hertz", [125.9, 1000.0, 3981.0, 15_848.0])
def test_a_tone_is_in_its_own_third_octave(hertz):
    shape = sound.shape_db(sound.third_octaves(0.4 * np.sin(2 * np.pi * hertz * T), RATE))
    loudest = max(shape, key=shape.get)
    assert loudest == pytest.approx(hertz, rel=0.01)
    assert shape[loudest] == pytest.approx(0, abs=0.01)
    assert all(db < -40 for centre, db in shape.items() if centre != loudest)


def test_white_noise_grows_by_a_decibel_a_band():
    """Each band is 10^0.1 times as wide as the one below, and the noise holds as much a hertz."""
    shape = list(sound.shape_db(sound.third_octaves(noise(), RATE)).values())
    assert np.polyfit(range(10, len(shape)), shape[10:], 1)[0] == pytest.approx(1.0, abs=0.1)


def test_a_phone_that_turns_its_gain_changes_nothing():
    power = sound.third_octaves(noise(), RATE)
    quieter = sound.third_octaves(0.1 * noise(), RATE)
    assert sound.shape_db(quieter) == pytest.approx(sound.shape_db(power))
    assert sound.bearings_rose_db(quieter, power) == pytest.approx(0, abs=1e-9)


def test_what_rings_between_4_and_12_khz_rises_there():
    rings = 0.3 * np.sin(2 * np.pi * 7000 * T) * np.exp(-1500 * (T % (1 / 1127.5)))
    before, now = sound.third_octaves(noise(1), RATE), sound.third_octaves(noise(2) + rings, RATE)
    power_there = np.mean(rings**2) / (np.mean(noise() ** 2) * (12_000 - 4_000) / (RATE / 2))
    assert sound.bearings_rose_db(now, before) > 0.8 * 10 * np.log10(power_there)
    assert sound.bearings_rose_db(sound.third_octaves(noise(3), RATE), before) == pytest.approx(0, abs=0.3)


def test_two_rates_are_held_against_each_other_over_the_bands_both_have():
    fast, slow = sound.third_octaves(noise(), RATE), sound.third_octaves(noise()[::3], RATE // 3)
    assert max(slow) < 8_000 < max(fast)
    assert set(sound.shape_db(fast, slow)) == set(slow)
    assert sum(10 ** (db / 10) for db in sound.shape_db(fast, slow).values()) == pytest.approx(1)


@pytest.mark.parametrize(
    ("samples", "rate", "says"),
    [
        (noise(), 8_000, "8000 values a second: between"),
        (noise()[: RATE // 2], RATE, "it is 0.5 s long"),
        (np.tile(noise(), 4), 400_000, "400000 values a second: between"),
        (np.zeros(2 * RATE), RATE, "nothing to be heard"),
        (np.full(2 * RATE, np.nan), RATE, "nothing to be heard"),
        (np.tile(noise(), 16), RATE, "it is 32.0 s long"),
    ],
)
def test_what_tells_nothing_is_refused(samples, rate, says):
    with pytest.raises(InputError, match=says):
        sound.check(samples, rate, len(samples) / rate)


def test_what_is_too_loud_for_the_microphone_is_noticed():
    assert sound.is_cut_off(np.clip(2 * np.sin(T * 3000), -1, 1))
    assert not sound.is_cut_off(noise())
