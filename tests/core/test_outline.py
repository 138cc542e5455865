"""How high clips and voices reach along their time, from the peaks of their sounds."""

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from cicada.core.clip import clip_timing
from cicada.core.lengths import length_of
from cicada.core.lines import louder
from cicada.core.model import Clip, Layer, Project, Scene, Sound
from cicada.core.outline import hard_edges, looped_peaks, loud_stretches, loudest, voice_peaks
from cicada.core.planner import plan
from cicada.core.values import HIGHEST_LEVEL

RATE = 8000


def reading(samples):
    return lambda first, last: samples[:, first:last]


class Samples:
    """Peaks found in the samples themselves, one after the other."""

    def __init__(self, samples):
        self.samples = samples

    def columns(self, places):
        found = np.zeros((2, len(places) - 1))
        for column, (low, high) in enumerate(pairwise(places)):
            part = self.samples[int(low) : max(int(low) + 1, int(np.ceil(high)))]
            if len(part):
                found[:, column] = part.min(), part.max()
        return found


def project_with(clip, **layer):
    sound = Sound(id="s", frames=RATE, rate=RATE, channels=1)
    layers = (Layer(id="l", keyframes=(clip,), **layer),)
    return Project(
        format="cicada-project", version=1, fps=(25, 1), rate=RATE, sounds=(sound,),
        scenes=(Scene(id="sc", length=100, layers=layers),),
    )  # fmt: skip


def rising(top=0.5):
    return Samples(np.linspace(0, top, RATE).astype(np.float32))


def loud(clip, peaks=None, level=1.0, **layer):
    project = replace(project_with(clip, **layer), level=level)
    return loudest(project, project.scenes[0].layers[0], clip, peaks or rising())


def test_a_clip_is_as_loud_as_its_loudest_sample_times_all_levels():
    assert loud(Clip(frame=0, sound="s")) == pytest.approx(0.5, rel=1e-3)
    clip = Clip(frame=0, sound="s", level=0.5)
    assert loud(clip, level=2.0) == pytest.approx(0.5, rel=1e-3)


def test_what_is_trimmed_off_is_not_heard():
    assert loud(Clip(frame=0, sound="s", trim=(0.0, 0.5))) == pytest.approx(0.25, rel=1e-2)


def test_fades_and_lines_take_off_where_they_are():
    assert loud(Clip(frame=0, sound="s", fade_out=1.0)) == pytest.approx(0.125, rel=2e-2)
    line = Clip(frame=0, sound="s", level_line=((0.0, 1.0), (0.5, 1.0), (0.5, 0.0)))
    assert loud(line) == pytest.approx(0.25, rel=2e-2)
    assert loud(Clip(frame=0, sound="s"), line=((0.0, 0.5),)) == pytest.approx(0.25, rel=1e-2)


def test_a_fade_in_of_a_sound_that_dies_away_lowers_its_loudest():
    falling = Samples(np.linspace(0.5, 0, RATE).astype(np.float32))
    assert loud(Clip(frame=0, sound="s"), falling) == pytest.approx(0.5, rel=1e-3)
    assert loud(Clip(frame=0, sound="s", fade_in=1.0), falling) == pytest.approx(0.125, rel=2e-2)


def test_an_endless_clip_is_heard_out_to_where_its_line_stays():
    swells = Clip(frame=0, sound="s", loops=0, level_line=((0.0, 0.0), (5.0, 4.0)))
    assert loud(swells) == pytest.approx(2.0, rel=2e-2)
    # And once round after that: this one is loudest at the end of each loop.
    assert loud(Clip(frame=0, sound="s", loops=0)) == pytest.approx(0.5, rel=1e-2)
    assert loud(replace(swells, level_line=((0.0, 1.0), (0.2, 1.0)))) == pytest.approx(
        0.5, rel=1e-2
    )


def test_a_line_over_each_loop_begins_again_with_it():
    line = ((0.0, 1.0), (0.5, 1.0), (0.5, 0.0))
    run = Clip(frame=0, sound="s", loops=2, level_line=line)
    each = replace(run, line_over="loop")
    falling = Samples(np.linspace(0.1, 0.5, RATE).astype(np.float32))
    assert loud(run, falling) == loud(each, falling)
    late = Clip(frame=0, sound="s", loops=2, level_line=((0.0, 0.0), (1.2, 0.0), (1.2, 1.0)))
    assert loud(late) > 0.4
    assert loud(replace(late, line_over="loop")) == 0


def test_what_is_not_decoded_or_has_nothing_to_play_is_silent():
    clip = Clip(frame=0, sound="s")
    project = project_with(clip)
    assert loudest(project, project.scenes[0].layers[0], clip, None) == 0
    assert loud(Clip(frame=0, sound="s", trim=(2.0, None))) == 0


@given(st.integers(1, 4), st.integers(0, 3000), st.sampled_from((0.5, 1.0, 2.0)))
def test_loops_have_the_peaks_of_the_sound_again_and_again(loops, overlap, speed):
    sound = Sound(id="s", frames=RATE, rate=RATE, channels=1)
    clip = Clip(frame=0, sound="s", loops=loops, loop_overlap=overlap / RATE, speed=speed)
    timing = clip_timing(clip, sound.frames, RATE)
    since = np.arange(0, timing.step + 1, 50)
    peaks = Samples(np.random.default_rng(3).uniform(-1, 1, RATE).astype(np.float32))
    first = looped_peaks(peaks, timing, speed, since)
    for number in range(1, loops):
        again = looped_peaks(peaks, timing, speed, since + number * timing.step)
        assert np.array_equal(first[:, :-1], again[:, :-1])


