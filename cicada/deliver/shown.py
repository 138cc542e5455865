"""The pictures of a video: what is shown when, as it is drawn, or the waveform where none is."""

from collections.abc import Iterator
from typing import NamedTuple, Protocol

import numpy as np
from numpy.typing import NDArray

from cicada.core.passage import Passage
from cicada.core.scoped import Asked
from cicada.core.timebase import round_half_up

Pixels = NDArray[np.uint8]
"""A picture: (height, width, 4), blue first; the fourth means nothing."""

# The colours of the window, blue first.
PAPER, RULE = (0xE4, 0xEF, 0xF4), (0x9F, 0xBB, 0xC8)
INK, MOSS = (0x2B, 0x30, 0x26), (0x58, 0x7D, 0x3F)
# How wide a waveform is to its height, and its height where nobody has said how high.
WIDE, HIGH = 16 / 9, 360


class Pictures(Protocol):
    """Where the pictures of a film come from."""

    def height(self, scene: str) -> int | None:
        """How high a scene's picture is; None if it has none."""

    def draw(self, scene: str, frame: int, height: int) -> Pixels | None:
        """The picture of a frame, so many pixels high; None if there is none."""


class Shown(NamedTuple):
    """A frame of the film that is shown from ``at`` samples on, for ``length`` of them."""

    at: int
    length: int
    scene: str
    frame: int


def shown_in(found: Asked, *, even: bool) -> list[Shown]:
    """What is shown when, from the file's first sample to its last.

    ``even``: in frames of one length, in each what is shown in its middle; a picture then comes
    half a frame early or late at most.
    """
    end = found.first + found.length
    pictures = [picture for picture in found.plan.picture() if picture.at < end]
    before = [picture for picture in pictures if picture.at <= found.first]
    pictures = [*before[-1:], *(picture for picture in pictures if picture.at > found.first)]
    starts = [max(0, picture.at - found.first) for picture in pictures]
    ends = [*starts[1:], found.length]
    exact = [
        Shown(start, stop - start, picture.scene, picture.frame)
        for start, stop, picture in zip(starts, ends, pictures, strict=True)
        if stop > start
    ]
    return list(_evenly(exact, found)) if even else exact


def _evenly(exact: list[Shown], found: Asked) -> Iterator[Shown]:
    num, den = found.plan.fps
    rate, at, number = found.plan.rate, 0, 0
    slot = 0
    while at < found.length:
        slot += 1
        until = round_half_up(slot * rate * den, num)
        middle = (at + until) // 2
        while number + 1 < len(exact) and exact[number + 1].at <= middle:
            number += 1
        yield Shown(at, until - at, exact[number].scene, exact[number].frame)
        at = until


class Waveform:
    """The waveform of all of it, with a line where the film is: a picture where there is none."""

    def __init__(self, passage: Passage, height: int) -> None:
        self.height = height - height % 2
        self.width = round(self.height * WIDE) // 2 * 2
        self._length = passage.length
        self._drawn = self._ground(passage)

    def _ground(self, passage: Passage) -> Pixels:
        drawn = np.empty((self.height, self.width, 4), np.uint8)
        drawn[:, :, :3] = PAPER
        drawn[:, :, 3] = 255
        half = self.height // 2
        drawn[half, :, :3] = RULE
        for column in range(self.width):
            start = passage.length * column // self.width
            count = passage.length * (column + 1) // self.width - start
            block = passage.block(start, count)
            low, high = float(block.min(initial=0)), float(block.max(initial=0))
            top = int(half - min(1.0, high) * half)
            foot = int(half - max(-1.0, low) * half)
            drawn[max(0, top) : foot, column, :3] = INK
        return drawn

    def at(self, sample: int) -> Pixels:
        """The picture while ``sample`` sounds."""
        now = self._drawn.copy()
        column = min(self.width - 2, sample * self.width // max(1, self._length))
        now[:, column : column + 2, :3] = MOSS
        return now


def fitted(pixels: Pixels, height: int, width: int) -> Pixels:
    """A picture in the middle of a canvas, cut where it is larger."""
    if pixels.shape[:2] == (height, width):
        return pixels
    canvas = np.zeros((height, width, 4), np.uint8)
    high, wide = min(height, pixels.shape[0]), min(width, pixels.shape[1])
    top, left = (height - high) // 2, (width - wide) // 2
    canvas[top : top + high, left : left + wide] = pixels[:high, :wide]
    return canvas


class Screen:
    """Draws what is shown, all of one size: of the film's picture, or the waveform."""

    def __init__(
        self, pictures: Pictures | None, shown: list[Shown], passage: Passage, wanted: int | None
    ) -> None:
        """``wanted`` is the height in pixels, which is at most the picture's own."""
        self._pictures = pictures
        scenes = list(dict.fromkeys(each.scene for each in shown))
        heights = [] if pictures is None else [pictures.height(scene) for scene in scenes]
        own = max((height for height in heights if height), default=None)
        self.smaller = wanted is not None and own is not None and wanted > own
        height = min(wanted or own or HIGH, own or wanted or HIGH)
        # Coders take even numbers only.
        self.height = max(2, height - height % 2)
        self.rounded = height != self.height
        self._waveform: Waveform | None = None
        first = self._first(shown)
        if first is None:
            self._waveform = Waveform(passage, max(16, self.height))
            self.height, self.width = self._waveform.height, self._waveform.width
        else:
            self.width = max(2, first.shape[1] - first.shape[1] % 2)
            self.rounded |= self.width != first.shape[1]

    def _first(self, shown: list[Shown]) -> Pixels | None:
        """The first picture there is, of the first frame of each scene that has one."""
        if self._pictures is None:
            return None
        tried = set[str]()
        for each in shown:
            if each.scene not in tried:
                tried.add(each.scene)
                if self._pictures.height(each.scene) and (drawn := self._drawn(each)) is not None:
                    return drawn
        return None

    def _drawn(self, shown: Shown) -> Pixels | None:
        if self._pictures is None:
            return None
        return self._pictures.draw(shown.scene, shown.frame, self.height)

    def picture(self, shown: Shown) -> Pixels:
        """The picture of what is shown; black where the film has none."""
        if self._waveform is not None:
            return self._waveform.at(shown.at)
        drawn = self._drawn(shown)
        if drawn is None:
            return np.zeros((self.height, self.width, 4), np.uint8)
        return fitted(drawn, self.height, self.width)
