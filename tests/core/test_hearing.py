"""What sounds at a moment, held against the mix."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from cicada.core.answers import Follows, Value
from cicada.core.hearing import Hearing
from cicada.core.mix import Mixer
from cicada.core.model import Clip, Layer, PressPoint, Project, Run, Scene, Sound
from cicada.core.planner import plan
from cicada.core.tone import InMemory
from tests.core.films import RATE, films

# Each plans a film several times over.
FEW = settings(max_examples=20)


class Ones:
    """Every sound is one: the mix is then the sum of the gains."""

    def source(self, sound, first, last, speed):
        return InMemory(np.ones((1, round((last - first) / speed) + 2), np.float32))


@FEW
@given(films(), st.floats(0, 1))
def test_exactly_the_voices_that_sound_are_heard(film, share):
    project, run = film
    made = plan(project, replace(run, limit=30.0))
    sample = int(made.length * share)
    heard = Hearing(made, project).at(sample)
    expected = [v for v in made.voices if v.start <= sample < v.end]
    assert [each.voice for each in heard] == expected[::-1]
    for each in heard:
        moving = any(piece.start <= sample < piece.end for piece in each.voice.pieces)
        assert each.stands == (not moving)
        assert each.left == each.voice.end - sample


def lone(clip, **more):
    layer = Layer(id="l", level=0.8, line=((0, 1.0), (20, 0.25)), keyframes=(clip,))
    scene = Scene(id="s", length=40, master=((0, 0.5), (40, 1.0)), layers=(layer,), **more)
    sound = Sound(id="x", frames=RATE, rate=RATE, channels=1)
    return Project(
        format="cicada-project", version=1, fps=(10, 1), rate=RATE, sounds=(sound,), scenes=(scene,)
    )


@given(st.integers(100, 3 * RATE - 100), st.sampled_from(("run", "loop")))
def test_its_level_is_what_the_mix_makes_of_it(sample, over):
    clip = Clip(
        frame=0, sound="x", loops=3, level=0.7, fade_in=0.5, fade_out=1.0,
        level_line=((0, 1.0), (0.6, 0.3)), line_over=over,
    )  # fmt: skip
    project = lone(clip)
    made = plan(project)
    (heard,) = Hearing(made, project).at(sample)
    mixed = Mixer(made, project, Ones()).mix(sample, 1)
    assert abs(heard.gain - np.abs(mixed).max()) < 2e-3
    assert heard.loop == sample // RATE + 1


def test_a_locked_sound_stands_while_the_picture_waits_and_is_silent():
    clip = Clip(frame=0, sound="x", sync="locked")
    project = lone(clip, press_points=(PressPoint(frame=3, after=2.0),))
    made = plan(project, Run(press_points="wait"))
    (heard,) = Hearing(made, project).at(int(1.5 * RATE))
    assert heard.stands
    assert heard.gain == 0


def test_its_level_follows_what_its_layer_follows():
    project = lone(Clip(frame=0, sound="x"), value_lines={"v": ((0.0, 0.0), (20.0, 1.0))})
    follows = Follows(value="v", points=((0.0, 0.0), (1.0, 1.0)))
    scene = project.scenes[0]
    layer = replace(scene.layers[0], line=(), follows=follows)
    project = replace(
        project, version=2, values=(Value(id="v"),),
        scenes=(replace(scene, master=(), layers=(layer,)),),
    )  # fmt: skip
    made = plan(project)
    (heard,) = Hearing(made, project).at(RATE // 2)
    assert heard.gain == pytest.approx(0.8 * 0.25, abs=1e-3)
