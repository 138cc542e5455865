"""A project from somebody else asks before it reads outside its own folder."""

import pytest
from msgspec.structs import replace

from cicada.core.keyframe_edits import PlaceClip
from cicada.core.model import Sound, empty_project
from cicada.core.picture_parts import Still
from cicada.store.projectfile import save
from tests.sound_files import ring, write_sound


@pytest.fixture
def film(tmp_path):
    private = tmp_path / "private"
    private.mkdir()
    write_sound(private / "diary.wav", ring())
    (private / "plan.svg").write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"/>'
    )
    sound = Sound(id="s1", name="Diary", file="../private/diary.wav", kept="linked",
                  frames=48000, rate=48000, channels=1)  # fmt: skip
    project = replace(empty_project("film"), sounds=(sound,))
    scene = replace(project.scenes[0], picture=(Still(file="../private/plan.svg"),))
    project = PlaceClip(layer="l1", frame=0, sound="s1").apply(replace(project, scenes=(scene,)))
    (tmp_path / "film").mkdir()
    save(project, tmp_path / "film" / "film.cicada")
    return tmp_path / "film" / "film.cicada"


def test_what_is_left_out_is_not_read(window, film, answer, settled, tmp_path):
    asked = answer("Leave them out")
    assert window.files.open_now(film)
    settled(window)
    assert "wants to read 2 files outside its own folder" in asked[0]
    assert str(tmp_path / "private") in asked[0]
    assert window.presence.missing == {"s1"}
    assert window.frames.picture(window.session.scene, 0, 90).isNull()
    # Nothing that is read comes from there, and that stays so.
    assert "s1" not in window.presence.standing.files
    answer("Leave them out")
    assert window.files.open_now(film)
    assert len(asked) == 2


def test_what_is_allowed_is_read_and_not_asked_about_again(window, film, answer, settled):
    asked = answer("Let it read them")
    assert window.files.open_now(film)
    settled(window)
    assert not window.presence.missing
    window.files.open_now(film)
    assert len(asked) == 1


def test_what_is_put_into_a_project_here_is_allowed_by_that(window, settled, tmp_path, qtbot):
    path = write_sound(tmp_path / "large.wav", ring())
    window.imports.import_files([path], kept="linked")
    qtbot.waitUntil(lambda: not window.imports.under_way, timeout=20_000)
    settled(window)
    assert str(tmp_path) in window.permission.folders
    assert not window.presence.missing
