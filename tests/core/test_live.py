"""Live runs: the plan of presses so far, and of one range."""

from hypothesis import assume, given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from cicada.core.live import (
    awaiting,
    behind,
    point_waited_at,
    pressed,
    pressed_at_once,
    same_moment,
    seen_from_start,
    up_to_frame,
    waits_somewhere,
)
from cicada.core.model import PressPoint, Run, empty_project
from cicada.core.planner import plan
from tests.core.films import RATE, projects

# Each plans a film several times over.
FEW = settings(max_examples=20)


def up_to(planned, moment):
    """All that a listener knows of a plan by a run sample."""
    pieces = [
        (voice.anchor, [(a, min(b, moment), c) for a, b, c in voice.pieces if a < moment])
        for voice in planned.voices
        if voice.start < moment
    ]
    pictures = [picture for picture in planned.picture() if picture.at < moment]
    return pieces, pictures


def with_a_point(project):
    """The project with a press point that is always reached."""
    first, *others = project.scenes
    point = PressPoint(frame=min(3, first.length - 1))
    return replace(project, scenes=(replace(first, press_points=(point,)), *others))


@FEW
@given(projects(), st.integers(1, 3 * RATE), st.integers(1, 2))
def test_a_press_changes_nothing_that_was_heard_before_it(project, later, passes):
    project = with_a_point(project)
    run = Run(passes=passes)
    while waits := [e for e in plan(project, awaiting(run, RATE)).events if e.kind == "waiting"]:
        open_waits = [e for e in waits if e.until is not None and e.until - e.at > RATE * 1000]
        if not open_waits:
            break
        waiting = plan(project, awaiting(run, RATE))
        moment = open_waits[0].at + later
        following = pressed(waiting, run, moment)
        assert following is not None
        went_on = plan(project, awaiting(following, RATE))
        assert up_to(went_on, moment) == up_to(waiting, moment)
        run = following


@FEW
@given(projects())
def test_a_press_where_the_picture_does_not_wait_is_lost(project):
    planned = plan(project, awaiting(Run(), RATE))
    waits = [e for e in planned.events if e.kind == "waiting"]
    moving = [p.at for p in planned.picture() if not any(e.at < p.at < e.until for e in waits)]
    assume(moving)
    assert all(pressed(planned, Run(), at) is None for at in moving)


@FEW
@given(projects())
def test_presses_at_once_leave_no_wait_for_good_and_hold_for_one_sample(project):
    planned = plan(project, pressed_at_once(project, Run()))
    own = {(s.id, p.frame): p.after for s in project.scenes for p in s.press_points}
    for event in planned.events:
        if event.kind == "waiting":
            after = own[event.scene, event.frame]
            assert event.until - event.at == (1 if after is None else round(after * RATE))


@FEW
@given(projects(), st.integers(0, 23), st.integers(0, 23), st.booleans())
def test_a_range_is_over_when_the_picture_leaves_its_last_frame(project, first, more, chase):
    scene = project.scenes[-1]
    first = min(first, scene.length - 1)
    last = min(first + more, scene.length - 1)
    run = Run(scene=scene.id, frame=first, chase=chase)
    planned = plan(project, up_to_frame(project, run, last))
    shown = [picture.frame for picture in planned.picture()]
    assert shown == list(range(first, last + 1))
    assert planned.length == planned.end


@FEW
@given(projects(), st.integers(0, 23), st.integers(1, 3 * RATE))
def test_a_run_from_inside_is_seen_from_the_start_with_its_presses_as_late_as_they_came(
    project, frame, later
):
    project = with_a_point(project)
    scene = project.scenes[-1]
    frame = min(frame, scene.length - 1)
    run = Run(scene=scene.id, frame=frame, press_points="wait", presses=(later,))
    whole = seen_from_start(project, run)
    planned = plan(project, whole)
    origin = planned.entered(run.frame, len(project.scenes) - 1)
    assert (whole.frame, whole.presses[-1]) == (0, origin + later)
    own = {(s.id, p.frame): p.after for s in project.scenes for p in s.press_points}
    for event in planned.events:
        if event.kind == "waiting" and event.at < origin and own[event.scene, event.frame] is None:
            assert event.until - event.at == 1


def test_a_run_that_its_limit_ends_before_its_frame_is_seen_as_it_is():
    project = replace(empty_project("x", length=10), rate=RATE)
    run = Run(frame=5, presses=(3,), limit=1 / RATE)
    assert seen_from_start(project, run) is run


def test_a_press_point_past_the_end_is_waited_at_nowhere():
    film = empty_project("x", length=10)
    scene = replace(film.scenes[0], press_points=(PressPoint(frame=10),))
    assert not waits_somewhere(replace(film, scenes=(scene,)))


def test_a_run_is_behind_one_with_more_presses_in_whichever_pass():
    run = Run(press_points="wait", presses=(10,), passes=3)
    assert behind(run, replace(run, presses=(10, 20), passes=1))
    assert not behind(run, run)
    assert not behind(run, replace(run, presses=(11, 20)))
    assert not behind(run, replace(run, presses=(10, 20), chase=False))


@FEW
@given(projects(), st.integers(1, 3 * RATE))
def test_while_the_picture_waits_its_press_point_is_known(project, later):
    project = with_a_point(project)
    planned = plan(project, awaiting(Run(), RATE))
    (stands,) = [e for e in planned.events if e.kind == "waiting"][:1]
    assert point_waited_at(project, planned, stands.at - 1) is None
    assert point_waited_at(project, planned, stands.at) is project.scenes[0].press_points[0]
    assert point_waited_at(project, planned, stands.at + later) is not None


@FEW
@given(projects(), st.integers(0, 4 * RATE))
def test_the_same_film_has_each_moment_at_the_same_sample(project, sample):
    planned = plan(project, Run(passes=2))
    assume(sample < planned.length)
    assert same_moment(planned, planned, sample) == sample


def test_a_film_cut_shorter_goes_on_at_the_nearest_earlier_frame_and_in_it():
    film = empty_project("film", length=50)
    long, short = plan(film), plan(replace(film, scenes=(replace(film.scenes[0], length=20),)))
    at = long.entered(40, 0) + 7
    assert same_moment(long, short, at) == short.entered(19, 0)
    assert same_moment(long, short, long.entered(10, 0) + 7) == short.entered(10, 0) + 7
    # Past the picture's end, where a sound may still ring.
    assert same_moment(long, short, long.end + 3) == min(short.length, short.end + 3)


def test_a_frame_that_became_shorter_is_gone_on_with_at_its_last_sample():
    film = empty_project("film", fps=(24, 1))
    slow, fast = plan(film), plan(replace(film, fps=(48, 1)))
    at = slow.entered(4, 0) + 1999
    assert same_moment(slow, fast, at) == fast.entered(5, 0) - 1


def test_a_scene_that_is_gone_is_gone_on_with_from_the_beginning():
    film = empty_project("film")
    other = replace(film, scenes=(replace(film.scenes[0], id="another"),))
    assert same_moment(plan(film), plan(other), 5000) == 0
    assert same_moment(plan(film), plan(film, Run(passes=0)), 5000) in {0, 5000}


def test_a_plan_in_which_nothing_is_shown_has_no_moment_but_its_beginning():
    shown = plan(empty_project("x"))
    nothing = replace(shown, stretches=())
    assert same_moment(shown, nothing, 500) == 0
    assert same_moment(nothing, shown, 500) == 0
