"""Reading a sound file, whatever usual format it is in, into mono or stereo float samples."""

from dataclasses import dataclass
from pathlib import Path

import numpy as np
import soundfile
from numpy.typing import NDArray

from cicada.errors import BadSound

# ITU-R BS.775: centre and surrounds at -3 dB, the low-frequency channel left out.
HALF_POWER = 0.5**0.5
BITS = {"PCM_U8": 8, "PCM_S8": 8, "PCM_16": 16, "PCM_24": 24, "PCM_32": 32}


@dataclass(frozen=True, slots=True)
class SoundInfo:
    """What a sound file is: ``frames`` sample frames at ``rate``, as it came."""

    frames: int
    rate: int
    channels: int
    encoding: str
    notes: tuple[str, ...] = ()


def describe(path: Path) -> SoundInfo:
    """What the file is, without decoding it; raises ``BadSound``."""
    with _opened(path) as file:
        return _info(path, file, file.frames)


def decode(path: Path) -> tuple[NDArray[np.float32], SoundInfo]:
    """The samples, shape (1 or 2, frames), and what the file is; raises ``BadSound``.

    More than two channels are mixed down to stereo, and the notes say so.
    """
    with _opened(path) as file:
        try:
            samples = file.read(dtype="float32", always_2d=True)
        except (RuntimeError, MemoryError) as error:
            raise BadSound(
                f"breaks off while being decoded ({_reason(error)})",
                file=str(path),
                remedy="export it again from where it came from",
            ) from None
        info = _info(path, file, len(samples))
    if not len(samples):
        raise BadSound("has no sound in it", file=str(path), remedy="export it again, it is empty")
    if "FLOAT" in file.subtype or "DOUBLE" in file.subtype:
        samples = np.nan_to_num(samples, copy=False, posinf=0.0, neginf=0.0)
    return np.ascontiguousarray(_to_stereo(samples).T), info


def _opened(path: Path) -> soundfile.SoundFile:
    if not path.exists():
        raise BadSound("is not there", file=str(path), remedy="check the name and the folder")
    if path.is_dir():
        raise BadSound("is a folder", file=str(path), remedy="name a sound file in it")
    try:
        size = path.stat().st_size
        with path.open("rb") as raw:
            raw.read(1)
    except OSError as error:
        raise BadSound(
            f"cannot be read ({error.strerror})", file=str(path), remedy="check its permissions"
        ) from None
    if not size:
        raise BadSound("is empty", file=str(path), remedy="export it again, it has no bytes")
    try:
        file = soundfile.SoundFile(str(path))
    except (RuntimeError, TypeError) as error:
        raise BadSound(
            f"is not a sound file that can be read here ({_reason(error)})",
            file=str(path),
            remedy="use WAV, AIFF, FLAC, Ogg Vorbis, Opus or MP3",
        ) from None
    if not 1 <= file.samplerate <= 1_000_000:
        rate = file.samplerate
        file.close()
        raise BadSound(
            f"says it has {rate} samples a second",
            file=str(path),
            remedy="export it at a usual rate, such as 48000",
        )
    return file


def _reason(error: BaseException) -> str:
    text = getattr(error, "error_string", "") or str(error) or type(error).__name__
    return text.strip().rstrip(".").split("\n")[0]


def _info(path: Path, file: soundfile.SoundFile, frames: int) -> SoundInfo:
    container = file.format_info.split(" (")[0].split(" /")[0]
    bits = BITS.get(file.subtype)
    encoding = f"{file.format} {bits} bit" if bits else f"{file.format} {file.subtype_info}"
    notes = []
    if file.channels > 2:
        notes.append(f"{file.channels} channels mixed down to stereo")
    missing = _missing_share(path, file)
    if missing:
        notes.append(f"cut short: {missing} bytes fewer than the {container} header says")
    return SoundInfo(frames, file.samplerate, file.channels, encoding, tuple(notes))


def _missing_share(path: Path, file: soundfile.SoundFile) -> int:
    """How many bytes of a WAV file's sound are not there, going by its header."""
    if file.format not in ("WAV", "WAVEX"):
        return 0
    size = path.stat().st_size
    with path.open("rb") as raw:
        at = 12
        while at + 8 <= size:
            raw.seek(at)
            head = raw.read(8)
            length = int.from_bytes(head[4:], "little")
            if head[:4] == b"data":
                # 0xFFFFFFFF and 0 are what programs write that do not know the length yet.
                return 0 if length >= 0xFFFFFF00 else max(0, at + 8 + length - size)
            at += 8 + length + length % 2
    return 0


def _to_stereo(samples: NDArray[np.float32]) -> NDArray[np.float32]:
    channels = samples.shape[1]
    if channels <= 2:
        return samples
    if channels in (6, 8):
        left = samples[:, 0] + HALF_POWER * (samples[:, 2] + samples[:, 4])
        right = samples[:, 1] + HALF_POWER * (samples[:, 2] + samples[:, 5])
        if channels == 8:
            left += HALF_POWER * samples[:, 6]
            right += HALF_POWER * samples[:, 7]
        return np.stack((left, right), axis=1).astype(np.float32)
    mean = samples.mean(axis=1, dtype=np.float32)
    return np.stack((mean, mean), axis=1)
