"""Placing and hushing as whole edits, and what sounds while a frame is shown."""

from hypothesis import given
from msgspec.structs import replace

from cicada.core.editing import Cell, Several
from cicada.core.model import Clip, Hush, Layer, PressPoint, Project, Run, Scene, Sound, keyframe_at
from cicada.core.placing import hush_on, hushing, placing, row_of
from cicada.core.planner import plan
from tests.core.films import films


def film(*layers, length=100, more=()):
    sounds = (
        Sound(id="a", name="Bell", frames=8000, rate=8000, channels=1),
        Sound(id="b", name="Rain", frames=8000, rate=8000, channels=1),
    )
    scene = Scene(id="sc", name="One", length=length, layers=layers)
    return Project(
        format="cicada-project", version=1, fps=(25, 1), rate=8000, sounds=sounds,
        scenes=(scene, *more),
    )  # fmt: skip


BELLS = Layer(id="l", name="Bells", keyframes=(Clip(frame=10, sound="a"),))


def test_a_sound_is_placed_on_the_layer_of_its_cell():
    project = film(BELLS)
    edit, cell = placing(project, project.scenes[0], "b", Cell("l", 50))
    assert cell == Cell("l", 50)
    made = keyframe_at(edit.apply(project).scenes[0].layers[0], 50)
    assert made.sound == "b"
    assert edit.title == "place Rain"


def test_without_a_layer_it_gets_one_of_its_name_and_one_step_to_undo():
    project = film(BELLS, Layer(id="m", name="Rain", keyframes=()))
    edit, cell = placing(project, project.scenes[0], "b", Cell("", 50))
    layer = edit.apply(project).scenes[0].layers[-1]
    assert layer.id == cell.layer
    assert layer.name == "Rain 2"
    assert keyframe_at(layer, 50).sound == "b"
    assert isinstance(edit, Several)
    assert edit.title == "place Rain"


def test_what_rings_in_stands_on_the_row_of_the_same_name():
    scene = Scene(id="sd", length=10, layers=(Layer(id="x", name="Bells", keyframes=()),))
    project = film(BELLS, Layer(id="m", keyframes=()), more=(scene,))
    assert row_of(project, scene, "x") == "x"
    assert row_of(project, scene, "l") == "x"
    assert row_of(project, scene, "m") == ""


def test_a_hush_on_a_cell_silences_its_layer_or_the_sound_that_rings_in():
    project = film(BELLS)
    (voice,) = plan(project).voices
    assert hush_on(Cell("l", 20), [voice]) == Hush(frame=20, fade=0.2)
    assert hush_on(Cell("l", 20), []) == Hush(frame=20, fade=0.2)
    rings = hush_on(Cell("other", 20), [voice])
    assert rings == Hush(frame=20, fade=0.2, target="sound", sound="a")


def test_what_sounds_on_a_frame_is_hushed_once_for_each_sound():
    rain = Layer(id="m", name="Rain", keyframes=(Clip(frame=5, sound="b"),))
    again = Layer(id="n", name="More", keyframes=(Clip(frame=12, sound="a"),))
    project = film(BELLS, rain, again)
    made = plan(project)
    edit = hushing(project, project.scenes[0], 20, made.sounding_on(20, 0))
    after = edit.apply(project)
    assert edit.title == "hush 2 sounds"
    assert not plan(after).sounding_on(26, 0)
    hushes = [k for x in after.scenes[0].layers for k in x.keyframes if isinstance(k, Hush)]
    assert sorted(hush.sound for hush in hushes) == ["a", "b"]
    one = hushing(project, project.scenes[0], 20, made.voices[:1])
    assert one.title == "hush Rain"


@given(films())
def test_what_sounds_on_a_frame_is_what_sounds_at_some_sample_of_it(film):
    project, run = film
    made = plan(project, run)
    for number, visit in enumerate(made.visits[:3]):
        length = project.scene(visit.scene).length
        for frame in range(0, length, max(1, length // 5)):
            during = made.during(frame, number)
            found = made.sounding_on(frame, number)
            if during is None:
                assert not found
                assert made.entered(frame, number) is None
                continue
            start, end = during
            assert start == made.entered(frame, number)
            for voice in made.voices:
                assert (voice in found) == (max(voice.start, start) < min(voice.end, end))


def test_nothing_sounds_on_a_frame_the_run_ends_on_as_it_is_entered():
    waits = replace(film(BELLS).scenes[0], press_points=(PressPoint(frame=20),))
    made = plan(replace(film(BELLS), scenes=(waits,)), Run(press_points="wait"))
    start, end = made.during(20, 0)
    assert start == end
    assert made.voices[0].start < start < made.voices[0].end
    assert not made.sounding_on(20, 0)


def test_a_wait_belongs_to_its_frame():
    waits = replace(film(BELLS).scenes[0], press_points=(PressPoint(frame=10, after=1.0),))
    project = replace(film(BELLS), scenes=(waits,))
    made = plan(project, Run(press_points="wait"))
    assert made.during(10, 0) == (3200, 3200 + 8000 + 320)
    assert made.sounding_on(10, 0)
    assert made.visit_of("sc") == 0
    assert made.visit_of("sc", 2) is None
    assert made.visit_of("other") is None
