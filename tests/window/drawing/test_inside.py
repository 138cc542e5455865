"""What blocks show of what they are made of stands where the plan has it: joins, shares, draws."""

import numpy as np
import pytest

from cicada.core.answers import (
    Blend,
    BlendPart,
    Fire,
    Input,
    Pad,
    Playlist,
    PlaylistPart,
    Pool,
    PoolPart,
    Value,
)
from cicada.core.model import Clip, Layer, Project, Run, Scene, Sound
from cicada.core.needs import driven_by
from cicada.core.planner import plan
from cicada.window.drawing.inside import drawn, joins, shares
from cicada.window.drawing.traces import SceneTraces

RATE = 8000
FPF = 800


def sound(number, frames):
    return Sound(
        id=f"s{number}", name=f"Sound {number}", hash="", file="a.wav", frames=frames * FPF,
        rate=RATE, channels=1,
    )  # fmt: skip


def film(*keyframes, pads=()):
    return Project(
        format="cicada-project", version=2, fps=(10, 1), rate=RATE,
        sounds=(sound(1, 4), sound(2, 6), sound(3, 8)),
        values=(Value(id="v1", name="Wind"), Value(id="v2", name="Rain")),
        blends=(
            Blend(
                id="b1", name="Gale", value="v1", curve="linear",
                parts=(BlendPart(sound="s1", at=0.0), BlendPart(sound="s2", at=1.0)),
            ),
        ),
        pools=(Pool(id="o1", name="Any", parts=(PoolPart(sound="s1"), PoolPart(sound="s2"))),),
        playlists=(
            Playlist(
                id="q1", name="Bed",
                parts=(
                    PlaylistPart(sound="s1", loops=2), PlaylistPart(sound="s2", tail=0.1),
                    PlaylistPart(sound="s3"),
                ),
            ),
        ),
        scenes=(
            Scene(
                id="sc1", length=60, value_lines={"v1": ((0.0, 0.0), (40.0, 1.0))},
                layers=(Layer(id="l1", keyframes=keyframes),),
            ),
        ),
        pads=pads,
    )  # fmt: skip


def only_trace(project, run=None):
    made = plan(project, run or Run())
    traces = SceneTraces(project, made, project.scenes[0])
    return traces, traces.rows[0].trace(0)


@pytest.mark.parametrize(
    ("clip", "wanted"),
    [
        ({}, [(10, "Sound 1"), (14, ""), (18, "Sound 2"), (23, "Sound 3")]),
        ({"trim": (0.2, 1.0)}, [(12, ""), (16, "Sound 2")]),
        ({"speed": 2.0}, [(10, "Sound 1"), (12, ""), (14, "Sound 2"), (16.5, "Sound 3")]),
        ({"sync": "locked"}, [(10, "Sound 1"), (14, ""), (18, "Sound 2"), (23, "Sound 3")]),
        ({"trim": (0.8, 1.2), "loops": 2}, [(10, "Sound 2"), (14, "Sound 2")]),
    ],
)
def test_the_pieces_of_a_playlist_begin_where_they_are_heard(clip, wanted):
    traces, trace = only_trace(film(Clip(frame=10, sound="q1", **clip)))
    found = [(round(join.place, 6), join.name) for join in joins(traces, trace)]
    assert found == wanted


def test_the_shares_of_a_blend_follow_its_value():
    traces, trace = only_trace(film(Clip(frame=0, sound="b1", loops=0)))
    first, second = shares(traces, trace, np.array([0, 10, 20, 40]) * FPF)
    assert (first.name, second.name) == ("Sound 1", "Sound 2")
    assert first.gains.tolist() == pytest.approx([1, 0.75, 0.5, 0])
    assert second.gains.tolist() == pytest.approx([0, 0.25, 0.5, 1])


def test_what_a_pool_drew_is_named_and_so_is_what_it_did_not_draw():
    traces, trace = only_trace(film(Clip(frame=0, sound="o1")))
    picked = trace.voice.picked
    names = {"s1": "Sound 1", "s2": "Sound 2"}
    assert drawn(traces, trace) == (names.pop(picked), list(names.values()))
    traces, trace = only_trace(film(Clip(frame=0, sound="s1")))
    assert drawn(traces, trace) is None
    assert joins(traces, trace) == []
    assert shares(traces, trace, np.array([0])) == []


def test_presses_stand_on_the_rows_of_their_pads():
    pads = (Pad(id="p1", name="Bell", does=(Fire(sound="s1"),)), Pad(id="p2", name="Idle"))
    project = film(pads=pads)
    inputs = (
        Input(at=5 * FPF, pad="p1"),
        Input(at=7 * FPF, pad="p2"),
        Input(at=90 * FPF, pad="p1"),
    )
    made = plan(project, Run(inputs=inputs))
    traces = SceneTraces(project, made, project.scenes[0], inputs=inputs)
    found = [(row.name, row.presses, len(row.voices)) for row in traces.rows[1:]]
    assert found == [("Bell", [5.0], 1), ("Idle", [7.0], 0)]


def test_a_value_drives_what_follows_it_alone():
    driven = driven_by(film(), "v1")
    assert driven.drives("l1", "b1")
    assert not driven.drives("l1", "o1")
    assert not driven_by(film(), "v2").drives("l1", "b1")
