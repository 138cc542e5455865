"""From which pass on a film sounds the same."""

from hypothesis import given, settings
from hypothesis import strategies as st

from cicada.core.editing import Cell
from cicada.core.keyframe_edits import (
    ChangeKeyframes,
    ClearKeyframes,
    PlaceClip,
    PutKeyframes,
)
from cicada.core.layer_edits import ChangeLayer
from cicada.core.model import (
    Clip,
    Hush,
    Run,
)
from cicada.core.placed import Tables
from cicada.core.planner import plan
from cicada.core.ripple import InsertFrames
from cicada.core.scene_edits import (
    ChangeScene,
)
from cicada.core.steady import MOST_PASSES, steady_pass
from tests.core.composed import film
from tests.core.films import plain_films, projects


def steady(project):
    return steady_pass(plan(project, Run(passes=MOST_PASSES + 2)))


def test_a_film_of_which_nothing_rings_on_is_steady_from_the_first_pass():
    assert steady(film()) == 1


def test_what_rings_into_the_next_pass_makes_the_second_the_steady_one():
    late = PlaceClip(layer="l1", frame=230, sound="s1").apply(film())
    assert steady(late) == 2


def test_a_clip_called_off_as_its_pass_ends_counts_in_that_pass():
    waits = Clip(frame=20, sound="s1", if_sounding="queue", ends="span")
    project = film(
        PutKeyframes(keyframes=(("l1", waits),)),
        ClearKeyframes(cells=(Cell("l1", 34),)),
        ChangeScene(scene="sc1", changes={"length": 34}),
    )
    assert "unqueued" in {event.kind for event in plan(project).events}
    assert steady(project) == 1


def test_copies_that_pile_up_are_never_steady_and_leaving_them_out_is():
    endless = ChangeKeyframes(cells=(Cell("l1", 10),), changes={"loops": 0})
    assert steady(film(endless)) is None
    once = ChangeKeyframes(cells=(Cell("l1", 10),), changes={"if_sounding": "skip"})
    assert steady(film(endless, once)) == 2


@settings(max_examples=40)
@given(st.one_of(projects(), plain_films().map(lambda film: film[0])), st.data())
def test_planning_after_an_edit_is_planning_anew(project, data):
    tables, run = Tables(), Run(passes=2)
    scene = project.scenes[0]
    layer = data.draw(st.sampled_from(scene.layers))
    frame = data.draw(st.integers(0, scene.length - 1))
    hush = Hush(frame=frame, target=data.draw(st.sampled_from(("layer", "all"))), fade=0.1)
    hold = Clip(frame=frame, sound="s1", sync="hold")
    edits = (
        InsertFrames(scene=scene.id, frame=0, count=1),
        PutKeyframes(keyframes=((layer.id, hush),)),
        PutKeyframes(keyframes=((layer.id, hold),)),
        ChangeLayer(layer=layer.id, changes={"past_scene": False}),
    )
    now = project
    for edit in data.draw(st.lists(st.sampled_from(edits), min_size=1, max_size=3)):
        assert plan(now, run, tables) == plan(now, run)
        now = edit.apply(now)
        assert plan(now, run, tables) == plan(now, run)
    assert plan(project, run, tables) == plan(project, run)
