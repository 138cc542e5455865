"""A small panel that draws whole lines: a move from side to side, a swell, a dip under a clip.

What it would draw is shown on the sheet while it is being set.
"""

import numpy as np
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QHideEvent
from PySide6.QtWidgets import QComboBox, QFrame, QHBoxLayout, QPushButton, QVBoxLayout
from typing_extensions import override

from cicada.core.beats import tempo_at
from cicada.core.editing import Cell, Edit
from cicada.core.keyframe_edits import ChangeKeyframes
from cicada.core.model import Clip, keyframe_at
from cicada.core.outline import loud_stretches, loudest
from cicada.core.plan import Voice
from cicada.core.points import dip, move
from cicada.core.shaping import Shaping
from cicada.core.values import Line
from cicada.errors import CicadaError
from cicada.window.drawing.waveform import trace_columns
from cicada.window.sheet.sheet import Sheet
from cicada.window.state.notices import Notices
from cicada.window.widgets.choice import Choice
from cicada.window.widgets.fields import LEVEL, PAN, Kind, QuantityField, time
from cicada.window.widgets.rows import Page, soft
from cicada.window.words.quantities import TimeUnits

KINDS = [
    ("move", "Move", "From side to side, on its pan line"),
    ("swell", "Swell", "From level to level, on its level line"),
    ("dip", "Dip under", "Lower while another clip is loud, on its level line"),
]
# The steps, in seconds, in which it is looked for where another clip is loud.
STEP = 0.02
# How far below the other's loudest the clip is taken, -8 dB.
BELOW = 0.4


