"""What every output must do, real, silent or recording."""

import time

import numpy as np
import pytest

from cicada.playback.output import LATENCY, OutputFailed, RecordingOutput, SilentOutput

RATE, BLOCK = 48000, 512


def device():
    from cicada.playback.device import DeviceOutput

    return DeviceOutput(RATE, BLOCK)


def sink():
    from cicada.playback.server import ServerOutput

    return ServerOutput(RATE)


OUTPUTS = {
    "server": sink,
    "silent": lambda: SilentOutput(RATE),
    "recording": lambda: RecordingOutput(RATE),
    "device": device,
}


@pytest.fixture
def output(request):
    if request.param == "server":
        request.getfixturevalue("server")
    if request.param == "device":
        import sounddevice

        request.getfixturevalue("server")
        # The library keeps the list of devices it found when it was first loaded.
        sounddevice._terminate()
        sounddevice._initialize()
    made = OUTPUTS[request.param]()
    yield made
    made.close()


CASES = [
    "silent",
    "recording",
    pytest.param("device", marks=pytest.mark.alone),
    pytest.param("server", marks=pytest.mark.alone),
]


@pytest.mark.parametrize("output", CASES, indirect=True)
def test_an_output_takes_blocks_and_says_how_far_behind_it_is(output):
    assert output.rate == RATE
    for _ in range(4):
        output.write(np.zeros((BLOCK, 2), np.float32))
    assert 0 <= output.delay() < 1


def test_the_silent_output_takes_as_long_as_the_sound():
    output = SilentOutput(RATE)
    began = time.monotonic()
    for _ in range(40):
        output.write(np.zeros((BLOCK, 2), np.float32))
    took = time.monotonic() - began
    assert took >= 40 * BLOCK / RATE - LATENCY - 0.01


def test_no_device_is_said_in_one_sentence(monkeypatch):
    from cicada.playback import device as module

    def fail(**_):
        raise module.sounddevice.PortAudioError("no default output")

    monkeypatch.setattr(module.sounddevice, "OutputStream", fail)
    with pytest.raises(OutputFailed, match="connect"):
        module.DeviceOutput(RATE, BLOCK)


def test_the_recording_keeps_every_sample():
    output = RecordingOutput(RATE)
    block = np.arange(2 * BLOCK, dtype=np.float32).reshape(BLOCK, 2)
    output.write(block)
    output.write(block)
    assert np.array_equal(output.recorded(), np.concatenate([block, block]))
