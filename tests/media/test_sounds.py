"""Sound files in: every usual format at its right pitch, and one sentence for what is none."""

import numpy as np
import pytest
import soundfile
import soxr
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from cicada.core.model import Project, Scene, Sound
from cicada.errors import BadSound
from cicada.media.cache import SoundCache
from cicada.media.decode import describe, opened, stereo
from cicada.media.ingest import ingest
from cicada.media.peaks import PeakGatherer, Peaks
from cicada.media.resample import RateChange
from cicada.media.sources import SoundSources

RATE = 48000
FORMATS = [
    ("wav", "PCM_U8", 44100), ("wav", "PCM_16", 22050), ("wav", "PCM_24", 96000),
    ("wav", "PCM_32", 8000), ("wav", "FLOAT", 48000), ("aiff", "PCM_16", 32000),
    ("flac", "PCM_24", 44100), ("ogg", "VORBIS", 44100), ("opus", "OPUS", 48000),
    ("mp3", "MPEG_LAYER_III", 44100),
]  # fmt: skip


def decode(path):
    with opened(path) as file:
        blocks = [stereo(block) for block in file.blocks()]
        return np.concatenate(blocks).T if blocks else np.zeros((1, 0)), file.info


def tone(rate, seconds=0.5, hertz=1000):
    return 0.5 * np.sin(2 * np.pi * hertz * np.arange(int(rate * seconds)) / rate)


def hertz_of(samples, rate):
    spectrum = np.abs(np.fft.rfft(samples * np.hanning(len(samples))))
    return np.argmax(spectrum) * rate / len(samples)


@pytest.mark.parametrize(("suffix", "subtype", "rate"), FORMATS)
def test_a_tone_comes_in_at_its_pitch(suffix, subtype, rate, tmp_path):
    path = tmp_path / f"tone.{suffix}"
    container = {"opus": "OGG"}.get(suffix)
    soundfile.write(path, tone(rate), rate, subtype=subtype, format=container)
    cache = SoundCache(tmp_path / "cache")
    taken = ingest(path, RATE, cache)
    samples = cache.open(cache.sound_key(taken.hash, RATE)).samples
    assert taken.info.rate == rate
    assert samples.shape[1] == pytest.approx(RATE / 2, abs=1)
    assert hertz_of(samples[0], RATE) == pytest.approx(1000, abs=3)
    assert np.abs(samples).max() == pytest.approx(0.5, abs=0.06)


def test_surround_is_mixed_down_and_that_is_said(tmp_path):
    path = tmp_path / "surround.wav"
    channels = np.zeros((100, 6))
    channels[:, 2] = 0.5
    soundfile.write(path, channels, RATE, subtype="FLOAT")
    samples, info = decode(path)
    assert samples[:, 50] == pytest.approx([0.5 * 0.5**0.5] * 2)
    assert info.notes == ("6 channels mixed down to stereo",)


def test_many_channels_are_averaged(tmp_path):
    path = tmp_path / "many.wav"
    soundfile.write(path, np.tile(np.linspace(0, 0.9, 10), (50, 1)), RATE, subtype="FLOAT")
    assert decode(path)[0][:, 10] == pytest.approx([0.45, 0.45])


def broken(folder):
    (folder / "empty.wav").write_bytes(b"")
    (folder / "text.wav").write_text("this is a letter, not a sound\n" * 40)
    soundfile.write(folder / "good.flac", tone(RATE), RATE)
    (folder / "head.flac").write_bytes((folder / "good.flac").read_bytes()[:60])
    (folder / "folder.wav").mkdir()
    return ["empty.wav", "text.wav", "head.flac", "folder.wav", "gone.wav"]


def test_what_is_no_sound_is_refused_in_one_sentence(tmp_path):
    for name in broken(tmp_path):
        with pytest.raises(BadSound) as caught:
            ingest(tmp_path / name, RATE, SoundCache(tmp_path / "cache"))
        text = str(caught.value)
        assert text.startswith(str(tmp_path / name))
        assert ";" in text
        assert "\n" not in text


def test_a_wav_cut_short_is_taken_as_far_as_it_goes_and_that_is_said(tmp_path):
    path = tmp_path / "whole.wav"
    soundfile.write(path, tone(RATE), RATE, subtype="PCM_16")
    path.write_bytes(path.read_bytes()[:-2000])
    info = describe(path)
    assert info.frames == RATE // 2 - 1000
    assert "cut short: 2000 bytes" in info.notes[0]


@given(
    st.integers(1, 40_000),
    st.sampled_from((1, 8000, 11025, 44100, 96000, 768_000)),
    st.integers(1, 9000),
)
def test_a_rate_change_in_pieces_is_that_in_one_call(count, own, piece):
    count = min(count, own)
    samples = np.random.default_rng(count).standard_normal((count, 2)).astype(np.float32)
    change = RateChange(own, RATE, 2)
    made = [x for i in range(0, count, piece) for x in change.take(samples[i : i + piece])]
    whole = soxr.resample(samples, own, RATE, quality="HQ")
    assert np.array_equal(np.concatenate([*made, *change.rest()]), whole)


