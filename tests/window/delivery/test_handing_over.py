"""A project is handed over from the window, and one that was handed over is opened."""

import zipfile

import pytest
from PySide6.QtWidgets import QFileDialog

from cicada.core.editing import Cell
from cicada.core.shelf_edits import ChangeSounds
from cicada.store.projectfile import load


@pytest.fixture
def asks(monkeypatch):
    """Answer the dialogs of files with these paths."""

    def paths(*, write=None, read=None, folder=None):
        for name, path in (
            ("getSaveFileName", write), ("getOpenFileName", read),
        ):  # fmt: skip
            monkeypatch.setattr(QFileDialog, name, lambda *_, path=path: (str(path or ""), ""))
        monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: str(folder or ""))

    return paths


def test_a_project_never_saved_is_packed_and_opened_somewhere_else(own, asks, tmp_path, settled):
    own.arranging.place(own.document.project.sounds[2].id, Cell(own.session.scene.layers[0].id, 4))
    settled(own)
    before = own.document.project
    asks(write=tmp_path / "film")
    own.handing_over.pack()
    settled(own)
    asks(read=tmp_path / "film.zip", folder=tmp_path)
    own.handing_over.open_archive()
    settled(own)
    assert own.document.file.parent.parent == tmp_path
    assert own.document.file.suffix == ".cicada"
    now = own.document.project
    assert [s.name for s in now.sounds] == [s.name for s in before.sounds]
    assert now.scenes == before.scenes
    assert own.planning.plan.voices


def test_an_archive_that_means_harm_is_told_and_the_project_stays(
    own, asks, tmp_path, told, settled
):
    before = own.document.project
    with zipfile.ZipFile(tmp_path / "bad.zip", "w") as archive:
        archive.writestr("../out.txt", "harm")
    asks(read=tmp_path / "bad.zip", folder=tmp_path)
    own.handing_over.open_archive()
    settled(own)
    assert len(told) == 1
    assert own.document.project == before
    assert not (tmp_path.parent / "out.txt").exists()


def test_nothing_is_done_where_no_file_is_named(own, asks, tmp_path, settled):
    asks()
    before = sorted(tmp_path.iterdir())
    own.handing_over.pack()
    own.handing_over.open_archive()
    own.handing_over.write_terms()
    settled(own)
    assert sorted(tmp_path.iterdir()) == before


def test_sounds_and_their_terms_are_written_with_names_and_no_places(own, asks, tmp_path, settled):
    sound = own.document.project.sounds[0]
    own.document.do(ChangeSounds(sounds=(sound.id,), changes={"terms": "by leave of Ada"}))
    asks(write=tmp_path / "terms")
    own.handing_over.write_terms()
    text = (tmp_path / "terms.txt").read_text()
    assert "by leave of Ada" in text
    assert "sound 0.wav" in text
    assert str(tmp_path) not in text


def test_all_that_is_linked_is_collected(own, asks, tmp_path, answer, settled):
    asks(write=tmp_path / "film.cicada")
    own.files.save()
    settled(own)
    sound = own.document.project.sounds[0]
    changes = {"kept": "linked", "file": str(tmp_path / "sound 0.wav")}
    own.document.do(ChangeSounds(sounds=(sound.id,), changes=changes))
    settled(own)
    answer("Keep inside")
    own.on_shelf.files.keep_all_inside()
    settled(own)
    assert {sound.kept for sound in own.document.project.sounds} == {"inside"}
    own.files.save()
    settled(own)
    assert all((tmp_path / s.file).is_file() for s in load(tmp_path / "film.cicada").sounds)
