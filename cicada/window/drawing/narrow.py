"""Voices too narrow for words: all of a row at once, as columns of pixels.

A thousand clips in sight are a thousand shapes of a few pixels each. Drawn one by one they cost
more than a step of zooming may, so their shapes and waveforms are put together with arrays. The
signs are those of the wide shapes: locked is square with a heavy foot, free has its corners off,
past its span a sounding is an outline only, and one from elsewhere is dotted.
"""

from collections.abc import Callable
from functools import cache

import numpy as np
from numpy.typing import NDArray
from PySide6.QtGui import QImage

from cicada.core.outline import Columns
from cicada.window.drawing import theme
from cicada.window.drawing.layout import HEAD, SheetLayout
from cicada.window.drawing.traces import Row
from cicada.window.drawing.waveform import seen_height

# A voice less wide than this, in pixels, is drawn here.
NARROW = 24
# Columns of waveform kept for each voice.
WAVES = 32

Fill = Callable[[Row, int], Columns | None]


class RowWaves:
    """The waveforms of a row's voices in few columns each, worked out when first seen."""

    def __init__(self, voices: int) -> None:
        self.lows = np.zeros((voices, WAVES), np.float32)
        self.highs = np.zeros((voices, WAVES), np.float32)
        self.known = np.zeros(voices, bool)

    def fill(self, row: Row, indices: NDArray[np.intp], columns: Fill) -> None:
        """Work out those not known yet."""
        for index in indices[~self.known[indices]].tolist():
            found = columns(row, index)
            if found is not None:
                self.lows[index], self.highs[index] = seen_height(found)
                self.known[index] = True


def narrow_image(
    row: Row, indices: NDArray[np.intp], layout: SheetLayout, waves: RowWaves, height: int
) -> tuple[int, QImage]:
    """An image ``height`` pixels high of these voices, and the pixel column it begins at."""
    left = np.round(layout.x(0.0) + row.starts[indices] * layout.scale).astype(np.int32)
    right = np.round(layout.x(0.0) + row.ends[indices] * layout.scale).astype(np.int32)
    right = np.maximum(right, left + 2)
    span = np.round(layout.x(0.0) + row.span_ends[indices] * layout.scale).astype(np.int32)
    first, last = max(HEAD, int(left.min())), int(right.max())
    wide = last - first
    if wide <= 0:
        return first, QImage()
    # One entry for every column of every voice, later voices over earlier ones.
    widths = right - left
    of = np.repeat(np.arange(len(indices)), widths)
    along = np.arange(widths.sum(), dtype=np.int32)
    along -= np.repeat((np.cumsum(widths) - widths).astype(np.int32), widths)
    at = along + left[of] - first
    seen = (at >= 0) & (at < wide)
    of, along, at = of[seen], along[seen], at[seen]
    owner = np.full(wide, -1)
    owner[at] = of
    inside = np.zeros(wide, np.int32)
    inside[at] = along
    taken = owner >= 0
    who = np.where(taken, owner, 0)
    of_row, width = indices[who], widths[who]
    wave = of_row * WAVES + inside * WAVES // width
    middle = (height - 1) / 2
    reach = middle - 3
    upper = np.ceil(middle - waves.highs.take(wave) * reach - 0.5)
    lower = np.floor(middle - waves.lows.take(wave) * reach + 0.5)
    kind, own = row.kinds[of_row], row.own[of_row]
    columns = np.arange(first, first + wide, dtype=np.int32)
    past = (columns >= span[who]) | ~own
    side = (inside == 0) | (inside == width - 1)
    dashed = past & np.where(own, columns & 2, columns % 6 >= 3)
    base = np.where(past, FAINT, WASH)
    edge = np.where(dashed, base, LINE)
    edge[side & own & (kind != 0)] = NOTHING
    ground = np.where(side & (~past | (inside > 0)), LINE, base)
    foot = np.where((kind == 0) & (columns & 1 == 0), LINE, ground)
    body = np.where(past, PALE, BODY)
    # Worked out by column first: only one choice is made for every pixel.
    by_column = np.stack((edge, foot, ground, body)) + kind * len(STRENGTHS)
    edge, foot, ground, body = (by_column * taken).astype(np.uint8)
    # In bytes, which wrap round: a column's wave is where a row is less than its height below it.
    tall = np.maximum(lower - upper + 1, 0).astype(np.uint8)
    rows = np.arange(height, dtype=np.uint8)[:, None]
    code = ((rows - upper.astype(np.uint8)) < tall) * (body - ground) + ground
    code[0] = code[-1] = edge
    code[-2] = foot
    # A table of colours turns codes into pixels four times as fast as an array of them would.
    image = QImage(code.data, wide, height, wide, QImage.Format.Format_Indexed8)
    image.setColorTable(_colour_table(night=theme.is_night()))
    return first, image.convertToFormat(QImage.Format.Format_ARGB32_Premultiplied)


# What a pixel of a narrow voice is, and how strong (of 255) that is drawn.
NOTHING, FAINT, WASH, PALE, LINE, BODY = range(6)
STRENGTHS = (0, 14, 38, 130, 200, 205)


@cache
def _colour_table(*, night: bool) -> list[int]:
    """The colour of every kind of voice and of pixel, in the colours of now."""
    colours = (theme.SLATE, theme.MOSS, theme.PLUM, theme.OCHRE)
    return [theme.wash(colour, alpha).rgba() for colour in colours for alpha in STRENGTHS]


def widths_in_pixels(row: Row, scale: float) -> NDArray[np.float64]:
    """How wide each voice of a row is drawn."""
    return np.asarray(np.ceil((row.ends - row.starts) * scale))


def in_sight(row: Row, layout: SheetLayout, left: int, right: int) -> NDArray[np.intp]:
    """The voices of a row that are on the sheet between two pixel columns."""
    low, high = layout.place(max(HEAD, left) - 1), layout.place(right + 1)
    return np.flatnonzero((row.ends >= low) & (row.starts <= high))
