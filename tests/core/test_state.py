"""The state of a run: kept at any frame, compared with another's, and taken up again."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from cicada.core.model import Clip, Layer, Project, Run, Scene, Sound, empty_project
from cicada.core.placed import Tables
from cicada.core.planner import plan, plan_on, states
from cicada.core.sounding import Copies, Waiting
from tests.core.films import films, queues
from tests.core.live_films import live_film


def kept_at(project, run, number, tables):
    """A copy of the state before the frame of that number among those entered; None past them."""
    for position, state in enumerate(states(project, run, tables)):
        if position == number:
            return state.kept()
    return None


@given(films() | queues(), st.integers(0, 40))
def test_a_run_taken_up_at_any_frame_ends_as_it_would_have(film, number):
    project, run = film
    tables = Tables()
    kept = kept_at(project, run, number, tables)
    if kept is not None:
        assert plan_on(project, run, kept, tables) == plan(project, run)


@given(films(), st.integers(0, 20))
def test_what_is_kept_is_not_changed_by_what_follows(film, number):
    project, run = film
    kept = before = None
    for position, state in enumerate(states(project, run, Tables())):
        if position == number:
            kept, before = state.kept(), state.key()
    if kept is not None:
        assert kept.key() == before


@given(films())
def test_no_two_frames_of_a_run_have_the_same_state(film):
    project, run = film
    keys = [state.key() for state in states(project, run, Tables())]
    assert len(set(keys)) == len(keys)


@given(films(), st.integers(1, 400))
def test_runs_are_the_same_until_a_press_that_one_of_them_does_not_have(film, press):
    project, run = film
    run = replace(run, press_points="wait", presses=())
    pressed = replace(run, presses=(press * 100,))
    tables = Tables()
    for one, other in zip(
        states(project, run, tables), states(project, pressed, tables), strict=False
    ):
        if other.began and other.time - other.origin >= press * 100:
            break
        one.presses = other.presses
        assert one.key() == other.key()


@pytest.mark.parametrize("seed", range(60))
def test_a_run_that_answers_is_taken_up_at_any_frame(seed):
    project, run = live_film(seed)
    tables, wanted = Tables(), plan(project, run)
    for number in (1, 3, 8, 20):
        kept = kept_at(project, run, number, tables)
        if kept is not None:
            key = kept.key()
            assert plan_on(project, run, kept.kept(), tables) == wanted
            assert kept.key() == key


def test_a_run_that_is_over_enters_no_more_frames():
    project = empty_project("Empty", length=3)
    entered = [state.next for state in states(project, Run(), Tables())]
    assert [each.frame for each in entered] == [0]


def test_a_run_is_taken_up_in_a_later_scene_with_a_locked_sound_open():
    sound = Sound(id="s", frames=16_000, rate=8000, channels=1)
    clips = (Clip(frame=1, sound="s", sync="locked"), Clip(frame=5, sound="s", if_sounding="skip"))
    first = Scene(id="a", length=4, layers=(Layer(id="k", keyframes=()),))
    second = Scene(id="b", length=24, layers=(Layer(id="l", keyframes=clips),))
    project = Project(
        format="cicada-project", version=1, fps=(24, 1), rate=8000, sounds=(sound,),
        scenes=(first, second),
    )  # fmt: skip
    run, tables = Run(passes=2), Tables()
    whole, taken_up = plan(project, run), 0
    for number in range(12):
        kept = kept_at(project, run, number, tables)
        if kept is not None and kept.next.scene == 1 and kept.locked:
            taken_up += 1
            assert plan_on(project, run, kept, tables) == whole
    assert taken_up >= 2


def test_a_hold_whose_turn_has_come_is_copied_with_its_voice():
    copies, hold = Copies(), Waiting(None, 3)
    assert copies.hold(hold).voice is None
    hold.voice = object()
    copied = copies.hold(hold)
    assert (copied.visit, copied.voice) == (3, hold.voice)
    copies.waiting[hold] = copied
    assert copies.hold(hold) is copied
