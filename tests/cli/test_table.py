"""Each row of the table in docs/command-line.md is what happens."""

import os
import re
import signal
import subprocess
import sys
import time
import zipfile
from pathlib import Path

import numpy as np
import pytest
import soundfile
from msgspec.structs import replace

from cicada.core.keyframe_edits import PlaceClip
from cicada.core.made import SyncBeep
from cicada.core.model import Sound, empty_project
from cicada.core.recipes import BundleRecipe, Encoding, MixRecipe
from cicada.deliver.packing import pack
from cicada.store.projectfile import load, save
from tests.sound_files import ring, write_sound

PAGE = (Path(__file__).parents[2] / "docs" / "command-line.md").read_text("utf-8")
ROWS = {
    when: (int(code), said)
    for when, code, said in re.findall(r"^\| (.+?) \| (\d+) \|\s*(.*?)\s*\|$", PAGE, re.M)
}
# Ended by a signal, or its output is not a file: how these are run is said in the test.
BY_ITSELF = {
    "the output of plan, check or info is full", "whoever reads the output has had enough",
    "Ctrl+C", "SIGTERM", "SIGHUP", "deliver is ended by Ctrl+C",
}  # fmt: skip


def film_with(folder, **sound):
    """A film in which a sound is heard that is as said."""
    bell = Sound(id="s1", name="Bell", frames=4800, rate=48000, channels=1, **sound)
    project = replace(empty_project("film"), sounds=(bell,))
    save(PlaceClip(layer="l1", frame=0, sound="s1").apply(project), folder / "film.cicada")
    return folder / "film.cicada"


def arguments(when, folder):
    film, new = folder / "film.cicada", folder / "new.cicada"
    save(empty_project("film"), film)
    text = film.read_text()
    (folder / "text.wav").write_text("a letter")
    (folder / "empty.wav").touch()
    bell = write_sound(folder / "bell.wav", ring())
    out = folder / "out.wav"
    match when:
        case "all went well":
            return ["new", new]
        case "check finds an error":
            return ["check", film_with(folder)]
        case "import takes some of the sounds, the others are named":
            return ["import", film, folder / "text.wav", bell]
        case "import takes none of the sounds":
            return ["import", film, folder / "gone.wav"]
        case "info reads some of the sounds":
            return ["info", bell, folder / "empty.wav"]
        case "an option is not known":
            return ["check", film, "--loud"]
        case "a project is not there":
            return ["plan", folder / "gone.cicada"]
        case "a project is a folder":
            return ["check", folder]
        case "a project is no file":
            os.mkfifo(folder / "pipe")
            return ["check", folder / "pipe"]
        case "a project is no JSON":
            return ["check", folder / "text.wav"]
        case "a project has an unknown field":
            new.write_text(text.replace("{", '{"colour": 1,', 1))
            return ["check", new]
        case "a project is of a newer version" | "a project is of version 0":
            number = 5 if "newer" in when else 0
            new.write_text(text.replace('"version": 1', f'"version": {number}'))
            return ["check", new]
        case "a project's links lead in a circle":
            new.symlink_to(new)
            return ["check", new]
        case "a run names no scene":
            (folder / "run.json").write_text('{"scene": "nowhere"}')
            return ["plan", film, "--run", folder / "run.json"]
        case "drift is asked of a run without an end to speak of":
            (folder / "run.json").write_text('{"passes": 1000000}')
            return ["drift", film, "--run", folder / "run.json"]
        case "new would write over something":
            return ["new", film]
        case "new is given no frame rate":
            return ["new", new, "--fps", "fast"]
        case "a sound would take more than the cache may have":
            soundfile.write(folder / "slow.wav", np.zeros(86_000), 1)
            return ["import", film, folder / "slow.wav"]
        case "the cache cannot be written":
            return ["import", film, bell]
        case "render needs a sound that is missing":
            return ["render", film_with(folder), "-o", out]
        case "render leaves a missing sound out, as asked":
            return ["render", film_with(folder), "-o", out, "--missing", "silent"]
        case "render needs a sound outside the project's folder":
            (folder / "inside").mkdir()
            return [
                "render",
                film_with(folder / "inside", file=str(bell), kept="linked"),
                "-o",
                out,
            ]
        case "render would write over what the project uses":
            return ["render", film_with(folder, file="bell.wav", kept="linked"), "-o", bell]
        case "render is given a format that is not known":
            return ["render", film, "-o", folder / "out.xyz"]
        case "render is given a subtype the format cannot hold":
            return ["render", film, "-o", folder / "out.flac", "--subtype", "FLOAT"]
        case "render's mix would be longer than a day":
            project = empty_project("film")
            scene = replace(project.scenes[0], length=2_000_000)
            save(replace(project, fps=(12, 1), scenes=(scene,)), film)
            return ["render", film, "-o", out]
        case "pack leaves out what is missing":
            return ["pack", film_with(folder, file="gone.wav", kept="linked"), "-o", new]
        case "pack would write over what the project uses":
            return ["pack", film, "-o", film]
        case "unpack is given no archive":
            return ["unpack", film, "--to", folder]
        case "unpack is given an archive of something else":
            with zipfile.ZipFile(new, "w") as archive:
                archive.writestr("letter.txt", "a letter")
            return ["unpack", new, "--to", folder]
        case "unpack would write over something":
            pack(load(film), film, folder / "film.zip")
            (folder / "film").mkdir()
            return ["unpack", folder / "film.zip", "--to", folder]
        case "serve is given no player bundle":
            return ["serve", folder]
        case _ if when.startswith("deliver"):
            return delivering(when, folder)
    raise AssertionError(when)


