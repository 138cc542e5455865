"""A project reads what is outside its own folder only where this person has allowed it."""

import pytest
from msgspec.structs import replace

from cicada.cli.main import main
from cicada.core.keyframe_edits import PlaceClip
from cicada.core.model import Sound, Take, empty_project
from cicada.core.picture_parts import Images, Still
from cicada.store.allowed import Allowed, outside, permits
from cicada.store.projectfile import load, save
from tests.sound_files import ring, write_sound


@pytest.fixture
def film(tmp_path):
    """A project from somebody else, that plays a sound beside its folder."""
    (tmp_path / "private").mkdir()
    write_sound(tmp_path / "private" / "diary.wav", ring())
    sound = Sound(
        id="s1",
        name="Diary",
        file="../private/diary.wav",
        kept="linked",
        frames=9,
        rate=9,
        channels=1,
    )
    project = replace(empty_project("film"), sounds=(sound,))
    project = PlaceClip(layer="l1", frame=0, sound="s1").apply(project)
    (tmp_path / "film").mkdir()
    save(project, tmp_path / "film" / "film.cicada")
    return tmp_path / "film" / "film.cicada"


WAYS = ["up and down", "absolute", "by a link", "a take", "a still", "images"]


@pytest.mark.parametrize("way", WAYS)
def test_whatever_leads_outside_is_outside(film, tmp_path, way):
    project, private = load(film), tmp_path / "private"
    sound = project.sounds[0]
    inner = replace(sound, file="diary.wav")
    if way == "absolute":
        sound = replace(sound, file=str(private / "diary.wav"))
    elif way == "by a link":
        (film.parent / "link").symlink_to(private)
        sound = replace(sound, file="link/diary.wav")
    elif way == "a take":
        sound = replace(
            inner, takes=(Take(file="../private/diary.wav", frames=9, rate=9, channels=1),)
        )
    picture = ()
    if way in {"a still", "images"}:
        sound = inner
        picture = (
            Still(file="../private/a.png") if way == "a still" else Images(folder="../private"),
        )
    project = replace(
        project, sounds=(sound,), scenes=(replace(project.scenes[0], picture=picture),)
    )
    found = outside((), project, film)
    assert [folder.resolve() for folder in found] == [private]
    assert outside((str(private),), project, film) == {}
    assert outside((), replace(project, sounds=(inner,), scenes=load(film).scenes), film) == {}


def test_a_file_in_its_own_folder_that_is_a_link_leading_outside_is_outside(film, tmp_path):
    project, linked = load(film), film.parent / "linked.wav"
    linked.symlink_to(tmp_path / "private" / "diary.wav")
    other = film.parent / "other.wav"
    sounds = tuple(replace(project.sounds[0], file=each.name) for each in (other, linked))
    found = outside((), replace(project, sounds=sounds), film)
    assert found == {film.parent: [linked]}


def test_a_folder_of_the_same_beginning_is_another(tmp_path):
    file = tmp_path / "film" / "a.cicada"
    assert permits((), file, tmp_path / "film" / "b" / "c.wav")
    assert not permits((), file, tmp_path / "film 2" / "c.wav")
    assert not permits((), file, tmp_path / "a\0b")


def test_what_is_allowed_is_known_to_the_next_program_and_to_one_beside_it(tmp_path):
    file = tmp_path / "data" / "allowed.json"
    one, two = Allowed(file), Allowed(file)
    one.add([tmp_path / "one"])
    two.add([tmp_path / "two"])
    assert Allowed(file).folders == {str(tmp_path / "one"), str(tmp_path / "two")}
    file.write_text("no list")
    assert Allowed(file).folders == frozenset()


def test_commands_keep_out_of_it_until_they_are_told_otherwise(film, tmp_path, capsys):
    out = tmp_path / "mix.wav"
    assert main(["render", str(film), "-o", str(out)]) == 2
    assert "Diary: " in (said := capsys.readouterr().err)
    assert "is outside the project's folder" in said
    assert main(["check", str(film)]) == 1
    assert "outside" in capsys.readouterr().out
    assert main(["render", str(film), "-o", str(out), "--allow-outside"]) == 0
    assert main(["render", str(film), "-o", str(out)]) == 2


def test_what_is_saved_here_may_be_read_here(film, tmp_path):
    write_sound(tmp_path / "new.wav", ring(seed=4))
    assert main(["import", str(film), str(tmp_path / "new.wav")]) == 0
    assert main(["render", str(film), "-o", str(tmp_path / "mix.wav")]) == 0
