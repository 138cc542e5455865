"""Notes are written, taken away and changed; a pattern is made to fit frames."""

from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from cicada.core.noting import (
    fitting,
    in_beats,
    note_at,
    repitched,
    with_part,
    without,
    written,
)
from cicada.core.patterns import TICKS, Note, Pattern, PatternPart, TempoStep, onsets, seconds_of
from cicada.errors import BadEdit

notes = st.builds(Note, st.integers(0, 20), st.integers(1, 9), st.sampled_from([60.0, 62.0]))


@given(st.lists(notes, max_size=12))
def test_notes_of_a_pitch_never_sound_into_each_other_and_the_last_written_is_whole(added):
    part = PatternPart()
    for note in added:
        part = written(part, note)
        assert note in part.notes
        assert note_at(part, note.at, note.pitch) == note
    for pitch in (60.0, 62.0):
        own = [n for n in part.notes if n.pitch == pitch]
        assert own == sorted(own, key=lambda n: n.at)
        for before, after in pairwise(own):
            assert before.at + before.length <= after.at


def test_a_note_is_found_where_it_sounds_and_taken_away_alone():
    part = written(written(PatternPart(), Note(0, 4, 60.0)), Note(8, 4, 60.0))
    assert note_at(part, 3, 60.0) == Note(0, 4, 60.0)
    assert note_at(part, 4, 60.0) is None
    assert note_at(part, 3, 61.0) is None
    assert without(part, Note(0, 4, 60.0)).notes == (Note(8, 4, 60.0),)
    assert without(part, Note(1, 4, 60.0)) == part


def test_a_row_of_another_pitch_moves_its_notes_and_no_others():
    part = PatternPart(notes=(Note(0, 4, 60.0), Note(0, 4, 62.0), Note(8, 4, 60.0)))
    moved = repitched(part, 60.0, 64.5)
    assert moved.notes == (Note(0, 4, 62.0), Note(0, 4, 64.5), Note(8, 4, 64.5))
    assert with_part(Pattern(parts=(part, part)), 1, moved).parts == (part, moved)
    assert in_beats(480) == 0.5


@pytest.mark.parametrize("ending", ["cut", "ring"])
@pytest.mark.parametrize("frames", [37, 48, 101])
def test_fitted_it_lasts_so_many_frames_with_its_changes_of_tempo_in_proportion(ending, frames):
    part = PatternPart(notes=tuple(Note(n * TICKS, 240, 60.0) for n in range(4)))
    steps = (TempoStep(2 * TICKS, 180.0),)
    pattern = Pattern(bpm=90.0, steps=steps, repeats=2, ending=ending, parts=(part,))
    made = fitting(pattern, frames / 24)
    rings = seconds_of(replace(pattern, ending="ring")) - seconds_of(replace(pattern, ending="cut"))
    assert seconds_of(made) - (rings if ending == "ring" else 0) == pytest.approx(frames / 24)
    assert made.steps[0].bpm / made.bpm == pytest.approx(2.0)
    before, after = ([x.start for x in onsets(p)] for p in (pattern, made))
    assert [x / after[1] for x in after] == pytest.approx([x / before[1] for x in before])


def test_what_follows_a_scene_or_would_be_too_fast_is_not_fitted():
    with pytest.raises(BadEdit, match="follows"):
        fitting(Pattern(follows="sc1"), 2.0)
    with pytest.raises(BadEdit, match="beats a minute"):
        fitting(Pattern(), 0.01)
