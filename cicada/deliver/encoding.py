"""Writing sound in the kinds a recipe may name, and what each kind holds."""

import struct
from collections.abc import Iterator
from contextlib import contextmanager
from math import log2
from pathlib import Path
from typing import NamedTuple

import numpy as np
import soundfile

from cicada.core.arrays import Samples
from cicada.core.dither import Dither
from cicada.core.recipes import Encoding, SoundKind
from cicada.deliver.mixdown import NARROW, leave_out_time_stamp


class Kind(NamedTuple):
    """How libsndfile calls a kind of file, its suffix, and the rates it holds (none: all)."""

    format: str
    suffix: str
    rates: tuple[int, ...] = ()
    subtype: str = ""


KINDS: dict[SoundKind, Kind] = {
    "wav": Kind("WAV", ".wav"),
    "flac": Kind("FLAC", ".flac"),
    "vorbis": Kind("OGG", ".ogg", (), "VORBIS"),
    "opus": Kind("OGG", ".opus", (8000, 12000, 16000, 24000, 48000), "OPUS"),
    "mp3": Kind(
        "MP3", ".mp3", (8000, 11025, 12000, 16000, 22050, 24000, 32000, 44100, 48000),
        "MPEG_LAYER_III",
    ),
    "aiff": Kind("AIFF", ".aiff"),
    "caf": Kind("CAF", ".caf"),
}  # fmt: skip
_SUBTYPES = {16: "PCM_16", 24: "PCM_24", 32: "FLOAT"}
# libsndfile's SFC_SET_BROADCAST_INFO, and its structure without the coding history.
_SET_BROADCAST_INFO = 0x10F1
_BROADCAST, _UNKNOWN = "<256s32s32s10s8s2xIIH64s5h180sI256s", 0x7FFF
# Opus is as good as it gets at half of what libsndfile lets it take; LAME refuses the lowest.
_OPUS, _LOWEST = 0.5, 0.001


def nearest_rate(kind: SoundKind, rate: int) -> int:
    """The rate itself if files of that kind hold it, else the nearest; of two the higher."""
    rates = KINDS[kind].rates
    if not rates or rate in rates:
        return rate
    return min(rates, key=lambda held: (abs(log2(held / rate)), -held))


def encoding_problem(encoding: Encoding, rate: int) -> tuple[str, str]:
    """What a kind of file does not hold, and what to choose instead; two empty texts if it does."""
    nearest = nearest_rate(encoding.kind, rate)
    if nearest != rate:
        return f"{name_of(encoding)} holds no {rate:,} samples a second", f"choose {nearest:,}"
    if encoding.kind == "flac" and encoding.bits == 32:
        return "FLAC holds no floating point", "choose 24 bits"
    return "", ""


def name_of(encoding: Encoding) -> str:
    """What people call a kind of file."""
    names = {"vorbis": "Ogg Vorbis", "opus": "Opus"}
    return names.get(encoding.kind, encoding.kind.upper())


def suffix_of(encoding: Encoding) -> str:
    """The suffix of its files."""
    return KINDS[encoding.kind].suffix


def whole_size(encoding: Encoding, channels: int, length: int) -> int | None:
    """The bytes of a file of ``length`` samples but for its header; None if encoding tells them."""
    if encoding.lossy or encoding.kind == "flac":
        return None
    return channels * length * encoding.bits // 8


class Encoder:
    """A file under way: takes blocks of shape (channels, n)."""

    def __init__(self, file: soundfile.SoundFile, encoding: Encoding, seed: int) -> None:
        self._file = file
        self._dither = Dither(encoding.bits, seed) if encoding.whole_numbers else None
        # libsndfile takes the upper bits of a whole number.
        self._left = 32 - encoding.bits

    def write(self, block: Samples) -> None:
        """Write the next samples."""
        if self._dither is None:
            self._file.write(np.ascontiguousarray(block.T))
        else:
            self._file.write(self._dither.whole(block) << self._left)

    @property
    def clipped(self) -> int:
        """How many samples did not fit so far."""
        return 0 if self._dither is None else self._dither.clipped


@contextmanager
def encoding_to(
    path: Path, encoding: Encoding, rate: int, channels: int, length: int, *, begins: int, seed: int
) -> Iterator[Encoder]:
    """Write a file of ``length`` samples; a WAV says with which sample of the film it ``begins``.

    Raises what libsndfile does.
    """
    kind = KINDS[encoding.kind]
    size = whole_size(encoding, channels, length)
    form = "RF64" if kind.format == "WAV" and size is not None and size >= NARROW else kind.format
    lossy = 1 - encoding.quality * (_OPUS if encoding.kind == "opus" else 1)
    with soundfile.SoundFile(
        path, "w", samplerate=rate, channels=channels, format=form,
        subtype=kind.subtype or _SUBTYPES[encoding.bits],
        compression_level=min(lossy, 1 - _LOWEST) if encoding.lossy else None,
        bitrate_mode="VARIABLE" if encoding.kind == "mp3" else None,
    ) as file:  # fmt: skip
        leave_out_time_stamp(file)
        if encoding.kind == "wav":
            _begin_at(file, begins)
        yield Encoder(file, encoding, seed)


def _begin_at(file: soundfile.SoundFile, sample: int) -> None:
    """Make a Broadcast WAV of it (EBU Tech 3285), with a time reference and without dates."""
    told = struct.pack(
        _BROADCAST, b"", b"Cicada", b"", b"", b"", sample & 0xFFFFFFFF, sample >> 32, 1, b"",
        *(_UNKNOWN,) * 5, b"", 0, b"",
    )  # fmt: skip
    # soundfile has no public way to send this command to libsndfile.
    soundfile._snd.sf_command(file._file, _SET_BROADCAST_INFO, told, len(told))  # noqa: SLF001 - see above
