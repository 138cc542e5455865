"""One sound file: written, read back, measured, and held against what was promised."""

import shutil
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import NamedTuple

import numpy as np
import soundfile

from cicada.core.arrays import Samples
from cicada.core.recipes import Encoding, Loud
from cicada.deliver.encoding import encoding_problem, encoding_to, name_of, whole_size
from cicada.deliver.measuring import BEFORE, FARTHEST, KEPT, Measured, shifted
from cicada.deliver.mixdown import NARROW
from cicada.deliver.promises import File, Promise
from cicada.deliver.signal import Signal
from cicada.disk.why import size_text, why
from cicada.errors import Cancelled, CannotWrite

Going = Callable[[float], bool]
"""Told the share done, answers whether to go on."""

# How often a file that goes above its ceiling is written again, lower.
TIMES = 3
# In dB: by how much more it is lowered than it was too high, and what counts as the same.
MORE, SAME = 0.03, 0.05
# Samples by which coding at a low quality moves what it takes for speech; it is said.
CODED = 4
# A mean is not moved by a file's last bit; a peak may be.
LOUDNESS_SAME = 0.1


class Aim(NamedTuple):
    """The gain in dB, and why it is less than what is aimed at; empty if it is not."""

    gain: float
    short: str


def aimed(loud: Loud, found: Measured) -> Aim:
    """The gain that brings what was measured to what is aimed at; the ceiling wins."""
    peak, gain, short = found.true_peak, 0.0, ""
    if peak is None:
        return Aim(0.0, "")
    if loud.aim == "peak":
        gain = loud.target - peak
    elif loud.aim == "loudness" and found.loudness is not None:
        gain = loud.target - found.loudness
    if loud.ceiling is not None and gain > loud.ceiling - peak:
        gain = loud.ceiling - peak
        short = "" if loud.aim == "none" else f"the ceiling of {loud.ceiling:g} dB holds it down"
    return Aim(gain, short)


def problem_of(encoding: Encoding, rate: int) -> None:
    """Raise ``CannotWrite`` if a kind of file does not hold what is asked of it."""
    problem, remedy = encoding_problem(encoding, rate)
    if problem:
        raise CannotWrite(problem, remedy=f"{remedy} in the recipe")


class SoundFile(NamedTuple):
    """What a sound file is made of: its samples, how they are written, and when they begin."""

    signal: Signal
    encoding: Encoding
    seed: int
    # With which sample of the film it begins.
    begins: int = 0


def write_sound(
    made: SoundFile, path: Path, name: str, loud: Loud, going: Going, gain: float | None = None
) -> File:
    """Write a sound file by the gain it aims at, as often as it takes to keep its ceiling.

    It is written into ``path``, and known as ``name`` from then on. With a ``gain`` in dB it is
    written by that, whatever comes of it. Raises ``CannotWrite`` or ``Cancelled``.
    """
    begun, aim = 0.0, Aim(gain or 0.0, "")
    if gain is not None:
        loud = Loud()
    elif loud != Loud():
        begun = 0.3
        aim = aimed(loud, measured(made.signal, going, 0.0, begun))
    by = aim.gain
    with _said_of(name):
        for turn in range(TIMES + 1):
            written = _written(made, path, by, going, begun, 0.9)
            found = _read_back(path, written)
            above = _above(loud, found.measured)
            if not above or turn == TIMES:
                break
            by -= above + MORE
            begun = 0.6
        size = path.stat().st_size
    now = found.measured
    if not going(1.0):
        raise Cancelled("the delivery was stopped; nothing of it was written")
    return File(
        name, size, name_of(made.encoding), now.frames, now.rate, now.channels, round(by, 3),
        _rounded(now.peak), _rounded(now.true_peak), _rounded(now.loudness),
        (*_as_written(made, written, found), *_as_loud(loud, aim.short, now)),
    )  # fmt: skip


def _rounded(value: float | None) -> float | None:
    return None if value is None else round(value, 2)


def measured(signal: Signal, going: Going, begun: float = 0.0, done: float = 1.0) -> Measured:
    """What all of a signal is; raises ``Cancelled``."""
    return Measured(signal.rate, signal.channels).all_of(_told(signal, going, begun, done))


def _told(signal: Signal, going: Going, begun: float, done: float) -> Iterator[Samples]:
    """The blocks of a signal, each said to be done; raises ``Cancelled``."""
    at = 0
    for block in signal.blocks():
        yield block
        at += block.shape[1]
        if not going(begun + (done - begun) * min(1.0, at / signal.length)):
            raise Cancelled("the delivery was stopped; nothing of it was written")


class _Written(NamedTuple):
    """What went into a file, and how many samples of it did not fit."""

    measured: Measured
    clipped: int


def _written(
    made: SoundFile, path: Path, gain: float, going: Going, begun: float, done: float
) -> _Written:
    signal, factor = made.signal, np.float32(10 ** (gain / 20))
    _has_room(made, path)
    heard = Measured(signal.rate, signal.channels)
    with encoding_to(
        path, made.encoding, signal.rate, signal.channels, signal.length,
        begins=made.begins, seed=made.seed,
    ) as encoder:  # fmt: skip
        for block in _told(signal, going, begun, done):
            louder = block if gain == 0 else block * factor
            encoder.write(louder)
            heard.add(louder)
    return _Written(heard, encoder.clipped)


