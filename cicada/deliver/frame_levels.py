"""How loud each layer is on each frame, for what is animated by sound."""

from collections.abc import Callable, Iterator
from math import log10
from typing import NamedTuple

import numpy as np

from cicada.core.arrays import Samples
from cicada.core.passage import Passage
from cicada.core.plan import Picture
from cicada.core.scoped import Asked
from cicada.core.tone import Sources
from cicada.deliver.levels import BLOCK
from cicada.deliver.pieces import stems
from cicada.deliver.player_data import seconds_text

FORMAT, VERSION = "cicada-levels", 1


class Level(NamedTuple):
    """RMS over both sides and the highest sample, in dB of full scale; None for silence."""

    rms: float | None
    peak: float | None


class Levels(NamedTuple):
    """The layers by name, the mix last, and for each shown frame what each has."""

    names: list[str]
    frames: list[Picture]
    levels: list[list[Level]]


def frame_levels(
    found: Asked, sources: Sources, silent: frozenset[str], going: Callable[[float], bool]
) -> Levels | None:
    """The levels of what a recipe asks for; a frame lasts until the next is shown.

    None if ``going``, which is told the share done, says to stop.
    """
    layers = stems(found, "layer", silent)
    passages = [Passage(found, sources, silent, layer.has) for layer in layers]
    passages.append(Passage(found, sources, silent))
    frames = list(found.plan.picture())
    ends = [*(frame.at for frame in frames[1:]), found.plan.end]
    levels = list[list[Level]]()
    for frame, end in zip(frames, ends, strict=True):
        levels.append([_level(passage, frame.at, end) for passage in passages])
        if not going(end / max(1, found.plan.end)):
            return None
    return Levels([*(layer.name for layer in layers), "Mix"], frames, levels)


def _level(passage: Passage, start: int, end: int) -> Level:
    power, peak = 0.0, 0.0
    for block in _blocks(passage, start, end):
        power += float(np.square(block, dtype=np.float64).sum())
        peak = max(peak, float(np.abs(block).max(initial=0.0)))
    count = 2 * (end - start)
    return Level(
        round(10 * log10(power / count), 2) if power > 0 and count else None,
        round(20 * log10(peak), 2) if peak > 0 else None,
    )


def _blocks(passage: Passage, start: int, end: int) -> Iterator[Samples]:
    for at in range(start, end, BLOCK):
        yield passage.block(at, min(BLOCK, end - at))


def levels_csv(found: Asked, levels: Levels) -> Iterator[str]:
    """A row for each shown frame; frames count as people read them, silence is empty."""
    project, rate = found.project, found.plan.rate
    heads = [_plain(f"{name} {what} dB") for name in levels.names for what in ("RMS", "peak")]
    yield ",".join(["sample", "seconds", "scene", "frame", *heads]) + "\r\n"
    scenes = {scene.id: _plain(scene.label) for scene in project.scenes}
    for frame, row in zip(levels.frames, levels.levels, strict=True):
        shown = ["" if value is None else f"{value:g}" for level in row for value in level]
        where = [str(frame.at), seconds_text(frame.at, rate), scenes[frame.scene]]
        yield ",".join([*where, str(project.shown(frame.frame)), *shown]) + "\r\n"


def _plain(text: str) -> str:
    """A text as a field of a table (RFC 4180)."""
    if any(letter in text for letter in ',"\r\n'):
        return '"' + text.replace('"', '""') + '"'
    return text


def levels_json(found: Asked, levels: Levels) -> dict[str, object]:
    """The same by layer; frames count from 0."""
    project = found.project
    return {
        "format": FORMAT,
        "version": VERSION,
        "fps": project.fps,
        "rate": project.rate,
        "layers": levels.names,
        "frames": [frame._asdict() for frame in levels.frames],
        "rms": [[row[i].rms for row in levels.levels] for i in range(len(levels.names))],
        "peak": [[row[i].peak for row in levels.levels] for i in range(len(levels.names))],
    }
