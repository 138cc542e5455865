"""Project files: what is written is read back, and what is wrong is said in one sentence."""

import json
import os

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st

from cicada.core.editing import Cell
from cicada.core.keyframe_edits import ChangeKeyframes, MoveKeyframes, PlaceClip
from cicada.core.model import VERSION, Project, Sound, empty_project
from cicada.deliver.schema import schema_text
from cicada.errors import BadProject, CannotWrite
from cicada.store.projectfile import dumps, load, load_case, load_run, loads, save
from tests.core.films import projects
from tests.core.live_films import live_film
from tests.core.test_mix import one_scene


@given(st.one_of(projects(), one_scene()))
def test_what_is_written_is_read_back(project):
    assert loads(dumps(project)) == project


@pytest.mark.parametrize("seed", range(40))
def test_what_answers_is_written_as_version_2_and_read_back(seed):
    project, _ = live_film(seed, follows=True)
    assert json.loads(dumps(project))["version"] == 2
    assert loads(dumps(project)) == project


def test_every_keyframe_has_a_line_and_defaults_are_left_out(demo):
    project = load(demo)
    lines = dumps(project).decode().splitlines()
    kinds = [line for line in lines if '"kind":"clip"' in line]
    clips = sum(
        type(k).__name__ == "Clip" for _, layer in project.all_layers() for k in layer.keyframes
    )
    assert len(kinds) == clips
    assert not any('"off":false' in line or '"trim":[0.0,null]' in line for line in lines)


def test_what_is_set_back_to_its_default_is_left_out_again():
    project = empty_project("x")
    sound = Sound(id="s1", frames=100, rate=8000, channels=1)
    project = msgspec.structs.replace(project, sounds=(sound,))
    placed = PlaceClip(layer="l1", frame=3, sound="s1").apply(project)
    cells = (Cell("l1", 3),)
    for value in (0.5, float("0")):
        changes = {"delay": value, "level": 1.0 + value, "trim": (value, None)}
        placed = ChangeKeyframes(cells=cells, changes=changes).apply(placed)
    moved = MoveKeyframes(moves=((cells[0], Cell("l1", 4)),)).apply(placed)
    line = next(line for line in dumps(moved).decode().splitlines() if '"kind":"clip"' in line)
    assert json.loads(line.strip().rstrip(",")) == {"kind": "clip", "frame": 4, "sound": "s1"}


@given(st.binary(max_size=300))
def test_any_bytes_are_a_project_or_refused(data):
    with pytest.raises(BadProject):
        loads(data)


MINIMAL = {
    "format": "cicada-project", "version": 1, "fps": [24, 1], "rate": 48000,
    "sounds": [{"id": "s", "frames": 10, "rate": 44100, "channels": 1}],
    "scenes": [{"id": "sc", "length": 10, "layers": [{"id": "l", "keyframes": [
        {"frame": 0, "kind": "clip", "sound": "s"}]}]}],
}  # fmt: skip


def changed(path, value):
    data = json.loads(json.dumps(MINIMAL))
    part = data
    for step in path[:-1]:
        part = part[step]
    if value is None:
        del part[path[-1]]
    else:
        part[path[-1]] = value
    return json.dumps(data).encode()


