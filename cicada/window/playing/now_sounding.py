"""What sounds now, at the playhead or where the film is playing: how loud, why, and until when."""

from PySide6.QtCore import QEvent, QRect, QRectF, QSize, Qt, QTimer
from PySide6.QtGui import (
    QHelpEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QShowEvent,
)
from PySide6.QtWidgets import QFrame, QLabel, QVBoxLayout, QWidget
from typing_extensions import override

from cicada.core.hearing import Heard, Hearing
from cicada.core.plan import Plan
from cicada.window.drawing import theme
from cicada.window.playing.transport import Transport
from cicada.window.state.planning import Planning
from cicada.window.state.session import Session
from cicada.window.widgets.rows import scrolled
from cicada.window.words.moments import MomentWords
from cicada.window.words.quantities import count, decibels

ROW, EAR = 46, 30
BEGAN = {"fired": "from", "queued": "its turn came on", "joined": "joined on"}
# Milliseconds between two looks while playing: nobody reads faster.
OFTEN = 60


class NowSounding(QFrame):
    """The part that lists what sounds; ``refresh`` looks anew."""

    def __init__(self, session: Session, planning: Planning, transport: Transport) -> None:
        super().__init__()
        self.setObjectName("card")
        self._session, self._planning, self._transport = session, planning, transport
        self._hearing: Hearing | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(10, 10, 8, 6)
        column.setSpacing(6)
        self.title = QLabel()
        self.title.setFont(theme.font(13, 600))
        self.title.setContentsMargins(4, 0, 0, 0)
        column.addWidget(self.title)
        self.rows = Rows(self)
        column.addWidget(scrolled(self.rows), 1)
        for signal in (session.playhead_moved, planning.planned, transport.state_changed):
            signal.connect(self.refresh)
        self._due = QTimer(self)
        self._due.setSingleShot(True)
        self._due.timeout.connect(self.refresh)
        transport.moved.connect(self._moved)

    def heard(self) -> list[Heard]:
        """What sounds where the film is, playing or not."""
        playing = self._transport.playing
        plan = self._transport.plan if playing else self._planning.plan
        project = self._planning.project
        known = self._hearing
        if known is None or known.plan is not plan or known.project is not project:
            known = self._hearing = Hearing(plan, project)
        return known.at(self._sample(plan))

    def _sample(self, plan: Plan) -> int:
        if self._transport.playing:
            return int(self._transport.sample)
        visit = plan.visit_of(self._session.scene_id, self._planning.number)
        if visit is None:
            return -1
        entered = plan.entered(self._session.playhead, visit)
        return -1 if entered is None else entered

    def refresh(self) -> None:
        """Show what sounds now."""
        if not self.isVisible():
            return
        found = self.heard()
        words = count(len(found), "sound") if found else "nothing"
        self.title.setText(f"Sounding now: {words}")
        self.rows.show_heard(found)

    def _moved(self) -> None:
        if not self._due.isActive():
            self._due.start(OFTEN)

    @override
    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.refresh()

    def words_for(self, heard: Heard) -> str:
        """Why it sounds and what will end it."""
        planning, voice = self._planning, heard.voice
        plan = self._transport.plan if self._transport.playing else planning.plan
        words = MomentWords(planning.project, plan, self._session.scene_id, planning.number)
        begins = f"{BEGAN[voice.why]} {words.frame(voice.start)}"
        if heard.stands:
            begins = "stands still with the picture"
        return f"{begins}, {words.why_ends(voice)} on {words.frame(voice.end)}"

    def names_for(self, heard: Heard) -> tuple[str, str]:
        """The sound's name and its layer's."""
        project = self._planning.project
        sound = project.placeable(heard.voice.sound)
        name, picked = sound.label, heard.voice.picked
        if picked is not None:
            name = f"{name}: {project.placeable(picked).label}"
        return name, project.heard_on(heard.voice.layer).label

    def time_for(self, heard: Heard) -> str:
        """How loud it is, in which loop, and how long it still goes on."""
        loop = ""
        if heard.loops != 1:
            loop = f"loop {heard.loop} of {heard.loops or '∞'} · "
        if heard.loops == 0 and heard.voice.ended == "run":
            left = "endless"
        else:
            left = f"{heard.left / self._planning.plan.rate:.1f} s left"
        level = "silent" if heard.gain < 1e-5 else decibels(heard.gain)
        return f"{loop}{level} · {left}"

    def is_muted(self, heard: Heard) -> bool:
        """Whether it is not heard for now."""
        return heard.voice.cell in self._transport.muted

    def mute(self, heard: Heard) -> None:
        """Hear its clip no more while listening, or again."""
        cell = frozenset((heard.voice.cell,))
        self._transport.mute(self._transport.muted ^ cell)
        self.rows.update()

    def go_to(self, heard: Heard) -> None:
        """Choose its clip on the sheet."""
        voice = heard.voice
        self._session.show_scene(voice.scene, playing=self._transport.playing)
        self._session.choose(voice.cell)


