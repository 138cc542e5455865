"""``cicada drift``: how far sounds run ahead of the picture, for people and for scripts."""

import csv
import json

import pytest
from msgspec.structs import replace

from cicada.cli.main import main
from cicada.core.keyframe_edits import PlaceClip
from cicada.core.model import Sound, empty_project
from cicada.store.projectfile import save


@pytest.fixture
def film(tmp_path):
    """A bell that sounds for a second from the third frame on, and another that is too short."""
    sounds = (
        Sound(id="s1", name="Bell", frames=48000, rate=48000, channels=1),
        Sound(id="s2", name="Click", frames=100, rate=48000, channels=1),
    )
    project = replace(empty_project("film", length=48), sounds=sounds)
    project = PlaceClip(layer="l1", frame=2, sound="s1").apply(project)
    file = tmp_path / "film.cicada"
    save(project, file)
    return file


def drift(capsys, *words):
    assert main(["drift", *map(str, words)]) == 0
    return capsys.readouterr().out


def test_scripts_read_the_drift_of_each_voice(film, capsys):
    # Each picture lasts 4,800 samples, 2,800 too many; nine are shown after the bell's own.
    wanted = {"scene": "sc1", "layer": "l1", "frame": 2, "start": 9600,
              "largest": 9 * 2800, "last": 9 * 2800}  # fmt: skip
    assert json.loads(drift(capsys, film, "--draw-time", "0.1", "--json")) == [wanted]
    (row,) = csv.DictReader(drift(capsys, film, "--draw-time", "0.1", "--csv").splitlines())
    assert row == {name: str(value) for name, value in wanted.items()}


def test_people_read_a_sentence_for_each_voice_that_drifts(film, capsys):
    assert drift(capsys, film) == "nothing drifts\n"
    assert drift(capsys, film, "--draw-time", "0.1") == (
        "Bell on Layer 1, frame 3 of Scene 1: 525 ms (12.6 frames) ahead of the picture at its "
        "end, by more than a frame from frame 4 on\n"
    )
    assert "never by more than a frame" in drift(capsys, film, "--draw-time", "0.043")


def test_a_draw_time_that_is_named_wins_over_the_runs_and_a_run_over_the_files(
    film, tmp_path, capsys
):
    project = json.loads(film.read_text())
    case, run = tmp_path / "case.json", tmp_path / "run.json"
    case.write_text(json.dumps({"project": project, "run": {"draw_time": {"sc1": 0.2}}}))
    run.write_text(json.dumps({"draw_time": [0.1]}))

    def largest(*words):
        return json.loads(drift(capsys, *words, "--json"))[0]["largest"]

    assert largest(case) == 4 * 7600
    assert largest(case, "--run", run) == 9 * 2800
    assert largest(case, "--run", run, "--draw-time", "0.05") == largest(
        film, "--draw-time", "0.05"
    )