CLIP = ("scenes", 0, "layers", 0, "keyframes", 0)
WRONG = {
    "format": (("format",), "other"),
    "no version": (("version",), None),
    "fps zero": (("fps",), [0, 1]),
    "fps over 240": (("fps",), [241, 1]),
    "rate": (("rate",), 7999),
    "sound rate": (("sounds", 0, "rate"), 0),
    "channels": (("sounds", 0, "channels"), 0),
    "no scenes": (("scenes",), []),
    "zero-frame scene": (("scenes", 0, "length"), 0),
    "endless scene": (("scenes", 0, "length"), 2_000_001),
    "unknown field": (("scenes", 0, "colour"), "red"),
    "unknown kind": ((*CLIP, "kind"), "jingle"),
    "unknown sound": ((*CLIP, "sound"), "x"),
    "speed": ((*CLIP, "speed"), 0.05),
    "level": ((*CLIP, "level"), 17),
    "pan": ((*CLIP, "pan"), -1.1),
    "negative time": ((*CLIP, "delay"), -0.1),
    "negative loops": ((*CLIP, "loops"), -1),
    "negative trim": ((*CLIP, "trim"), [-1, None]),
    "line out of order": ((*CLIP, "level_line"), [[1, 1], [0, 1]]),
    "line value": ((*CLIP, "pan_line"), [[0, 2]]),
    "line shape": ((*CLIP, "level_line"), [[0, 1, "wavy"]]),
    "two on a frame": (CLIP[:-1], [{"frame": 1, "kind": "rest"}, {"frame": 1, "kind": "rest"}]),
    "hush of nothing": (CLIP[:-1], [{"frame": 1, "kind": "hush", "target": "sound"}]),
    "two press points": (("scenes", 0, "press_points"), [{"frame": 1}, {"frame": 1}]),
    "id twice": (("scenes", 0, "layers", 0, "id"), "sc"),
    "sound's id twice": (("sounds",), [MINIMAL["sounds"][0]] * 2),
    "recipe out of the folder": (("recipes",), [{"what": "mix", "id": "r", "place": "../mix"}]),
    "recipe's scope": (("recipes",), [{"what": "mix", "id": "r", "scope": {"first": 3}}]),
    "fraction of a frame": ((*CLIP, "frame"), 1.5),
}


@pytest.mark.parametrize("name", WRONG)
def test_a_wrong_project_is_refused_with_its_place(name, tmp_path):
    path, value = WRONG[name]
    file = tmp_path / "wrong.cicada"
    file.write_bytes(changed(path, value))
    with pytest.raises(BadProject) as caught:
        load(file)
    assert str(caught.value).startswith(str(file))
    assert caught.value.place
    assert caught.value.remedy


def test_a_newer_version_is_refused_as_such_even_with_unknown_fields():
    data = {**MINIMAL, "version": VERSION + 1, "holograms": []}
    with pytest.raises(BadProject, match="newer"):
        loads(json.dumps(data).encode())


@pytest.mark.parametrize("text", ["NaN", "1e999", "-0.5"])
def test_what_is_no_number_is_refused(text):
    data = changed((*CLIP, "delay"), 0.25).replace(b"0.25", text.encode())
    with pytest.raises(BadProject):
        loads(data)


def test_deep_nesting_is_refused():
    with pytest.raises(BadProject):
        loads(b"[" * 100_000)


def test_a_run_file_with_an_unknown_field_is_refused(tmp_path):
    file = tmp_path / "run.json"
    file.write_text('{"passes": 2, "speed": 3}')
    with pytest.raises(BadProject, match="'speed'"):
        load_run(file)


def test_a_case_has_its_own_run(tmp_path):
    file = tmp_path / "case.json"
    file.write_text(json.dumps({"project": MINIMAL, "run": {"passes": 3}, "plan": {"any": 1}}))
    project, run = load_case(file)
    assert (project.scenes[0].id, run.passes) == ("sc", 3)


def test_saving_leaves_no_half_file_and_keeps_what_was_there(tmp_path, monkeypatch):
    file = tmp_path / "a.cicada"
    save(empty_project("One"), file)
    before = file.read_bytes()

    def fail(_):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(os, "fsync", fail)
    with pytest.raises(CannotWrite, match="no room is left"):
        save(empty_project("Two"), file)
    assert file.read_bytes() == before
    assert list(tmp_path.iterdir()) == [file]


def test_the_schema_in_the_docs_is_that_of_the_model(pytestconfig):
    import jsonschema

    written = (pytestconfig.rootpath / "docs/format/project.schema.json").read_text("utf-8")
    assert written == schema_text(Project)
    jsonschema.validate(json.loads(dumps(empty_project("x"))), json.loads(written))


@pytest.mark.parametrize("field", ["hash", "pcm_hash"])
@pytest.mark.parametrize(
    "text", ["/etc/x", "blake2b:../../x", "blake2b:" + 40 * "A", "blake2b:" + 40 * "0" + "\n", "x"]
)
def test_a_hash_is_a_hash_and_never_a_path(field, text):
    sound = {"id": "s1", "frames": 9, "rate": 9, "channels": 1, field: text}
    project = {**json.loads(dumps(empty_project("x"))), "sounds": [sound]}
    with pytest.raises(BadProject, match=rf"sounds\[0\].{field}: is no hash"):
        loads(json.dumps(project).encode())
