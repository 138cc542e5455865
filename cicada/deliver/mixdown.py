"""Rendering a plan to a sound file: the same samples and bytes every time."""

import shutil
from collections.abc import Callable, Collection
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import soundfile

from cicada.core.mix import Mixer
from cicada.core.model import Project
from cicada.core.plan import Plan
from cicada.core.tone import Sources
from cicada.deliver.levels import BLOCK, LevelMeter, MixLevels
from cicada.disk.why import size_text, why
from cicada.disk.writing import whole_file
from cicada.errors import Cancelled, CannotWrite

FORMATS = {
    ".wav": "WAV",
    ".flac": "FLAC",
    ".ogg": "OGG",
    ".opus": "OGG",
    ".mp3": "MP3",
    ".aiff": "AIFF",
    ".aif": "AIFF",
    ".caf": "CAF",
    ".w64": "W64",
    ".rf64": "RF64",
    ".au": "AU",
}
# Their header counts bytes in 32 bits.
NARROW_FORMATS = {"WAV", "AIFF", "AU"}
NARROW = (1 << 32) - (1 << 16)
COMPRESSED = {"FLAC", "OGG", "MP3"}
BYTES = {"FLOAT": 4, "PCM_24": 3, "PCM_32": 4, "DOUBLE": 8, "PCM_U8": 1, "PCM_S8": 1}
DEFAULT_SUBTYPES = {"FLAC": "PCM_24", "OGG": "VORBIS", "MP3": "MPEG_LAYER_III"}
# libsndfile's SFC_SET_ADD_PEAK_CHUNK: that chunk holds the time of writing.
_SET_ADD_PEAK_CHUNK = 0x1050


@dataclass(frozen=True, slots=True)
class Mixdown:
    """What was written, and how loud it is."""

    path: Path
    kind: str
    subtype: str
    length: int
    rate: int
    levels: MixLevels

    @property
    def warning(self) -> str:
        """A sentence about samples that did not fit, or nothing."""
        levels = self.levels
        if levels.first_over is None or self.subtype in ("FLOAT", "DOUBLE"):
            return ""
        return (
            f"{levels.over} samples pass full scale, the first at "
            f"{levels.first_over / self.rate:.3f} s, by up to {levels.peak_db:.1f} dB; "
            "lower the project's level or write FLOAT"
        )


def file_format(path: Path, subtype: str | None, rate: int) -> tuple[str, str]:
    """Libsndfile's format and subtype for ``path``; raises ``CannotWrite`` if they do not go."""
    suffix = path.suffix.lower()
    kind = FORMATS.get(suffix)
    if kind is None:
        raise CannotWrite(
            f"{suffix or 'no suffix'} names no format that can be written",
            file=str(path),
            remedy="use " + ", ".join(FORMATS),
        )
    wanted = subtype or DEFAULT_SUBTYPES.get(kind, "FLOAT")
    if suffix == ".opus" and subtype is None:
        wanted = "OPUS"
    if not soundfile.check_format(kind, wanted):
        raise CannotWrite(
            f"{kind} cannot hold {wanted}",
            file=str(path),
            remedy="choose another subtype or another format",
        )
    if wanted == "OPUS" and rate not in (8000, 12000, 16000, 24000, 48000):
        raise CannotWrite(
            f"Opus has no {rate} samples a second",
            file=str(path),
            remedy="write another format or set the project's rate to 48000",
        )
    return kind, wanted


def mixdown(
    plan: Plan,
    project: Project,
    sources: Sources,
    path: Path,
    *,
    subtype: str | None = None,
    silent: Collection[str] = (),
    progress: Callable[[float], bool] = lambda share: True,
) -> Mixdown:
    """Mix the whole plan into ``path``, whole or not at all.

    ``progress`` hears the share done and answers whether to go on. Raises ``CannotWrite`` or
    ``Cancelled``.
    """
    kind, wanted = file_format(path, subtype, plan.rate)
    kind = fitting_format(path, kind, wanted, plan.length, plan.rate)
    mixer = Mixer(plan, project, sources, silent)
    try:
        with whole_file(path) as made:
            levels = _write(mixer, plan, made.path, kind, wanted, progress)
            _read_back(made.path, path, kind, wanted, plan.length)
    except (OSError, ValueError, RuntimeError) as error:
        if isinstance(error, soundfile.SoundFileError):
            reason = error.error_string.removeprefix("Error : ").rstrip(".").lower()
        else:
            reason = why(error) if isinstance(error, OSError | ValueError) else str(error)
        raise CannotWrite(
            f"cannot be written ({reason})", file=str(path), remedy="choose another folder"
        ) from None
    return Mixdown(path, kind, wanted, plan.length, plan.rate, levels)


def size_of(subtype: str, length: int) -> int:
    """About how many bytes a mix of ``length`` samples takes."""
    # What is compressed is taken to be as large as its samples would be, at most.
    return 2 * length * BYTES.get(subtype, 2) + 4096


def fitting_format(path: Path, kind: str, subtype: str, length: int, rate: int) -> str:
    """The format itself, or for a WAV over 4 GB RF64; raises ``CannotWrite`` if nothing fits."""
    size = size_of(subtype, length)
    if size >= NARROW and kind in NARROW_FORMATS:
        if kind != "WAV":
            raise CannotWrite(
                f"the mix takes {size_text(size)}, and {kind} holds 4.2 GB",
                file=str(path),
                remedy="write WAV, CAF or FLAC, or set a limit",
            )
        kind = "RF64"
    if kind == "FLAC" and length >= 1 << 36:
        raise CannotWrite(
            f"the mix is {length / rate / 3600:.0f} hours long, more than FLAC holds",
            file=str(path),
            remedy="write WAV, or set a limit",
        )
    try:
        free = shutil.disk_usage(path.parent).free
    except (OSError, ValueError):
        # What is wrong there is said when it is written.
        return kind
    if size > free and kind not in COMPRESSED:
        raise CannotWrite(
            f"the mix takes {size_text(size)}, and {size_text(free)} are free",
            file=str(path),
            remedy="free some space, choose another disk, or set a limit",
        )
    return kind


def _read_back(part: Path, path: Path, kind: str, subtype: str, length: int) -> None:
    """See that what was written has all samples, as whoever reads it will find."""
    if kind in COMPRESSED - {"FLAC"}:
        return
    found = soundfile.info(str(part)).frames
    if found != length:
        raise CannotWrite(
            f"was written with {found} of {length} samples, so it was given up ({subtype})",
            file=str(path),
            remedy="write another format",
        )


def _write(
    mixer: Mixer, plan: Plan, part: Path, kind: str, subtype: str, progress: Callable[[float], bool]
) -> MixLevels:
    meter = LevelMeter()
    with soundfile.SoundFile(
        part, "w", samplerate=plan.rate, channels=2, format=kind, subtype=subtype
    ) as file:
        leave_out_time_stamp(file)
        for start in range(0, plan.length, BLOCK):
            block = mixer.mix(start, min(BLOCK, plan.length - start))
            meter.hear(block, start)
            file.write(np.ascontiguousarray(block.T))
            if not progress((start + block.shape[1]) / plan.length):
                raise Cancelled("the mixdown was stopped; nothing was written")
    return meter.levels()


def leave_out_time_stamp(file: soundfile.SoundFile) -> None:
    """Have the same samples make the same bytes whenever they are written."""
    # soundfile has no public way to send this command to libsndfile.
    soundfile._snd.sf_command(file._file, _SET_ADD_PEAK_CHUNK, soundfile._ffi.NULL, 0)  # noqa: SLF001 - see above