def test_the_peaks_of_a_voice_are_those_of_its_sound_under_levels_and_lines():
    clip = Clip(frame=10, sound="s", level=0.5, fade_out=0.5)
    project = project_with(clip, level=0.5, line=((0.0, 1.0), (22.5, 1.0), (22.5, 0.0)))
    made = plan(project)
    (voice,) = made.voices
    timing = clip_timing(clip, length_of(project, clip.sound), RATE)
    moments = np.arange(0, 2 * RATE, 40)
    layer, picture = project.scenes[0].layers[0], lambda at: at / RATE * 25
    flat = Samples(np.full(RATE, 0.8, np.float32))
    columns = voice_peaks(voice, clip, timing, layer, RATE, flat, moments, picture)
    begins = voice.start // 40
    assert not columns[:, :begins].any()
    assert columns[1, begins + 2] == pytest.approx(0.2, rel=1e-3)
    assert columns[1, begins + 50] == pytest.approx(0.2, rel=1e-3)
    fading = (voice.end - RATE // 4 - 800) // 40
    assert 0 <= columns[1, fading] < 0.2
    assert not columns[:, (voice.start + 4100) // 40 :].any()


def test_the_lines_of_loops_are_in_the_peaks_of_each():
    clip = Clip(frame=10, sound="s", loops=2, line_over="loop", level_line=((0.0, 1.0), (1.0, 0.0)))
    project = project_with(clip)
    (voice,) = plan(project).voices
    timing = clip_timing(clip, length_of(project, clip.sound), RATE)
    flat = Samples(np.full(RATE, 0.8, np.float32))
    moments = np.arange(voice.start, voice.start + 2 * RATE + 1, 80)
    layer = project.scenes[0].layers[0]
    heights = voice_peaks(voice, clip, timing, layer, RATE, flat, moments, lambda at: at)[1]
    assert heights[1] == pytest.approx(heights[101], rel=1e-2)
    assert heights[50] == pytest.approx(0.4, rel=2e-2)


def test_only_edges_that_can_be_heard_and_have_no_fade_are_hard():
    ends = np.zeros((1, RATE), np.float32)
    ends[0, :20] = 0.5
    project = project_with(Clip(frame=0, sound="s"))
    cut = Clip(frame=0, sound="s")
    assert [edge.field for edge in hard_edges(project, cut, reading(ends))] == ["fade_in"]
    assert hard_edges(project, cut, reading(ends))[0].level == 0.5
    assert [e.field for e in hard_edges(project, cut, reading(ends[:, ::-1]))] == ["fade_out"]
    assert not hard_edges(project, replace(cut, fade_in=0.01), reading(ends))
    assert not hard_edges(project, replace(cut, loops=0), reading(ends[:, ::-1]))
    assert not hard_edges(project, cut, None)
    assert not hard_edges(project, replace(cut, trim=(2.0, None)), reading(ends))
    assert not hard_edges(project, replace(cut, level=0.02), reading(ends))
    assert not hard_edges(project, replace(cut, offset=0.5), reading(ends))


def test_a_wave_cut_as_it_passes_through_nought_is_cut_all_the_same():
    wave = np.sin(np.arange(RATE) / 3).astype(np.float32)[None]
    project = project_with(Clip(frame=0, sound="s"))
    assert len(hard_edges(project, Clip(frame=0, sound="s"), reading(wave))) == 2


def test_loud_stretches_are_joined_over_short_pauses():
    moments = np.arange(0, 4 * RATE, RATE // 50)
    columns = np.zeros((2, len(moments) - 1))
    columns[1, 10:20] = columns[1, 30:40] = 1.0
    columns[0, 100:110] = -1.0
    found = loud_stretches(columns, moments, RATE)
    assert found == [(moments[10], moments[40]), (moments[100], moments[110])]
    assert loud_stretches(np.zeros((2, 3)), moments[:4], RATE) == []


def test_a_level_is_made_louder_up_to_the_highest():
    assert louder(1.0, 6.0205999) == pytest.approx(2.0, abs=1e-6)
    assert louder(1.0, -120) == pytest.approx(1e-6)
    assert louder(HIGHEST_LEVEL, 0.0) == HIGHEST_LEVEL
    assert louder(HIGHEST_LEVEL, 0.1) is None


def test_peaks_before_the_voice_and_between_no_two_moments_are_nothing():
    clip = Clip(frame=10, sound="s")
    project = project_with(clip)
    (voice,) = plan(project).voices
    timing = clip_timing(clip, length_of(project, clip.sound), RATE)
    layer = project.scenes[0].layers[0]
    early = np.arange(0, voice.start // 2, 40)
    columns = voice_peaks(voice, clip, timing, layer, RATE, rising(), early, lambda at: at / RATE)
    assert columns.shape == (2, len(early) - 1)
    assert not columns.any()
    assert looped_peaks(rising(), timing, 1.0, np.array([5])).shape == (2, 0)
