"""Mixdowns: the same every time, whole or not at all, and honest about what did not fit."""

import numpy as np
import pytest
import soundfile

from cicada.core.model import Clip, Layer, Project, Run, Scene, Sound
from cicada.core.planner import plan
from cicada.core.tone import InMemory
from cicada.deliver.mixdown import file_format, fitting_format, mixdown
from cicada.errors import Cancelled, CannotWrite
from cicada.media.cache import user_cache
from cicada.media.sources import SoundSources
from cicada.store.projectfile import load
from cicada.store.sounds_folder import sound_files


@pytest.fixture(scope="module")
def film(demo):
    project = load(demo)
    sources = SoundSources(project, sound_files(project, demo), user_cache())
    return plan(project, Run(only_scene=True)), project, sources


@pytest.mark.parametrize("suffix", [".wav", ".flac", ".aiff", ".ogg", ".mp3", ".caf"])
def test_two_renders_have_the_same_samples(film, suffix, tmp_path):
    one, two = tmp_path / f"one{suffix}", tmp_path / f"two{suffix}"
    for path in (one, two):
        mixdown(*film, path)
    assert np.array_equal(soundfile.read(one)[0], soundfile.read(two)[0])
    if suffix in (".wav", ".flac"):
        assert one.read_bytes() == two.read_bytes()


@pytest.mark.parametrize("subtype", ["FLOAT", "PCM_24", "PCM_16"])
def test_what_is_written_is_the_plan_in_full(film, subtype, tmp_path):
    done = mixdown(*film, tmp_path / "out.wav", subtype=subtype)
    samples, rate = soundfile.read(tmp_path / "out.wav")
    assert (len(samples), rate) == (film[0].length, film[0].rate)
    assert np.abs(samples).max() == pytest.approx(done.levels.peak, abs=1e-4)


class Loud:
    def source(self, sound, first, last, speed):
        return InMemory(np.full((1, last - first), 2.0, np.float32))


def loud_film():
    layer = Layer(id="l", keyframes=(Clip(frame=6, sound="s"),))
    sound = Sound(id="s", frames=4800, rate=48000, channels=1)
    scene = Scene(id="sc", length=12, layers=(layer,))
    project = Project(
        format="cicada-project",
        version=1,
        fps=(24, 1),
        rate=48000,
        sounds=(sound,),
        scenes=(scene,),
    )
    return plan(project), project, Loud()


def test_overs_are_counted_and_placed_where_they_do_not_fit(tmp_path):
    done = mixdown(*loud_film(), tmp_path / "out.wav", subtype="PCM_16")
    assert (done.levels.over, done.levels.first_over) == (4800, 12000)
    assert "4800 samples" in done.warning
    assert "0.250 s" in done.warning
    assert "6.0 dB" in done.warning
    assert np.abs(soundfile.read(tmp_path / "out.wav")[0]).max() <= 1.0


def test_overs_fit_into_floating_point(tmp_path):
    done = mixdown(*loud_film(), tmp_path / "out.wav")
    assert done.warning == ""
    assert soundfile.read(tmp_path / "out.wav")[0].max() == 2.0


@pytest.mark.parametrize(
    ("name", "subtype"),
    [("out.xyz", None), ("out", None), ("out.flac", "FLOAT"), ("gone/out.wav", None)],
)
def test_what_cannot_be_written_is_refused(name, subtype, tmp_path):
    with pytest.raises(CannotWrite, match=";"):
        mixdown(*loud_film(), tmp_path / name, subtype=subtype)
    assert list(tmp_path.iterdir()) == []


def test_a_cancelled_mixdown_leaves_what_was_there(tmp_path):
    path = tmp_path / "out.wav"
    path.write_bytes(b"before")
    with pytest.raises(Cancelled):
        mixdown(*loud_film(), path, progress=lambda share: False)
    assert path.read_bytes() == b"before"
    assert list(tmp_path.iterdir()) == [path]


def test_a_wav_that_is_too_large_for_its_header_is_rf64_and_has_all_samples(tmp_path, monkeypatch):
    monkeypatch.setattr("cicada.deliver.mixdown.NARROW", 100_000)
    done = mixdown(*loud_film(), tmp_path / "long.wav")
    assert (done.kind, soundfile.info(tmp_path / "long.wav").format) == ("RF64", "RF64")
    assert soundfile.info(tmp_path / "long.wav").frames == done.length
    assert (tmp_path / "long.wav").read_bytes()[:4] == b"RF64"


@pytest.mark.parametrize("name", ["long.aiff", "long.au"])
def test_what_a_format_cannot_hold_is_refused_before_anything_is_written(name, tmp_path):
    hours = 12 * 3600 * 48000
    kind, subtype = file_format(tmp_path / name, None, 48000)
    with pytest.raises(CannotWrite, match=r"takes 16.6 GB, and \w+ holds 4.2"):
        fitting_format(tmp_path / name, kind, subtype, hours, 48000)
    assert fitting_format(tmp_path / name, kind, subtype, 3600 * 48000, 48000) == kind


def test_a_mix_there_is_no_room_for_is_refused_beforehand(tmp_path, monkeypatch):
    usage = type("Usage", (), {"free": 1_000_000})
    monkeypatch.setattr("cicada.deliver.mixdown.shutil.disk_usage", lambda _: usage)
    with pytest.raises(CannotWrite, match="takes 384 MB, and 1 MB are free"):
        fitting_format(tmp_path / "a.wav", "WAV", "FLOAT", 1000 * 48000, 48000)


def test_what_cannot_be_read_back_whole_is_given_up(tmp_path, monkeypatch):
    info = soundfile.info

    def short(path):
        return type("Info", (), {"frames": info(path).frames - 1})

    monkeypatch.setattr("cicada.deliver.mixdown.soundfile.info", short)
    with pytest.raises(CannotWrite, match="23999 of 24000 samples"):
        mixdown(*loud_film(), tmp_path / "a.wav")
    assert not list(tmp_path.iterdir())
