"""Moments in sounds that are made so that they are known."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from cicada.media.moments import LoudPart, Moments, find_moments, loud_part, suggested_overlap
from cicada.media.peaks import PeakGatherer, Peaks

RATE = 48000


def reading(samples):
    return lambda first, last: samples[:, first:last]


def hits_at(places, length=2 * RATE, decay=0.05, noise=0.0005):
    """Hits that begin at once and die away, over a little noise."""
    sound = np.random.default_rng(4).normal(0, noise, length)
    for place in places:
        tail = np.arange(length - place) / RATE
        sound[place:] += 0.8 * np.exp(-tail / decay) * np.cos(2 * np.pi * 700 * tail)
    return sound[None].astype(np.float32)


def peaks_of(sound):
    gatherer = PeakGatherer()
    gatherer.append(np.ascontiguousarray(sound.T))
    return Peaks(gatherer.peaks(sound.shape[1]), sound.shape[1])


@given(st.lists(st.integers(0, 12), min_size=1, max_size=5, unique=True), st.integers(0, 999))
def test_every_hit_is_found_to_the_sample(slots, shift):
    places = sorted(slot * 7000 + shift for slot in slots)
    found = find_moments(hits_at(places), RATE).hits
    assert [hit.onset for hit in found] == places
    assert all(hit.peak - hit.onset < 5 for hit in found)


@given(st.lists(st.integers(0, 6), min_size=1, max_size=4, unique=True))
def test_every_swelling_has_its_peak_where_it_is_loudest(slots):
    sound = np.full(2 * RATE, 0.0001)
    places = sorted(6000 + slot * 12_000 for slot in slots)
    for place in places:
        swell = np.arange(-5000, 5000)
        sound[place - 5000 : place + 5000] += 0.6 * np.exp(-((swell / 1800.0) ** 2))
    assert list(find_moments(sound[None].astype(np.float32), RATE).peaks) == places


def test_a_steady_sound_has_but_one_beginning():
    tone = 0.5 * np.sin(np.arange(RATE) * 0.05)
    assert len(find_moments(tone[None].astype(np.float32), RATE).hits) == 1


@pytest.mark.parametrize("channels", [1, 2])
def test_silence_has_no_moments(channels):
    silent = np.zeros((channels, 5000), np.float32)
    assert find_moments(silent, RATE) == Moments((), ())
    assert loud_part(reading(silent), peaks_of(silent), 0.001, LoudPart(10, 5000)) == (
        10,
        10,
    )
    assert suggested_overlap(silent, RATE) == 0


@given(st.integers(0, 600_000), st.integers(200, 300_000))
def test_the_loud_part_is_exact_however_long_the_sound(first, length):
    sound = np.full((1, 900_000), 0.0005, np.float32)
    sound[0, first] = sound[0, first + length - 1] = -0.2
    peaks, whole = peaks_of(sound), LoudPart(0, 900_000)
    assert loud_part(reading(sound), peaks, 0.01, whole) == (first, first + length)
    inside = loud_part(reading(sound), peaks, 0.01, LoudPart(first, first + max(1, length // 2)))
    assert inside == (first, first + 1)


def test_the_overlap_suggested_is_the_time_a_sound_takes_to_die_away():
    ringing = hits_at([0], length=RATE, decay=0.1, noise=0)
    # 20 dB down after 0.23 s: what is left of the second, but half of it at most.
    assert suggested_overlap(ringing, RATE) == pytest.approx(0.5)
    tone = np.concatenate((np.ones(RATE), np.linspace(1, 0, RATE // 4)))[None].astype(np.float32)
    assert suggested_overlap(tone, RATE) == pytest.approx(0.025, abs=0.012)
