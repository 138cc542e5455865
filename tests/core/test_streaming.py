"""A plan worked out portion by portion is the plan."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from cicada.core.model import Clip, Layer, PressPoint, Project, Run, Scene, Sound
from cicada.core.planner import plan
from cicada.core.streaming import portions
from tests.core.films import films
from tests.core.live_films import live_film


def put_together(project, run, size):
    pictures, voices, events, over = [], [], [], None
    for portion in portions(project, run, size):
        assert over is None
        if portion.anew:
            voices, events = [], []
        pictures += portion.pictures
        voices += portion.voices
        events += portion.events
        over = portion.over
    voices.sort(key=lambda each: each[0])
    return pictures, [voice for _, voice in voices], events, over


@given(films(), st.sampled_from((0, 1, 3, 10)))
def test_a_plan_in_portions_is_the_plan(film, size):
    project, run = film
    made = plan(project, run)
    pictures, voices, events, over = put_together(project, run, size)
    assert pictures == list(made.picture())
    assert voices == list(made.voices)
    assert events == list(made.events)
    assert over == (made.end, made.length)


@pytest.mark.parametrize("seed", range(40))
def test_a_plan_that_answers_is_the_same_in_portions(seed):
    project, run = live_film(seed)
    made = plan(project, run)
    pictures, voices, events, over = put_together(project, run, seed % 4)
    assert pictures == list(made.picture())
    assert voices == list(made.voices)
    assert events == list(made.events)
    assert over == (made.end, made.length)


SOUND = Sound(id="s", frames=4000, rate=8000, channels=1)


def film_of(*keyframes, length=24, points=()):
    layer = Layer(id="l", keyframes=keyframes)
    scene = Scene(id="sc", length=length, layers=(layer,), press_points=points)
    return Project(
        format="cicada-project", version=1, fps=(24, 1), rate=8000, sounds=(SOUND,), scenes=(scene,)
    )


def test_many_passes_keep_no_more_than_a_few():
    project = film_of(Clip(frame=0, sound="s"), Clip(frame=12, sound="s", sync="locked"))
    most = 0
    for portion in portions(project, Run(passes=3000), 50):
        most = max(most, len(portion.voices), len(portion.events))
    assert most < 60
    assert portion.over == (3000 * 8000, 3000 * 8000)


def test_what_was_before_a_late_origin_is_not_kept_either():
    project = film_of(Clip(frame=0, sound="s", sync="free"), length=2000)
    clips = tuple(Clip(frame=f, sound="s") for f in range(0, 2000, 2))
    project = replace(project, scenes=(
        replace(project.scenes[0], layers=(Layer(id="l", keyframes=clips),)),))  # fmt: skip
    run = Run(frame=1990)
    made = plan(project, run)
    pictures, voices, events, over = put_together(project, run, 20)
    assert (pictures, voices) == (list(made.picture()), list(made.voices))
    assert (events, over) == (list(made.events), (made.end, made.length))


def test_a_run_that_is_over_exactly_at_its_limit_is_given_whole():
    project = film_of(Clip(frame=0, sound="s"), points=(PressPoint(frame=12),))
    run = Run(press_points="wait", limit=0.5, passes=2)
    made = plan(project, run)
    assert not any(event.kind == "limited" for event in made.events)
    pictures, voices, events, over = put_together(project, run, 0)
    assert (pictures, voices) == (list(made.picture()), list(made.voices))
    assert (events, over) == (list(made.events), (made.end, made.length))
