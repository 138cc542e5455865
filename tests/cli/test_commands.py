"""The command line: what scripts call, and one clear line for whatever is wrong."""

import json
import os
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
import soundfile
from msgspec.structs import replace

from cicada.cli.main import main
from cicada.core.model import empty_project
from cicada.demo.harbour import said_of
from cicada.store.folders import data_folder
from cicada.store.projectfile import load, save
from cicada.store.versions import Versions
from tests.sound_files import ring, write_container, write_sound

WORKED = Path(__file__).parents[1] / "core" / "worked_plans"


def test_plan_prints_the_plan_of_a_case(capsys):
    case = WORKED / "queue-with-gap.json"
    assert main(["plan", str(case)]) == 0
    shown = json.loads(capsys.readouterr().out)
    assert shown["length"] == json.loads(case.read_text())["plan"]["length"]


def test_plan_prints_several_one_a_line_in_order(capsys):
    cases = [WORKED / "random-00.json", WORKED / "random-01.json"]
    assert main(["plan", *map(str, cases)]) == 0
    lines = capsys.readouterr().out.splitlines()
    wanted = [json.loads(case.read_text())["plan"]["end"] for case in cases]
    assert [json.loads(line)["end"] for line in lines] == wanted


def test_a_run_given_wins_over_the_run_of_the_case(capsys, tmp_path):
    run = tmp_path / "run.json"
    run.write_text('{"limit": 0.5}')
    assert main(["plan", str(WORKED / "random-00.json"), "--run", str(run)]) == 0
    shown = json.loads(capsys.readouterr().out)
    assert shown["end"] == shown["rate"] // 2


def test_render_writes_what_it_says(capsys, demo, tmp_path):
    out = tmp_path / "mix.flac"
    assert main(["render", str(demo), "-o", str(out)]) == 0
    assert "PCM_24" in capsys.readouterr().out
    assert soundfile.info(out).subtype == "PCM_24"


def test_rendering_one_layer_leaves_the_others_out(capsys, demo, tmp_path):
    for layer in ("l4", "l7"):
        assert (
            main(["render", str(demo), "-o", str(tmp_path / f"{layer}.wav"), "--only-layer", layer])
            == 0
        )
    keeper, rain = (soundfile.read(tmp_path / f"{x}.wav")[0] for x in ("l4", "l7"))
    assert not np.array_equal(keeper, rain)
    assert not keeper[: 48000 * 2].any()


def test_check_finds_the_two_mistakes_of_the_demo(capsys, demo):
    assert main(["check", str(demo), "--json"]) == 0
    kinds = [finding["kind"] for finding in json.loads(capsys.readouterr().out)]
    assert sorted(kinds) == ["never-starts", "piles-up"]


def test_check_fails_on_a_missing_sound(capsys, demo, tmp_path):
    (tmp_path / "alone.cicada").write_bytes(demo.read_bytes())
    assert main(["check", str(tmp_path / "alone.cicada")]) == 1
    assert "missing" in capsys.readouterr().out


def test_a_project_is_made_filled_and_rendered_without_the_window(capsys, tmp_path):
    project, sound = tmp_path / "a.cicada", tmp_path / "low note.wav"
    soundfile.write(sound, np.zeros(100), 8000)
    assert main(["new", str(project), "--fps", "30000/1001", "--length", "30"]) == 0
    assert main(["import", str(project), str(sound)]) == 0
    made = load(project)
    assert (made.fps, made.scenes[0].length, made.sounds[0].name) == ((30000, 1001), 30, "Low note")
    assert main(["render", str(project), "-o", str(tmp_path / "a.wav")]) == 0
    assert soundfile.info(tmp_path / "a.wav").frames == 48048


def test_a_sound_that_cannot_be_had_is_said_alike_by_check_and_render(capsys, demo, tmp_path):
    """One that is linked and has changed, one that is gone, one that is a folder."""
    project, out = load(demo), tmp_path / "mix.wav"
    first, second, third, *others = project.sounds
    write_sound(tmp_path / "changed.wav", ring(seed=5))
    changed = [
        replace(first, file="changed.wav", kept="linked", hash="blake2b:" + 40 * "1"),
        replace(second, file="gone.wav", kept="linked", hash="blake2b:" + 40 * "2"),
        replace(third, file="..", kept="linked", hash=""),
    ]
    whole = {s.id: replace(s, file=str(demo.parent / s.file)) for s in others}
    file = tmp_path / "film.cicada"
    save(replace(project, sounds=(*changed, *whole.values())), file)
    assert main(["check", str(file)]) == 1
    found = capsys.readouterr().out
    assert main(["render", str(file), "-o", str(out)]) == 2
    refused = capsys.readouterr().err
    assert not out.exists()
    for sound in changed:
        assert sound.name in found
        assert sound.name in refused
    assert "has changed since it was imported" in refused
    assert main(["render", str(file), "-o", str(out), "--missing", "silent"]) == 0
    silent = [line for line in capsys.readouterr().err.splitlines() if line.startswith("silent:")]
    assert len(silent) == 3


