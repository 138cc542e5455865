"""Beats against frames, tapping, and loops fitted to beats."""

import dataclasses
import itertools
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from msgspec.structs import replace

from cicada.core.editing import Cell
from cicada.core.fitting import fitted_by_speed, fitted_by_trim, loop_length
from cicada.core.model import Clip, Layer, Scene, Sound, Tempo, empty_project
from cicada.core.reshaping import shaping_of
from cicada.core.tapping import PAUSE, recent, tapped
from cicada.core.tempos import (
    USUAL,
    between_frames,
    farthest_off,
    frames_per_beat,
    suited_rates,
    suited_tempos,
)
from cicada.core.timebase import Timebase
from cicada.errors import BadEdit

RATE = 48000


def plainly_off(tempo, base, until):
    """The same, beat by beat and frame by frame."""
    at = base.start(tempo.frame) + round(tempo.offset * base.rate)
    length, worst, number = 60 * base.rate / tempo.bpm, 0.0, 0
    while at + number * length < until - 1e-6:
        moment = at + number * length
        frame = base.frame_at(int(moment))
        worst = max(worst, min(abs(moment - base.start(f)) for f in (frame, frame + 1)))
        number += 1
    return worst


@given(
    st.floats(20, 300).map(lambda x: round(x, 2)),
    st.sampled_from(USUAL),
    st.integers(0, 40),
    st.sampled_from((0.0, 0.01, 0.25)),
    st.integers(1, 400),
)
def test_how_far_beats_miss_their_frames_is_that_of_the_worst(bpm, fps, frame, offset, length):
    base = Timebase(*fps, RATE)
    tempo = Tempo(frame=frame, bpm=bpm, offset=offset)
    found = farthest_off(tempo, base, base.start(length))
    assert found == pytest.approx(plainly_off(tempo, base, base.start(length)), abs=1e-3)


@given(st.floats(30, 250).map(lambda x: round(x, 2)), st.sampled_from(USUAL), st.integers(24, 3000))
def test_a_tempo_that_is_said_to_suit_has_every_beat_on_a_frame(bpm, fps, length):
    base = Timebase(*fps, RATE)
    found = suited_tempos(Tempo(frame=0, bpm=bpm), base, base.start(length))
    assert found
    for each in found:
        tempo = Tempo(frame=0, bpm=each.bpm)
        off = plainly_off(tempo, base, base.start(length))
        assert off == pytest.approx(each.off, abs=1e-3)
        assert each.on_frames == (each.off <= 1.0)
        assert each.change == pytest.approx(each.bpm / bpm - 1)
    nearest = [abs(each.change) for each in found]
    assert nearest == sorted(nearest)


@pytest.mark.parametrize(
    ("bpm", "fps", "frames"),
    [
        (120, (24, 1), 12),
        (120, (25, 1), Fraction(25, 2)),
        (100, (30000, 1001), Fraction(18000, 1001)),
    ],
)
def test_frames_a_beat_are_exact(bpm, fps, frames):
    assert frames_per_beat(bpm, fps) == frames


def test_a_whole_tempo_suits_whole_rates_and_not_those_of_television():
    base = Timebase(30000, 1001, RATE)
    found = suited_rates(Tempo(frame=0, bpm=120.0), base, base.start(900))
    assert {(12, 1), (24, 1), (30, 1), (50, 1), (60, 1)} <= {each.fps for each in found}
    assert not {(25, 1), (30000, 1001)} & {each.fps for each in found}
    # Where no rate suits, the nearest are said with how far off.
    found = suited_rates(Tempo(frame=0, bpm=97.13), base, base.start(900))
    assert len(found) == 3
    assert all(not each.on_frames for each in found)


def test_each_tempo_of_a_scene_holds_up_to_the_next():
    scene = Scene(
        id="sc", length=96, layers=(),
        tempo=(Tempo(frame=48, bpm=100.0), Tempo(frame=0, bpm=120.0), Tempo(frame=200, bpm=90.0)),
    )  # fmt: skip
    base = Timebase(24, 1, RATE)
    found = between_frames(scene, base)
    assert [tempo.frame for tempo, _ in found] == [0, 48, 200]
    assert [round(off) for _, off in found] == [0, 800, 0]
    assert between_frames(replace(scene, tempo=()), base) == []


# -- tapping -------------------------------------------------------------------------------------


@given(st.floats(40, 240), st.integers(4, 30), st.floats(0, 100), st.integers(0, 99), st.booleans())
def test_a_tapped_tempo_is_found_through_unsteady_and_left_out_taps(bpm, count, start, seed, gaps):
    random = np.random.default_rng(seed)
    beats = [n for n in range(count) if n < 3 or not gaps or random.random() > 0.2]
    times = [start + n * 60 / bpm + random.normal(0, 0.004) for n in beats]
    assume(all(later - earlier < PAUSE for earlier, later in itertools.pairwise(times)))
    found = tapped(times)
    assert found.bpm == pytest.approx(bpm, rel=0.04)
    assert found.first == pytest.approx(start, abs=0.02)
    assert abs(found.bpm - bpm) < 4 * found.sure + 0.05 * bpm / count


def test_a_pause_begins_a_new_tempo_and_a_few_taps_are_none():
    times = [0.0, 0.5, 1.0, 10.0, 10.3, 10.6]
    assert recent(times) == [10.0, 10.3, 10.6]
    assert tapped(times).bpm == pytest.approx(200)
    assert tapped([]) is tapped([1.0]) is tapped([1.0, 1.5]) is None
    assert tapped([1.0, 1.0, 1.0]) is None


# -- loops -----------------------------------------------------------------------------------------


def shaping(seconds=2.0, **settings):
    project = empty_project("fit")
    clip = Clip(frame=0, sound="s1", loops=4, **settings)
    layer = Layer(id="l1", keyframes=(clip,))
    sound = Sound(id="s1", frames=round(seconds * 44100), rate=44100, channels=1)
    scene = replace(project.scenes[0], layers=(layer,))
    return shaping_of(replace(project, sounds=(sound,), scenes=(scene,)), Cell("l1", 0))


@given(
    st.integers(5000, 400_000),
    st.sampled_from((0.0, 0.1, 0.5)),
    st.sampled_from((1.0, 0.5, 2.0, 1.3)),
    st.sampled_from(((0.0, None), (0.25, 1.5))),
)
def test_a_fitted_loop_is_as_long_as_was_asked(samples, overlap, speed, trim):
    made = shaping(loop_overlap=overlap, speed=speed, trim=trim)
    for fit in (fitted_by_speed, fitted_by_trim):
        try:
            clip = fit(made, samples)
        except BadEdit:
            continue
        fitted = dataclasses.replace(made, clip=clip)
        assert abs(loop_length(fitted) - samples) <= 1
        assert clip.trim[0] == trim[0]


def test_what_cannot_be_fitted_is_said():
    with pytest.raises(BadEdit, match=r"1\.00 s too short"):
        fitted_by_trim(shaping(), 3 * RATE)
    with pytest.raises(BadEdit, match="times its speed"):
        fitted_by_speed(shaping(), 40 * RATE)
    with pytest.raises(BadEdit, match="nothing of the sound"):
        fitted_by_speed(shaping(trim=(1.0, 1.0)), RATE)
