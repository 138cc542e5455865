"""Loudness against another meter, and against the test signals of EBU Tech 3341."""

import warnings

import numpy as np
import pyloudnorm
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from cicada.core.loudness import Loudness, Weighting, weighting

RATE = 48000


def heard(samples, rate=RATE, block=4096):
    meter = Loudness(rate, len(samples))
    for first in range(0, samples.shape[1], block):
        meter.add(samples[:, first : first + block])
    return meter


def tone(*stretches, rate=RATE):
    """A tone of 1 kHz on both sides, in stretches of (dB of full scale, seconds)."""
    counts = [round(seconds * rate) for _, seconds in stretches]
    levels = np.repeat([10 ** (db / 20) for db, _ in stretches], counts)
    wave = np.sin(2 * np.pi * 1000 / rate * np.arange(len(levels))) * levels
    return np.stack([wave, wave])


def highest(samples, what, block=480):
    """The highest a meter shows while it hears the samples, and at the end of every block."""
    meter, shown = Loudness(RATE), []
    for first in range(0, samples.shape[1], block):
        meter.add(samples[:, first : first + block])
        shown.append(getattr(meter, what))
    return [each for each in shown if each is not None]


def test_the_weighting_at_48_khz_is_the_recommendations_own():
    (b1, a1), (b2, a2) = weighting(48000)
    assert b1 == pytest.approx([1.53512485958697, -2.69169618940638, 1.19839281085285])
    assert a1 == pytest.approx([1.0, -1.69065929318241, 0.73248077421585])
    assert b2 == pytest.approx([1.0, -2.0, 1.0])
    assert a2 == pytest.approx([1.0, -1.99004745483398, 0.99007225036621])


@given(st.lists(st.integers(1, 700), min_size=1, max_size=8), st.sampled_from((8000, 48000)))
def test_blocks_of_any_size_are_weighted_as_the_whole(blocks, rate):
    samples = np.random.default_rng(sum(blocks)).standard_normal((2, sum(blocks)))
    whole = Weighting(rate, 2).filter(samples)
    parts, meter = [], Weighting(rate, 2)
    for end, size in zip(np.cumsum(blocks), blocks, strict=True):
        parts.append(meter.filter(samples[:, end - size : end]))
    assert np.allclose(np.concatenate(parts, axis=1), whole, atol=1e-9)
    wanted = np.zeros_like(samples)
    for row, signal in zip(wanted, samples, strict=True):
        row[:] = plainly_filtered(signal, rate)
    assert np.allclose(whole, wanted, atol=1e-8)


def plainly_filtered(signal, rate):
    """Both stages, sample by sample."""
    for b, a in weighting(rate):
        before, made = [0.0] * 4, []
        for x in signal:
            y = b[0] * x + b[1] * before[0] + b[2] * before[1]
            y -= a[1] * before[2] + a[2] * before[3]
            before = [x, before[0], y, before[2]]
            made.append(y)
        signal = made
    return signal


@settings(max_examples=25)
@given(
    st.sampled_from((44100, 48000, 96000, 192000)),
    st.integers(1, 2),
    st.integers(4, 120),
    st.integers(0, 99),
)
def test_at_whole_tenths_of_a_second_another_meter_says_the_same(rate, channels, tenths, seed):
    random = np.random.default_rng(seed)
    samples = random.standard_normal((channels, tenths * rate // 10)) * 0.1
    # Loud and nearly silent stretches, so that both gates have something to do.
    samples *= np.repeat(random.choice((1.0, 0.3, 1e-5), 40), -(-samples.shape[1] // 40))[
        : samples.shape[1]
    ]
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        meter = pyloudnorm.Meter(rate)
        want = meter.integrated_loudness(samples.T)
    found = heard(samples, rate).integrated
    if found is None:
        assert want < -69.9
    else:
        # A block that stands on a gate may count for the one and not for the other.
        blocks = np.array(meter.blockwise_loudness)
        power = np.mean(10 ** (blocks[blocks > -70] / 10))
        assume(np.abs(blocks - (10 * np.log10(power) - 10)).min() > 0.02)
        assert found == pytest.approx(want, abs=0.1)


@pytest.mark.parametrize("rate", [44100, 48000, 96000, 192000])
def test_a_tone_at_full_scale_on_one_side_is_3_lu_below(rate):
    wave = np.sin(2 * np.pi * 997 / rate * np.arange(3 * rate))
    assert heard(np.stack([wave, 0 * wave]), rate).integrated == pytest.approx(-3.01, abs=0.03)


def test_what_is_shorter_than_a_block_has_no_loudness():
    assert heard(tone((-20, 0.399))).integrated is None
    assert heard(tone((-20, 0.4))).integrated == pytest.approx(-20, abs=0.1)
    assert heard(tone((-20, 2.9))).short is None


def test_silence_has_no_loudness():
    meter = heard(np.zeros((2, RATE)))
    assert (meter.momentary, meter.integrated, meter.loudest) == (None, None, None)


# EBU Tech 3341, table 1: each signal as it is published, and what a meter must show.
@pytest.mark.parametrize("level", [-23, -33])
def test_ebu_cases_1_and_2_a_steady_tone(level):
    meter = heard(tone((level, 20)))
    for shown in (meter.momentary, meter.short, meter.integrated):
        assert shown == pytest.approx(level, abs=0.1)


@pytest.mark.parametrize(
    "stretches",
    [
        ((-36, 10), (-23, 60), (-36, 10)),
        ((-72, 10), (-36, 10), (-23, 60), (-36, 10), (-72, 10)),
        ((-26, 20), (-20, 20.1), (-26, 20)),
    ],
    ids=["3", "4", "5"],
)
def test_ebu_cases_3_to_5_are_gated(stretches):
    assert heard(tone(*stretches)).integrated == pytest.approx(-23, abs=0.1)


def test_ebu_case_9_short_term_stands_still():
    shown = highest(tone(*((-20, 1.34), (-30, 1.66)) * 5), "short")
    assert shown == pytest.approx([-23] * len(shown), abs=0.1)


@pytest.mark.parametrize("number", range(1, 21))
def test_ebu_case_10_three_seconds_anywhere_are_met(number):
    shown = highest(tone((-200, number * 0.15), (-23, 3), (-200, 1)), "short")
    assert max(shown) == pytest.approx(-23, abs=0.1)


def test_ebu_case_11_each_of_20_stretches_is_met_in_turn():
    for number in range(20):
        level = -38 + number
        shown = highest(tone((-200, 0.15 * number), (level, 3), (-200, 3 - 0.15 * number)), "short")
        assert max(shown) == pytest.approx(level, abs=0.1)


def test_ebu_case_12_momentary_stands_still():
    shown = highest(tone(*((-20, 0.18), (-30, 0.22)) * 25), "momentary")
    settled = shown[60:]
    assert settled == pytest.approx([-23] * len(settled), abs=0.1)


@pytest.mark.parametrize("number", range(1, 21))
def test_ebu_case_13_four_tenths_anywhere_are_met(number):
    samples = tone((-200, number * 0.02), (-23, 0.4), (-200, 1))
    assert max(highest(samples, "momentary")) == pytest.approx(-23, abs=0.1)
    assert heard(samples).loudest == pytest.approx(-23, abs=0.1)


def test_ebu_case_14_each_of_20_pulses_is_met_in_turn():
    for number in range(20):
        level = -38 + number
        samples = tone((-200, 0.02 * number), (level, 0.4), (-200, 0.4 - 0.02 * number))
        assert max(highest(samples, "momentary")) == pytest.approx(level, abs=0.1)
