"""Where a file begins is found again, however it was moved, and not where nothing is left of it."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from cicada.deliver.measuring import BEFORE, FARTHEST, KEPT, Measured, shifted

NOISE = np.random.default_rng(4).uniform(-0.5, 0.5, (1, 30_000)).astype(np.float32)


def heard(begins):
    signal = np.zeros((1, 60_000), np.float32)
    signal[:, begins : begins + NOISE.shape[1]] = NOISE
    return signal


@given(st.integers(3000, 20_000), st.integers(-FARTHEST, FARTHEST), st.integers(100, 9000))
def test_it_is_found_by_how_many_samples_it_was_moved(begins, moved, block):
    sent, signal = Measured(48_000, 1), heard(begins)
    for at in range(0, signal.shape[1], block):
        sent.add(signal[:, at : at + block])
    assert sent.begins == begins + int(np.flatnonzero(np.abs(NOISE[0]) > 0.003)[0])
    first = sent.begins - BEFORE - FARTHEST
    back = np.pad(heard(begins + moved), ((0, 0), (5000, 5000)))[:, first + 5000 :]
    assert shifted(sent, back[:, : KEPT + 2 * FARTHEST]) == moved


def test_of_something_else_nothing_is_said():
    sent = Measured(48_000, 1).all_of([heard(5000)])
    other = np.random.default_rng(5).uniform(-0.5, 0.5, (1, KEPT + 2 * FARTHEST))
    assert shifted(sent, other.astype(np.float32)) is None


@pytest.mark.parametrize("peak", [0.0, 1.0, 0.25])
def test_a_peak_is_in_decibels_of_full_scale(peak):
    found = Measured(48_000, 1).all_of([np.full((1, 10), peak, np.float32)]).peak
    assert found == (None if peak == 0 else pytest.approx(20 * np.log10(peak)))
