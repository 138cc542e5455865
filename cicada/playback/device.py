"""Devices without a sound server, by PortAudio."""

import sounddevice
from typing_extensions import override

from cicada.core.arrays import Block
from cicada.playback.output import LATENCY, AudioOutput, OutputFailed


class DeviceOutput(AudioOutput):
    """The system's default output. Raises ``OutputFailed`` if there is none."""

    real = True

    def __init__(self, rate: int, block: int, latency: float = LATENCY) -> None:
        self.rate, self.missed = rate, 0
        try:
            self._stream = sounddevice.OutputStream(
                samplerate=rate, channels=2, dtype="float32", blocksize=block, latency=latency
            )
            self._stream.start()
            self.name = str(sounddevice.query_devices(self._stream.device)["name"])
        except (sounddevice.PortAudioError, ValueError, OSError) as error:
            raise OutputFailed(
                f"no sound comes out ({error})", remedy="connect a sound device"
            ) from None

    @override
    def write(self, block: Block) -> None:
        try:
            self.missed += bool(self._stream.write(block))
        except sounddevice.PortAudioError as error:
            raise OutputFailed(
                f"the sound device has gone ({error})", remedy="connect it again"
            ) from None

    @override
    def delay(self) -> float:
        return float(self._stream.latency)

    @override
    def close(self) -> None:
        self._stream.close(ignore_errors=True)


def look_again() -> None:
    """Let the library see devices that have come since it was loaded."""
    # The library offers this by no other name.
    sounddevice._terminate()  # noqa: SLF001
    sounddevice._initialize()  # noqa: SLF001
