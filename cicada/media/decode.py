"""Reading a sound file, whatever usual format it is in, as blocks of mono or stereo samples."""

import os
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from typing import IO

import numpy as np
import soundfile

from cicada.core.arrays import Block
from cicada.disk.reading import open_file
from cicada.errors import BadSound
from cicada.media.blocks import BLOCK_SAMPLES, LONGEST, SoundInfo, SoundReader, finite

Progress = Callable[[float], bool]
"""Told the share done, answers whether to go on."""

# ITU-R BS.775: centre and surrounds at -3 dB, the low-frequency channel left out.
HALF_POWER = 0.5**0.5
# What libsndfile says of a FLAC whose header does not know its length: SF_COUNT_MAX.
UNKNOWN = (1 << 63) - 1
BITS = {"PCM_U8": 8, "PCM_S8": 8, "PCM_16": 16, "PCM_24": 24, "PCM_32": 32}


@contextmanager
def opened(path: Path) -> Iterator[SoundReader]:
    """The file, ready to be read; raises ``BadSound``."""
    with open_file(path, BadSound) as raw:
        size = os.fstat(raw.fileno()).st_size
        if not size:
            raise BadSound("is empty", file=str(path), remedy="export it again, it has no bytes")
        try:
            file = soundfile.SoundFile(raw.fileno(), closefd=False)
        except (RuntimeError, TypeError, OSError):
            file = None
        if file is not None:
            with file:
                if file.frames < UNKNOWN:
                    yield _in_bounds(path, _Plain(path, file, _missing_bytes(raw, size)))
                    return
    # The slow import is for files that need it.
    from cicada.media.containers import open_container

    with open_container(path) as container:
        if not container.info.frames:
            container.info = replace(container.info, frames=_counted(path))
        yield _in_bounds(path, container)


def _counted(path: Path) -> int:
    """How many frames a file has that does not say so, by decoding it."""
    from cicada.media.containers import open_container

    with open_container(path) as container:
        for _ in container.blocks():
            pass
        return container.info.frames


def describe(path: Path) -> SoundInfo:
    """What the file is, going by its header; raises ``BadSound``."""
    with opened(path) as file:
        return file.info


def stereo(block: Block) -> Block:
    """The block with more than two channels mixed down to two."""
    channels = block.shape[1]
    if channels <= 2:
        return block
    if channels in (6, 8):
        left = block[:, 0] + HALF_POWER * (block[:, 2] + block[:, 4])
        right = block[:, 1] + HALF_POWER * (block[:, 2] + block[:, 5])
        if channels == 8:
            left += HALF_POWER * block[:, 6]
            right += HALF_POWER * block[:, 7]
        return np.stack((left, right), axis=1).astype(np.float32)
    mean = block.mean(axis=1, dtype=np.float32)
    return np.stack((mean, mean), axis=1)


def _in_bounds(path: Path, file: SoundReader) -> SoundReader:
    rate, channels = file.info.rate, file.info.channels
    if not 1 <= rate <= 1_000_000:
        raise BadSound(
            f"says it has {rate} samples a second",
            file=str(path),
            remedy="export it at a usual rate, such as 48000",
        )
    if file.info.frames > LONGEST * rate:
        raise BadSound(
            "says it is longer than a day", file=str(path), remedy="cut out the part you need"
        )
    notes = list(file.info.notes)
    if channels > 2:
        notes.append(f"{channels} channels mixed down to stereo")
    if not file.info.frames:
        notes.append("empty, makes no sound")
    if len(notes) > len(file.info.notes):
        file.info = replace(file.info, notes=tuple(notes))
    return file


class _Plain:
    """A file that libsndfile reads."""

    def __init__(self, path: Path, file: soundfile.SoundFile, missing: int) -> None:
        self._path, self._file = path, file
        bits = BITS.get(file.subtype)
        encoding = f"{file.format} {bits} bit" if bits else f"{file.format} {file.subtype_info}"
        notes: tuple[str, ...] = ()
        if missing:
            container = file.format_info.split(" (")[0].split(" /")[0]
            notes = (f"cut short: {missing} bytes fewer than the {container} header says",)
        self.info = SoundInfo(file.frames, file.samplerate, file.channels, encoding, notes)

    def blocks(self) -> Iterator[Block]:
        floats = "FLOAT" in self._file.subtype or "DOUBLE" in self._file.subtype
        count = max(1, BLOCK_SAMPLES // self._file.channels)
        # Of a file that can be sought in no more is ever read than it says it has.
        known = self._file.frames if self._file.seekable() else LONGEST * self.info.rate + 1
        frames = 0
        while frames < known:
            try:
                block = self._file.read(count, dtype="float32", always_2d=True)
            except (RuntimeError, MemoryError) as error:
                text = getattr(error, "error_string", "") or str(error) or type(error).__name__
                reason = text.removeprefix("Error : ").strip().rstrip(".")
                raise BadSound(
                    f"breaks off while being decoded ({reason})",
                    file=str(self._path),
                    remedy="export it again from where it came from",
                ) from None
            if not len(block):
                break
            if floats:
                block = finite(block)
            frames += len(block)
            if frames > LONGEST * self.info.rate:
                raise BadSound(
                    "is longer than a day",
                    file=str(self._path),
                    remedy="cut out the part you need",
                )
            yield block
        if frames != self.info.frames:
            self.info = replace(self.info, frames=frames)


def _missing_bytes(raw: IO[bytes], size: int) -> int:
    """How many bytes of a WAV file's sound are not there, going by its header; 0 for others."""
    head = os.pread(raw.fileno(), 12, 0)
    if head[:4] != b"RIFF" or head[8:] != b"WAVE":
        return 0
    at = 12
    while at + 8 <= size:
        head = os.pread(raw.fileno(), 8, at)
        length = int.from_bytes(head[4:], "little")
        if head[:4] == b"data":
            # 0xFFFFFFFF and 0 are what programs write that do not know the length yet.
            return 0 if length >= 0xFFFFFF00 else max(0, at + 8 + length - size)
        at += 8 + length + length % 2
    return 0
