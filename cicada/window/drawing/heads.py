"""The heads of the rows: a layer's name, its toggles, its level and pan.

A head is drawn once for each look and kept, for its letters cost more than the rest of a row.
"""

from functools import lru_cache
from typing import NamedTuple

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter, QPixmap

from cicada.window.drawing import theme
from cicada.window.drawing.layout import HEAD, THIN_ROW
from cicada.window.drawing.traces import Row

AlignLeft = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
# The three toggles of a layer's head: field, word, left edge.
TOGGLES = (("mute", "mute", 18), ("solo", "solo", 58), ("guarded", "guard", 98))
LEVEL_X = HEAD - 28


class HeadLook(NamedTuple):
    """All that makes a head look as it does; ``on`` are the fields that are switched on."""

    name: str
    of_layer: bool
    off: bool
    on: frozenset[str]
    level: float
    pan: float
    chosen: bool
    even: bool
    night: bool


def head_look(row: Row, *, chosen: bool, even: bool, night: bool) -> HeadLook:
    """What a row's head looks like."""
    layer = row.layer
    if layer is None:
        name = f"from {row.name}" if row.pad is None else f"pad: {row.name}"
        return HeadLook(name, False, False, frozenset(), 1.0, 0.0, chosen, even, night)
    on = frozenset(field for field, _, _ in TOGGLES if getattr(layer, field))
    return HeadLook(row.name, True, layer.off, on, layer.level, layer.pan, chosen, even, night)


@lru_cache(maxsize=512)
def head_picture(look: HeadLook, height: int, ratio: float) -> QPixmap:
    """A head, ``height`` pixels high."""
    picture = QPixmap(round(HEAD * ratio), round(height * ratio))
    picture.setDevicePixelRatio(ratio)
    picture.fill(theme.ROW if look.even else theme.ROW_OTHER)
    p = QPainter(picture)
    p.setRenderHint(QPainter.RenderHint.Antialiasing)
    if look.of_layer:
        _paint_layer(p, look, height)
    else:
        p.setFont(theme.font(11.5, italic=True))
        p.setPen(theme.INK_SOFT)
        text = p.fontMetrics().elidedText(look.name, Qt.TextElideMode.ElideRight, HEAD - 26)
        p.drawText(QRectF(18, 0, HEAD - 24, height), AlignLeft, text)
    p.end()
    return picture


def _paint_layer(p: QPainter, look: HeadLook, height: int) -> None:
    if look.chosen:
        p.fillRect(QRectF(0, 0, 4, height - 1), theme.MOSS)
    p.setFont(theme.font(13, 600))
    p.setPen(theme.INK_SOFT if look.off else theme.INK)
    name = f"{look.name}, off" if look.off else look.name
    room = HEAD - 50
    name = p.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, room)
    low = height < THIN_ROW + 8
    p.drawText(QRectF(18, 0 if low else 4, room, height if low else 22), AlignLeft, name)
    for field, word, left in () if low else TOGGLES:
        on = field in look.on
        p.setFont(theme.font(11, 700 if on else 400))
        p.setPen(theme.strong(theme.MOSS) if on else theme.INK_SOFT)
        p.drawText(QRectF(left, 24, 38, 18), AlignLeft, word)
        if on:
            width = p.fontMetrics().horizontalAdvance(word)
            p.fillRect(QRectF(left, 40, width, 1.6), theme.MOSS)
    paint_level(p, 0, height, look.level)
    if look.pan:
        x = LEVEL_X + 1 + look.pan * 9
        p.fillRect(QRectF(LEVEL_X - 8, height - 6, 18, 1), theme.RULE_STRONG)
        p.fillRect(QRectF(x - 1, height - 8, 3, 5), theme.INK)


def paint_level(p: QPainter, top: int, height: int, level: float) -> None:
    """The bar of a level, from nothing to twice as loud."""
    upper, tall = level_bar(top, height)
    p.fillRect(QRectF(LEVEL_X + 0.5, upper, 1.5, tall), theme.RULE_STRONG)
    share = min(1.0, level / 2)
    box = QRectF(LEVEL_X - 0.5, upper + tall * (1 - share), 3.5, tall * share)
    p.fillRect(box, theme.MOSS)


def level_bar(top: int, height: int) -> tuple[float, float]:
    """The first pixel line and the height of a head's level bar."""
    return top + 8.0, height - 20.0
