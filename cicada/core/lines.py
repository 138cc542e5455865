"""How loud: fades, level and pan lines, and the pan law (semantics.md, section 8)."""

from math import cos, pi, sin, sqrt

import numpy as np
from numpy.typing import NDArray

from cicada.core.values import HIGHEST_LEVEL, FadeShape, Line

Gains = NDArray[np.float64]


def smoothstep(x: Gains) -> Gains:
    """x*x*(3-2x), for x within 0..1."""
    return x * x * (3.0 - 2.0 * x)


def fade_gain(shape: FadeShape, x: Gains) -> Gains:
    """The gain of a fade that is ``x`` (any number; outside 0..1 it is flat) of its way up."""
    x = np.minimum(np.maximum(x, 0.0), 1.0)
    if shape == "power":
        return np.asarray(np.sin(x * (pi / 2)))
    if shape == "smooth":
        return smoothstep(x)
    return x


def pan_gains(position: float) -> tuple[float, float]:
    """Left and right gain of a pan position; beyond -1..1 it counts as the side itself."""
    angle = (min(1.0, max(-1.0, position)) + 1.0) * (pi / 4)
    return min(1.0, sqrt(2) * cos(angle)), min(1.0, sqrt(2) * sin(angle))


def pan_gain_lines(position: Gains) -> Gains:
    """``pan_gains`` of many positions: shape (2, n)."""
    angle = (np.clip(position, -1.0, 1.0) + 1.0) * (pi / 4)
    return np.minimum(1.0, sqrt(2) * np.stack((np.cos(angle), np.sin(angle))))


def louder(level: float, decibels: float) -> float | None:
    """A level so much louder, rounded as people set it; None past the highest there is."""
    found = round(level * 10 ** (decibels / 20), 6)
    return found if found <= HIGHEST_LEVEL else None


class Curve:
    """A line of points made ready for evaluation; ``empty`` is its value if it has no points."""

    def __init__(self, line: Line, empty: float = 1.0) -> None:
        points = [(float(point[0]), float(point[1])) for point in line]
        self.xs = np.array([x for x, _ in points])
        self.ys = np.array([y for _, y in points])
        self.empty = empty
        shapes = [point[2] if len(point) > 2 else "straight" for point in line]
        self._smooth = np.array([shape == "smooth" for shape in shapes])
        self._step = np.array([shape == "step" for shape in shapes])
        self.jumps = _jumps(points, [str(shape) for shape in shapes])

    def __bool__(self) -> bool:
        return len(self.xs) > 0

    def steps(self, index: int) -> bool:
        """Whether the stretch after that point is a step."""
        return bool(self._step[index])

    def at(self, x: float) -> float:
        """The value at one place."""
        return float(self.values(np.array([x]))[0])

    def values(self, x: Gains) -> Gains:
        """The value at each place: straight between points unless shaped, flat outside."""
        if not self:
            return np.full(len(x), self.empty)
        before = np.searchsorted(self.xs, x, side="right") - 1
        left = np.maximum(before, 0)
        right = np.minimum(before + 1, len(self.xs) - 1)
        width = self.xs[right] - self.xs[left]
        share = np.where(width > 0, (x - self.xs[left]) / np.where(width > 0, width, 1.0), 0.0)
        share = np.where(self._smooth[left], smoothstep(share), share)
        share = np.where(self._step[left] | (before < 0), 0.0, share)
        return np.asarray(self.ys[left] + share * (self.ys[right] - self.ys[left]))


def _jumps(points: list[tuple[float, float]], shapes: list[str]) -> list[tuple[float, float]]:
    """Where the line jumps and by how much, steps and points at one place alike."""
    jumps = []
    for index, (x, y) in enumerate(points):
        if index + 1 < len(points) and points[index + 1][0] == x:
            continue
        first = index
        while first > 0 and points[first - 1][0] == x:
            first -= 1
        came_from = points[first][1]
        if first > 0 and shapes[first - 1] == "step":
            came_from = points[first - 1][1]
        if came_from != y:
            jumps.append((x, y - came_from))
    return jumps


def spread_jump(gains: Gains, places: Gains, jump_at: float, height: float, over: float) -> None:
    """Spread a jump that ``gains`` make at ``jump_at`` over a stretch of length ``over`` after it.

    ``places`` are where ``gains`` stand, in the unit of ``jump_at``; ``gains`` is changed in place.
    """
    since = places - jump_at
    gains -= np.where((since >= 0) & (since < over), height * (1.0 - since / over), 0.0)