@given(
    arrays(
        np.float32,
        st.tuples(st.integers(1, 2), st.integers(1, 9000)),
        elements=st.floats(-1, 1, width=32),
    ),
    st.integers(1, 3000),
)
def test_peaks_are_the_lowest_and_highest_of_each_stretch(samples, piece):
    gatherer = PeakGatherer()
    for start in range(0, samples.shape[1], piece):
        gatherer.append(np.ascontiguousarray(samples[:, start : start + piece].T))
    peaks = gatherer.peaks(samples.shape[1])
    count = -(-samples.shape[1] // 64)
    for index in {0, count // 2, count - 1}:
        stretch = samples[:, index * 64 : (index + 1) * 64]
        assert peaks[:, index].tolist() == [stretch.min(), stretch.max()]
    assert peaks[:, -1].tolist() == [samples.min(), samples.max()] or samples.shape[1] > 32768
    columns = Peaks(peaks, samples.shape[1]).columns(np.linspace(0, samples.shape[1], 8))
    assert columns[0].min() == samples.min()
    assert columns[1].max() == samples.max()


@pytest.mark.parametrize("edges", [[], [3.0]])
def test_between_one_edge_or_none_there_are_no_peaks(edges):
    peaks = Peaks(np.zeros((2, 4), np.float32), 200)
    assert peaks.columns(np.array(edges)).shape == (2, 0)


def project_of(sound):
    return Project(
        format="cicada-project", version=1, fps=(24, 1), rate=RATE, sounds=(sound,),
        scenes=(Scene(id="sc", length=1, layers=()),),
    )  # fmt: skip


def test_a_sound_that_changed_on_disk_is_silent_and_said(tmp_path):
    path = tmp_path / "a.wav"
    soundfile.write(path, tone(RATE), RATE)
    sound = Sound(
        id="s", frames=24000, rate=RATE, channels=1, file="a.wav", hash="blake2b:" + 40 * "0"
    )
    opened = SoundSources(project_of(sound), {"s": path}, SoundCache(tmp_path / "cache"))
    assert opened.whole("s") is None
    assert "changed" in str(opened.refused["s"])


def test_a_speed_is_resampled_once_and_kept(tmp_path):
    path = tmp_path / "a.wav"
    soundfile.write(path, tone(RATE), RATE, subtype="FLOAT")
    cache = SoundCache(tmp_path / "cache")
    sound = Sound(id="s", frames=24000, rate=RATE, channels=1, file="a.wav")
    opened = SoundSources(project_of(sound), {"s": path}, cache)
    octave_up = opened.source("s", 0, 24000, 2.0).samples
    assert octave_up.shape == (1, 12000)
    assert hertz_of(octave_up[0], RATE) == pytest.approx(2000, abs=5)
    again = SoundSources(project_of(sound), {"s": path}, cache, only_cached=True)
    assert np.array_equal(again.source("s", 0, 24000, 2.0).samples, octave_up)


def test_a_damaged_cache_file_is_made_anew(tmp_path):
    path = tmp_path / "a.wav"
    soundfile.write(path, tone(RATE), RATE)
    cache = SoundCache(tmp_path / "cache")
    taken = ingest(path, RATE, cache)
    key = cache.sound_key(taken.hash, RATE)
    cache.path(key).write_bytes(b"rubbish")
    sound = Sound(id="s", frames=24000, rate=RATE, channels=1, hash=taken.hash)
    opened = SoundSources(project_of(sound), {"s": path}, cache)
    assert opened.whole("s").samples.shape == (1, 24000)


@pytest.mark.parametrize(("frames", "rate"), [(24_000, 1), (2**53, 48_000), (900_000, RATE)])
def test_a_sound_much_shorter_than_its_project_says_is_refused(tmp_path, frames, rate):
    path = tmp_path / "a.wav"
    soundfile.write(path, tone(RATE), RATE, subtype="FLOAT")
    sound = Sound(id="s", frames=frames, rate=rate, channels=1, file="a.wav")
    opened = SoundSources(project_of(sound), {"s": path}, SoundCache(tmp_path / "cache"))
    assert opened.source("s", 0, 100, 1.0) is None
    assert "has 0.500 s, and the project says" in opened.why_silent("s")


def test_a_sound_longer_than_its_project_says_is_heard_as_far(tmp_path):
    path = tmp_path / "a.wav"
    soundfile.write(path, tone(RATE), RATE, subtype="FLOAT")
    sound = Sound(id="s", frames=1000, rate=RATE, channels=1, file="a.wav")
    opened = SoundSources(project_of(sound), {"s": path}, SoundCache(tmp_path / "cache"))
    assert opened.whole("s").samples.shape == (1, 1000)
    assert opened.source("s", 100, 300, 1.0).right_until(0) >= 200
