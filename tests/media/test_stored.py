"""Samples of the cache that are not what was written are never given out, and are made anew."""

import mmap

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from cicada.core.mix import Mixer
from cicada.core.model import Clip, Layer, Project, Scene, Sound
from cicada.core.planner import plan
from cicada.media.cache import SoundCache
from cicada.media.ingest import ingest
from cicada.media.measures import known_measures, measured
from cicada.media.peaks import Peaks
from cicada.media.sources import SoundSources
from cicada.media.stored import PIECE
from tests.sound_files import ring, write_sound

RATE = 48000
# Samples in a piece of one channel.
IN_PIECE = PIECE // 4
KEY = "ab-48000"


@pytest.fixture
def cache(tmp_path):
    return SoundCache(tmp_path / "cache")


def noise(channels, count):
    return np.random.default_rng(count).uniform(-1, 1, (channels, count)).astype(np.float32)


def overwrite(path, at, data):
    with path.open("r+b") as file:
        file.seek(at)
        file.write(data)


@pytest.mark.parametrize("channels", [1, 2])
@pytest.mark.parametrize("count", [0, 1, IN_PIECE - 1, IN_PIECE, IN_PIECE + 1, 3 * IN_PIECE + 5])
def test_what_is_put_in_comes_out(cache, channels, count):
    samples = noise(channels, count)
    cache.put(KEY, samples)
    assert np.array_equal(np.load(cache.path(KEY)), samples)
    for stored in (cache.open(KEY), cache.reading(KEY)):
        assert np.array_equal(stored.read(), samples)
        assert stored.read(count, count + 9).shape == (channels, 0)
        assert np.array_equal(
            stored.read(count // 3, count // 2), samples[:, count // 3 : count // 2]
        )
        assert stored.right_until(0) == count


@settings(max_examples=60)
@given(st.data(), st.integers(1, 2), st.booleans())
def test_nothing_that_was_changed_is_given_out(tmp_path_factory, data, channels, mapped):
    cache = SoundCache(tmp_path_factory.mktemp("cache"))
    samples = noise(channels, 2 * IN_PIECE + 77)
    cache.put(KEY, samples)
    path = cache.path(KEY)
    size = path.stat().st_size
    text = bytearray(path.read_bytes())
    match data.draw(st.sampled_from(("byte", "cut", "longer", "noise", "exchange"))):
        case "byte":
            text[data.draw(st.integers(0, size - 1))] ^= data.draw(st.integers(1, 255))
        case "cut":
            del text[data.draw(st.integers(0, size - 1)) :]
        case "longer":
            text += b"\0" * data.draw(st.integers(1, 5000))
        case "noise":
            at = data.draw(st.integers(0, size - 64))
            text[at : at + 64] = bytes(range(64))
        case "exchange":
            # Other samples in their places: the same bytes in another order.
            text[128:132], text[132:136] = text[132:136], text[128:132]
    path.write_bytes(bytes(text))
    stored = cache.open(KEY) if mapped else cache.reading(KEY)
    for at in range(0, 2 * IN_PIECE, IN_PIECE // 2):
        until = stored.right_until(at) if stored is not None else at
        found = stored.read(at, at + 1000) if stored is not None else None
        assert (found is None) == (until == at)
        if found is not None:
            assert np.array_equal(found, samples[:, at : at + 1000])
    assert stored is None or not stored.right()
    assert not cache.has(KEY)


def test_the_file_of_another_key_is_not_taken(cache):
    cache.put(KEY, noise(2, 100))
    cache.put("ab-other", noise(2, 100) / 2)
    cache.path("ab-other").replace(cache.path(KEY))
    assert cache.open(KEY) is None


def test_a_file_made_anew_meanwhile_is_not_taken_away(cache):
    samples = noise(1, 3 * IN_PIECE)
    cache.put(KEY, samples)
    opened = cache.reading(KEY)
    overwrite(cache.path(KEY), 128 + 2 * PIECE, b"wrong")
    cache.put(KEY, samples)
    assert not opened.right()
    assert np.array_equal(cache.reading(KEY).read(), samples)


def test_what_is_read_of_a_file_cut_short_is_nothing_and_ends_nobody(cache):
    cache.put(KEY, noise(1, 3 * IN_PIECE))
    opened = cache.reading(KEY)
    assert opened.right()
    with cache.path(KEY).open("r+b") as file:
        file.truncate(mmap.PAGESIZE)
    assert opened.read(IN_PIECE, IN_PIECE + 10) is None


def test_a_file_that_cannot_be_opened_now_stays(cache, monkeypatch):
    cache.put(KEY, noise(1, 100))

    def full(*_, **__):
        raise OSError(24, "too many files are open")

    monkeypatch.setattr("cicada.media.stored.np.memmap", full)
    assert cache.open(KEY) is None
    assert cache.has(KEY)


def film(sound):
    layer = Layer(
        id="l", keyframes=(Clip(frame=0, sound="s"), Clip(frame=200, sound="s", speed=0.5))
    )
    scene = Scene(id="sc", length=400, layers=(layer,))
    return Project(
        format="cicada-project", version=1, fps=(25, 1), rate=RATE, sounds=(sound,), scenes=(scene,)
    )


@pytest.fixture
def taken(tmp_path, cache):
    """A project of one sound of four seconds, and where its file and its samples stand."""
    path = write_sound(tmp_path / "a.wav", ring(RATE, 4.0, seed=3))
    found = ingest(path, RATE, cache)
    sound = Sound(
        id="s", file="a.wav", hash=found.hash, frames=found.info.frames, rate=RATE, channels=1
    )
    return film(sound), {"s": path}, cache.path(cache.sound_key(found.hash, RATE))


def mixed(cache, project, files, *, only_cached=False, midway=lambda: None):
    sources = SoundSources(project, files, cache, only_cached=only_cached)
    made = plan(project)
    mixer = Mixer(made, project, sources)
    parts = [mixer.mix(0, 9600)]
    midway()
    parts += [mixer.mix(at, min(9600, made.length - at)) for at in range(9600, made.length, 9600)]
    return np.concatenate(parts, axis=1)


@pytest.mark.parametrize("at", [200, 128 + PIECE + 5])
def test_a_mix_makes_anew_what_is_damaged(cache, taken, at):
    project, files, stored = taken
    wanted = mixed(cache, project, files)
    overwrite(stored, at, b"damage")
    assert np.array_equal(mixed(cache, project, files), wanted)
    assert np.array_equal(mixed(cache, project, files, only_cached=True), wanted)


def test_damage_while_it_is_mixed_is_made_good_from_there_on(cache, taken):
    project, files, stored = taken
    wanted = mixed(cache, project, files)
    changed = mixed(
        cache, project, files, midway=lambda: overwrite(stored, 128 + 2 * PIECE, b"damage")
    )
    assert np.array_equal(changed, wanted)


def test_the_player_falls_silent_where_it_is_damaged(cache, taken):
    project, files, stored = taken
    wanted = mixed(cache, project, files)
    overwrite(stored, 128 + 2 * PIECE, b"damage")
    heard = mixed(cache, project, files, only_cached=True)
    before = 2 * IN_PIECE // 9600 * 9600
    assert not stored.exists()
    assert np.array_equal(heard[:, :before], wanted[:, :before])
    assert not heard[:, 3 * IN_PIECE : 8 * RATE].any()


def test_a_sound_imported_again_heals_what_is_damaged(cache, taken):
    _, files, stored = taken
    whole = stored.read_bytes()
    overwrite(stored, 128 + PIECE, b"damage")
    ingest(files["s"], RATE, cache)
    assert stored.read_bytes() == whole


@pytest.mark.parametrize("text", [b"", b"{}", b"\0" * 40, b"not json at all"])
def test_a_damaged_note_is_taken_anew(cache, taken, text):
    _, files, stored = taken
    wanted = measured(cache, stored.stem, RATE)
    for note in cache.folder.rglob("*.note"):
        note.write_bytes(text)
    assert known_measures(cache, stored.stem) is None
    assert measured(cache, stored.stem, RATE) == wanted
    assert ingest(files["s"], RATE, cache).info.frames == 4 * RATE


def test_damaged_peaks_are_made_again_with_their_sound(cache, taken):
    project, files, stored = taken
    peaks = cache.path(cache.peaks_key(stored.stem))
    overwrite(peaks, 130, b"damage")
    sources = SoundSources(project, files, cache)
    assert sources.peaks("s") is None
    sources.make_drawable("s")
    assert isinstance(sources.peaks("s"), Peaks)
