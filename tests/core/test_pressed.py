"""Kept presses trimmed, moved and as keyframes; keyframes as a pad: it sounds as it did."""

import pytest
from msgspec.structs import replace

from cicada.core.answers import Fire, HushDeed, Input, Pad, Pool, PoolPart
from cicada.core.digest import Digests
from cicada.core.editing import Cell
from cicada.core.model import Clip, Hush, KeptRun, Layer, Project, Rest, Run, Scene, Sound
from cicada.core.placements import Placements
from cicada.core.planner import plan
from cicada.core.pressed import laid_out, mark_of_film, mark_of_run, moved, pad_of, trimmed
from cicada.errors import BadEdit

RATE = 8000


def sound(name):
    return Sound(id=name, hash="", file=f"{name}.wav", frames=4000, rate=RATE, channels=1)


def film(*pads, layers=()):
    return Project(
        format="cicada-project", version=2, fps=(10, 1), rate=RATE,
        sounds=(sound("s1"), sound("s2")),
        pools=(Pool(id="o1", parts=(PoolPart(sound="s1"), PoolPart(sound="s2"))),),
        scenes=(
            Scene(id="sc1", length=20, layers=layers), Scene(id="sc2", length=20, layers=()),
        ),
        pads=pads,
    )  # fmt: skip


def kept(*inputs, delay=0.0):
    return KeptRun(name="Pressed", delay=delay, inputs=inputs)


ALL = Run()


def heard(project, run=ALL):
    """What is heard, from when to when, whoever fired it; a delay is silence before it."""
    placements = Placements(project)
    return sorted(
        (v.plays, v.start + placements.timing(v).delay, v.end) for v in plan(project, run).voices
    )


BELL = Pad(id="p1", name="Bell", level=0.5, does=(Fire(sound="o1", if_sounding="restart"),))
STOP = Pad(id="p2", name="Stop", does=(HushDeed(target="all", fade=0.1),))


def test_as_heard_the_keyframes_sound_as_the_presses_did():
    project = film(BELL)
    run = kept(*(Input(at=at, pad="p1") for at in (1234, 3001, 5000, 17_003, 30_000)))
    laid = laid_out(project, run, as_heard=True)
    assert (laid.placed, laid.shared, laid.outside) == (5, 0, 0)
    made = laid.edit.apply(project)
    assert [layer.name for scene in made.scenes for layer in scene.layers] == ["Bell", "Bell"]
    assert heard(made) == heard(project, run.run())


def test_as_pressed_they_stand_earlier_by_the_delay():
    project, run = film(BELL), kept(Input(at=8000, pad="p1"), delay=0.25)
    made = laid_out(project, run, as_heard=False).edit.apply(project)
    assert [start for _, start, _ in heard(made)] == [6000]


def test_what_shares_a_frame_or_is_outside_is_counted():
    project = film(BELL)
    inputs = [Input(at=at, pad="p1") for at in (100, 900, 1100, 3999)]
    late = kept(*inputs, delay=0.05)
    laid = laid_out(project, late, as_heard=False)
    assert (laid.placed, laid.shared, laid.outside) == (2, 1, 1)


def test_a_hush_is_a_hush_on_its_pads_layer():
    project = film(BELL, STOP)
    run = kept(Input(at=800, pad="p1"), Input(at=2400, pad="p2"))
    made = laid_out(project, run, as_heard=True).edit.apply(project)
    hushes = [k for layer in made.scenes[0].layers for k in layer.keyframes if isinstance(k, Hush)]
    assert hushes == [Hush(frame=3, target="all", fade=0.1)]
    assert heard(made) == heard(project, run.run())


def test_presses_that_do_nothing_come_to_no_keyframes():
    project = film(replace(BELL, off=True))
    laid = laid_out(project, kept(Input(at=800, pad="p1")), as_heard=True)
    assert (laid.edit, laid.placed) == (None, 0)


def test_a_pad_of_keyframes_fires_them_as_far_apart_as_they_stand():
    keyframes = (Clip(frame=2, sound="s1", delay=0.05), Rest(frame=4), Clip(frame=7, sound="s2"))
    layer = Layer(id="l1", name="Steps", level=0.5, pan=0.25, keyframes=keyframes)
    project = film(layers=(layer,))
    edit, left_out = pad_of(project, project.scenes[0], [Cell("l1", k.frame) for k in keyframes])
    assert left_out == 1
    made = edit.apply(project)
    pad = made.pads[0]
    assert (pad.level, pad.pan) == (0.5, 0.25)
    assert heard(film(*made.pads), Run(inputs=(Input(at=1600, pad=pad.id),))) == heard(project)


def test_a_pad_needs_a_clip():
    layer = Layer(id="l1", keyframes=(Rest(frame=4),))
    project = film(layers=(layer,))
    with pytest.raises(BadEdit, match="no clip is chosen"):
        pad_of(project, project.scenes[0], [Cell("l1", 4)])


def test_what_is_kept_can_be_trimmed_and_moved_but_not_before_the_run():
    run = kept(*(Input(at=at, pad="p1") for at in (100, 200, 300)))
    assert [i.at for i in trimmed(run, 150, 300).inputs] == [200]
    assert [i.at for i in moved(run, -100).inputs] == [0, 100, 200]
    with pytest.raises(BadEdit, match="before the run begins"):
        moved(run, -101)
    with pytest.raises(BadEdit, match="nothing was pressed there"):
        trimmed(run, 1000)


def test_a_films_mark_is_another_when_it_sounds_otherwise_and_a_runs_when_it_is_renamed_is_not():
    project, digests = film(BELL), Digests()
    mark = mark_of_film(project, digests)
    assert mark_of_film(replace(project, name="Another"), digests) == mark
    assert mark_of_film(replace(project, level=0.5), Digests()) != mark
    run = kept(Input(at=1, pad="p1"))
    assert mark_of_run(replace(run, name="Else")) == mark_of_run(run)
    assert mark_of_run(moved(run, 1)) != mark_of_run(run)


def test_what_is_cut_amid_its_loops_keeps_them_and_is_not_trimmed():
    pad = replace(BELL, does=(replace(BELL.does[0], loops=3),))
    project, run = film(pad), kept(Input(at=0, pad="p1"), Input(at=8000, pad="p1"))
    made = laid_out(project, run, as_heard=True).edit.apply(project)
    first, _ = made.scenes[0].layers[0].keyframes
    assert (first.loops, first.trim) == (3, Clip(frame=0, sound="s1").trim)


def test_a_pad_of_several_layers_keeps_how_loud_each_is_and_hushes_first():
    first = Layer(id="l1", level=0.5, keyframes=(Hush(frame=2, fade=0.1), Rest(frame=9)))
    clips = (Clip(frame=2, sound="s1", level=0.5),), (Clip(frame=3, sound="s2"),)
    others = (Layer(id=f"l{n}", level=0.5, keyframes=each) for n, each in enumerate(clips, 2))
    project = film(layers=(first, *others))
    cells = [Cell("l1", 2), Cell("l1", 9), Cell("l2", 2), Cell("l3", 3), Cell("l3", 4)]
    edit, left_out = pad_of(project, project.scenes[0], cells)
    (pad, _) = edit.apply(project).pads
    assert (pad.level, left_out) == (1.0, 1)
    assert pad.does == (
        HushDeed(target="pad", fade=0.1),
        Fire(sound="s1", level=0.25),
        Fire(sound="s2", level=0.5, delay=0.1),
    )
