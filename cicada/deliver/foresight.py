"""What a delivery will be, before anything is written: how long, how large, what mono costs."""

from collections.abc import Iterator
from math import log10
from pathlib import Path
from tempfile import gettempdir

import msgspec
import numpy as np

from cicada.core.arrays import Samples
from cicada.core.model import Project
from cicada.core.passage import Passage
from cicada.core.recipes import (
    BundleRecipe,
    DataRecipe,
    Encoding,
    SheetRecipe,
    TrimmedRecipe,
    VideoRecipe,
)
from cicada.core.scoped import Asked
from cicada.deliver.encoding import encoding_to, whole_size
from cicada.deliver.levels import BLOCK
from cicada.deliver.ready import Prepared, said_beforehand
from cicada.deliver.signal import Signal
from cicada.deliver.stretch import Stretch
from cicada.disk.writing import new_file
from cicada.media.sources import SoundSources

# Of what only encoding tells, so many stretches of so many seconds are encoded.
STRETCHES, SECONDS = 3, 4
# Parts of a second that are weighed against each other, and below what there is nothing to lose.
PARTS_A_SECOND, FAINT = 10, 1e-5


class MonoCost(msgspec.Struct, frozen=True):
    """By how many dB half of both sides together is fainter than both, and where it is most."""

    over_all: float
    most: float
    scene: str
    frame: int


class Foreseen(msgspec.Struct, frozen=True):
    """``seconds`` that are delivered, and the ``size`` of all files in bytes; None: not yet known.

    It is ``about`` that where encoding alone tells, and was tried on stretches of it.
    """

    files: int
    seconds: float
    size: int | None
    about: bool
    mono: MonoCost | None
    said: tuple[str, ...]


def foreseen(project: Project, ready: Prepared, sources: SoundSources) -> Foreseen:
    """What delivering a recipe comes to."""
    recipe, found = ready.recipe, ready.found
    seconds, said = found.length / project.rate, tuple(said_beforehand(project, ready))
    files = len(ready.names)
    if isinstance(recipe, DataRecipe | VideoRecipe | SheetRecipe):
        return Foreseen(files, seconds, None, about=False, mono=None, said=said)
    encoding, mix = recipe.encoding, Passage(found, sources, ready.silent)
    rate = encoding.rate or project.rate
    if isinstance(recipe, TrimmedRecipe):
        signals = [
            Signal(Passage(piece.asked, sources), rate, mono=piece.mono or encoding.mono)
            for piece in ready.trimmed
        ]
    elif isinstance(recipe, BundleRecipe):
        stretches = [Stretch(x.need, x.length, project.rate, sources) for x in ready.pieces]
        signals = [Signal(x, rate, mono=x.mono or encoding.mono) for x in stretches]
        if ready.images:
            said += (f"Its {len(ready.images):,} pictures come on top of that.",)
    else:
        signals = [Signal(mix, rate, mono=encoding.mono)] * files
    sizes = {id(signal): size_of(signal, encoding) for signal in signals}
    cost = mono_cost(found, mix) if encoding.mono else None
    about = whole_size(encoding, 1, 1) is None
    size = sum(sizes[id(signal)] for signal in signals)
    return Foreseen(files, seconds, size, about=about, mono=cost, said=said)


def size_of(signal: Signal, encoding: Encoding) -> int:
    """The bytes of a file, tried on stretches of it where only encoding tells."""
    known = whole_size(encoding, signal.channels, signal.length)
    if known is not None:
        return known
    with new_file(Path(gettempdir())) as file:
        encoded = 0
        with encoding_to(
            file.path, encoding, signal.rate, signal.channels, signal.length, begins=0, seed=0
        ) as encoder:
            for block in _stretches(signal):
                encoder.write(block)
                encoded += block.shape[1]
        size = file.path.stat().st_size
    return round(size * signal.length / max(1, encoded))


def _stretches(signal: Signal) -> Iterator[Samples]:
    """All of it, or some stretches where it is long."""
    long, apart = SECONDS * signal.rate, max(1, signal.length // STRETCHES)
    at = 0
    for block in signal.blocks():
        if signal.length <= STRETCHES * long or at % apart < long:
            yield block
        at += block.shape[1]


def mono_cost(found: Asked, mix: Passage) -> MonoCost:
    """What is lost where the sides of a mix are brought together, by its power."""
    step = max(1, mix.rate // PARTS_A_SECOND)
    both, half = list[np.ndarray](), list[np.ndarray]()
    for start in range(0, mix.length, BLOCK // step * step or step):
        block = mix.block(start, min(BLOCK // step * step or step, mix.length - start))
        whole = np.pad(block, ((0, 0), (0, -block.shape[1] % step))).astype(np.float64)
        parts = whole.reshape(2, -1, step)
        both.append(np.square(parts).mean(axis=(0, 2)))
        half.append(np.square(parts.mean(axis=0)).mean(axis=1))
    wide, narrow = np.concatenate(both), np.concatenate(half)
    lost = np.where(wide > FAINT, (wide + 1e-12) / (narrow + 1e-12), 1.0)
    at = int(lost.argmax())
    visit, frame, _ = found.plan.frame_at(found.first + at * step)
    total = (wide.sum() + 1e-12) / (narrow.sum() + 1e-12)
    return MonoCost(
        round(10 * log10(total), 1), round(10 * log10(float(lost[at])), 1), visit.scene, frame
    )
