"""Controls of a pad's settings: when the picture goes on, what its level follows, its zone."""

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QIcon, QPainter, QPixmap, QPolygonF
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from cicada.core.answers import Deed, Follows, GoOn, Pad
from cicada.core.model import Project
from cicada.window.drawing import theme
from cicada.window.widgets.rows import soft
from cicada.window.words.answers import follows_text, ways_to_follow

ORDERS = (
    ("now", "at once", "The picture goes on as the sound begins"),
    ("over", "when the sound is over", "The picture waits until the pad is silent"),
)
WIDE, TALL = 30, 14


def order_icon(when: str) -> QIcon:
    """A sound as a bar, and where the picture goes on as a triangle: below, or behind it."""
    pixmap = QPixmap(WIDE * 2, TALL * 2)
    pixmap.setDevicePixelRatio(2.0)
    pixmap.fill(Qt.GlobalColor.transparent)
    p = QPainter(pixmap)
    p.setRenderHint(QPainter.RenderHint.Antialiasing)
    p.setPen(theme.NO_PEN)
    p.setBrush(theme.MOSS)
    p.drawRect(QRectF(1, 1, 18, 5))
    p.setBrush(theme.INK)
    x = 1.0 if when == "now" else 20.0
    p.drawPolygon(QPolygonF([QPointF(x, 7.5), QPointF(x + 9, 10.5), QPointF(x, 13.5)]))
    p.end()
    return QIcon(pixmap)


class OrderOfBoth(QWidget):
    """Whether and when the picture goes on, and neither if neither button is down.

    ``chosen`` comes with what the pad does then.
    """

    chosen = Signal(tuple)

    def __init__(self, does: Sequence[Deed]) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        column.addWidget(soft("a picture that waits goes on"))
        row = QHBoxLayout()
        row.setSpacing(4)
        column.addLayout(row)
        now = next((deed.when for deed in does if isinstance(deed, GoOn)), "")
        self.buttons: dict[str, QPushButton] = {}
        for when, words, tip in ORDERS:
            button = QPushButton(words)
            button.setIcon(order_icon(when))
            button.setIconSize(QSize(WIDE, TALL))
            button.setCheckable(True)
            button.setChecked(when == now)
            button.setToolTip(tip)
            button.clicked.connect(
                lambda on, when=when: self.chosen.emit(going(does, when if on else ""))
            )
            self.buttons[when] = button
            row.addWidget(button)
        row.addStretch(1)


def going(does: Sequence[Deed], when: str) -> tuple[Deed, ...]:
    """What a pad does with the picture going on ``now`` or ``over``, last of all; or not at all."""
    others = tuple(deed for deed in does if not isinstance(deed, GoOn))
    if when == "now":
        return (*others, GoOn(when="now"))
    return (*others, GoOn(when="over")) if when else others


class FollowsBox(QComboBox):
    """Which value a level follows, and how; ``follows`` comes with what is chosen."""

    follows = Signal(object)

    def __init__(self, project: Project, now: Follows | None) -> None:
        super().__init__()
        self.setAccessibleName("what the level follows")
        self.setMinimumContentsLength(8)
        self.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self._ways = ways_to_follow(project)
        if now is not None and all(way != now for _, way in self._ways):
            self._ways.append((follows_text(now, project), now))
        for words, _ in self._ways:
            self.addItem(words)
        self.setCurrentIndex(next(n for n, (_, way) in enumerate(self._ways) if way == now))
        self.activated.connect(lambda index: self.follows.emit(self._ways[index][1]))


class ZoneRow(QWidget):
    """Where in the picture a click presses a pad; it is ``wanted`` to be drawn, or ``gone``."""

    wanted = Signal()
    gone = Signal()

    def __init__(self, project: Project, pad: Pad) -> None:
        super().__init__()
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(6)
        row.addWidget(soft("zone"))
        zone = pad.zone
        if zone is not None:
            first, last = (project.shown(frame) for frame in zone.frames)
            name = project.scene(zone.scene).label
            row.addWidget(soft(f"in {name}, frames {first} to {last}"))
        self.draw = QPushButton("Draw it on the picture" if zone is None else "Draw it anew")
        self.draw.setToolTip("Drag over the picture where a click is to press the pad")
        self.draw.clicked.connect(self.wanted)
        row.addWidget(self.draw)
        if zone is not None:
            out = QPushButton("×")
            out.setFixedWidth(36)
            out.setAccessibleName("remove the zone")
            out.clicked.connect(self.gone)
            row.addWidget(out)
        row.addStretch(1)
