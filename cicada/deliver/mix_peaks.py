"""The peaks of a whole mix for drawing, worked out anew only where something changed."""

from collections.abc import Collection, Iterator
from math import log10

import numpy as np
from numpy.typing import NDArray

from cicada.core.arrays import Samples
from cicada.core.mix import Mixer
from cicada.core.model import Project
from cicada.core.needs import sounds_in
from cicada.core.placements import Placements, heard_on
from cicada.core.plan import Plan, Voice

# Samples in one column of peaks, columns in one block of work.
BIN = 128
BINS = 512
BLOCK = BIN * BINS


def block_peaks(mixer: Mixer, block: int) -> Samples:
    """Lows and highs over both sides of every column of a block, shape (2, BINS)."""
    mixed = mixer.mix(block * BLOCK, BLOCK).reshape(2, BINS, BIN)
    return np.stack((mixed.min(axis=(0, 2)), mixed.max(axis=(0, 2))))


class MixPeaks:
    """The peaks of one plan's mix, as far as they are known."""

    def __init__(
        self, plan: Plan, project: Project, silent: Collection[str], end: int | None = None
    ) -> None:
        """Run samples from ``end`` on are not looked at."""
        self.plan, self.project, self.silent = plan, project, frozenset(silent)
        self.blocks = -(-(plan.length if end is None else min(end, plan.length)) // BLOCK)
        self.known = np.zeros(self.blocks, bool)
        self.every_column = np.zeros((2, self.blocks * BINS), np.float32)
        # Peak and overs go by the whole film, and are asked for in every paint.
        self._found: tuple[float, list[int]] | None = None

    def take_over(self, before: "MixPeaks") -> None:
        """Keep what is the same as in an earlier mix."""
        same = min(self.blocks, before.blocks)
        kept = before.known[:same].copy()
        for start, end in changed_stretches(before, self):
            kept[start // BLOCK : -(-end // BLOCK)] = False
        self.known[:same] = kept
        columns = np.repeat(kept, BINS)
        self.every_column[:, : same * BINS][:, columns] = before.every_column[:, : same * BINS][
            :, columns
        ]
        self._found = None

    def put(self, block: int, peaks: Samples) -> None:
        """Take the peaks of a block."""
        self.every_column[:, block * BINS : (block + 1) * BINS] = peaks
        self.known[block] = True
        self._found = None

    def wanted(self, around: int) -> list[int]:
        """The blocks not known yet, those nearest to run sample ``around`` first."""
        missing = np.flatnonzero(~self.known).tolist()
        return sorted(missing, key=lambda block: abs(block - around // BLOCK))

    def columns(self, edges: NDArray[np.int64]) -> Samples:
        """Lows and highs between each two run samples (ascending), shape (2, n)."""
        count = self.every_column.shape[1]
        if not count:
            return np.zeros((2, len(edges) - 1), np.float32)
        firsts = np.clip(edges[:-1] // BIN, 0, count - 1)
        lasts = np.clip(-(-edges[1:] // BIN), firsts + 1, count)
        bounds = np.empty(2 * len(firsts), np.int64)
        bounds[0::2], bounds[1::2] = firsts, lasts
        # Only what is asked for, and one more column, so that an end is a legal place for reduceat.
        seen = self.every_column[:, firsts[0] : lasts[-1]]
        padded = np.concatenate((seen, seen[:, -1:]), axis=1)
        bounds -= firsts[0]
        low = np.minimum.reduceat(padded[0], bounds)[0::2]
        high = np.maximum.reduceat(padded[1], bounds)[0::2]
        return np.stack((low, high))

    @property
    def complete(self) -> bool:
        """Whether all of the mix is known."""
        return bool(self.known.all())

    @property
    def peak_db(self) -> float | None:
        """The highest peak in dB of full scale; None for silence."""
        peak = self._loudest()[0]
        return 20 * log10(peak) if peak else None

    @property
    def overs(self) -> list[int]:
        """The run samples of columns that pass full scale, the first of each stretch."""
        return self._loudest()[1]

    def _loudest(self) -> tuple[float, list[int]]:
        if self._found is None:
            loud = np.abs(self.every_column).max(axis=0, initial=0.0)
            over = loud > 1.0
            first = over & ~np.concatenate(([False], over[:-1]))
            overs = (np.flatnonzero(first) * BIN).tolist()
            self._found = float(loud.max(initial=0.0)), overs
        return self._found


def changed_stretches(before: MixPeaks, after: MixPeaks) -> Iterator[tuple[int, int]]:
    """The run samples ``start..end`` in which two mixes may differ."""
    old, new = before.plan, after.plan
    if _everywhere(before) != _everywhere(after):
        yield 0, max(old.length, new.length)
        return
    gone, come = set(old.voices), set(new.voices)
    for voice in gone ^ come:
        yield voice.start, voice.end
    was = _Layers(before.project, before.silent)
    now = _Layers(after.project, after.silent)
    for voice in gone & come:
        if was.sounds_like(voice) != now.sounds_like(voice):
            yield voice.start, voice.end


def _everywhere(mix: MixPeaks) -> tuple[object, ...]:
    """What every sample of a mix depends on."""
    project, plan = mix.project, mix.plan
    lines = [scene.master for scene in project.scenes]
    follows = [layer.follows for layer in heard_on(project).values() if layer.follows]
    lined = any(lines) or any(layer.line for _, layer in project.all_layers())
    answers: tuple[object, ...] = ()
    if project.blends or project.playlists or follows:
        drawn = [scene.value_lines for scene in project.scenes]
        answers = (project.blends, project.playlists, project.values, follows, drawn, plan.glides)
        lined = True
    moves = lined and (plan.stretches, plan.visits)
    return (project.level, plan.rate, plan.fps, lines, moves, answers)


class _Layers:
    """What a voice sounds like besides its place in the plan."""

    def __init__(self, project: Project, silent: Collection[str]) -> None:
        self._silent, self._project = silent, project
        self._placements = Placements(project)
        self._contents = {s.id: (s.content, s.frames, s.rate) for s in project.sounds}

    def sounds_like(self, voice: Voice) -> tuple[object, ...]:
        layer, clip = self._placements.layer(voice), self._placements.clip(voice)
        inside = sorted(sounds_in(self._project, voice.plays))
        contents = tuple(self._contents[sound] for sound in inside)
        heard = layer.id not in self._silent
        return heard, layer.level, layer.pan, layer.line, contents, clip
