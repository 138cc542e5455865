"""Rendering a plan to a sound file: the same samples and bytes every time."""

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
DEFAULT_SUBTYPES = {"FLAC": "PCM_24", "OGG": "VORBIS", "MP3": "MPEG_LAYER_III"}
# libsndfile's SFC_SET_ADD_PEAK_CHUNK: that chunk holds the time of writing.
_SET_ADD_PEAK_CHUNK = 0x1050


@dataclass(frozen=True, slots=True)
class Mixdown:
    """What was written, and how loud it is."""

    path: Path
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
    mixer = Mixer(plan, project, sources, silent)
    try:
        with whole_file(path) as made:
            levels = _write(mixer, plan, made.path, kind, wanted, progress)
    except (OSError, ValueError, RuntimeError) as error:
        reason = getattr(error, "strerror", None) or getattr(error, "error_string", str(error))
        raise CannotWrite(
            f"cannot be written ({reason})", file=str(path), remedy="choose another folder"
        ) from None
    return Mixdown(path, wanted, plan.length, plan.rate, levels)


def _write(
    mixer: Mixer, plan: Plan, part: Path, kind: str, subtype: str, progress: Callable[[float], bool]
) -> MixLevels:
    meter = LevelMeter()
    with soundfile.SoundFile(
        part, "w", samplerate=plan.rate, channels=2, format=kind, subtype=subtype
    ) as file:
        _leave_out_time_stamp(file)
        for start in range(0, plan.length, BLOCK):
            block = mixer.mix(start, min(BLOCK, plan.length - start))
            meter.hear(block, start)
            file.write(np.ascontiguousarray(block.T))
            if not progress((start + block.shape[1]) / plan.length):
                raise Cancelled("the mixdown was stopped; nothing was written")
    return meter.levels()


def _leave_out_time_stamp(file: soundfile.SoundFile) -> None:
    # soundfile has no public way to send this command to libsndfile.
    soundfile._snd.sf_command(file._file, _SET_ADD_PEAK_CHUNK, soundfile._ffi.NULL, 0)  # noqa: SLF001 - see above