def test_only_what_is_heard_in_the_run_must_be_there(demo, tmp_path):
    project = load(demo)
    sounds = tuple(replace(s, file="gone.wav", hash="blake2b:" + 40 * "3") for s in project.sounds)
    save(
        replace(project, sounds=sounds, scenes=(replace(project.scenes[0], layers=()),)),
        tmp_path / "a.cicada",
    )
    assert main(["render", str(tmp_path / "a.cicada"), "-o", str(tmp_path / "a.wav")]) == 0


def test_a_mix_of_more_than_a_day_wants_to_be_confirmed(capsys, tmp_path):
    file, run = tmp_path / "film.cicada", tmp_path / "run.json"
    main(["new", str(file), "--length", "24"])
    run.write_text('{"passes": 100000}')
    words = ["render", str(file), "-o", str(tmp_path / "a.wav"), "--run", str(run)]
    assert main(words) == 2
    assert "28 hours long" in capsys.readouterr().err
    assert main([*words, "--limit", "0.5"]) == 0
    assert soundfile.info(tmp_path / "a.wav").frames == 24000


def test_what_a_command_saves_is_kept_among_the_versions_and_so_is_what_it_replaces(tmp_path):
    project, sound = tmp_path / "a.cicada", tmp_path / "knock.wav"
    soundfile.write(sound, np.zeros(100), 8000)
    assert main(["new", str(project)]) == 0
    edited = project.read_bytes().replace(b'"length": ', b'"length":  ')
    project.write_bytes(edited)
    assert main(["import", str(project), str(sound)]) == 0
    kept = [v.path.read_bytes() for v in Versions(data_folder() / "versions").of(project)]
    assert (len(kept), kept[0], kept[1]) == (3, project.read_bytes(), edited)


def test_the_mix_of_more_than_a_day_is_not_measured_and_that_is_said(tmp_path, capsys):
    project = empty_project("long")
    scene = replace(project.scenes[0], length=2_000_000)
    save(replace(project, fps=(12, 1), scenes=(scene,)), tmp_path / "long.cicada")
    assert main(["check", str(tmp_path / "long.cicada")]) == 0
    assert "46 hours long, so how loud it gets is not known" in capsys.readouterr().out


def test_info_says_what_a_sound_is(capsys, tmp_path):
    soundfile.write(tmp_path / "a.wav", np.zeros((50, 2)), 44100)
    assert main(["info", str(tmp_path / "a.wav")]) == 0
    assert "WAV 16 bit, 44100 Hz, stereo, 0.001 s" in capsys.readouterr().out


def test_the_demo_is_made_in_a_folder_and_left_alone_if_it_is_there(capsys, demo):
    before = demo.read_bytes()
    assert main(["demo", "--make", str(demo.parent)]) == 0
    assert capsys.readouterr().out.strip() == str(demo)
    assert demo.read_bytes() == before


def bad_input(folder):
    (folder / "wrong.cicada").write_text('{"format": "cicada-project", "version": 1, "colour": 1}')
    (folder / "text.wav").write_text("no sound")
    (folder / "run.json").write_text('{"scene": "nowhere"}')
    (folder / "late.json").write_text('{"frame": 9999}')
    (folder / "there.cicada").write_text("x")
    case = str(WORKED / "random-00.json")
    return {
        "a wrong field": ["plan", str(folder / "wrong.cicada")],
        "no file": ["plan", str(folder / "gone.cicada")],
        "one bad among good": ["plan", case, str(folder / "gone.cicada")],
        "no such scene": ["plan", case, "--run", str(folder / "run.json")],
        "a frame too late": ["plan", case, "--run", str(folder / "late.json")],
        "no sound": ["info", str(folder / "text.wav")],
        "not over what is there": ["new", str(folder / "there.cicada")],
        "no frame rate": ["new", str(folder / "new.cicada"), "--fps", "fast"],
        "a sample rate too low": ["new", str(folder / "new.cicada"), "--rate", "10"],
        "import into nothing": ["import", str(folder / "gone.cicada"), str(folder / "text.wav")],
        "no such command's option": ["plan", case, "--loud"],
        "a folder for a project": ["check", str(folder)],
    }


