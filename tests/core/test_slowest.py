"""How slow a machine may be before sounds run ahead of the picture."""

from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from cicada.core.drift import drifts
from cicada.core.model import Clip, Run, Sound, empty_project
from cicada.core.planner import plan
from cicada.core.slowest import slowest
from tests.core.films import films


def works(project, run, samples, tolerance):
    made = plan(project, replace(run, draw_time=samples / project.rate))
    return all(drift.largest <= tolerance for drift in drifts(made))


def bell(frames=8000, sync="free"):
    """A bell on the second frame at 25 frames of 320 samples a second."""
    project = empty_project("", (25, 1), 8000, length=60)
    layer = replace(project.scenes[0].layers[0], keyframes=(Clip(frame=1, sound="s", sync=sync),))
    sound = Sound(id="s", frames=frames, rate=8000, channels=1)
    return replace(project, sounds=(sound,), scenes=(replace(project.scenes[0], layers=(layer,)),))


@settings(max_examples=30)
@given(films(), st.sampled_from((0, 100, 800)))
def test_up_to_there_it_works_and_one_sample_more_fails(film, tolerance):
    project, run = film
    found = slowest(project, run, tolerance, most=0.15)
    own = project.rate * project.fps[1] // project.fps[0]
    last = max(own, int(0.15 * project.rate))
    until = last if found.film is None else found.film
    steps = range(own, until + 1, max(1, project.rate // 1000))
    assert all(works(project, run, samples, tolerance) for samples in (*steps, until))
    if found.film is not None:
        assert not works(project, run, found.film + 1, tolerance)
        assert {found.clips[cell] for cell in found.first} == {found.film}
        assert found.film == min(x for x in found.clips.values() if x is not None)


def test_a_bell_may_be_ahead_by_a_frame_in_all():
    # Of 8,000 samples; with d a picture it is ahead by d - 320 at each but the last shown.
    found = slowest(bell(), Run(), 320)
    assert works(bell(), Run(), found.film, 320)
    assert not works(bell(), Run(), found.film + 1, 320)
    assert found.film == 333
    assert [tuple(cell) for cell in found.first] == [("l1", 1)]


def test_a_film_that_always_works_says_so():
    assert slowest(bell(sync="locked"), Run(), 320) == (None, (), {})
    found = slowest(bell(frames=200), Run(), 320)
    assert found.film is None
    assert list(found.clips.values()) == [None]


def test_it_stops_when_it_is_told_to():
    assert slowest(bell(frames=200), Run(), 320, lambda share: share < 0.1) is None
    # Between two milliseconds too: 328 samples work, and 336 do not.
    assert slowest(bell(), Run(), 320, lambda share: share <= 328 / 8000) is None