class GesturePanel(QFrame):
    """Shown once, over the window; Esc or a click beside it closes it."""

    def __init__(self, sheet: Sheet, cell: Cell, shaping: Shaping, notices: Notices) -> None:
        super().__init__(sheet, Qt.WindowType.Popup)
        self.setObjectName("card")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setAccessibleName("Draw a line")
        self._sheet, self._cell, self._shaping = sheet, cell, shaping
        self._session, self._notices = sheet.session, notices
        self._trial = sheet.planning.trial()
        total = shaping.timing.total
        ends = shaping.clock.enters(sheet.session.scene.length) - shaping.begins
        self._long = (ends if total is None else total - shaping.timing.delay) / shaping.rate
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 12, 16, 12)
        self.kind = Choice("gesture", KINDS)
        self.kind.chosen.connect(self.show_kind)
        column.addWidget(self.kind)
        self.page = Page()
        column.addWidget(self.page)
        self.sides = self._pair(("from side", "to side"), PAN, (-0.7, 0.7))
        self.page.row("from", self.sides[0], soft("to"), self.sides[1])
        self.levels = self._pair(("from level", "to level"), LEVEL, (0.0, 1.0))
        self.page.row("from", self.levels[0], soft("to"), self.levels[1])
        times = time(self._units, "Counted from where the clip starts")
        self.stretch = self._pair(("starting", "over"), times, self._usual_stretch())
        self.page.row("starting", self.stretch[0], soft("over"), self.stretch[1])
        self.under = QComboBox()
        self.under.setAccessibleName("clip to dip under")
        self._offer_others()
        self.under.currentIndexChanged.connect(self._choose_under)
        self.lowered = self._one("dip to", LEVEL, 0.4)
        self.page.row("under", self.under, soft("to"), self.lowered)
        self._suggest_depth()
        self.slope = self._one("going down over", times, 0.15)
        self.page.row("going down", self.slope)
        row = QHBoxLayout()
        self.draw = QPushButton("Draw it")
        self.draw.setObjectName("main")
        self.draw.clicked.connect(self._draw)
        row.addStretch(1)
        row.addWidget(self.draw)
        column.addLayout(row)
        self.show_kind("move")

    def _units(self) -> TimeUnits:
        fps = self._session.document.project.timebase.fps
        return TimeUnits(fps, tempo_at(self._session.scene, self._cell.frame))

    def _one(self, name: str, kind: Kind, value: float) -> QuantityField:
        field = QuantityField(name, kind)
        field.setFixedWidth(126)
        field.set_value(value)
        field.chosen.connect(self._try)
        return field

    def _pair(
        self, names: tuple[str, str], kind: Kind, values: tuple[float, float]
    ) -> tuple[QuantityField, QuantityField]:
        return self._one(names[0], kind, values[0]), self._one(names[1], kind, values[1])

    def _usual_stretch(self) -> tuple[float, float]:
        """From the playhead on, if it is inside the clip, or the whole of it."""
        here = self._shaping.needs(self._session.playhead) / self._shaping.rate
        start = round(here, 3) if 0 < here < self._long else 0.0
        return start, round(self._long - start, 3)

    def show_at(self, at: QPoint) -> None:
        """Open it near a place of the screen, inside the window."""
        self.adjustSize()
        frame = self._sheet.window().frameGeometry()
        left = min(at.x(), frame.right() - self.width() - 8)
        top = min(at.y(), frame.bottom() - self.height() - 8)
        self.move(max(frame.left(), left), max(frame.top(), top))
        self.show()
        self._try()

    def show_kind(self, kind: str) -> None:
        """Offer what one gesture needs."""
        self.kind.set_value(kind)
        self._kind = kind
        rows = {
            self.sides[0]: ("move",), self.levels[0]: ("swell",),
            self.stretch[0]: ("move", "swell"), self.under: ("dip",), self.slope: ("dip",),
        }  # fmt: skip
        for row, kinds in enumerate(rows.values()):
            self.page.form.setRowVisible(row, kind in kinds)
        self.adjustSize()
        if self.isVisible():
            self._try()

    # -- what it draws -------------------------------------------------------------------------

    def _draw(self) -> None:
        try:
            edit = self.edit()
        except CicadaError as error:
            self._notices.say(str(error))
            return
        self.close()
        if edit is not None:
            self._session.document.do(edit)

    def _try(self) -> None:
        self._trial.attempt(self.edit)

    @override
    def hideEvent(self, event: QHideEvent) -> None:
        self._trial.end()
        super().hideEvent(event)

    def edit(self) -> Edit | None:
        """The edit that draws it; None if there is nothing to draw."""
        clip = self._shaping.clip
        start, over = (field.value for field in self.stretch)
        if self._kind == "dip":
            stretches = self._loud_stretches()
            if not stretches:
                return None
            line = dip(clip.level_line, stretches, self.lowered.value, self.slope.value)
            return self._change("level_line", line, "dip under another clip")
        pair = self.sides if self._kind == "move" else self.levels
        field = "pan_line" if self._kind == "move" else "level_line"
        before = clip.pan_line if self._kind == "move" else clip.level_line
        line = move(before, start, start + max(over, 0.001), pair[0].value, pair[1].value)
        words = "move it from side to side" if self._kind == "move" else "let it swell"
        return self._change(field, line, words)

    def _change(self, field: str, line: Line, what: str) -> Edit:
        return ChangeKeyframes(cells=(self._cell,), changes={field: line}, what=what)

    def _choose_under(self) -> None:
        self._suggest_depth()
        self._try()

    # -- dipping -------------------------------------------------------------------------------

    def _others(self) -> list[Voice]:
        """What sounds while the clip does, on any layer."""
        traces = self._sheet.traces
        own = next((v for v in traces.plan.voices if v.cell == self._cell), None)
        if own is None:
            return []
        return [
            voice
            for row in traces.rows
            for voice in row.voices
            if voice is not own and voice.start < own.end and voice.end > own.start
        ]

    def _offer_others(self) -> None:
        names = self._sheet.traces.names
        shown = self._session.document.project.shown
        for voice in self._others():
            self.under.addItem(f"{names[voice.sound]} on frame {shown(voice.frame)}", voice)
        if not self.under.count():
            self.under.addItem("nothing sounds with it", None)
            self.under.setEnabled(False)

    def _suggest_depth(self) -> None:
        """Far enough below the other clip's loudest that it comes through."""
        own = self._loudness(self._cell)
        voice = self.under.currentData()
        if isinstance(voice, Voice) and own > 0:
            theirs = self._loudness(voice.cell)
            wanted = min(1.0, max(0.05, theirs * BELOW / own))
            self.lowered.set_value(round(wanted, 2))

    def _loudness(self, cell: Cell) -> float:
        """How loud a clip gets by itself, linear."""
        project, sounds = self._session.document.project, self._sheet.sounds
        layer = project.layer(cell.layer)[1]
        clip = keyframe_at(layer, cell.frame)
        if not isinstance(clip, Clip):
            return 0.0
        return loudest(project, layer, clip, sounds.peaks(clip.sound))

    def _loud_stretches(self) -> list[tuple[float, float]]:
        """Where the other clip is loud, in seconds of this one's lines."""
        voice = self.under.currentData()
        if not isinstance(voice, Voice):
            return []
        traces, rate = self._sheet.traces, self._shaping.rate
        row = next((r for r in traces.rows if any(v is voice for v in r.voices)), None)
        if traces.axis is None or row is None:
            return []
        trace = row.trace(next(i for i, v in enumerate(row.voices) if v is voice))
        moments = np.arange(voice.start, voice.end, round(STEP * rate))
        if len(moments) < 2:
            return []
        columns = trace_columns(traces, trace, self._sheet.sounds.peaks, moments)
        if columns is None:
            return []
        zero = self._shaping.begins
        found = [
            ((start - zero) / rate, (end - zero) / rate)
            for start, end in loud_stretches(columns, moments, rate)
        ]
        return [
            (max(0.0, start), min(end, self._long))
            for start, end in found
            if end > 0 and start < self._long
        ]
