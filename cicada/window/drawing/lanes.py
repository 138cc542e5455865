"""A line as it is drawn and taken hold of on the sheet: its points in pixels, and the edit it is.

The same lane shows a clip's level or pan line, a layer's line and the master line; they differ in
what their places are and in the edit that puts another line there.
"""

from collections.abc import Callable
from dataclasses import dataclass, field
from math import hypot

import numpy as np
from PySide6.QtCore import QPointF

from cicada.core.arrays import Numbers
from cicada.core.editing import Edit
from cicada.core.lines import Curve
from cicada.core.points import place_of, value_of
from cicada.core.values import Line

# How near, in pixels, a point or the line is taken hold of.
NEAR_POINT, NEAR_LINE = 7.0, 5.0
# The highest level a lane shows unless its line goes higher.
USUAL = 2.0


@dataclass(slots=True)
class Lane:
    """A line in its box. ``upper`` and ``lower`` are pixel lines, ``left`` and ``right`` columns.

    ``x_of`` turns a place of the line into a pixel column, ``places_at`` pixel columns, ascending,
    into places. ``last`` is the farthest place a point can have, and ``said`` puts a place into
    words.
    """

    kind: str
    line: Line
    upper: float
    lower: float
    left: float
    right: float
    last: float
    x_of: Callable[[float], float]
    places_at: Callable[[Numbers], Numbers]
    put: Callable[[Line], Edit]
    said: Callable[[float], str]
    name: str
    highest: float = field(init=False)

    def __post_init__(self) -> None:
        top = max((value_of(one) for one in self.line), default=0.0)
        self.highest = 1.0 if self.kind == "pan" else max(USUAL, top)

    @property
    def values(self) -> tuple[float, float]:
        """The lowest and the highest value there can be."""
        return (-1.0, 1.0) if self.kind == "pan" else (0.0, 16.0)

    @property
    def empty(self) -> float:
        """The value of a line without points."""
        return 0.0 if self.kind == "pan" else 1.0

    @property
    def lowest(self) -> float:
        """The value at the lower edge."""
        return -1.0 if self.kind == "pan" else 0.0

    def y(self, value: float) -> float:
        """The pixel line of a value; of positions the left is above."""
        share = (value - self.lowest) / (self.highest - self.lowest)
        if self.kind == "pan":
            share = 1 - share
        return self.lower - share * (self.lower - self.upper)

    def value_at(self, y: float) -> float:
        """The value at a pixel line, within the lane."""
        share = min(1.0, max(0.0, (self.lower - y) / (self.lower - self.upper)))
        if self.kind == "pan":
            share = 1 - share
        return self.lowest + share * (self.highest - self.lowest)

    def place_at(self, x: float) -> float:
        """The place of the line at a pixel column."""
        return float(self.places_at(np.array([x]))[0])

    def point(self, index: int) -> QPointF:
        """Where a point of the line is."""
        one = self.line[index]
        return QPointF(self.x_of(place_of(one)), self.y(value_of(one)))

    def curve(self) -> Curve:
        """The line, ready to be evaluated."""
        return Curve(self.line, self.empty)

    def polyline(self, step: int = 2) -> list[QPointF]:
        """The line from edge to edge, points of it where it bends and every few pixels between."""
        xs = np.arange(self.left, self.right, step)
        values = self.curve().values(self.places_at(xs))
        drawn = [QPointF(x, self.y(v)) for x, v in zip(xs.tolist(), values.tolist(), strict=True)]
        points = [self.point(index) for index in range(len(self.line))]
        drawn += [at for at in points if self.left <= at.x() <= self.right]
        return sorted(drawn, key=lambda at: at.x())

    def holds(self, at: QPointF) -> bool:
        """Whether a place on the sheet is inside the lane."""
        inside = self.upper - 4 <= at.y() <= self.lower + 4
        return inside and self.left - 8 <= at.x() <= self.right + 8

    def point_at(self, at: QPointF) -> int | None:
        """The index of the point of the line near a place; of several the nearest."""
        near = [
            (hypot(spot.x() - at.x(), spot.y() - at.y()), index)
            for index in range(len(self.line))
            for spot in (self.point(index),)
        ]
        distance, index = min(near, default=(NEAR_POINT + 1, 0))
        return index if distance <= NEAR_POINT else None

    def near_line(self, at: QPointF) -> bool:
        """Whether the line passes close to a place."""
        if not self.left <= at.x() <= self.right:
            return False
        return abs(self.y(self.curve().at(self.place_at(at.x()))) - at.y()) <= NEAR_LINE
