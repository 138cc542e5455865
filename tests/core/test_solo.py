"""What solo silences while somebody listens: layers of its scene, pads while that runs, or all."""

import numpy as np
import pytest
from msgspec.structs import replace

from cicada.core.answers import Fire, Input, Pad
from cicada.core.mix import Mixer
from cicada.core.model import Clip, Layer, Project, Run, Scene, Sound
from cicada.core.planner import plan
from cicada.core.silent import silent_when_listening
from tests.core.test_live_mix import Noise

RATE, SECOND = 8000, 8000
RAMP = RATE // 500


def film(*, layer=False, pad=False):
    scenes = tuple(
        Scene(
            id=f"sc{n}", length=10,
            layers=(Layer(id=f"l{n}", solo=layer and n == 2, keyframes=()),),
        )
        for n in (1, 2, 3)
    )  # fmt: skip
    bell = Sound(id="s1", hash="", file="a.wav", frames=3 * SECOND, rate=RATE, channels=1)
    pads = tuple(
        Pad(id=name, solo=pad and name == "p2", does=(Fire(sound="s1"),)) for name in ("p1", "p2")
    )
    return Project(
        format="cicada-project", version=2, fps=(10, 1), rate=RATE, sounds=(bell,), scenes=scenes,
        pads=pads,
    )  # fmt: skip


def heard(project, pad):
    made = plan(project, Run(inputs=(Input(at=0, pad=pad),)))
    mixer = Mixer(made, project, Noise(project), silent_when_listening(project))
    return np.abs(mixer.mix(0, made.length)[0])


def test_a_soloed_layer_silences_pads_while_its_scene_runs():
    alone, found = heard(film(), "p1"), heard(film(layer=True), "p1")
    assert np.array_equal(found[:SECOND], alone[:SECOND])
    assert found[SECOND + RAMP : 2 * SECOND].max() == 0
    assert np.allclose(found[2 * SECOND + RAMP :], alone[2 * SECOND + RAMP :])


@pytest.mark.parametrize(("pad", "sounds"), [("p1", False), ("p2", True)])
def test_a_soloed_pad_silences_all_that_is_not_and_no_layer_silences_it(pad, sounds):
    found = heard(film(layer=True, pad=True), pad)
    assert (found.max() > 0) == sounds
    if sounds:
        assert np.array_equal(found, heard(film(), pad))


def test_layers_beside_a_soloed_one_are_silent_and_those_of_other_scenes_are_not():
    project = film(layer=True)
    first = replace(project.scenes[0].layers[0], keyframes=(Clip(frame=0, sound="s1"),))
    scenes = (replace(project.scenes[0], layers=(first,)), *project.scenes[1:])
    assert "l1" not in silent_when_listening(replace(project, scenes=scenes))
    second = replace(
        project.scenes[1], layers=(*project.scenes[1].layers, Layer(id="l9", keyframes=()))
    )
    scenes = (project.scenes[0], second, project.scenes[2])
    assert "l9" in silent_when_listening(replace(project, scenes=scenes))
