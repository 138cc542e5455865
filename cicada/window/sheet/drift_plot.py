"""Drift over time: how far each free sound is ahead of the picture, from its start to its end.

The plotting package takes a while to load, so this module is imported when a plot is first shown;
what Qt calls of its classes is guarded like that of ours, for they are made after the guard.
"""

from collections.abc import Sequence
from typing import Any

import numpy as np
import pyqtgraph
from PySide6.QtCore import QPointF, Qt, Signal
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QVBoxLayout, QWidget

from cicada.core.drift import Drift
from cicada.core.plan import Plan
from cicada.window.drawing import theme

# So many curves can be told apart; of more, the farthest are drawn.
MOST = 60
# How near, in pixels, a click is on a curve.
NEAR = 12.0


class DriftPlot(QWidget):
    """``chosen`` comes with the run sample of the picture that was clicked on a curve."""

    chosen = Signal(object, int)

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        self.plot = pyqtgraph.PlotWidget()
        self.plot.setAccessibleName("Drift over time")
        self.plot.setMenuEnabled(False)
        self.plot.hideButtons()
        column.addWidget(self.plot)
        self._drawn: list[tuple[Drift, np.ndarray, np.ndarray]] = []
        self.plot.scene().sigMouseClicked.connect(self._clicked)
        self.dress()

    def dress(self) -> None:
        """Take the colours of now."""
        self.plot.setBackground(theme.ROW)
        for side, text in (("bottom", "seconds of the run"), ("left", "ms ahead of the picture")):
            axis = self.plot.getAxis(side)
            axis.setPen(pyqtgraph.mkPen(theme.RULE_STRONG))
            axis.setTextPen(pyqtgraph.mkPen(theme.INK_SOFT))
            axis.setStyle(tickFont=theme.font(10))
            axis.setLabel(text, color=theme.INK_SOFT.name(), **{"font-size": "11px"})

    def show_drifts(
        self, found: Sequence[Drift], plan: Plan, tolerance: int, chosen: Drift | None
    ) -> None:
        """Draw each as steps; what is beyond the tolerance is above the dotted line."""
        item = self.plot.getPlotItem()
        item.clear()
        self.dress()
        self._drawn = []
        farthest = sorted(found, key=lambda drift: -drift.last)[:MOST]
        for drift in reversed(farthest):
            here = chosen is not None and drift.voice.key == chosen.voice.key
            beyond = drift.largest > tolerance
            colour: QColor = theme.MOSS if here else theme.OCHRE if beyond else theme.INK_SOFT
            pen = pyqtgraph.mkPen(colour, width=3 if here else 1.4)
            seconds = drift.ats / plan.rate
            ahead = drift.ahead * 1000 / plan.rate
            item.plot(np.append(seconds, seconds[-1]), ahead, pen=pen, stepMode="center")
            self._drawn.append((drift, seconds, ahead))
        line = pyqtgraph.mkPen(theme.OCHRE, style=Qt.PenStyle.DotLine)
        item.addLine(y=1000 * tolerance / plan.rate, pen=line)
        item.showGrid(x=False, y=True, alpha=0.15)

    def _clicked(self, event: Any) -> None:  # noqa: ANN401 - the package has no types
        self.choose_at(event.scenePos())

    def choose_at(self, at: QPointF) -> None:
        """The picture of the curve that is nearest to a point of the scene, if one is near."""
        view = self.plot.getPlotItem().vb
        best: tuple[float, Drift, int] | None = None
        for drift, seconds, ahead in self._drawn:
            spots = [
                view.mapViewToScene(QPointF(x, y))
                for x, y in zip(seconds.tolist(), ahead.tolist(), strict=True)
            ]
            for index, spot in enumerate(spots):
                apart = (spot - at).manhattanLength()
                if apart <= NEAR and (best is None or apart < best[0]):
                    best = apart, drift, int(drift.ats[index])
        if best is not None:
            self.chosen.emit(best[1], best[2])
