"""The grid a part of a pattern is written on: a row for each pitch, a cell for each step."""

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QContextMenuEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget
from typing_extensions import override

from cicada.core.noting import note_at, without, written
from cicada.core.patterns import TICKS, Note, PatternPart
from cicada.synth.instruments import playable
from cicada.window.drawing import theme
from cicada.window.widgets.fields import NameField
from cicada.window.words.pitches import parse_pitch, row_text, understood

LABELS, ROW, LEAST_CELL = 96, 18, 9
# Pixels at a note's end by which it is made longer, and strengths one after the other.
_EDGE, _STRENGTHS = 6, (0.4, 0.7, 1.0)


class PartGrid(QWidget):
    """``changed`` comes with the part as it is to be, and what was done to it.

    ``repitch_wanted`` comes with a row's pitch and what it is to be, ``said`` with what is wrong.
    """

    changed = Signal(object, str)
    repitch_wanted = Signal(float, float)
    said = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.part = PatternPart()
        self.rows: list[float] = []
        self._cell, self._round, self._wide = TICKS // 4, 4 * TICKS, 20.0
        # The note under the hand with where it was taken, and how it would be.
        self._held: Note | None = None
        self._from = QPointF()
        self._trial: Note | None = None
        self._fresh = self._resizes = False
        self.cursor_row = self.cursor_step = 0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)

    def show_part(
        self, part: PatternPart, rows: Sequence[float], cell: int, round_ticks: int, wide: float
    ) -> None:
        """Show a part with its rows from the top; a cell has ``cell`` ticks and is ``wide`` px."""
        self.part, self.rows, self._cell, self._round = part, list(rows), cell, round_ticks
        self._wide = wide
        self.cursor_row = min(self.cursor_row, max(0, len(rows) - 1))
        self.cursor_step = min(self.cursor_step, max(0, self._steps - 1))
        self.setFixedSize(self.sizeHint())
        self.update()

    @property
    def _steps(self) -> int:
        return max(1, -(-self.part.length // self._cell))

    @override
    def sizeHint(self) -> QSize:
        wide = self._round / self._cell * self._wide
        return QSize(LABELS + round(wide) + 2, max(1, len(self.rows)) * ROW + 1)

    # -- where things are ----------------------------------------------------------------------

    def x_of(self, tick: float) -> float:
        """Where a tick is across."""
        return LABELS + tick / self._cell * self._wide

    def cell_at(self, place: QPointF) -> tuple[float, int] | None:
        """The pitch and the tick of the cell at a place; None beside the grid."""
        row, across = int(place.y() // ROW), place.x() - LABELS
        step = int(across // self._wide)
        if across < 0 or not 0 <= row < len(self.rows) or not 0 <= step < self._steps:
            return None
        return self.rows[row], step * self._cell

    def place_of(self, pitch: float, tick: int) -> QPointF:
        """The middle of a cell, for whoever wants to press there."""
        return QPointF(self.x_of(tick) + self._wide / 2, self.rows.index(pitch) * ROW + ROW / 2)

    def _note_under(self, place: QPointF) -> Note | None:
        cell = self.cell_at(place)
        if cell is None:
            return None
        tick = round((place.x() - LABELS) / self._wide * self._cell)
        return note_at(self.part, tick, cell[0])

    # -- painting ------------------------------------------------------------------------------

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setFont(theme.font(11))
        right = self.x_of(self._round)
        for row, pitch in enumerate(self.rows):
            top = row * ROW
            painter.fillRect(QRectF(LABELS, top, right - LABELS, ROW), self._ground(row))
            can = self.part.sound is not None or playable(self.part.voice, pitch)
            painter.setPen(theme.INK_SOFT if can else theme.BRICK)
            words = row_text(self.part.voice, pitch, sound=self.part.sound is not None)
            place = QRectF(0, top, LABELS - 8, ROW)
            painter.drawText(
                place, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, words
            )
        self._paint_lines(painter, right)
        for begin in range(0, self._round, self.part.length):
            for note in self.part.notes:
                if note is not self._held and note.at < self.part.length:
                    self._paint_note(painter, note, begin, right)
        if self._trial is not None:
            self._paint_note(painter, self._trial, 0, right)
        if self.hasFocus() and self.rows:
            painter.setPen(theme.INK)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            x = self.x_of(self.cursor_step * self._cell)
            painter.drawRect(QRectF(x + 0.5, self.cursor_row * ROW + 0.5, self._wide - 1, ROW - 1))

    def _ground(self, row: int) -> object:
        return theme.ROW if row % 2 == 0 else theme.ROW_OTHER

    def _paint_lines(self, painter: QPainter, right: float) -> None:
        tall = len(self.rows) * ROW
        tick = 0
        while tick <= self._round:
            beat = tick % TICKS == 0
            painter.setPen(theme.rule_pen(theme.RULE_STRONG if beat else theme.RULE))
            painter.drawLine(QPointF(self.x_of(tick), 0), QPointF(self.x_of(tick), tall))
            tick += self._cell
        # Where its own round is over it goes on from its beginning.
        if self.part.length < self._round:
            over = QRectF(self.x_of(self.part.length), 0, right - self.x_of(self.part.length), tall)
            painter.fillRect(over, theme.wash(theme.PAPER, 140))

    def _paint_note(self, painter: QPainter, note: Note, begin: int, right: float) -> None:
        if note.pitch not in self.rows:
            return
        left = self.x_of(begin + note.at)
        if left >= right:
            return
        end = min(right, self.x_of(begin + note.at + note.length))
        top = self.rows.index(note.pitch) * ROW
        can = self.part.sound is not None or playable(self.part.voice, note.pitch)
        colour = theme.MOSS if can else theme.BRICK
        again = begin > 0
        painter.setPen(theme.wash(colour, 90 if again else 255))
        painter.setBrush(theme.wash(colour, round((60 if again else 190) * note.strength)))
        box = QRectF(left + 1, top + 2.5, max(3.0, end - left - 2), ROW - 5)
        painter.drawRoundedRect(box, 3, 3)

    # -- by hand -------------------------------------------------------------------------------

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            return
        place = event.position()
        cell, note = self.cell_at(place), self._note_under(place)
        self._from, self._fresh = place, note is None
        if note is not None and event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self._strengthen(note)
            return
        if note is None and cell is not None:
            pitch, tick = cell
            self._held, self._resizes = None, True
            self._trial = Note(tick, self._cell, pitch, _STRENGTHS[1])
        elif note is not None:
            end = self.x_of(note.at + note.length)
            self._held, self._trial = note, note
            self._resizes = end - place.x() < min(_EDGE, self._wide * 0.35)
        if cell is not None:
            self.cursor_row, self.cursor_step = self.rows.index(cell[0]), cell[1] // self._cell
        self.update()

    @override
    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        trial = self._trial
        if trial is None:
            note = self._note_under(event.position())
            near = note is not None and self.x_of(note.at + note.length) - event.position().x()
            at_end = note is not None and near < min(_EDGE, self._wide * 0.35)
            shape = Qt.CursorShape.SizeHorCursor if at_end else Qt.CursorShape.ArrowCursor
            self.setCursor(shape)
            return
        moved = round((event.position().x() - self._from.x()) / self._wide) * self._cell
        if self._resizes:
            length = (self._held or trial).length if not self._fresh else self._cell
            room = self.part.length - trial.at
            longer = max(self._cell, min(room, length + moved))
            self._trial = Note(trial.at, max(1, longer), trial.pitch, trial.strength)
        elif self._held is not None:
            held = self._held
            row = min(len(self.rows) - 1, max(0, int(event.position().y() // ROW)))
            at = min(max(0, held.at + moved), max(0, self.part.length - 1))
            self._trial = Note(at, held.length, self.rows[row], held.strength)
        self.update()

    @override
    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        held, trial = self._held, self._trial
        self._held = self._trial = None
        if trial is None:
            return
        part = self.part if held is None else without(self.part, held)
        if held is not None and trial == held:
            self.changed.emit(part, "take a note away")
        else:
            what = "write a note" if held is None else "change a note"
            self.changed.emit(written(part, trial), what)
        self.update()

    @override
    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        note = self._note_under(QPointF(event.pos()))
        if note is not None:
            self.changed.emit(without(self.part, note), "take a note away")

    @override
    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        row = int(event.position().y() // ROW)
        if event.position().x() < LABELS and 0 <= row < len(self.rows):
            self.edit_row(row)

    def edit_row(self, row: int) -> NameField:
        """Type another pitch for a row."""
        pitch = self.rows[row]
        place = QRect(2, row * ROW - 2, LABELS - 4, ROW + 4)
        field = NameField(row_text("plucked", pitch, sound=True), "pitch of the row", self, place)

        def named(text: str) -> None:
            try:
                new = parse_pitch(text)
            except ValueError as error:
                self.said.emit(str(error))
                return
            self.said.emit(understood(self.part.voice, new, sound=self.part.sound is not None))
            self.repitch_wanted.emit(pitch, new)

        field.named.connect(named)
        return field

    def _strengthen(self, note: Note) -> None:
        later = [s for s in _STRENGTHS if s > note.strength + 1e-6]
        strength = later[0] if later else _STRENGTHS[0]
        part = without(self.part, note)
        self.changed.emit(
            written(part, Note(note.at, note.length, note.pitch, strength)),
            "change how strong a note is",
        )

    # -- by keys -------------------------------------------------------------------------------

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        moves = {
            Qt.Key.Key_Left: (0, -1), Qt.Key.Key_Right: (0, 1),
            Qt.Key.Key_Up: (-1, 0), Qt.Key.Key_Down: (1, 0),
        }  # fmt: skip
        key = event.key()
        # A pitch that is typed lets the key that ends it through.
        if not self.rows or self.findChild(NameField) is not None:
            super().keyPressEvent(event)
            return
        if key in moves:
            down, on = moves[Qt.Key(key)]
            self.cursor_row = min(len(self.rows) - 1, max(0, self.cursor_row + down))
            self.cursor_step = min(self._steps - 1, max(0, self.cursor_step + on))
            self.update()
            return
        pitch, tick = self.rows[self.cursor_row], self.cursor_step * self._cell
        note = note_at(self.part, tick, pitch)
        if key in (Qt.Key.Key_Space, Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Delete):
            if note is not None:
                self.changed.emit(without(self.part, note), "take a note away")
            elif key != Qt.Key.Key_Delete:
                fresh = Note(tick, self._cell, pitch, _STRENGTHS[1])
                self.changed.emit(written(self.part, fresh), "write a note")
        elif note is not None and key in (Qt.Key.Key_Plus, Qt.Key.Key_Minus):
            by = self._cell if key == Qt.Key.Key_Plus else -self._cell
            length = max(self._cell, min(self.part.length - note.at, note.length + by))
            longer = Note(note.at, length, note.pitch, note.strength)
            self.changed.emit(written(without(self.part, note), longer), "change a note")
        elif note is not None and key == Qt.Key.Key_S:
            self._strengthen(note)
        else:
            super().keyPressEvent(event)
