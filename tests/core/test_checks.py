"""Checks: each thing that looks wrong is found once, with its place and a sentence."""

import pytest
from msgspec.structs import replace

from cicada.core.answers import Fire, Pad, Value, Watch
from cicada.core.checks import check, overs
from cicada.core.model import Clip, Hush, Layer, Project, Scene, Sound


def project(*keyframes, plays=1, length=48, off=False):
    layer = Layer(id="l", name="Bells", off=off, keyframes=keyframes)
    sound = Sound(id="s", name="Bell", frames=8000, rate=8000, channels=1)
    scene = Scene(id="sc", name="Night", length=length, layers=(layer,))
    return Project(
        format="cicada-project", version=1, fps=(24, 1), rate=8000, plays=plays,
        sounds=(sound,), scenes=(scene,),
    )  # fmt: skip


def clip(frame=0, **more):
    return Clip(frame=frame, sound="s", **more)


FOUND = {
    "endless hold": (project(clip(sync="hold", loops=0)), "endless-hold", "error"),
    "blocked hold": (
        project(clip(loops=0), clip(12, sync="hold", if_sounding="queue")), "blocked-hold", "error",
    ),
    "left out": (project(clip(), clip(12, if_sounding="skip")), "never-starts", "warning"),
    "waits for ever": (
        project(clip(loops=0), clip(12, if_sounding="queue")), "never-starts", "warning",
    ),
    "nothing to play": (project(clip(trim=(2.0, None))), "never-starts", "warning"),
    "past the end": (project(clip(50)), "never-starts", "warning"),
    "piles up": (project(clip(loops=0), plays=0), "piles-up", "warning"),
}  # fmt: skip


@pytest.mark.parametrize("name", FOUND)
def test_what_looks_wrong_is_found(name):
    wrong, kind, severity = FOUND[name]
    finding = next(f for f in check(wrong) if f.kind == kind)
    assert finding.severity == severity
    assert finding.sentence.startswith("Night, Bells, frame ")
    assert "Bell" in finding.sentence


@pytest.mark.parametrize(
    "right",
    [
        project(clip(), Hush(frame=30)),
        project(clip(loops=0), plays=1),
        project(clip(loops=0), Hush(frame=40), plays=0),
        project(clip(trim=(2.0, None)), off=True),
        project(clip(trim=(2.0, None), off=True)),
    ],
)
def test_what_is_right_or_off_is_left_alone(right):
    assert check(right) == []


def test_a_missing_sound_is_an_error_that_names_it():
    (finding,) = check(project(clip()), missing={"s"})
    assert (finding.kind, finding.severity, finding.sound) == ("missing-sound", "error", "s")


def test_overs_say_how_many_where_and_by_how_much():
    assert (
        "12 samples, the first at 0.500 s, by up to 1.5 dB" in overs(12, 4000, 1.5, 8000).sentence
    )


def test_what_a_pad_fires_again_in_each_pass_piles_up_on_the_pad():
    film = project(plays=0)
    scene = replace(film.scenes[0], value_lines={"v": ((0.0, 0.0), (9.0, 1.0))})
    pad = Pad(
        id="p", name="Gate", watch=Watch(value="v", enters=(0.5, 1.0)),
        does=(Fire(sound="s", loops=0),),
    )  # fmt: skip
    film = replace(film, version=2, values=(Value(id="v"),), scenes=(scene,), pads=(pad,))
    (found,) = [each for each in check(film) if each.kind == "piles-up"]
    assert found.sentence.startswith("the pad Gate, Night")
    assert found.layer == ""
