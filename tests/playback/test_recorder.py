"""What is recorded is on disk to the sample, as it comes, and nothing of it is lost."""

import os
import time

import numpy as np
import pytest
import soundfile
from hypothesis import given
from hypothesis import strategies as st

from cicada.errors import BadSound
from cicada.media import take_file
from cicada.media.take_file import Shape, TakeFile, mend, to_24_bit
from cicada.playback import recorder as recording
from cicada.playback.input import Attached, InputDevice, InputFailed, SimulatedInput
from cicada.playback.probe import found, probe, probe_as_heard
from cicada.playback.recorder import Begin, End, Find, Found, Lost, Open, Recorder, Slipped, Taken
from cicada.playback.recorder_process import RecorderProcess
from tests.sound_files import write_sound

RATE = 48000
STEP = 2.0**-23


def noise(seconds, channels=1, seed=3):
    numbers = np.random.default_rng(seed).integers(
        -(1 << 23), 1 << 23, (round(seconds * RATE), channels)
    )
    return (numbers * STEP).astype(np.float32)


class Played:
    """An input that gives samples at once, and says what a test wants it to."""

    rate = RATE

    def __init__(self, samples, portion=480):
        self.samples, self.portion, self.at = samples, portion, 0
        self.channels = samples.shape[1]
        self.late = 0.0
        self.sure = Attached(there=True, sure=0)

    def read(self):
        block = self.samples[self.at : self.at + self.portion]
        if len(block) < self.portion:
            raise InputFailed("the input has gone", remedy="connect it again")
        self.at += len(block)
        return block

    def delay(self):
        return 0.0

    def attached(self):
        return self.sure

    def close(self):
        self.closed = True


class Recording:
    """A recorder of given samples, with what it has said."""

    def __init__(self, samples, columns=(0,)):
        self.input, self.said = Played(samples), []
        self.recorder = Recorder(
            self.input, columns, self.said.append, lambda: self.input.at / RATE + self.input.late
        )

    def go(self, seconds):
        for _ in range(round(seconds * 100)):
            self.recorder.step()

    def of(self, kind):
        return [each for each in self.said if isinstance(each, kind)]


def read(path):
    return soundfile.read(path, dtype="float32", always_2d=True)


def test_a_take_is_what_came_in_from_a_sample_on_even_one_before_it_was_asked_for(tmp_path):
    samples, path = noise(6, 2), tmp_path / "take.wav"
    made = Recording(samples, (0, 1))
    made.go(2)
    made.recorder.begin(Begin(str(path), at=1 * RATE + 7))
    made.go(2)
    made.recorder.end(End(at=5 * RATE - 11))
    made.go(1.5)
    (taken,) = made.of(Taken)
    assert (taken.at, taken.frames, taken.last) == (RATE + 7, 4 * RATE - 18, True)
    heard, rate = read(path)
    assert rate == RATE
    assert soundfile.info(path).subtype == "PCM_24"
    np.testing.assert_array_equal(heard, samples[RATE + 7 : 5 * RATE - 11])


