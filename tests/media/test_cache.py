"""The cache keeps to its limit, and forgets nothing that is in use."""

import os
import subprocess
import sys

import numpy as np
import pytest
from PySide6.QtCore import QSettings

from cicada.errors import BadSound, Cancelled
from cicada.media.cache import LIMIT, SoundCache
from cicada.media.ingest import ingest, seen_hash
from cicada.media.measures import measured
from cicada.media.sources import open_peaks
from cicada.window.app import hand_over_limit
from tests.sound_files import ring, write_sound

RATE = 48000


@pytest.fixture
def cache(tmp_path):
    return SoundCache(tmp_path / "cache")


def filled(cache, tmp_path, number):
    """Sounds of two seconds each, the first used longest ago."""
    keys = []
    for seed in range(number):
        path = write_sound(tmp_path / f"{seed}.wav", ring(RATE, 2.0, seed=seed))
        key = cache.sound_key(ingest(path, RATE, cache).hash, RATE)
        for part in (cache.path(key), cache.path(cache.peaks_key(key))):
            os.utime(part, (1000 + seed, 1000 + seed))
        keys.append(key)
    return keys


def size(cache):
    return sum(path.stat().st_size for path in cache.folder.glob("*/*"))


def test_what_was_used_longest_ago_goes_first(cache, tmp_path):
    keys = filled(cache, tmp_path, 5)
    cache.open(keys[0])
    limit = 6 * 4 * RATE
    cache.keep_to(limit)
    assert size(cache) <= limit
    assert [cache.has(key) for key in keys] == [True, False, False, False, True]


def test_what_is_in_use_stays_whatever_the_limit(cache, tmp_path):
    keys = filled(cache, tmp_path, 4)
    cache.keep_to(0, keys[1:2])
    assert [cache.has(key) for key in keys] == [False, True, False, False]
    assert cache.has(cache.peaks_key(keys[1]))


def test_peaks_outlive_the_samples(cache, tmp_path):
    keys = filled(cache, tmp_path, 4)
    cache.keep_to(4 * RATE)
    assert not any(cache.has(key) for key in keys)
    assert all(cache.has(cache.peaks_key(key)) for key in keys)


def test_a_sound_evicted_while_it_is_open_goes_on_sounding(cache, tmp_path):
    key = filled(cache, tmp_path, 1)[0]
    opened = cache.open(key)
    before = opened.samples.copy()
    cache.keep_to(0)
    assert not cache.has(key)
    assert opened.right()
    assert np.array_equal(opened.samples, before)


def test_stopping_leaves_no_half_file(cache, tmp_path):
    path = write_sound(tmp_path / "long.wav", ring(RATE, 20.0))
    with pytest.raises(Cancelled):
        ingest(path, RATE, cache, lambda share: share < 0.5)
    assert not [path for path in cache.folder.rglob("*") if path.is_file()]


@pytest.mark.parametrize(("seconds", "files"), [(0.5, 1), (2.0, 3)])
def test_a_brief_sound_is_one_file_and_is_drawn_and_measured_all_the_same(
    cache, tmp_path, seconds, files
):
    sound = ring(RATE, seconds)
    key = cache.sound_key(ingest(write_sound(tmp_path / "a.wav", sound), RATE, cache).hash, RATE)
    assert len([path for path in cache.folder.rglob("*") if path.is_file()]) == files
    samples = cache.reading(key).read()
    length = samples.shape[1]
    peaks = open_peaks(cache, key, length)
    edges = np.linspace(0, length, 8)
    for number, (low, high) in enumerate(peaks.columns(edges).T):
        part = samples[:, int(edges[number]) : int(edges[number + 1])]
        assert low <= part.min()
        assert high >= part.max()
    assert measured(cache, key, RATE).peak == pytest.approx(np.abs(samples).max(), rel=1e-3)


def test_a_killed_worker_leaves_nothing(cache):
    code = (
        "import os, sys; from pathlib import Path; from cicada.media.cache import SoundCache\n"
        "with SoundCache(Path(sys.argv[1])).filling(1, 10): os._exit(1)"
    )
    subprocess.run([sys.executable, "-c", code, str(cache.folder)], check=False)
    assert not list(cache.folder.iterdir())


def test_what_is_left_where_files_need_a_name_is_swept_up(cache):
    dead = subprocess.Popen([sys.executable, "-c", ""])
    dead.wait()
    cache.folder.mkdir(parents=True, exist_ok=True)
    (cache.folder / f".{dead.pid}-abcd1234.part").touch()
    cache.keep_to(10**9)
    assert not list(cache.folder.iterdir())


def test_more_samples_than_the_header_said_are_all_kept(cache):
    blocks = [np.arange(200, dtype=np.float32).reshape(100, 2) + 200 * i for i in range(5)]
    beats = []
    with cache.filling(2, 120) as target:
        target.beat = lambda: beats.append(1)
        for block in blocks:
            target.append(block)
        target.key = "abcd"
    assert beats
    assert np.array_equal(cache.reading("abcd").read(), np.concatenate(blocks).T)


def test_a_file_is_hashed_again_only_when_it_is_another(cache, tmp_path, monkeypatch):
    path = write_sound(tmp_path / "a.wav")
    first = seen_hash(path, cache)
    monkeypatch.setattr("cicada.media.ingest.content_hash", lambda path: "blake2b:read again")
    assert seen_hash(path, cache) == first
    before = path.stat()
    write_sound(path, ring(seed=9))
    os.utime(path, ns=(before.st_atime_ns, before.st_mtime_ns))
    assert path.stat().st_size == before.st_size
    assert seen_hash(path, cache) == "blake2b:read again"
    with pytest.raises(BadSound):
        seen_hash(tmp_path / "gone.wav", cache)


@pytest.mark.parametrize(
    ("kept", "limit"), [("2000000000", 2 * 10**9), ("much", LIMIT), (None, LIMIT)]
)
def test_a_limit_set_in_a_window_before_is_taken_over_once(cache, tmp_path, kept, limit):
    settings = QSettings(str(tmp_path / "window.ini"), QSettings.Format.IniFormat)
    if kept is not None:
        settings.setValue("cache/limit", kept)
    hand_over_limit(settings, cache)
    assert cache.limit == limit
    cache.set_limit(5)
    hand_over_limit(settings, cache)
    assert cache.limit == 5