@pytest.mark.parametrize("name", [
    "a wrong field", "no file", "one bad among good", "no such scene", "a frame too late",
    "no sound", "not over what is there", "no frame rate", "a sample rate too low",
    "import into nothing", "no such command's option", "a folder for a project",
])  # fmt: skip
def test_bad_input_is_one_line_and_changes_nothing(name, capsys, tmp_path):
    arguments = bad_input(tmp_path)[name]
    before = {path: path.read_bytes() for path in tmp_path.iterdir()}
    try:
        code = main(arguments)
    except SystemExit as stopped:
        code = stopped.code
    said = capsys.readouterr()
    assert code == 2
    assert said.out == ""
    assert len(said.err.strip().splitlines()) == 1
    assert "Traceback" not in said.err
    assert {path: path.read_bytes() for path in tmp_path.iterdir()} == before


def test_a_render_into_a_folder_that_is_not_there_writes_nothing(capsys, demo, tmp_path):
    assert main(["render", str(demo), "-o", str(tmp_path / "gone" / "a.wav")]) == 2
    assert "cannot be written" in capsys.readouterr().err


def test_a_render_over_the_project_itself_is_refused(capsys, demo):
    before = demo.read_bytes()
    assert main(["render", str(demo), "-o", str(demo)]) == 2
    assert demo.read_bytes() == before


def test_a_folder_is_imported_and_what_is_here_already_is_said(capsys, tmp_path):
    project = tmp_path / "film.cicada"
    main(["new", str(project)])
    (tmp_path / "pier").mkdir()
    write_sound(tmp_path / "pier" / "rope.wav")
    write_sound(tmp_path / "pier" / "same rope.wav")
    write_container(tmp_path / "pier" / "walk.mp4", ring(seed=2), picture=True)
    (tmp_path / "pier" / "list.txt").write_text("no sound")
    assert main(["import", str(project), str(tmp_path / "pier")]) == 0
    assert [sound.name for sound in load(project).sounds] == ["Rope", "Walk"]
    assert "already here: same rope.wav is s1, Rope" in capsys.readouterr().out


def test_an_import_takes_in_what_it_can_and_names_the_rest(capsys, tmp_path):
    project, good, gone = tmp_path / "a.cicada", tmp_path / "good.wav", tmp_path / "gone.wav"
    main(["new", str(project)])
    soundfile.write(good, np.zeros(10), 8000)
    assert main(["import", str(project), str(gone), str(good)]) == 1
    said = capsys.readouterr()
    assert "gone.wav: is not there" in said.err
    assert [sound.name for sound in load(project).sounds] == ["Good"]
    before = project.read_bytes()
    assert main(["import", str(project), str(gone)]) == 2
    assert main(["import", str(project), str(tmp_path / "empty")]) == 2
    assert project.read_bytes() == before


def test_info_does_what_it_can_and_names_the_rest(capsys, tmp_path):
    good, bad = tmp_path / "good.wav", tmp_path / "bad.wav"
    soundfile.write(good, np.zeros(10), 8000)
    bad.write_text("no sound")
    assert main(["info", str(bad), str(good)]) == 1
    said = capsys.readouterr()
    assert (len(said.out.splitlines()), len(said.err.splitlines())) == (1, 1)
    assert main(["info", str(bad)]) == 2


def test_the_demo_without_a_display_is_a_sound_and_a_picture(demo):
    environment = {k: v for k, v in os.environ.items() if k not in ("DISPLAY", "WAYLAND_DISPLAY")}
    environment["QT_QPA_PLATFORM"] = "offscreen"
    done = subprocess.run(
        [sys.executable, "-m", "cicada", "demo"],
        capture_output=True,
        text=True,
        env=environment,
        check=True,
    )
    sound, picture = (Path(line) for line in done.stdout.splitlines()[-2:])
    assert soundfile.info(sound).frames > 48000
    assert picture.read_bytes().startswith(b"\x89PNG")


def test_of_a_demo_made_before_a_scene_came_to_it_that_is_said(tmp_path):
    file, plain = tmp_path / "harbour.cicada", empty_project("Harbour")
    (one,) = plain.scenes
    scenes = tuple(replace(one, id=f"sc{number}", layers=()) for number in range(1, 5))
    save(replace(plain, scenes=scenes), file)
    assert said_of(file) == ""
    save(replace(plain, scenes=scenes[:-1]), file)
    assert "Storm came later" in said_of(file)
    file.write_text("{}")
    assert said_of(file) == ""


@pytest.mark.parametrize(
    "module", ["cicada.core.planner", "cicada.core.mix", "cicada.deliver.mixdown"]
)
def test_the_core_loads_neither_qt_nor_a_sound_device(module):
    unwanted = "[m for m in sys.modules if m.startswith(('PySide6', 'sounddevice'))]"
    code = f"import sys, {module}; print({unwanted})"
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stdout.strip() == "[]"