def delivering(when, folder, length=24):
    film = folder / "film.cicada"
    known = {"file": "", "making": SyncBeep(seconds=0.1)}
    if "missing" in when:
        known = {"file": "gone.wav", "kept": "linked"}
    project = load(film_with(folder, **known))
    recipes = (
        MixRecipe(id="r1", name="whole"), MixRecipe(id="r2", name="loud"),
        MixRecipe(id="r3", name="opus", encoding=Encoding(kind="opus", rate=44100)),
        BundleRecipe(id="r4", name="page", encoding=Encoding(kind="aiff")),
    )  # fmt: skip
    level = 16.0 if "misses" in when else 1.0
    scene = replace(project.scenes[0], length=length)
    save(replace(project, level=level, recipes=recipes, scenes=(scene,)), film)
    to = folder / "gone" if "folder is not" in when else folder
    name = {"misses": "loud", "not there": "gone", "rate": "opus", "browsers": "page"}
    recipe = next((name[part] for part in name if part in when and to == folder), "whole")
    if "would write over" in when:
        (folder / "whole.wav").write_text("something else")
    return ["deliver", film, "--recipe", recipe, "--to", to]


def run(words, folder, **how):
    environment = {**os.environ, "CICADA_CACHE": str(folder / "cache"), **how.pop("env", {})}
    return subprocess.run(
        [sys.executable, "-m", "cicada", *map(str, words)],
        check=False, timeout=60, env=environment, **{"capture_output": True, **how},
    )  # fmt: skip


def as_pattern(said):
    """The sentence, with anything for what is in capitals and for a long list."""
    parts = re.split(r"\b(?:FILE|FOLDER|WHY|WHERE|HOURS|LABEL|FORMATS|SAMPLES)\b", said)
    return ".+".join(map(re.escape, parts))


def everything(folder):
    return {path: path.read_bytes() for path in folder.rglob("*") if path.is_file()}


@pytest.mark.parametrize("when", [when for when in ROWS if when not in BY_ITSELF])
def test_a_row_is_what_happens(when, tmp_path):
    code, said = ROWS[when]
    words = arguments(when, tmp_path)
    cache = {"CICADA_CACHE": str(tmp_path / "text.wav")} if when.startswith("the cache") else {}
    before = everything(tmp_path)
    done = run(words, tmp_path, env=cache)
    told, printed = done.stderr.decode(), done.stdout.decode()
    assert done.returncode == code, told
    assert "Traceback" not in told
    if code == 2:
        assert printed == ""
        assert told.count("\n") == 1
        assert {p: d for p, d in everything(tmp_path).items() if "cache" not in p.parts} == before
    if when == "check finds an error":
        assert "error: " in printed
    elif said:
        assert re.search(f"^{as_pattern(said)}$", told, re.M), told


@pytest.mark.parametrize("command", ["plan", "check", "info"])
def test_a_full_output_is_a_failure_and_one_that_is_left_is_not(command, tmp_path):
    film = tmp_path / ("bell.wav" if command == "info" else "film.cicada")
    arguments("all went well", tmp_path)
    code, said = ROWS["the output of plan, check or info is full"]
    with Path("/dev/full").open("wb") as full:
        done = run([command, film], tmp_path, capture_output=False, stdout=full,
                   stderr=subprocess.PIPE)  # fmt: skip
    assert (done.returncode, done.stderr.decode().strip()) == (code, said)
    reader, writer = os.pipe()
    os.close(reader)
    left = run([command, film], tmp_path, capture_output=False, stdout=writer,
               stderr=subprocess.PIPE)  # fmt: skip
    os.close(writer)
    assert (left.returncode, left.stderr) == (
        ROWS["whoever reads the output has had enough"][0],
        b"",
    )


def catches(process, number):
    """Whether a process has said what is to be done at a signal."""
    lines = Path(f"/proc/{process}/status").read_text().splitlines()
    caught = next(line.split()[1] for line in lines if line.startswith("SigCgt"))
    return int(caught, 16) >> (number - 1) & 1


@pytest.mark.parametrize("when", ["Ctrl+C", "SIGTERM", "SIGHUP", "deliver is ended by Ctrl+C"])
def test_a_signal_has_its_code(when, tmp_path):
    if when.startswith("deliver"):
        words = delivering(when, tmp_path, length=1_000_000)
    else:
        project = empty_project("film")
        save(replace(project, scenes=(replace(project.scenes[0], length=400_000),)),
             tmp_path / "film.cicada")  # fmt: skip
        words = ["render", tmp_path / "film.cicada", "-o", tmp_path / "out.wav"]
    process = subprocess.Popen([sys.executable, "-m", "cicada", *map(str, words)])
    number = getattr(signal, when if when.startswith("SIG") else "SIGINT")
    # Python itself catches Ctrl+C as it starts; the others we do.
    while not catches(process.pid, signal.SIGTERM):
        time.sleep(0.02)
    time.sleep(1.5 if when.startswith("deliver") else 0)
    process.send_signal(number)
    assert process.wait(20) == ROWS[when][0]
    assert not list(tmp_path.glob("*.wav"))


def test_the_table_has_a_test_for_each_row():
    assert len(ROWS) > 25
    assert set(ROWS) >= BY_ITSELF