def test_of_an_input_the_channels_chosen_are_kept(tmp_path):
    samples = noise(1, 4)
    made = Recording(samples, (2,))
    made.recorder.begin(Begin(str(tmp_path / "a.wav")))
    made.go(0.5)
    made.recorder.close()
    np.testing.assert_array_equal(read(tmp_path / "a.wav")[0], samples[: RATE // 2, 2:3])


def test_each_round_is_a_file_of_its_own_and_together_they_are_all_that_came(tmp_path):
    samples = noise(4)
    made = Recording(samples)
    made.recorder.begin(Begin(str(tmp_path / "a.wav"), at=100, every=44100.5))
    made.go(3)
    made.recorder.end(End())
    taken = made.of(Taken)
    assert [each.round for each in taken] == [0, 1, 2, 3]
    assert [each.last for each in taken] == [False, False, False, True]
    assert [each.at for each in taken] == [100, 44200, 88301, 132402]
    whole = np.concatenate([read(each.path)[0] for each in taken])
    np.testing.assert_array_equal(whole, samples[100 : 3 * RATE])


def test_an_input_that_goes_ends_the_take_and_says_so(tmp_path):
    made = Recording(noise(1))
    made.recorder.begin(Begin(str(tmp_path / "a.wav")))
    made.go(1.01)
    (taken,), (lost,) = made.of(Taken), made.of(Lost)
    assert taken.frames == RATE
    assert "gone" in taken.trouble
    assert "gone" in lost.trouble
    assert not made.recorder.open


def test_what_came_from_another_input_after_ours_had_gone_is_cut_off(tmp_path):
    samples = noise(2)
    made = Recording(samples)
    made.recorder.begin(Begin(str(tmp_path / "a.wav")))
    made.input.sure = Attached(there=True, sure=0)
    made.go(1)
    made.input.sure = Attached(there=False, sure=30_000)
    made.go(0.01)
    (taken,) = made.of(Taken)
    assert taken.frames == 30_000
    np.testing.assert_array_equal(read(taken.path)[0], samples[:30_000])


def test_a_full_disk_ends_the_take_and_keeps_what_fits(tmp_path, monkeypatch):
    samples, written = noise(2), os.pwrite
    room = [100_000]

    def full(handle, data, place):
        if place > room[0]:
            raise OSError(28, "No space left on device")
        return written(handle, bytes(data)[: max(0, room[0] - place + 1)], place)

    monkeypatch.setattr(take_file.os, "pwrite", full)
    made = Recording(samples)
    made.recorder.begin(Begin(str(tmp_path / "a.wav")))
    made.go(1)
    monkeypatch.undo()
    (taken,) = made.of(Taken)
    assert "no room" in taken.trouble
    heard = read(taken.path)[0]
    assert len(heard) == taken.frames > 30_000
    np.testing.assert_array_equal(heard, samples[: taken.frames])


def test_a_level_at_full_scale_is_counted_and_the_highest_is_held():
    samples = np.zeros((RATE, 1), np.float32)
    samples[1000:1003] = 1.0
    samples[30_000] = 0.5
    made = Recording(samples)
    made.go(0.9)
    standing = made.recorder.standing()
    assert (standing.clipped, standing.held, standing.left) == (3, 1.0, 0.0)
    made.recorder.forget_peaks()
    made.go(0.05)
    assert (made.recorder.standing().clipped, made.recorder.standing().held) == (0, 0.0)


def test_an_input_that_is_suddenly_later_for_good_has_slipped():
    made = Recording(np.zeros((6 * RATE, 1), np.float32))
    made.go(2.5)
    made.input.late = 0.02
    made.go(3)
    (slip,) = made.of(Slipped)
    assert slip.seconds == pytest.approx(0.02, abs=1e-6)
    assert slip.at == pytest.approx(2.5 * RATE, abs=RATE)


def test_how_fast_the_input_runs_is_measured_while_it_is_recorded(tmp_path):
    samples = np.zeros((20 * RATE, 1), np.float32)
    made = Recording(samples)
    made.recorder._clock = lambda: made.input.at / (RATE * 1.0001)
    made.recorder.begin(Begin(str(tmp_path / "a.wav")))
    made.go(10)
    made.recorder.end(End())
    assert made.of(Taken)[0].clock == pytest.approx(RATE * 1.0001, rel=1e-7)


@pytest.mark.parametrize(("played_at", "gain"), [(RATE, 1.0), (44100, 0.05), (RATE, -0.3)])
def test_the_probe_is_found_where_it_came_in_whatever_its_level(played_at, gain):
    samples = 0.002 * noise(5)
    sought = probe_as_heard(played_at, RATE)
    samples[70_123 : 70_123 + len(sought), 0] += gain * sought
    made = Recording(samples)
    made.go(0.5)
    made.recorder.find(Find(played_at))
    made.go(3.5)
    assert made.of(Found) == [Found(70_123)]


def test_where_nothing_comes_back_no_probe_is_found():
    made = Recording(noise(5))
    made.recorder.find(Find(RATE))
    made.go(4)
    assert made.of(Found) == [Found(None)]
    assert found(np.zeros((RATE, 1), np.float32), probe(RATE)) is None
    assert found(np.zeros((10, 1), np.float32), probe(RATE)) is None


@given(numbers=st.lists(st.integers(-(1 << 23), (1 << 23) - 1), max_size=50))
def test_a_sample_on_the_24_bit_grid_is_written_as_it_is(numbers):
    block = (np.array(numbers, np.float64) * STEP).astype(np.float32)[:, None]
    np.testing.assert_array_equal(to_24_bit(block)[:, 0], numbers)
    assert to_24_bit(np.array([[1.5], [-1.5]], np.float32)).tolist() == [
        [(1 << 23) - 1],
        [-(1 << 23)],
    ]


@given(frames=st.integers(0, 40), channels=st.integers(1, 3), extra=st.integers(0, 8))
def test_a_take_whose_writer_was_killed_is_mended_to_all_that_is_in_it(
    frames, channels, extra, tmp_path_factory
):
    path, samples = tmp_path_factory.mktemp("take") / "a.wav", noise(1, channels)[:frames]
    writer = TakeFile(path, Shape(RATE, channels))
    writer.write(samples)
    os.close(writer._handle)
    with path.open("ab") as file:
        file.write(b"\1" * min(extra, 3 * channels - 1))
    assert mend(path) == frames
    if frames:
        np.testing.assert_array_equal(read(path)[0], samples)


@pytest.mark.parametrize("data", [b"", b"RIFF", b"RIFF" + bytes(100), os.urandom(200)])
def test_what_is_no_take_is_not_mended(tmp_path, data):
    path = tmp_path / "a.wav"
    path.write_bytes(data)
    with pytest.raises(BadSound):
        mend(path)
    assert path.read_bytes() == data


def test_a_take_over_four_gigabytes_says_how_long_it_is():
    head = take_file._head(Shape(RATE, 2), 5 * 10**9)
    assert (head[:4], head[12:16]) == (b"RF64", b"ds64")
    assert int.from_bytes(head[28:36], "little") == 5 * 10**9
    assert int.from_bytes(head[36:44], "little") == 5 * 10**9 // 6


def test_the_simulated_input_gives_a_file_at_the_speed_of_time_and_then_silence(tmp_path):
    path = write_sound(tmp_path / "voice.wav", noise(0.105), RATE, "PCM_24")
    now = [100.0]
    source = SimulatedInput(
        path, lambda: now[0], lambda seconds: now.__setitem__(0, now[0] + seconds)
    )
    heard = np.concatenate([source.read() for _ in range(20)])
    np.testing.assert_array_equal(heard[:5040], noise(0.105))
    assert not heard[5040:].any()
    assert now[0] == pytest.approx(100.2)
    assert source.delay() == pytest.approx(0.0)
    assert source.attached().sure == len(heard)
    source.close()


def wait_for(there, timeout=20):
    until = time.monotonic() + timeout
    while not (found := there()):
        assert time.monotonic() < until
        time.sleep(0.01)
    return found


def test_a_recorder_that_is_killed_leaves_all_but_the_last_second(tmp_path):
    samples = noise(30)
    voice = write_sound(tmp_path / "voice.wav", samples, RATE, "PCM_24")
    process, path = RecorderProcess(), tmp_path / "a.wav"
    try:
        process.send(Open(InputDevice(str(voice), "a voice", RATE, 1), (0,), simulated=True))
        wait_for(lambda: process.standing().at > 0)
        process.send(Begin(str(path), at=0))
        kept = wait_for(lambda: (k := process.standing().kept) > RATE and k)
        os.kill(process.pid, 9)
        wait_for(lambda: not process.alive)
    finally:
        process.close()
    frames = mend(path)
    assert frames > kept - RATE
    np.testing.assert_array_equal(read(path)[0], samples[:frames])


def test_an_input_that_is_not_there_is_said_in_a_sentence(tmp_path):
    process = RecorderProcess()
    try:
        process.send(
            Open(InputDevice(str(tmp_path / "no.wav"), "none", RATE, 1), (0,), simulated=True)
        )
        (said,) = wait_for(
            lambda: [x for x in process.reports() if isinstance(x, recording.Opened)]
        )
        assert "no.wav" in said.trouble
    finally:
        process.close()


@pytest.mark.alone
@pytest.mark.parametrize("server", ["PulseAudio", "PipeWire"], indirect=True)
def test_an_input_of_the_server_that_goes_away_ends_the_take_without_what_came_from_another(
    server, tmp_path
):
    pulse, _ = server
    module = pulse.control("load-module", "module-null-sink", "sink_name=mic", f"rate={RATE}")
    process, path, said = RecorderProcess(), tmp_path / "a.wav", []

    def of(kind):
        said.extend(process.reports())
        return [each for each in said if isinstance(each, kind)]

    def microphone():
        listed = of(recording.Inputs)
        there = listed[-1].there if listed else ()
        return next((each for each in there if each.name == "mic.monitor"), None)

    try:
        device = wait_for(microphone)
        assert (device.rate, device.channels, device.loop) == (RATE, 2, True)
        process.send(Open(device, (0, 1), folder=str(tmp_path)))
        wait_for(lambda: process.standing().at > 0)
        process.send(Begin(str(path)))
        kept = wait_for(lambda: (k := process.standing().kept) > 1.2 * RATE and k)
        pulse.control("unload-module", module)
        wait_for(lambda: of(Lost))
        (taken,) = of(Taken)
        assert "gone" in taken.trouble
        assert kept - 1.5 * RATE < taken.frames
        assert soundfile.info(path).frames == taken.frames
    finally:
        process.close()
