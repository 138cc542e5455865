"""How high each layer goes while its voices are mixed, and the samples of one of them."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from cicada.core.model import Project
from cicada.core.placements import heard_on


class LayerMeter:
    """Keeps the highest sample of each layer since it was taken last.

    Levels, pans, lines and fades are in it; the project's level and the master line are not.
    """

    def __init__(self, project: Project, chosen: str = "") -> None:
        """Of the layer ``chosen`` the samples are kept, too."""
        self.layers: Sequence[str] = list(heard_on(project))
        self.numbers = {layer: number for number, layer in enumerate(self.layers)}
        self.chosen = self.numbers.get(chosen, -1)
        self._level = project.level
        self._peaks = np.zeros(len(self.layers), np.float32)
        # The sums of the layers that sound in the block under way, each in a place of its own.
        self._sums = np.empty((4, 2, 0), np.float32)
        self._places: dict[int, int] = {}
        self._kept: list[NDArray[np.float32]] = []

    def begin(self, count: int) -> None:
        """A block of so many samples is mixed next."""
        if count != self._sums.shape[2]:
            self._sums = np.empty((len(self._sums), 2, count), np.float32)
        self._places.clear()

    def of(self, number: int) -> NDArray[np.float32]:
        """What the voices of a layer are added to, shape (2, count)."""
        place = self._places.get(number)
        if place is not None:
            there: NDArray[np.float32] = self._sums[place]
            return there
        place = self._places[number] = len(self._places)
        if place == len(self._sums):
            self._sums = np.concatenate((self._sums, np.empty_like(self._sums)))
        into: NDArray[np.float32] = self._sums[place]
        into.fill(0)
        return into

    def end(self) -> None:
        """The block is mixed."""
        places, count = self._places, self._sums.shape[2]
        if places and count:
            sums = self._sums[: len(places)].reshape(len(places), -1)
            highest = np.maximum(sums.max(axis=1), -sums.min(axis=1))
            numbers = list(places)
            self._peaks[numbers] = np.maximum(self._peaks[numbers], highest)
        if self.chosen >= 0:
            place = places.get(self.chosen)
            empty = np.zeros((2, count), np.float32)
            self._kept.append(empty if place is None else self._sums[place].copy())

    def take(self) -> tuple[NDArray[np.float32], list[NDArray[np.float32]]]:
        """The peaks since this was asked last, and what the chosen layer has sounded."""
        peaks, kept = self._peaks, self._kept
        self._peaks, self._kept = np.zeros_like(peaks), []
        if self._level > 0:
            peaks = peaks / np.float32(self._level)
            kept = [block / np.float32(self._level) for block in kept]
        return peaks, kept
