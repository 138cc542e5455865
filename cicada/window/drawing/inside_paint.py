"""Painting what goes on inside a sounding: shares of a blend, joins, what was not drawn, a tint."""

from collections.abc import Callable, Sequence

import numpy as np
from PySide6.QtCore import QLineF, QPointF
from PySide6.QtGui import QColor, QImage, QPainter, QPen

from cicada.core.needs import Driven
from cicada.window.drawing import theme
from cicada.window.drawing.inside import Share, joins, shares
from cicada.window.drawing.layout import HEAD, Box
from cicada.window.drawing.traced import Trace
from cicada.window.drawing.view import SheetView
from cicada.window.drawing.waveform import premultiplied

Write = Callable[[float, float, str, QColor, float], None]
"""Writes a text at a place, in a colour, up to where."""
# Pixels of the strip that shows shares, of a line of words, and the least a block has for them.
STRIP, WORDS, LEAST = 7, 13, 30
# How much of the colour the weakest part of a blend takes, and the strongest.
PALEST, DEEPEST = 50, 235


def columns_of(view: SheetView, box: Box) -> tuple[int, np.ndarray, np.ndarray] | None:
    """The pixel columns of a block that are seen: the first, and their places and moments."""
    axis = view.traces.axis
    low, high = max(int(box.start) + 1, HEAD), min(int(box.end), view.width)
    if axis is None or high - low < 2:
        return None
    places = view.layout.place(0) + (np.arange(low, high) + 0.5) / view.layout.scale
    return low, places, axis.samples(np.clip(places, 0, None))


def paint_inside(
    p: QPainter,
    view: SheetView,
    trace: Trace,
    box: Box,
    colour: QColor,
    write: Write,
    others: Sequence[str],
) -> None:
    """What a block is made of, where there is room to see it; ``others`` a pool did not draw."""
    tall = box.lower - box.upper
    if tall < LEAST or box.end - box.start < LEAST:
        return
    p.setFont(theme.font(10))
    if others and not trace.come_from:
        left = max(box.start, float(HEAD)) + 6
        write(left, box.lower - WORDS - 1, f"or {', '.join(others)}", theme.INK_SOFT, box.end)
    seen = columns_of(view, box)
    if seen is not None:
        low, _, moments = seen
        parts = shares(view.traces, trace, moments)
        if parts:
            p.drawImage(QPointF(low, box.lower - STRIP - 1), _strip(parts, colour))
            _name_the_loudest(low, parts, box, write)
    _paint_joins(p, view, trace, box, colour, write)


def _strip(parts: list[Share], colour: QColor) -> QImage:
    """The parts stacked by how much of the whole each is: paler ones first, from below."""
    gains = np.array([part.gains for part in parts])
    upto = np.cumsum(gains, axis=0) / np.maximum(gains.sum(axis=0), 1e-9)
    heights = (np.arange(STRIP)[::-1] + 0.5) / STRIP
    which = (heights[:, None, None] > upto[None, :, :]).sum(axis=1).clip(0, len(parts) - 1)
    shade = np.linspace(PALEST, DEEPEST, len(parts))[which] / 255
    ground, ink = (np.array((c.blue(), c.green(), c.red()), float) for c in (theme.ROW, colour))
    mixed = ground + (ink - ground) * shade[:, :, None]
    pixels = np.full((*which.shape, 4), 255, np.uint8)
    pixels[:, :, :3] = mixed.round()
    return premultiplied(pixels)


def _name_the_loudest(low: int, parts: list[Share], box: Box, write: Write) -> None:
    """The name of each part where it begins to be the loudest."""
    loudest = np.argmax([part.gains for part in parts], axis=0)
    changes = np.flatnonzero(np.diff(loudest)) + 1
    ends = [*changes.tolist(), len(loudest)]
    for start, end in zip([0, *changes.tolist()], ends, strict=True):
        name = parts[int(loudest[start])].name
        right = min(box.end, float(low + end))
        write(low + start + 5.0, box.lower - STRIP - WORDS - 1, name, theme.INK_SOFT, right)


def _paint_joins(
    p: QPainter, view: SheetView, trace: Trace, box: Box, colour: QColor, write: Write
) -> None:
    found = joins(view.traces, trace)
    xs = [view.layout.x(join.place) for join in found]
    p.setPen(QPen(colour, 1))
    inside = [x for x in xs if box.start + 2 < x < box.end - 2]
    p.drawLines([QLineF(x, box.upper + 3, x, box.lower - 3) for x in inside])
    named = [(x, join.name) for x, join in zip(xs, found, strict=True) if join.name]
    for number, (x, name) in enumerate(named):
        right = named[number + 1][0] - 4 if number + 1 < len(named) else box.end
        left = max(x, float(HEAD)) + 5
        if left < right:
            write(left, box.lower - WORDS - 1, name, theme.INK_SOFT, min(right, box.end))


def paint_tint(p: QPainter, view: SheetView, trace: Trace, box: Box, driven: Driven) -> None:
    """A block that the value shown drives, tinted the more the higher that is."""
    if view.value is None or not driven.drives(trace.voice.layer, trace.clip.sound):
        return
    seen = columns_of(view, box)
    if seen is None:
        return
    low, _, moments = seen
    value = view.value[0]
    went = view.traces.following.track(value.id).about(moments.astype(np.float64))
    share = np.clip((went - value.low) / (value.high - value.low), 0.0, 1.0)
    alpha = (20 + 130 * share) / 255
    tint = theme.OCHRE
    pixels = np.array((tint.blue(), tint.green(), tint.red(), 255), float) * alpha[:, None]
    pixels = np.broadcast_to(pixels.round(), (int(box.lower - box.upper), *pixels.shape))
    p.drawImage(QPointF(low, box.upper), premultiplied(pixels.astype(np.uint8)))
