"""Recordings that nobody is at, found after a crash."""

import numpy as np
import pytest

from cicada.media.take_file import HEAD, Shape, TakeFile
from cicada.store.recordings import About, begin, kept


@pytest.fixture
def left(tmp_path):
    """What a window that ended leaves: its note, and 0.1 s of sound."""
    under_way = begin(tmp_path, About(1.8e9, "Harbour", "Gull"))
    take = TakeFile(under_way.path, Shape(48000, 1))
    take.write(np.full((4800, 1), 0.25, np.float32))
    take.close()
    under_way.leave()
    return under_way


def test_what_was_left_is_found_with_what_its_note_says(left, tmp_path):
    (found,) = kept(tmp_path)
    assert (found.about, found.frames) == (About(1.8e9, "Harbour", "Gull"), 4800)


@pytest.mark.parametrize(
    "note", [b"", b"\x92\xff", b"{}", b'{"when": 1e300, "project": "Harbour", "name": "Gull"}']
)
def test_a_recording_whose_note_is_damaged_is_found_all_the_same(left, tmp_path, note):
    left.note.write_bytes(note)
    (found,) = kept(tmp_path)
    assert found.frames == 4800
    assert 0 <= found.about.when < 4e9


def test_a_recording_that_cannot_be_read_is_not_offered_and_stays(left, tmp_path):
    left.path.write_bytes(b"no head" + left.path.read_bytes()[7:])
    assert kept(tmp_path) == []
    assert left.path.exists()
    assert left.note.exists()


def test_a_note_without_sound_is_cleared_away(left, tmp_path):
    left.path.write_bytes(left.path.read_bytes()[:HEAD])
    assert kept(tmp_path) == []
    assert not left.note.exists()
