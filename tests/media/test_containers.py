"""The sound of films and of codings libsndfile does not read."""

import numpy as np
import pytest

from cicada.errors import BadSound
from cicada.media.cache import SoundCache
from cicada.media.ingest import ingest
from tests.sound_files import ring, write_container, write_silent_film

RATE = 48000
KINDS = (
    ("m4a", "aac", False, "AAC in M4A"), ("mp4", "aac", True, "AAC in MP4"),
    ("mov", "aac", True, "AAC in MOV"), ("mkv", "aac", True, "AAC in Matroska"),
    ("webm", "libopus", False, "Opus in WebM"),
)  # fmt: skip


def taken(path, tmp_path):
    cache = SoundCache(tmp_path / "cache")
    found = ingest(path, RATE, cache)
    return found, cache.open(cache.sound_key(found.hash, RATE)).samples


@pytest.mark.parametrize(("suffix", "codec", "picture", "encoding"), KINDS)
def test_a_hit_in_a_container_stands_where_it_stood(suffix, codec, picture, encoding, tmp_path):
    samples = np.zeros(RATE, np.float32)
    samples[20_000:20_020] = 0.9
    path = write_container(tmp_path / f"a.{suffix}", samples, codec=codec, picture=picture)
    found, heard = taken(path, tmp_path)
    assert found.info.encoding == encoding
    assert heard.shape[0] == 2
    assert np.argmax(np.abs(heard[0])) == pytest.approx(20_010, abs=15)


def test_the_filling_of_the_last_packet_is_no_sound(tmp_path):
    path = write_container(tmp_path / "a.m4a", ring(seconds=0.77))
    found, heard = taken(path, tmp_path)
    assert found.info.frames == heard.shape[1] == int(0.77 * RATE)


def test_another_rate_comes_in_at_its_pitch(tmp_path):
    path = write_container(tmp_path / "a.m4a", ring(44100, 1.0, 1000), 44100)
    found, heard = taken(path, tmp_path)
    spectrum = np.abs(np.fft.rfft(heard[0] * np.hanning(heard.shape[1])))
    assert found.info.rate == 44100
    assert np.argmax(spectrum) * RATE / heard.shape[1] == pytest.approx(1000, abs=3)


def test_a_film_without_sound_says_so(tmp_path):
    with pytest.raises(BadSound, match="has pictures but no sound in it"):
        taken(write_silent_film(tmp_path / "a.mp4"), tmp_path)


def test_a_list_of_addresses_opens_none_of_them(tmp_path):
    other = write_container(tmp_path / "other.m4a", ring())
    path = tmp_path / "list.wav"
    path.write_text(f"#EXTM3U\n#EXTINF:1,\n{other}\n#EXT-X-ENDLIST\n")
    with pytest.raises(BadSound, match="is not a sound file"):
        taken(path, tmp_path)


def test_what_comes_before_a_damaged_place_is_kept_and_said(tmp_path):
    path = write_container(tmp_path / "a.mkv", ring(seconds=3.0))
    data = path.read_bytes()
    path.write_bytes(data[: len(data) // 2])
    found, heard = taken(path, tmp_path)
    assert RATE // 2 < heard.shape[1] < 2 * RATE
    assert found.info.frames == heard.shape[1]
