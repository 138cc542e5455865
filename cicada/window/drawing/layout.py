"""Where things are on the sheet, in pixels."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

HEAD = 168
MARKS = 17
RULER = 62
FILM = 38
# How high the pictures of the film strip are.
STRIP = FILM - 6
ROW = 45
LEAST_ROW, MOST_ROW = 24, 220
# How high rows become by themselves where the window is.
TALL_ROW = 76
THIN_ROW = 34
MIX = 40
TOP = RULER + FILM
# What is opened to be shaped: a clip, a layer's line, the master line.
CLIP_OPEN, LINE_OPEN, MIX_OPEN = 214, 112, 112
# Pixels a frame, so that single samples can be told apart.
CLOSEST = 12000.0


class Box(NamedTuple):
    """Where a shape is drawn, in pixels."""

    start: float
    end: float
    upper: float
    lower: float


def _same(number: float) -> float:
    return number


@dataclass(slots=True)
class SheetLayout:
    """Zoom and scroll: ``scale`` pixels a frame, ``left`` the place at the left edge.

    ``rows`` and ``mix`` are heights.

    Places and frames differ where waits are opened; ``of_frame`` and ``frame_of`` turn one into
    the other.
    """

    scale: float = 5.0
    left: float = 0.0
    top: int = 0
    rows: tuple[int, ...] = ()
    height: int = 0
    mix: int = MIX
    of_frame: Callable[[float], float] = _same
    frame_of: Callable[[float], float] = _same

    def x(self, place: float) -> float:
        """The pixel column of a place."""
        return HEAD + (place - self.left) * self.scale

    def xs(self, places: NDArray[np.float64]) -> NDArray[np.float64]:
        """The pixel columns of places."""
        return np.asarray(HEAD + (places - self.left) * self.scale)

    def place(self, x: float) -> float:
        """The place under a pixel column."""
        return self.left + (x - HEAD) / self.scale

    def frame_x(self, frame: float) -> float:
        """The pixel column where a frame begins."""
        return self.x(self.of_frame(frame))

    def frame(self, x: float) -> float:
        """The frame, and part of it, under a pixel column."""
        return self.frame_of(self.place(x))

    @property
    def foot(self) -> int:
        """The first pixel line of the mix, below the rows."""
        return self.height - self.mix

    def row_top(self, row: int) -> int:
        """The first pixel line of a row."""
        return TOP - self.top + sum(self.rows[:row])

    def row_at(self, y: float) -> int | None:
        """The row under a pixel line; None above, below or between."""
        if not TOP <= y < self.foot:
            return None
        at = TOP - self.top
        for row, height in enumerate(self.rows):
            if at <= y < at + height:
                return row
            at += height
        return None

    def rows_in_sight(self) -> list[tuple[int, int, int]]:
        """Number, first pixel line and height of every row that can be seen."""
        found, at = [], TOP - self.top
        for row, height in enumerate(self.rows):
            if at < self.foot and at + height > TOP:
                found.append((row, at, height))
            at += height
        return found

    def zoom(self, factor: float, x: float, *, least: float) -> None:
        """Zoom about a pixel column, which keeps its place."""
        under = self.place(x)
        self.scale = min(CLOSEST, max(least, self.scale * factor))
        self.left = under - (x - HEAD) / self.scale

    def keep_inside(self, length: float, width: int) -> None:
        """Scroll back if there is nothing to see; ``length`` is the scene's, in places."""
        shown = (width - HEAD) / self.scale
        self.left = max(0.0, min(self.left, length + 0.06 * shown - shown))
