"""What a clip would do if it were set otherwise."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from cicada.core.editing import Cell
from cicada.core.keyframe_edits import ChangeKeyframes
from cicada.core.model import Clip, Keyframe, Layer, Run, Sound, empty_project
from cicada.core.planner import plan
from cicada.core.ways import VALUES, outcome, ways
from tests.core.films import films

SECOND = 48000


def film(*clips: Keyframe, length: int = 48):
    """Two seconds at 24 fps, with a sound of one second on one layer."""
    project = empty_project("way", length=length)
    layer = Layer(id="l1", keyframes=clips)
    scene = replace(project.scenes[0], layers=(layer,))
    sound = Sound(id="s1", frames=SECOND, rate=SECOND, channels=1)
    return replace(project, sounds=(sound,), scenes=(scene,))


def outcomes(project, cell, setting="sync", run=None, number=1):
    found = ways(project, run or Run(), cell, setting)
    return {way.value: outcome(way, cell, number) for way in found}


@given(films(), st.sampled_from(tuple(VALUES)), st.data())
def test_each_way_is_the_plan_of_the_film_set_so(made, setting, data):
    project, run = made
    clips = [
        Cell(layer.id, keyframe.frame)
        for _, layer in project.all_layers()
        if not layer.guarded
        for keyframe in layer.keyframes
        if isinstance(keyframe, Clip)
    ]
    if not clips:
        return
    cell = data.draw(st.sampled_from(clips))
    found = ways(project, run, cell, setting)
    assert [way.value for way in found] == list(VALUES[setting])
    for way in found:
        edited = ChangeKeyframes(cells=(cell,), changes={setting: way.value}).apply(project)
        assert way.project == edited
        assert way.plan == plan(edited, run)
        for number in (1, 2):
            said = outcome(way, cell, number)
            visit = way.plan.visit_of(project.layer(cell.layer)[0].id, number)
            mine = [v for v in way.plan.voices if v.cell == cell and v.visit == visit]
            assert said.voice is (mine[0] if mine else None)


def test_only_hold_makes_the_picture_stand_as_long_as_it_sounds():
    found = outcomes(film(Clip(frame=4, sound="s1")), Cell("l1", 4))
    assert [found[value].stands for value in VALUES["sync"]] == [0, 0, SECOND]


def test_on_a_slow_machine_locked_drops_pictures_and_free_runs_ahead():
    cell = Cell("l1", 4)
    found = outcomes(film(Clip(frame=4, sound="s1")), cell, run=Run(draw_time=0.125))
    assert found["locked"].dropped == 16
    assert found["locked"].drift is None
    assert found["free"].dropped == 0
    # Eight pictures of an eighth each are shown in the second it sounds.
    assert found["free"].drift.last == 7 * (6000 - 2000)


@pytest.mark.parametrize(
    ("value", "sounds", "others", "cuts"),
    [("on_top", True, 1, 0), ("skip", False, 0, 0), ("restart", True, 0, 1), ("queue", True, 0, 0)],
)
def test_in_the_second_pass_each_choice_does_with_what_still_sounds(value, sounds, others, cuts):
    project = film(Clip(frame=4, sound="s1"), length=20)
    found = outcomes(project, Cell("l1", 4), "if_sounding", Run(passes=2), number=2)[value]
    assert (found.voice is not None) == sounds
    assert (found.others, len(found.cuts)) == (others, cuts)
    if value == "queue":
        assert found.voice.why == "queued"


def test_a_clip_on_a_guarded_layer_can_be_compared():
    project = film(Clip(frame=4, sound="s1"))
    scene = project.scenes[0]
    guarded = replace(scene, layers=(replace(scene.layers[0], guarded=True),))
    found = ways(replace(project, scenes=(guarded,)), Run(), Cell("l1", 4), "sync")
    assert [way.plan.voices[0].sync for way in found] == ["locked", "free", "hold"]
