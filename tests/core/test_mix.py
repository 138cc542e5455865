"""The mixer: the same samples however the run is cut up, and the samples the formulas give."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from cicada.core.clip import clip_timing
from cicada.core.lengths import length_of
from cicada.core.mix import Mixer
from cicada.core.model import (
    FORMAT,
    Clip,
    Hush,
    Layer,
    PressPoint,
    Project,
    Rest,
    Run,
    Scene,
    Sound,
)
from cicada.core.planner import plan
from cicada.core.tone import InMemory
from tests.core.films import SOUNDS, films, times
from tests.core.slow_mix import direct_mix


class Noise:
    """Random samples for every sound, the same each time."""

    def __init__(self):
        self._made = {}

    def source(self, sound, first, last, speed):
        key = (sound, first, last, speed)
        if key not in self._made:
            length = int(np.floor((last - first) / speed + 0.5))
            channels = 2 if sound == "s1" else 1
            generator = np.random.default_rng(sum(map(ord, sound)) + first)
            self._made[key] = generator.uniform(-1, 1, (channels, length)).astype(np.float32)
        return InMemory(self._made[key])


class Ones:
    """A sound that is 1 throughout."""

    def source(self, sound, first, last, speed):
        return InMemory(np.ones((1, last - first), np.float32))


def lines(low, high):
    shapes = st.sampled_from(((), ("smooth",), ("step",)))
    point = st.tuples(st.sampled_from((0.0, 0.05, 0.1, 0.2, 0.4)), st.floats(low, high), shapes)
    points = st.lists(point, max_size=4)
    return points.map(lambda ps: tuple((x, y, *s) for x, y, s in sorted(ps, key=lambda p: p[0])))


def shaped_clip(clip, draw):
    return replace(
        clip,
        level=draw(st.floats(0, 2)),
        pan=draw(st.floats(-1, 1)),
        level_line=draw(lines(0, 2)),
        pan_line=draw(lines(-1, 1)),
        line_over=draw(st.sampled_from(("run", "loop"))),
        fade_in=draw(times),
        fade_out=draw(times),
        fade_shape=draw(st.sampled_from(("linear", "power", "smooth"))),
    )


@st.composite
def shaped_films(draw):
    """Films whose clips and layers are shaped in every way."""
    project, run = draw(films())
    scenes = []
    for scene in project.scenes:
        layers = []
        for layer in scene.layers:
            keyframes = tuple(
                shaped_clip(k, draw) if isinstance(k, Clip) else k for k in layer.keyframes
            )
            line = draw(st.sampled_from(((), ((0.0, 1.0), (3.0, 0.2, "step"), (5.5, 1.5)))))
            layers.append(
                replace(layer, keyframes=keyframes, line=line, pan=draw(st.floats(-1, 1)))
            )
        master = draw(st.sampled_from(((), ((0.0, 0.5), (4.0, 1.0, "smooth"), (8.0, 0.0)))))
        scenes.append(replace(scene, layers=tuple(layers), master=master))
    limit = run.limit if run.limit is not None else 6.0
    return replace(project, scenes=tuple(scenes)), replace(run, limit=min(limit, 6.0))


# Each of these mixes a film many times over.
@settings(max_examples=max(1, settings.default.max_examples // 3))
@given(shaped_films(), st.lists(st.integers(1, 3000), min_size=1, max_size=6))
def test_cutting_the_run_into_blocks_changes_no_sample(film, sizes):
    project, run = film
    made, noise = plan(project, run), Noise()
    whole = Mixer(made, project, noise).mix(0, made.length)
    mixer, at, blocks = Mixer(made, project, noise), 0, []
    while at < made.length:
        size = min(sizes[len(blocks) % len(sizes)], made.length - at)
        blocks.append(mixer.mix(at, size))
        at += size
    assert np.array_equal(np.concatenate([np.zeros((2, 0)), *blocks], axis=1), whole)


@pytest.mark.parametrize("size", [1, 64, 480, 65536])
def test_the_demo_is_the_same_in_blocks_of(size, demo):
    from cicada.media.cache import user_cache
    from cicada.media.sources import SoundSources
    from cicada.store.projectfile import load
    from cicada.store.sounds_folder import sound_files

    project = load(demo)
    made = plan(project, Run())
    sounds = SoundSources(project, sound_files(project, demo), user_cache())
    length = made.length if size > 1 else 3000
    whole = Mixer(made, project, sounds).mix(0, length)
    mixer = Mixer(made, project, sounds)
    blocks = [mixer.mix(at, min(size, length - at)) for at in range(0, length, size)]
    assert np.array_equal(np.concatenate(blocks, axis=1), whole)


@st.composite
def one_scene(draw):
    """One scene with two layers of shaped clips, no lines that go by the picture."""
    layers = []
    for index in range(2):
        frames = sorted(draw(st.lists(st.integers(0, 9), min_size=1, max_size=3, unique=True)))
        keyframes = []
        for frame in frames:
            kind = draw(st.sampled_from(("clip", "clip", "clip", "rest", "hush")))
            if kind == "clip":
                clip = Clip(
                    frame=frame,
                    sound=draw(st.sampled_from(SOUNDS)),
                    sync=draw(st.sampled_from(("locked", "free", "hold"))),
                    loops=draw(st.integers(0, 3)),
                    delay=draw(times),
                    offset=draw(times),
                    loop_overlap=draw(times),
                    speed=draw(st.sampled_from((1.0, 0.5, 1.3))),
                    ends=draw(st.sampled_from(("ring", "span"))),
                    release=draw(times),
                )
                keyframes.append(shaped_clip(clip, draw))
            else:
                hush = Hush(frame=frame, target="all", fade=draw(times))
                keyframes.append(hush if kind == "hush" else Rest(frame=frame))
        level, pan = draw(st.floats(0, 2)), draw(st.floats(-1, 1))
        layers.append(Layer(id=f"l{index}", level=level, pan=pan, keyframes=tuple(keyframes)))
    sounds = tuple(Sound(id=s, frames=900, rate=8000, channels=1) for s in SOUNDS)
    scene = Scene(id="sc", length=10, layers=tuple(layers))
    return Project(
        format=FORMAT, version=1, fps=(24, 1), rate=8000, level=0.7, sounds=sounds, scenes=(scene,)
    )


@settings(max_examples=40)
@given(one_scene())
def test_the_mix_is_what_the_formulas_give(project):
    noise, made = Noise(), plan(project, Run())

    def loop_of(clip, plays, sound):
        timing = clip_timing(clip, length_of(project, plays), project.rate)
        return noise.source(clip.sound, timing.first, timing.last, clip.speed).samples

    mixed = Mixer(made, project, noise).mix(0, made.length)
    wanted = direct_mix(project, made, loop_of)
    loudest = np.abs(wanted).max(initial=1)
    assert np.abs(mixed - wanted).max(initial=0) < 1e-5 * loudest


def test_a_layer_line_follows_the_picture_and_a_jump_is_spread():
    layer = Layer(
        id="l",
        line=((0.0, 1.0, "step"), (6.0, 0.25)),
        keyframes=(Clip(frame=0, sound="s", loops=0),),
    )
    sound = Sound(id="s", frames=8000, rate=8000, channels=1)
    scene = Scene(id="sc", length=12, layers=(layer,))
    project = Project(
        format=FORMAT, version=1, fps=(12, 1), rate=8000, sounds=(sound,), scenes=(scene,)
    )

    made = plan(project, Run())
    mixed = Mixer(made, project, Ones()).mix(0, made.length)[0]
    assert mixed[3999] == 1.0
    assert mixed[4000:4017] == pytest.approx(1 - 0.75 * np.minimum(1, np.arange(17) / 16))
    assert mixed[5000] == 0.25


def test_the_master_line_of_the_next_scene_takes_over_what_rings_on():
    clip = Clip(frame=0, sound="s", loops=0)
    scenes = (
        Scene(id="a", length=6, layers=(Layer(id="l", keyframes=(clip,)),)),
        Scene(id="b", length=6, master=((0.0, 0.5),), layers=()),
    )
    sound = Sound(id="s", frames=8000, rate=8000, channels=1)
    project = Project(
        format=FORMAT, version=1, fps=(12, 1), rate=8000, sounds=(sound,), scenes=scenes
    )

    made = plan(project, Run())
    mixed = Mixer(made, project, Ones()).mix(0, made.length)[0]
    assert (mixed[3999], mixed[4000], mixed[4016]) == (1.0, 1.0, 0.5)


def test_a_sound_that_is_not_there_is_silent():
    class Nothing:
        def source(self, sound, first, last, speed):
            return None

    layer = Layer(id="l", keyframes=(Clip(frame=0, sound="s"),))
    sound = Sound(id="s", frames=8000, rate=8000, channels=1)
    scene = Scene(id="sc", length=12, layers=(layer,))
    project = Project(
        format=FORMAT, version=1, fps=(12, 1), rate=8000, sounds=(sound,), scenes=(scene,)
    )
    mixer = Mixer(plan(project), project, Nothing())
    assert not mixer.mix(0, 4000).any()
    assert not mixer.mix(4000, 4000).any()
    assert mixer.mix(0, 0).shape == (2, 0)


def on_a_layer_with(line, fps):
    """Twelve frames of an endless sound of ones, on a layer with that line."""
    layer = Layer(id="l", line=line, keyframes=(Clip(frame=0, sound="s", loops=0),))
    sound = Sound(id="s", frames=8000, rate=8000, channels=1)
    scene = Scene(id="sc", length=12, layers=(layer,))
    return Project(
        format=FORMAT, version=1, fps=(fps, 1), rate=8000, sounds=(sound,), scenes=(scene,)
    )


def test_a_line_picked_up_behind_its_jump_has_jumped_already():
    line = ((0.0, 1.0, "step"), (3.0, 0.25))
    project = on_a_layer_with(line, fps=12)
    made = plan(project, Run(frame=6))
    assert Mixer(made, project, Ones()).mix(100, 10)[0] == pytest.approx(0.25)
    at_the_jump = plan(project, Run(frame=3))
    mixed = Mixer(at_the_jump, project, Ones()).mix(0, 100)[0]
    assert mixed[30] == pytest.approx(0.25)
    assert mixed[20] == pytest.approx(0.25)
    assert mixed[8] > 0.3


def test_a_jump_within_a_frame_is_where_the_picture_passes_it_and_one_never_reached_is_not():
    line = ((0.0, 1.0, "step"), (3.5, 0.25, "step"), (11.0, 1.0))
    project = on_a_layer_with(line, fps=8)
    made = plan(project, Run(limit=1.0))
    mixed = Mixer(made, project, Ones()).mix(0, made.length - 100)[0]
    assert (mixed[3499], mixed[3500], mixed[3516]) == (1.0, 1.0, 0.25)
    assert mixed[-1] == 0.25


def test_a_block_that_begins_amid_a_jump_of_the_master_line_has_the_rest_of_it():
    project = on_a_layer_with((), fps=8)
    louder = project.scenes[0]
    quieter = replace(louder, id="later", layers=(), master=((0.0, 0.25),))
    project = replace(project, scenes=(louder, quieter))
    mixer, jump = Mixer(plan(project, Run()), project, Ones()), 12000
    whole = mixer.mix(jump - 20, 60)[0]
    assert whole[0] == 1.0
    assert 0.25 < whole[28] < 1.0
    assert whole[-1] == 0.25
    assert np.array_equal(mixer.mix(jump + 5, 35)[0], whole[25:])


def test_a_sound_that_stays_wrong_when_it_is_fetched_again_is_silent():
    fetched = []

    class Wrong:
        samples = np.ones((1, 8000), np.float32)

        def right_until(self, at):
            return at

    class Sources:
        def source(self, sound, first, last, speed):
            fetched.append(sound)
            return Wrong()

    layer = Layer(id="l", keyframes=(Clip(frame=0, sound="s"),))
    sound = Sound(id="s", frames=8000, rate=8000, channels=1)
    scene = Scene(id="sc", length=12, layers=(layer,))
    project = Project(
        format=FORMAT, version=1, fps=(12, 1), rate=8000, sounds=(sound,), scenes=(scene,)
    )
    mixer = Mixer(plan(project), project, Sources())
    assert not mixer.mix(0, 4000).any()
    assert not mixer.mix(4000, 4000).any()
    assert len(fetched) == 3


def lone(clip, **more):
    """A film of two seconds with one clip, of a sound of one second."""
    scene = Scene(id="sc", length=20, layers=(Layer(id="l", keyframes=(clip,)),), **more)
    sound = Sound(id="s", frames=8000, rate=8000, channels=1)
    return Project(
        format=FORMAT, version=1, fps=(10, 1), rate=8000, sounds=(sound,), scenes=(scene,)
    )


@pytest.mark.parametrize("level", [0.0, 1.0])
def test_a_clip_at_no_level_is_mixed_as_nothing(level):
    clip = Clip(frame=0, sound="s", level=level)
    project = lone(clip)
    mixer = Mixer(plan(project), project, Ones())
    for start in range(0, 8000, 500):
        assert np.all(mixer.mix(start, 500) == level)


def test_a_locked_sound_is_mixed_as_nothing_while_the_picture_waits():
    clip = Clip(frame=0, sound="s", sync="locked")
    project = lone(clip, press_points=(PressPoint(frame=5, after=1.0),))
    mixer = Mixer(plan(project, Run(press_points="wait")), project, Ones())
    mixed = np.concatenate([mixer.mix(at, 100)[0] for at in range(0, 16_000, 100)])
    assert np.all(mixed[:3900] == 1)
    assert np.all(mixed[4000:12_000] == 0)
    assert np.all(mixed[12_100:15_900] == 1)
