"""What was promised of a file, what it turned out to be, and whether that is the same."""

from typing import Literal

from msgspec import Struct

What = Literal["frames", "rate", "channels", "start", "peak", "loudness", "ceiling", "whole"]


class Promise(Struct, frozen=True):
    """What was ``wanted`` and ``found``, where these are numbers, and the sentence about it."""

    what: What
    kept: bool
    said: str
    wanted: float | None = None
    found: float | None = None


class File(Struct, frozen=True):
    """A file that was delivered; ``name`` is where it stands below the folder.

    Of sound: ``peak`` and ``true_peak`` in dB of full scale, ``loudness`` in LUFS (None: silent, or
    too short to have one), ``gain`` in dB.
    """

    name: str
    size: int
    kind: str
    frames: int | None = None
    rate: int | None = None
    channels: int | None = None
    gain: float | None = None
    peak: float | None = None
    true_peak: float | None = None
    loudness: float | None = None
    promises: tuple[Promise, ...] = ()

    @property
    def missed(self) -> tuple[Promise, ...]:
        """The promises that were not kept."""
        return tuple(promise for promise in self.promises if not promise.kept)
