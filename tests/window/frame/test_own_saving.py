"""A project of one's own: what is saved, opened, and never written over unasked."""

import pytest
from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QFileDialog

from cicada.core.model import empty_project
from cicada.core.scene_edits import PutMark
from cicada.store.projectfile import load, save
from tests.by_hand import drop, file_mime, point
from tests.own import type_loops


def typed_name(monkeypatch, *paths):
    left = [str(path) for path in paths]
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, **__: (left.pop(0), ""))


def test_a_name_without_its_suffix_replaces_nothing_unasked(own, tmp_path, monkeypatch, answer):
    there = tmp_path / "third.cicada"
    save(empty_project("Mine"), there)
    typed_name(monkeypatch, tmp_path / "third", "")
    asked = answer("Choose another name")
    assert not own.files.save_as()
    assert "third.cicada is there already" in asked[0]
    assert load(there).name == "Mine"


def test_a_name_with_a_point_in_it_gets_the_suffix(own, tmp_path, monkeypatch):
    typed_name(monkeypatch, tmp_path / "film.v2")
    assert own.files.save_as()
    assert (tmp_path / "film.v2.cicada").exists()
    assert own.document.path.name == "film.v2.cicada"


@pytest.mark.parametrize("verb", ["Replace what is there", "Stay here"])
def test_a_file_changed_meanwhile_is_not_written_over_unasked(own, tmp_path, answer, verb):
    path = tmp_path / "ours.cicada"
    assert own.files._save(path)
    save(empty_project("Somebody's"), path)
    own.document.do(PutMark(scene="sc1", frame=3))
    answer(verb)
    own.files.save()
    assert load(path).name == ("Ours" if verb.startswith("Replace") else "Somebody's")
    # What stood there is among the versions.
    kept = [version.name for version in own.document.versions.projects(path)]
    assert ("Somebody's" in kept) == verb.startswith("Replace")


def test_a_value_being_typed_is_in_the_saved_file(own, qtbot, settled, tmp_path):
    type_loops(own, settled, qtbot, "7")
    path = tmp_path / "ours.cicada"
    own.files._save(path)
    assert load(path).layer("l1")[1].keyframes[0].loops == 7


def test_what_is_typed_and_cannot_be_read_is_said_with_the_save(own, qtbot, settled, tmp_path):
    field = type_loops(own, settled, qtbot, "soon")
    own.files._save(tmp_path / "ours.cicada")
    assert "is not in it" in own.foot.note.text()
    assert field.text() == "soon"


def test_a_new_projects_pictures_are_not_those_of_the_film_before(harbour, settled, monkeypatch):
    asked = []
    fetch = type(harbour.frames._fetcher).fetch
    monkeypatch.setattr(
        type(harbour.frames._fetcher), "fetch",
        lambda self, wanted, urgency: (asked.append(wanted), fetch(self, wanted, urgency)),
    )  # fmt: skip
    harbour.document.new(empty_project("New"))
    harbour.sheet.grab()
    settled(harbour)
    assert asked == []


@pytest.mark.parametrize("part", ["sheet", "shelf", "picture"])
def test_a_project_dropped_anywhere_is_opened(own, qtbot, settled, tmp_path, part):
    path = tmp_path / "other.cicada"
    save(empty_project("Other"), path)
    onto = {
        "sheet": own.sheet.viewport(), "shelf": own.shelf.list.viewport(), "picture": own.picture,
    }[part]  # fmt: skip
    drop(onto, file_mime(path), point(own, "l1", 5) if part == "sheet" else QPoint(20, 20))
    qtbot.waitUntil(lambda: own.document.name == "Other", timeout=5000)
    settled(own)
