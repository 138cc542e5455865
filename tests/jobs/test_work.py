"""The jobs of a worker, done here: what is found, what has changed, what is measured."""

import pytest
import soundfile
from msgspec.structs import replace

from cicada.core.model import Project, Scene, Sound
from cicada.errors import BadSound
from cicada.jobs import worker
from cicada.jobs.files import (
    Source,
    changed_sources,
    copy_to_work_on,
    find_missing,
    find_sounds,
    keep_cache,
    keep_file,
    take_in,
)
from cicada.jobs.measuring import hear_file, take_measures
from cicada.jobs.mixing import make_ready, unready
from cicada.jobs.worker import progress
from cicada.media.cache import SoundCache
from cicada.store.importing import new_sound
from tests.sound_files import ring, write_sound

RATE = 48000


@pytest.fixture
def cache(tmp_path):
    return tmp_path / "cache"


def project_of(*sounds):
    scene = Scene(id="sc1", length=24, layers=())
    return Project(
        format="cicada-project", version=1, fps=(24, 1), rate=RATE, sounds=sounds, scenes=(scene,)
    )


def shelved(path, cache, file, sound_id="s1"):
    sound = new_sound(path, take_in(path, RATE, cache), project_of(), file)
    return replace(sound, id=sound_id)


def test_a_job_says_how_far_it_is_and_hears_that_it_is_to_stop(monkeypatch):
    shared = [0.0] * 3
    monkeypatch.setattr(worker._Here, "shared", shared)
    assert progress(0.25)
    assert shared == [0.25, 1.0, 0.0]
    shared[2] = 1.0
    assert not progress(0.5)


def test_folders_give_their_sounds_in_order_and_files_are_taken_at_their_word(tmp_path):
    place = tmp_path / "place"
    (place / "b").mkdir(parents=True)
    (place / ".hidden").mkdir()
    for name in ("b/2.wav", "b/1.FLAC", "a.opus", "list.txt", ".hidden/x.wav", ".y.wav"):
        (place / name).write_bytes(b"x")
    letter = tmp_path / "letter.doc"
    found = find_sounds([letter, place, place / "a.opus"])
    names = [path.relative_to(tmp_path).as_posix() for path in found.sounds]
    assert names == ["letter.doc", "place/a.opus", "place/b/1.FLAC", "place/b/2.wav"]
    assert found.others == 1


def test_missing_sounds_are_found_by_bytes_and_by_samples(tmp_path, cache):
    file = tmp_path / "film.cicada"
    (tmp_path / "attic").mkdir()
    bell = shelved(write_sound(tmp_path / "bell.wav", ring(seed=1)), cache, file)
    horn = shelved(write_sound(tmp_path / "horn.wav", ring(seed=2)), cache, file, "s2")
    gone = shelved(write_sound(tmp_path / "gone.wav", ring(seed=3)), cache, file, "s3")
    linked = replace(bell, id="s4", kept="linked")
    (tmp_path / "bell.wav").rename(tmp_path / "attic" / "something.wav")
    samples, _ = soundfile.read(tmp_path / "horn.wav", dtype="int16")
    soundfile.write(tmp_path / "attic" / "packed.flac", samples, RATE)
    (tmp_path / "attic" / "broken.wav").write_text("no sound")
    wanted = [bell, horn, gone, linked]
    found = find_missing(wanted, tmp_path / "attic", RATE, cache, file)
    assert set(found) == {"s1", "s2", "s4"}
    assert found["s1"] == {"file": bell.file}
    assert found["s4"] == {"file": "attic/something.wav"}
    assert found["s2"]["encoding"] == "FLAC 16 bit"
    assert (tmp_path / found["s2"]["file"]).exists()


def test_only_a_source_with_other_bytes_has_changed(tmp_path, cache):
    same, other = write_sound(tmp_path / "same.wav"), write_sound(tmp_path / "other.wav")
    known = (take_in(same, RATE, cache).hash,)
    write_sound(other, ring(seed=4))
    sources = [
        Source("s1", same, known),
        Source("s2", other, known),
        Source("s3", tmp_path / "gone.wav", known),
    ]
    assert changed_sources(sources, cache) == {"s2": other}


def test_a_copy_to_work_on_never_takes_the_place_of_another(tmp_path):
    path = write_sound(tmp_path / "bell.wav")
    first = copy_to_work_on(path, tmp_path / "copies", "Bell/ring")
    second = copy_to_work_on(path, tmp_path / "copies", "Bell/ring")
    assert first != second
    assert first.parent == second.parent == tmp_path / "copies"
    assert first.read_bytes() == second.read_bytes() == path.read_bytes()
    with pytest.raises(BadSound, match="is not there"):
        copy_to_work_on(tmp_path / "gone.wav", tmp_path / "copies", "Gone")


def test_a_sound_that_is_not_decoded_is_for_listening_and_measuring(tmp_path, cache):
    path = write_sound(tmp_path / "bell.wav")
    listened = hear_file(path, "", RATE, cache)
    assert (listened.samples, listened.measures.head) == (24000, 0.0)
    content = take_in(path, RATE, cache).hash
    keep_cache(cache, 0, [])
    assert take_measures(path, content, RATE, cache) == listened.measures
    assert take_measures(None, "blake2b:00", RATE, cache) is None
    write_sound(path, ring(seed=9))
    with pytest.raises(BadSound, match="has changed"):
        hear_file(path, content, RATE, cache)


def test_what_has_been_made_ready_is_ready(tmp_path, cache):
    file = tmp_path / "film.cicada"
    path = write_sound(tmp_path / "bell.wav")
    sound = shelved(path, cache, file)
    keep_file(path, sound.hash, file)
    project, files = project_of(sound, Sound(id="s9", frames=5, rate=5, channels=1)), {"s1": path}
    store = SoundCache(cache)
    assert not unready(project, files, store)
    keep_cache(cache, -1, [])
    assert unready(project, files, store) == {"s1"}
    assert not make_ready(project, files, cache).refused
    assert not unready(project, files, store)
