"""Where sounds stand: kept once, found to be here already, moved along, tidied when asked."""

import pytest
import soundfile
from msgspec.structs import replace

from cicada.core.model import empty_project
from cicada.core.shelf_edits import AddSounds, AddTake
from cicada.errors import BadSound, Cancelled, CannotWrite
from cicada.media.cache import SoundCache
from cicada.media.ingest import ingest
from cicada.store.importing import Shelf, is_sound_name, new_sound, new_take
from cicada.store.sounds_folder import (
    keep,
    moved,
    remove_unused,
    sound_file,
    sounds_folder,
    unused,
)
from tests.sound_files import ring, write_sound

RATE = 48000


@pytest.fixture
def cache(tmp_path):
    return SoundCache(tmp_path / "cache")


def taken_in(path, cache, project, file):
    return new_sound(path, ingest(path, RATE, cache), project, file)


def test_the_same_sound_in_another_container_is_already_here(tmp_path, cache):
    file, project = tmp_path / "film.cicada", empty_project("x")
    bell = taken_in(write_sound(tmp_path / "bell.wav"), cache, project, file)
    again = ingest(write_sound(tmp_path / "other.wav"), RATE, cache)
    samples, _ = soundfile.read(tmp_path / "bell.wav", dtype="int16")
    packed = ingest(write_sound(tmp_path / "packed.flac", samples), RATE, cache)
    other = ingest(write_sound(tmp_path / "gong.wav", ring(seed=3)), RATE, cache)
    shelf = AddSounds(sounds=(bell,)).apply(project)
    assert Shelf(shelf).here(again) == (bell, True)
    assert Shelf(shelf).here(packed) == (bell, False)
    assert Shelf(shelf).here(other) is None


def test_a_take_counts_as_here(tmp_path, cache):
    file, project = tmp_path / "film.cicada", empty_project("x")
    bell = taken_in(write_sound(tmp_path / "bell.wav"), cache, project, file)
    gong = ingest(write_sound(tmp_path / "gong.wav", ring(seed=3)), RATE, cache)
    project = AddSounds(sounds=(bell,)).apply(project)
    take = new_take("gong", gong, keep(tmp_path / "gong.wav", gong.hash, file))
    project = AddTake(sound=bell.id, take=take).apply(project)
    first = ingest(tmp_path / "bell.wav", RATE, cache)
    assert Shelf(project).here(first).sound.id == bell.id


def test_a_file_kept_twice_stands_there_once(tmp_path, cache):
    file = tmp_path / "film.cicada"
    path = write_sound(tmp_path / "bell.wav")
    content = ingest(path, RATE, cache).hash
    assert keep(path, content, file) == keep(path, content, file)
    assert [p.read_bytes() for p in sounds_folder(file).iterdir()] == [path.read_bytes()]


def test_a_file_that_is_another_by_now_is_not_kept(tmp_path, cache):
    file = tmp_path / "film.cicada"
    path = write_sound(tmp_path / "bell.wav")
    content = ingest(path, RATE, cache).hash
    write_sound(path, ring(seed=5))
    with pytest.raises(BadSound, match="has changed"):
        keep(path, content, file)
    assert not list(sounds_folder(file).iterdir())


def test_stopping_a_copy_leaves_nothing(tmp_path, cache):
    file = tmp_path / "film.cicada"
    path = write_sound(tmp_path / "bell.wav")
    content = ingest(path, RATE, cache).hash
    with pytest.raises(Cancelled):
        keep(path, content, file, lambda share: False)
    assert not list(sounds_folder(file).iterdir())


def test_takes_move_with_the_project(tmp_path, cache):
    old, new = tmp_path / "a.cicada", tmp_path / "b" / "b.cicada"
    new.parent.mkdir()
    project = empty_project("x")
    bell = taken_in(write_sound(tmp_path / "bell.wav"), cache, project, old)
    gong = taken_in(write_sound(tmp_path / "gong.wav", ring(seed=3)), cache, project, old)
    linked = replace(gong, id="s9", file="gong.wav", kept="linked")
    project = AddSounds(sounds=(bell, linked)).apply(project)
    take = new_take("", ingest(tmp_path / "gong.wav", RATE, cache), gong.file)
    project = moved(AddTake(sound=bell.id, take=take).apply(project), old, new)
    sound = project.sounds[0]
    assert all(sound_file(part, new).exists() for part in (sound, *sound.takes))
    assert all(part.file.startswith("b.sounds/") for part in (sound, *sound.takes))
    assert project.sounds[1].file == "../gong.wav"


def test_tidying_takes_only_what_nothing_needs_and_was_put_there(tmp_path, cache):
    file, empty = tmp_path / "film.cicada", empty_project("x")
    bell = taken_in(write_sound(tmp_path / "bell.wav"), cache, empty, file)
    gong = taken_in(write_sound(tmp_path / "gong.wav", ring(seed=3)), cache, empty, file)
    letter = sounds_folder(file) / "letter.txt"
    letter.write_text("mine")
    with_bell = AddSounds(sounds=(bell,)).apply(empty)
    files = unused(file, [empty, with_bell])
    assert [each.path.name for each in files] == [gong.file.split("/")[1]]
    assert remove_unused(files) == (tmp_path / "gong.wav").stat().st_size
    left = {path.name for path in sounds_folder(file).iterdir()}
    assert left == {letter.name, bell.file.split("/")[1]}


def test_sounds_are_known_by_their_suffix():
    names = ("a.wav", "b.FLAC", "c.m4a", "d.webm", "e.mkv", "f.opus")
    assert all(is_sound_name(name) for name in names)
    assert not any(is_sound_name(name) for name in ("a.txt", "b.png", "wav", "c.cicada"))


@pytest.mark.parametrize("what", ["junk", "a folder", "a link", "a link that leads nowhere"])
def test_whatever_stands_at_the_kept_name_importing_again_heals_it(tmp_path, cache, what):
    file, path = tmp_path / "film.cicada", write_sound(tmp_path / "bell.wav")
    content = ingest(path, RATE, cache).hash
    kept = tmp_path / keep(path, content, file)
    whole = kept.read_bytes()
    kept.unlink()
    private = tmp_path / "diary.txt"
    private.write_text("mine")
    match what:
        case "junk":
            kept.write_bytes(b"junk" * len(whole))
        case "a folder":
            kept.mkdir()
            (kept / "note.txt").write_text("mine")
        case "a link":
            kept.symlink_to(private)
        case _:
            kept.symlink_to(tmp_path / "gone")
    assert tmp_path / keep(path, content, file) == kept
    assert kept.is_file()
    assert not kept.is_symlink()
    assert kept.read_bytes() == whole
    assert private.read_text() == "mine"


def test_a_sounds_folder_that_is_a_link_elsewhere_is_not_written(tmp_path, cache):
    file, path = tmp_path / "film.cicada", write_sound(tmp_path / "bell.wav")
    elsewhere = tmp_path / "elsewhere"
    elsewhere.mkdir()
    (tmp_path / "film.sounds").symlink_to(elsewhere)
    with pytest.raises(CannotWrite, match="link"):
        keep(path, ingest(path, RATE, cache).hash, file)
    assert not list(elsewhere.iterdir())
