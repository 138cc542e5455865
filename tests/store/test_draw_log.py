"""Logs of how long drawing took, as a user's player writes them."""

import json

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from cicada.core.model import Run, empty_project
from cicada.core.planner import plan
from cicada.errors import BadProject
from cicada.store.draw_log import read_draw_log

PROJECT = empty_project("film", length=6)
PROJECT = replace(
    PROJECT, scenes=(*PROJECT.scenes, replace(PROJECT.scenes[0], id="sc2", name="Night", layers=()))
)


def logged(tmp_path, text):
    (tmp_path / "log").write_text(text)
    return read_draw_log(tmp_path / "log", PROJECT)


def test_repeats_take_the_largest_and_gaps_the_median(tmp_path):
    found = logged(tmp_path, "scene,frame,ms\nsc1,0,10\nsc1,1,30\nsc1,0,50\nsc1,2,20\nsc1,9,99\n")
    assert found.times == {"sc1": (0.05, 0.03, 0.02, 0.03, 0.03, 0.03)}
    assert found[1:] == (3, 1, 3, 1)


def test_lines_of_json_say_the_same_and_scenes_may_be_named(tmp_path):
    lines = [{"scene": "Night", "frame": n, "ms": 5.5} for n in range(6)]
    found = logged(tmp_path, "\n".join(map(json.dumps, lines)))
    assert found.times == {"sc2": (0.0055,) * 6}
    assert len(list(plan(PROJECT, Run(draw_time=found.times)).picture())) == 12


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("", "no columns"), ("a,b,c\n", "no columns"), ("scene,frame,ms\n", "no frame"),
        ("scene,frame,ms\nsc1,x,1\n", "line 2: has frame"),
        ("scene,frame,ms\nsc9,0,1\n", "line 2: names the scene 'sc9'"),
        ("scene,frame,ms\nsc1,0,nan\n", "line 2: has ms"),
        ("scene,frame,ms\nsc1,0.5,1\n", "line 2: has a frame"),
        ("scene,frame,ms\nsc1,-1,1\n", "line 2: has a frame"),
        ("scene,frame,ms\nsc1,0,1e9\n", "line 2: has ms"),
        ("scene,frame,ms\nsc1\n", "line 2: has no frame"),
        ('{"scene": "sc1"}\n', "line 1: has no frame"), ("{\n", "line 1: is no JSON"),
        ('{"scene": [], "frame": {}, "ms": true}', "line 1: names the scene"),
        ('{"scene": "sc1", "frame": ' + "9" * 400 + ', "ms": 1}', "line 1: has frame"),
    ],
)  # fmt: skip
def test_what_cannot_be_read_is_said_with_its_line(tmp_path, text, said):
    with pytest.raises(BadProject, match=said):
        logged(tmp_path, text)


@settings(suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.binary(max_size=200))
def test_whatever_is_in_the_file_is_read_or_refused(tmp_path, data):
    for start in (b"scene,frame,ms\nsc1,", b"{", b""):
        (tmp_path / "log").write_bytes(start + data)
        try:
            found = read_draw_log(tmp_path / "log", PROJECT)
        except BadProject:
            continue
        assert all(len(times) == 6 for times in found.times.values())
