"""What the documents say can be done, can be done; and what they show of the code is so."""

import re
import shlex
import tomllib
from pathlib import Path

import pytest
from msgspec.structs import replace

from cicada.cli.main import main
from cicada.core.recipes import MixRecipe
from cicada.store.projectfile import load, save
from tests.sound_files import ring, write_sound

HERE = Path(__file__).parents[2]
README = (HERE / "README.md").read_text("utf-8")
ARCHITECTURE = (HERE / "docs" / "architecture.md").read_text("utf-8")
SEMANTICS = (HERE / "docs" / "semantics.md").read_text("utf-8")
MODULES = sorted(
    path.relative_to(HERE / "cicada")
    for path in (HERE / "cicada").rglob("*.py")
    if path.stem not in ("__init__", "__main__")
)
# What the README writes in bold like a key, and what of a key it leaves to the desktop.
NO_KEYS = {"Shift", "Ctrl", "Alt"}
# Keys that are no menu's: Enter is a press, and Esc is one of the menus' under its whole name.
OTHERS = {"Enter"}


def commands():
    block = README.split("## Without the window")[1].split("```")[1]
    lines = [part for line in block.splitlines() for part in re.split(r"\s{2,}", line)]
    return [line.strip() for line in lines if line.strip()]


def test_the_commands_of_the_readme_work_one_after_the_other(tmp_path, monkeypatch, capsys):
    monkeypatch.chdir(tmp_path)
    monkeypatch.setenv("CICADA_CACHE", str(tmp_path / "cache"))
    write_sound(tmp_path / "bell.wav", ring(seconds=0.3))
    (tmp_path / "recordings").mkdir()
    write_sound(tmp_path / "recordings" / "rain.wav", ring(seconds=0.4, seed=2))
    (tmp_path / "RUN.json").write_text('{"passes": 2}')
    order = (
        "new", "import", "plan", "render", "deliver", "pack", "unpack", "check", "info", "demo",
    )  # fmt: skip
    found = sorted(commands(), key=lambda line: order.index(line.split()[1]))
    assert {line.split()[1] for line in found} == set(order)
    for line in found:
        if " demo " in line:
            continue
        for given in (line.replace("[", "").replace("]", ""), re.sub(r"\[.*?\]", "", line)):
            command = given.split()[1]
            if (tmp_path / {"new": "film.cicada", "unpack": "film"}.get(command, "none")).exists():
                continue
            if command == "deliver":
                # The window puts recipes into a project.
                project = load(tmp_path / "film.cicada")
                recipe = MixRecipe(id="r1", name="Web mix")
                save(replace(project, recipes=(recipe,)), tmp_path / "film.cicada")
            assert main(shlex.split(given)[1:]) == 0, given
    assert (tmp_path / "film.wav").exists()
    assert (tmp_path / "Web mix.wav").exists()
    assert (tmp_path / "film/film.cicada").exists()
    capsys.readouterr()


def keys_of_readme():
    bold = re.findall(r"\*\*([^*\n]+)\*\*", README)
    named = re.compile(r"^((Ctrl|Shift|Alt)\+)*([A-Z0-9,]|F\d+|Space|Esc|Enter|Right|Left|Ins)$")
    return sorted({word for word in bold if named.match(word)} - NO_KEYS)


def test_each_key_of_the_readme_does_what_some_command_is_called(window):
    assert len(keys_of_readme()) > 30
    there = {action.shortcut().toString() for action in window.menus.actions.values()}
    assert set(keys_of_readme()) - there <= OTHERS


@pytest.mark.parametrize("module", MODULES, ids=str)
def test_every_module_is_named_where_the_house_is_described(module):
    assert re.search(rf"\b{module.stem}\b", ARCHITECTURE), module


def test_the_places_where_changes_go_are_there():
    table = ARCHITECTURE.split("## Where a change goes")[1].split("## How it is tested")[0]
    named = re.findall(r"`([a-z_]+/[a-z_/]+)`", table)
    assert len(named) > 30
    for name in named:
        roots = (HERE, HERE / "cicada", HERE / "cicada" / "window")
        found = [root / f"{name}{end}" for root in roots for end in (".py", ".md", "")]
        assert any(path.exists() for path in found), name


def test_the_picture_of_the_rooms_is_that_of_the_contract():
    contracts = tomllib.loads((HERE / "pyproject.toml").read_text("utf-8"))
    rooms = next(
        contract["layers"]
        for contract in contracts["tool"]["importlinter"]["contracts"]
        if contract.get("containers") == ["cicada.window"]
    )
    drawn = ARCHITECTURE.split("## The rooms of the window")[1].split("```")[1]
    assert [re.split(r"\s{2,}", line)[0] for line in drawn.strip().splitlines()] == rooms


def test_docstrings_name_sections_of_the_rules_that_are_there():
    sections = set(re.findall(r"^## (\d+) ", SEMANTICS, re.MULTILINE))
    named = 0
    for module in MODULES:
        text = (HERE / "cicada" / module).read_text("utf-8")
        for first, last in re.findall(r"semantics\.md,\s+(?:sections? )?(\d+)(?: to (\d+))?", text):
            assert {first, last or first} <= sections, module
            named += 1
    assert named > 10
