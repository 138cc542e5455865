"""Broken, mislabelled and extreme files: a sentence or a sound, never a crash or a hang."""

import random
import time

import numpy as np
import pytest
import soundfile

from cicada.errors import BadSound
from cicada.media.cache import SoundCache
from cicada.media.decode import describe
from cicada.media.ingest import ingest
from tests.sound_files import ring, write_container, write_sound

RATE = 48000
HANG = 5.0
SOUND_KINDS = ("wav", "flac", "ogg", "mp3", "opus", "aiff", "caf", "m4a", "mkv")


def made(folder, kind):
    path = folder / f"whole.{kind}"
    if kind in ("m4a", "mkv"):
        return write_container(path, ring(seconds=0.4))
    return write_sound(path, ring(seconds=0.4))


def outcome(path, folder):
    """The length it has, or the sentence that refuses it."""
    began = time.monotonic()
    cache = SoundCache(folder / "cache")
    try:
        found = ingest(path, RATE, cache)
        samples = cache.open(cache.sound_key(found.hash, RATE)).samples
        assert np.isfinite(samples).all()
        told = samples.shape[1]
    except BadSound as error:
        told = str(error)
        assert told.startswith(str(path))
        assert ";" in told
        assert "\n" not in told
    assert time.monotonic() - began < HANG
    return told


@pytest.mark.parametrize("kind", SOUND_KINDS)
def test_a_truncated_file_is_short_or_refused(kind, tmp_path):
    data = made(tmp_path, kind).read_bytes()
    for share in (0.01, 0.1, 0.5, 0.9, 0.99):
        path = tmp_path / f"cut.{kind}"
        path.write_bytes(data[: max(1, int(len(data) * share))])
        told = outcome(path, tmp_path)
        assert isinstance(told, str) or 0 <= told <= 0.45 * RATE


@pytest.mark.parametrize("kind", SOUND_KINDS)
def test_a_file_with_rotten_bytes_is_taken_or_refused(kind, tmp_path):
    data = made(tmp_path, kind).read_bytes()
    dice = random.Random(kind)
    for number in range(12):
        rotten = bytearray(data)
        for _ in range(dice.choice((1, 10, 200))):
            rotten[dice.randrange(min(len(rotten), dice.choice((100, len(rotten)))))] = (
                dice.randrange(256)
            )
        path = tmp_path / f"rotten{number}.{kind}"
        path.write_bytes(rotten)
        outcome(path, tmp_path)


@pytest.mark.parametrize("kind", ["flac", "mp3", "m4a"])
def test_a_wrong_suffix_does_not_matter(kind, tmp_path):
    path = made(tmp_path, kind)
    told = outcome(path.rename(tmp_path / "mislabelled.wav"), tmp_path)
    assert told == pytest.approx(0.4 * RATE, abs=2500)


@pytest.mark.parametrize("size", [0, 1, 3, 44, 1000])
def test_random_bytes_are_refused(size, tmp_path):
    path = tmp_path / "random.wav"
    path.write_bytes(random.Random(size).randbytes(size))
    assert isinstance(outcome(path, tmp_path), str)


def test_an_empty_sound_is_taken_in_and_said_to_make_none(tmp_path):
    path = tmp_path / "none.wav"
    soundfile.write(path, np.zeros((0, 2)), RATE)
    assert outcome(path, tmp_path) == 0
    assert describe(path).notes == ("empty, makes no sound",)


def test_a_flac_that_does_not_say_its_length_comes_in_whole(tmp_path):
    path = made(tmp_path, "flac")
    data = bytearray(path.read_bytes())
    # STREAMINFO begins at byte 8; its last 36 bits before the MD5 are the number of samples.
    data[21] &= 0xF0
    data[22:26] = bytes(4)
    path.write_bytes(data)
    assert describe(path).frames == outcome(path, tmp_path) == round(0.4 * RATE)


def test_what_would_take_more_than_the_cache_may_have_is_refused_before_it_is_decoded(tmp_path):
    path = tmp_path / "slow.wav"
    soundfile.write(path, np.zeros(86_000), 1)
    assert "takes 16.5 GB decoded, and the cache may have 10 GB" in outcome(path, tmp_path)
    cache = SoundCache(tmp_path / "cache")
    cache.set_limit(2_000_000_000)
    assert "the cache may have 2 GB" in outcome(path, tmp_path)


def test_ninety_six_channels_come_in(tmp_path):
    soundfile.write(tmp_path / "many.wav", np.full((500, 96), 0.25), RATE, subtype="FLOAT")
    assert outcome(tmp_path / "many.wav", tmp_path) == 500


def test_one_hertz_and_768_kilohertz_come_in_at_their_length(tmp_path):
    soundfile.write(tmp_path / "slow.wav", np.full(20, 0.25), 1)
    soundfile.write(tmp_path / "fast.wav", np.full(76800, 0.25), 768_000)
    assert outcome(tmp_path / "slow.wav", tmp_path) == 20 * RATE
    assert outcome(tmp_path / "fast.wav", tmp_path) == RATE // 10


def test_what_would_last_longer_than_a_day_is_refused(tmp_path):
    soundfile.write(tmp_path / "day.wav", np.full(90_000, 0.25), 1)
    assert "longer than a day" in outcome(tmp_path / "day.wav", tmp_path)


def test_numbers_that_are_none_become_silence(tmp_path):
    samples = np.array([0.5, np.nan, np.inf, -np.inf, 0.25] * 100)
    soundfile.write(tmp_path / "nan.wav", samples, RATE, subtype="FLOAT")
    assert outcome(tmp_path / "nan.wav", tmp_path) == 500
