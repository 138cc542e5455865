"""Peak, loudness, silence at the ends and the join of a loop."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from cicada.core.loudness import Loudness
from cicada.media.measures import SILENCE, loudness, measure
from cicada.media.peaks import PeakGatherer

RATE = 48000


def measured(samples, rate=RATE):
    samples = np.atleast_2d(np.asarray(samples, np.float32))
    gatherer = PeakGatherer()
    gatherer.append(np.ascontiguousarray(samples.T))
    return measure(samples, gatherer.peaks(samples.shape[1]), rate)


def test_loudness_in_pieces_is_that_of_the_whole():
    samples = np.random.default_rng(1).standard_normal((2, 7 * RATE)) * 0.1
    samples[:, : 3 * RATE] *= 0.01
    whole = Loudness(RATE)
    whole.add(samples)
    assert loudness(samples.astype(np.float32), RATE) == pytest.approx(whole.integrated, abs=0.01)


def test_a_short_hit_and_silence_have_no_loudness():
    hit = 0.5 * np.sin(np.arange(RATE) / 5)
    assert -20 < measured(hit).loudness < 0
    short = measured(hit[: RATE // 3])
    assert short.loudness is None
    # With silence after it, a meter shows it as loud as what is there.
    assert -22 < short.heard < measured(hit).loudness
    assert measured(np.zeros(48000)).loudness is None


@given(st.integers(0, 3000), st.integers(1, 3000), st.integers(0, 3000))
def test_silence_is_measured_to_the_sample(head, sound, tail):
    samples = np.concatenate((np.zeros(head), np.full(sound, 2 * SILENCE), np.zeros(tail)))
    found = measured(samples)
    assert found.head == pytest.approx(head / RATE, abs=1e-4)
    assert found.tail == pytest.approx(tail / RATE, abs=1e-4)
    assert found.peak == pytest.approx(2 * SILENCE, rel=1e-3)


def test_whole_waves_join_cleanly_and_a_cut_one_clicks():
    wave = np.sin(2 * np.pi * np.arange(48000) / 480) * 0.5
    assert measured(wave).seam.clean
    assert measured(wave[: 48000 - 120]).seam.clicks


def test_a_decay_jumps_where_it_would_begin_again():
    wave = np.sin(2 * np.pi * np.arange(48000) / 480) * np.linspace(0.5, 0.01, 48000)
    seam = measured(wave).seam
    assert not seam.clean
    assert not seam.clicks
    assert seam.step > 12


def test_a_sound_of_nothing_is_silent_and_joins_without_a_click():
    found = measured(np.zeros((1, 0), np.float32))
    assert (found.peak, found.loudness, found.head, found.tail) == (0.0, None, 0.0, 0.0)
    assert found.seam.clean
