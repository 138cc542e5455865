"""Where beats fall, and how they are counted."""

from msgspec.structs import replace

from cicada.core.beats import beats, tempo_at
from cicada.core.model import Tempo, empty_project

PROJECT = empty_project("film", fps=(24, 1), rate=48000)
BASE = PROJECT.timebase
SCENE = replace(
    PROJECT.scenes[0],
    tempo=(Tempo(frame=24, bpm=60, offset=0.25), Tempo(frame=0, bpm=120)),
)


def test_beats_are_counted_from_one_in_each_tempo():
    found = list(beats(SCENE, BASE, 0, 3 * 48000))
    assert found == [(1, 0), (2, 24000), (1, 60000), (2, 108000)]


def test_beats_from_amid_a_tempo_keep_their_numbers_and_stand_before_the_end():
    assert list(beats(SCENE, BASE, 1, 24001)) == [(2, 24000)]
    assert list(beats(SCENE, BASE, 24000, 60000)) == [(2, 24000)]
    assert list(beats(SCENE, BASE, 60001, 200000)) == [(2, 108000), (3, 156000)]


def test_a_tempo_holds_from_its_frame_to_the_next():
    assert [tempo_at(SCENE, frame) for frame in (0, 23, 24, 500)] == [120, 120, 60, 60]
    later = replace(SCENE, tempo=(Tempo(frame=24, bpm=60),))
    assert tempo_at(later, 23) is None
