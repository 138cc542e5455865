"""What a player must fetch, whether each sound is there when it is needed, and what would save."""

from typing import NamedTuple

import msgspec
from msgspec.structs import replace

from cicada.core.model import Project
from cicada.core.passage import Passage
from cicada.core.recipes import BundleRecipe, Encoding, TrimmedRecipe
from cicada.deliver.encoding import nearest_rate
from cicada.deliver.foresight import size_of
from cicada.deliver.player_data import Moment, moment
from cicada.deliver.ready import Prepared, prepared
from cicada.deliver.signal import Blocks, Signal
from cicada.deliver.stretch import Stretch
from cicada.media.sources import SoundSources

ForPlayers = TrimmedRecipe | BundleRecipe
"""What is fetched sound by sound."""

# Lines that people have, in bits a second.
LINES = (750_000, 1_500_000, 5_000_000, 20_000_000, 100_000_000)
# A rate that still carries speech and most sounds.
LOWER = 24_000


class Fetched(msgspec.Struct, frozen=True):
    """A file of so many bytes, when it is needed first, and at which second all up to it is there.

    ``late`` is by how many seconds that is after it is needed, where the film begins at once.
    """

    name: str
    size: int
    needed: Moment
    there: float
    late: float


class Saving(msgspec.Struct, frozen=True):
    """What something would save in bytes, and the recipe it would be then."""

    what: str
    saves: int
    recipe: ForPlayers


class Weight(msgspec.Struct, frozen=True):
    """All that is fetched, in the order it is needed.

    ``before`` files and ``bytes_before`` must be there before the first frame, which takes
    ``wait`` seconds, so that nothing comes late after it. ``picture`` is in bytes.
    """

    files: tuple[Fetched, ...]
    total: int
    picture: int
    before: int
    bytes_before: int
    wait: float
    savings: tuple[Saving, ...]


class _Sized(NamedTuple):
    """A file, its bytes, and the run sample at which it is needed."""

    name: str
    size: int
    first: int


def weigh(
    project: Project, recipe: ForPlayers, sources: SoundSources, line: int, picture: int
) -> Weight:
    """Weigh what a player fetches over a line of so many bits a second, beside the picture."""
    ready = prepared(project, recipe)
    sized = sorted(_sizes(project, ready, sources), key=lambda file: file.first)
    files, fetched = list[Fetched](), 0
    for name, size, first in sized:
        fetched += size
        there = 8 * fetched / line
        files.append(Fetched(
            name, size, moment(ready.found.plan, first), round(there, 3),
            round(max(0.0, there - first / project.rate), 3),
        ))  # fmt: skip
    wait = max((file.late for file in files), default=0.0)
    before = [file for file in files if file.there <= wait + 1e-9]
    return Weight(
        tuple(files), fetched, picture, len(before), sum(file.size for file in before), wait,
        tuple(_savings(project, recipe, sources, fetched)),
    )  # fmt: skip


def _sizes(project: Project, ready: Prepared, sources: SoundSources) -> list[_Sized]:
    recipe = ready.recipe
    assert isinstance(recipe, ForPlayers)
    encoding = recipe.encoding
    rate = encoding.rate or project.rate

    def sized(blocks: Blocks, name: str, first: int, *, mono: bool) -> _Sized:
        signal = Signal(blocks, rate, mono=mono or encoding.mono)
        return _Sized(name, size_of(signal, encoding), max(0, first))

    if isinstance(recipe, BundleRecipe):
        stretches = [Stretch(x.need, x.length, project.rate, sources) for x in ready.pieces]
        return [
            sized(stretch, piece.name, piece.needed, mono=stretch.mono)
            for piece, stretch in zip(ready.pieces, stretches, strict=True)
        ]
    return [
        sized(Passage(piece.asked, sources), name, piece.first, mono=piece.mono)
        for piece, name in zip(ready.trimmed, ready.names, strict=False)
    ]


def _savings(project: Project, recipe: ForPlayers, sources: SoundSources, now: int) -> list[Saving]:
    """What would be less, the most first."""
    found = list[Saving]()
    for what, other in _others(project, recipe):
        saves = now - sum(file.size for file in _sizes(project, prepared(project, other), sources))
        if saves > 0:
            found.append(Saving(what, saves, other))
    return sorted(found, key=lambda saving: -saving.saves)


def _others(project: Project, recipe: ForPlayers) -> list[tuple[str, ForPlayers]]:
    encoding = recipe.encoding
    others = list[tuple[str, Encoding]]()
    if not encoding.mono:
        others.append(("mono", replace(encoding, mono=True)))
    lower = nearest_rate(encoding.kind, LOWER)
    if lower < (encoding.rate or project.rate):
        others.append((f"{lower:,} samples a second", replace(encoding, rate=lower)))
    if not encoding.lossy:
        rate = nearest_rate("opus", encoding.rate or project.rate)
        others.append(("Opus", replace(encoding, kind="opus", rate=rate)))
    elif encoding.quality > 0.3:
        others.append(("a quality of 30 %", replace(encoding, quality=0.3)))
    found: list[tuple[str, ForPlayers]] = [
        (what, replace(recipe, encoding=each)) for what, each in others
    ]
    if isinstance(recipe, BundleRecipe):
        return found
    turned = "each shape by itself" if recipe.share else "each sound once, shaped by the player"
    return [*found, (turned, replace(recipe, share=not recipe.share))]
