"""A plan is printed as it is worked out, whatever its length, and is what the planner made."""

import json
import subprocess
import sys
from functools import partial
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from cicada.cli import waiting_lines
from cicada.cli.main import main
from cicada.cli.waiting_lines import WaitingLines
from cicada.core import streaming
from cicada.core.model import Clip, Run, Sound, empty_project
from cicada.core.plan import plan_to_builtins
from cicada.core.planner import plan
from cicada.store.projectfile import load_case, save

WORKED = Path(__file__).parents[1] / "core" / "worked_plans"


@given(st.lists(st.tuples(st.integers(0, 5), st.text(max_size=3))), st.integers(1, 4))
def test_lines_come_in_the_order_of_their_keys_wherever_they_wait(lines, most):
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(waiting_lines, "IN_MEMORY", most)
        patch.setattr(waiting_lines, "AT_ONCE", 7)
        with WaitingLines() as waiting:
            for number, text in lines:
                waiting.add((number,), f"{number} {text}")
            found = list(waiting.in_order())
    assert found == [f"{number} {text}" for number, text in sorted(lines, key=lambda x: x[0])]


def test_lines_that_are_forgotten_do_not_come(monkeypatch):
    monkeypatch.setattr(waiting_lines, "IN_MEMORY", 2)
    with WaitingLines() as waiting:
        for number in range(5):
            waiting.add((number,), "before")
        waiting.clear()
        waiting.add((1,), "after")
        assert list(waiting.in_order()) == ["after"]


@pytest.mark.parametrize("size", [0, 2, 5000])
def test_what_is_printed_in_portions_is_the_plan(capsys, monkeypatch, size):
    monkeypatch.setattr(streaming, "portions", partial(streaming.portions, size=size))
    for case in sorted(WORKED.glob("*.json"))[:40]:
        assert main(["plan", str(case)]) == 0
        shown = json.loads(capsys.readouterr().out)
        wanted = plan_to_builtins(plan(*load_case(case)))
        assert shown == json.loads(json.dumps(wanted)), case.name


def long_film(folder):
    project = empty_project("long")
    clips = tuple(Clip(frame=frame, sound="s") for frame in (0, 6, 12))
    layer = replace(project.scenes[0].layers[0], keyframes=clips)
    scene = replace(project.scenes[0], length=24, layers=(layer,))
    sound = Sound(id="s", frames=4000, rate=8000, channels=1)
    save(replace(project, sounds=(sound,), scenes=(scene,)), folder / "long.cicada")
    return folder / "long.cicada"


def test_a_million_passes_begin_to_come_at_once_and_take_little_memory(tmp_path):
    (tmp_path / "run.json").write_text('{"passes": 1000000}')
    words = ["plan", str(long_film(tmp_path)), "--run", str(tmp_path / "run.json")]
    code = (
        "import sys; from cicada.cli.main import main\n"
        "code = main(sys.argv[1:])\n"
        "peak = next(x for x in open('/proc/self/status') if x.startswith('VmHWM'))\n"
        "print(code, peak.split()[1], file=sys.stderr)"
    )
    done = subprocess.Popen([sys.executable, "-c", code, *words], stdout=subprocess.PIPE,
                            stderr=subprocess.PIPE)  # fmt: skip
    read = done.stdout.read(10_000_000)
    done.stdout.close()
    ended, memory = done.stderr.read().split()
    done.wait(60)
    done.stderr.close()
    assert len(read) == 10_000_000
    assert int(ended) == 0
    assert int(memory) < 150_000


def test_what_the_disk_cannot_take_is_refused_before_anything_is_printed(tmp_path):
    (tmp_path / "run.json").write_text('{"passes": 1000000}')
    film = long_film(tmp_path)
    project = load_case(film)[0]
    save(replace(project, scenes=(replace(project.scenes[0], length=2_000_000),)), film)
    with (tmp_path / "out").open("wb") as out:
        done = subprocess.run(
            [sys.executable, "-m", "cicada", "plan", film, "--run", tmp_path / "run.json"],
            stdout=out, stderr=subprocess.PIPE, check=False,
        )  # fmt: skip
    assert done.returncode == 2
    assert b"the output takes about " in done.stderr
    assert not (tmp_path / "out").read_bytes()


def test_a_run_of_one_scene_or_of_little_time_is_not_refused_for_the_others(tmp_path, capsys):
    for words in ({"passes": 0, "limit": 1}, {"only_scene": True}, {"limit": 0.5}):
        (tmp_path / "run.json").write_text(json.dumps(words))
        assert main(["plan", str(long_film(tmp_path)), "--run", str(tmp_path / "run.json")]) == 0
        shown = json.loads(capsys.readouterr().out)
        made = plan(load_case(tmp_path / "long.cicada")[0], Run(**words))
        assert (shown["end"], shown["length"]) == (made.end, made.length)