class Rows(QWidget):
    """A row for each; a click on the ear mutes, one on the row goes to the clip."""

    def __init__(self, owner: NowSounding) -> None:
        super().__init__()
        self._owner = owner
        self.shown: list[Heard] = []
        self.current = 0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Sounding now")

    def show_heard(self, found: list[Heard]) -> None:
        """Show these."""
        if len(found) != len(self.shown):
            self.setMinimumHeight(ROW * len(found))
        self.shown = found
        self.current = max(0, min(self.current, len(found) - 1))
        self.setAccessibleDescription("; ".join(self._owner.names_for(heard)[0] for heard in found))
        self.update()

    @override
    def sizeHint(self) -> QSize:
        return QSize(300, ROW * max(1, len(self.shown)))

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if not self.shown:
            painter.setPen(theme.INK_SOFT)
            painter.setFont(theme.font(13))
            painter.drawText(
                QRectF(4, 4, self.width() - 8, 60), Qt.TextFlag.TextWordWrap,
                "Play, or put the playhead where something sounds: it is listed here, with what "
                "started it and what will end it.",
            )  # fmt: skip
            return
        for number, heard in enumerate(self.shown):
            box = QRect(0, number * ROW, self.width(), ROW)
            if box.intersects(event.rect()):
                self._paint_row(painter, QRectF(box), heard, number)

    def _paint_row(self, painter: QPainter, box: QRectF, heard: Heard, number: int) -> None:
        owner, muted = self._owner, self._owner.is_muted(heard)
        if number == self.current and self.hasFocus():
            painter.fillRect(box, theme.wash(theme.MOSS, 26))
        painter.setOpacity(0.5 if muted else 1.0)
        self._paint_ear(painter, box, heard, muted=muted)
        name, layer = owner.names_for(heard)
        left, right = box.left() + EAR, box.right() - 6
        time = owner.time_for(heard)
        painter.setFont(theme.font(12))
        wide = painter.fontMetrics().horizontalAdvance(time)
        line = QRectF(left, box.top() + 4, right - left, 20)
        painter.setPen(theme.INK_SOFT)
        painter.drawText(line, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, time)
        painter.setPen(theme.INK)
        painter.setFont(theme.font(13, 600))
        self._elided(painter, line.adjusted(0, 0, -wide - 10, 0), name)
        painter.setPen(theme.INK_SOFT)
        painter.setFont(theme.font(11.5))
        words = f"{layer} · {owner.words_for(heard)}"
        self._elided(painter, QRectF(left, box.top() + 23, right - left, 18), words)
        painter.setOpacity(1.0)
        painter.fillRect(QRectF(box.left(), box.bottom(), box.width(), 1), theme.RULE)

    def _elided(self, painter: QPainter, box: QRectF, text: str) -> None:
        shown = painter.fontMetrics().elidedText(
            text, Qt.TextElideMode.ElideRight, int(box.width())
        )
        painter.drawText(box, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, shown)

    def _paint_ear(self, painter: QPainter, box: QRectF, heard: Heard, *, muted: bool) -> None:
        """A bar as high as it is loud, in the shape of how it keeps time; struck out if muted."""
        place = QRectF(box.left() + 8, box.top() + 8, 10, ROW - 16)
        corner = 0 if heard.voice.sync == "locked" else 4
        colour = {"locked": theme.SLATE, "free": theme.MOSS, "hold": theme.PLUM}[heard.voice.sync]
        painter.setPen(QPen(colour, 1.2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(place, corner, corner)
        high = place.height() * min(1.0, heard.gain**0.6)
        full = QRectF(place.left(), place.bottom() - high, place.width(), high)
        painter.setBrush(colour)
        painter.drawRoundedRect(full, corner, corner)
        if muted:
            painter.setPen(QPen(theme.INK, 1.6))
            painter.drawLine(place.bottomLeft(), place.topRight())

    def heard_at(self, y: float) -> Heard | None:
        """The one whose row is there."""
        number = int(y // ROW)
        return self.shown[number] if 0 <= number < len(self.shown) else None

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        heard = self.heard_at(event.position().y())
        if heard is None:
            return
        self.current = self.shown.index(heard)
        if event.position().x() < EAR:
            self._owner.mute(heard)
        else:
            self._owner.go_to(heard)
        self.update()

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, last = event.key(), len(self.shown) - 1
        if key in (Qt.Key.Key_Up, Qt.Key.Key_Down) and self.shown:
            by = 1 if key == Qt.Key.Key_Down else -1
            self.current = max(0, min(self.current + by, last))
            self.update()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.shown:
            self._owner.go_to(self.shown[self.current])
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and self.shown:
            self._owner.mute(self.shown[self.current])
        else:
            super().keyPressEvent(event)

    @override
    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ToolTip and isinstance(event, QHelpEvent):
            heard = self.heard_at(event.pos().y())
            how = "A click goes to the clip, one on the bar mutes it while listening."
            self.setToolTip(f"{self._owner.words_for(heard)}.\n{how}" if heard else "")
        return super().event(event)