def _has_room(made: SoundFile, path: Path) -> None:
    """Refuse beforehand what a kind of file, or the disk, cannot hold."""
    encoding, signal = made.encoding, made.signal
    size = whole_size(encoding, signal.channels, signal.length) or 0
    if encoding.kind == "aiff" and size >= NARROW:
        raise CannotWrite(
            f"the file takes {size_text(size)}, and AIFF holds 4.2 GB",
            remedy="choose WAV or CAF in the recipe",
        )
    free = shutil.disk_usage(path).free
    if size > free:
        raise CannotWrite(
            f"the file takes {size_text(size)}, and {size_text(free)} are free",
            remedy="free some space or choose another folder",
        )


class _Found(NamedTuple):
    """What was read back, and by how many samples it comes late; None: nothing is heard of it."""

    measured: Measured
    late: int | None


def _read_back(path: Path, written: _Written) -> _Found:
    with soundfile.SoundFile(path) as file:
        now = Measured(file.samplerate, file.channels)
        about = written.measured.begins
        first = None if about is None else about - BEFORE - FARTHEST
        stretch, wanted = list[Samples](), KEPT + 2 * FARTHEST
        at = 0
        for block in _blocks(file):
            now.add(block)
            if first is not None:
                low, high = max(0, first - at), max(0, first + wanted - at)
                stretch.append(block[:, low:high])
            at += block.shape[1]
    if first is None or not stretch:
        return _Found(now, None)
    heard = np.concatenate(stretch, axis=1)
    heard = np.pad(heard, ((0, 0), (max(0, -first), 0)))
    return _Found(now, shifted(written.measured, heard))


def _blocks(file: soundfile.SoundFile) -> Iterator[Samples]:
    for block in file.blocks(1 << 16, dtype="float32", always_2d=True):
        yield np.ascontiguousarray(block.T)


def _above(loud: Loud, found: Measured) -> float:
    """By how many dB a file goes above its ceiling."""
    if loud.ceiling is None or found.true_peak is None:
        return 0.0
    return found.true_peak - loud.ceiling if found.true_peak > loud.ceiling + SAME / 5 else 0.0


def _as_written(made: SoundFile, written: _Written, found: _Found) -> Iterator[Promise]:
    signal, now = made.signal, found.measured
    for what, wanted, is_now, unit in (
        ("frames", signal.length, now.frames, "samples long"),
        ("rate", signal.rate, now.rate, "samples a second"),
        ("channels", signal.channels, now.channels, "channels" if now.channels > 1 else "channel"),
    ):
        yield Promise(
            what, wanted == is_now, f"{is_now:,} {unit}" if wanted == is_now  # type: ignore[arg-type]
            else f"{is_now:,} {unit} instead of {wanted:,}", wanted, is_now,
        )  # fmt: skip
    if found.late is not None:
        late = found.late
        said = "begins on its sample" if not late else f"begins {late:+,} samples beside its own"
        near = CODED if made.encoding.lossy else 0
        yield Promise("start", abs(late) <= near, said, 0, late)
    peak = written.measured.peak
    over = peak is not None and peak > 0 and made.encoding.lossy
    if written.clipped or over:
        said = f"{written.clipped:,} samples were cut off" if written.clipped else (
            f"goes to {peak:+.1f} dB, which players cut off"
        )  # fmt: skip
        yield Promise("whole", kept=False, said=f"{said}; set a ceiling in the recipe")


def _as_loud(loud: Loud, short: str, found: Measured) -> Iterator[Promise]:
    if found.true_peak is None:
        return
    if loud.aim == "peak":
        yield _aim_kept("peak", "dB", loud.target, found.true_peak, short, SAME)
    elif loud.aim == "loudness" and found.loudness is None:
        yield Promise("loudness", False, "is too short to have a loudness", loud.target, None)
    elif loud.aim == "loudness" and found.loudness is not None:
        yield _aim_kept("loudness", "LUFS", loud.target, found.loudness, short, LOUDNESS_SAME)
    if loud.ceiling is not None:
        kept = found.true_peak <= loud.ceiling + SAME / 5
        said = f"stays below {loud.ceiling:g} dB" if kept else (
            f"goes to {found.true_peak:.2f} dB, above {loud.ceiling:g}"
        )  # fmt: skip
        yield Promise("ceiling", kept, said, loud.ceiling, round(found.true_peak, 3))


def _aim_kept(
    what: str, unit: str, wanted: float, found: float, short: str, same: float
) -> Promise:
    kept = abs(found - wanted) <= same
    said = f"{found:.1f} {unit}" if kept else f"{found:.1f} {unit} instead of {wanted:g}"
    if not kept and short:
        said += f": {short}"
    return Promise(what, kept, said, wanted, round(found, 3))  # type: ignore[arg-type]


@contextmanager
def _said_of(name: str) -> Iterator[None]:
    """Say in a sentence what goes wrong with a file."""
    try:
        yield
    except CannotWrite as error:
        raise (error if error.file else error.at(name)) from None
    except (soundfile.SoundFileError, OSError, ValueError) as error:
        if isinstance(error, soundfile.SoundFileError):
            text = getattr(error, "error_string", str(error))
            said = text.removeprefix("Error : ").rstrip(".").lower()
        else:
            said = why(error)
        raise CannotWrite(
            f"cannot be written ({said})", file=name, remedy="choose another folder"
        ) from None
