"""The rail between sheet and lower half: play, where it is, how loud it is."""

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QMenu, QPushButton, QSizePolicy
from typing_extensions import override

from cicada.window.drawing import theme
from cicada.window.drawing.icons import icon
from cicada.window.playing.meter import Meter
from cicada.window.playing.metering import Metering
from cicada.window.playing.scrubbing import Scrubbing
from cicada.window.playing.transport import Transport
from cicada.window.state.conditions import STEADY, Conditions
from cicada.window.state.planning import Planning
from cicada.window.state.session import Session
from cicada.window.words.draw_times import draw_time_text
from cicada.window.words.quantities import times_text

PASSES = {1: "Shows pass 1", 2: "Shows pass 2", 3: "Shows pass 3", STEADY: "Shows the steady pass"}
ORIGINS = (
    ("From the film's start", False, True),
    ("From the playhead, with what rings on", True, True),
    ("From the playhead, out of silence", True, False),
)
SHORT = {
    ORIGINS[0][0]: "drawn from start",
    ORIGINS[1][0]: "drawn from here",
    ORIGINS[2][0]: "out of silence",
}
PACE_SIGNS = {0.5: "½ speed", 0.25: "¼ speed"}
# What the button of a pretended draw time takes.
DRAWS = 120
# What a note beside it takes.
NOTE = 40
# Widths from which on there is room for each, and the least that is of use.
TIMECODE_FROM, SECONDS_FROM, OF_FROM, LEAST = 1240, 1130, 1060, 780


class Rail(QFrame):
    """Buttons, the frame under the playhead in three readings, and the meter."""

    def __init__(
        self,
        session: Session,
        transport: Transport,
        scrubbing: Scrubbing,
        conditions: Conditions,
        planning: Planning,
        metering: Metering,
    ) -> None:
        super().__init__()
        self._session, self._transport = session, transport
        self._scrubbing = scrubbing
        self._conditions, self._planning, self._metering = conditions, planning, metering
        self.setFixedHeight(40)
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 3, 16, 3)
        row.setSpacing(6)
        self.play = QPushButton("Play from here")
        self.play.setObjectName("main")
        self.play.setToolTip("Space")
        self.play.setFixedWidth(138)
        self.play.clicked.connect(transport.toggle)
        self.start = QPushButton("Play from start")
        self.start.setToolTip("Play the scene from its first frame (Shift+Space)")
        self.start.clicked.connect(transport.play_from_start)
        self.what = QPushButton()
        self.what.setToolTip("What is played, how often and how fast (Ctrl+R: again and again)")
        self.shown = QPushButton()
        self.shown.setToolTip("Which pass of the film the sheet shows and Space plays")
        self.shown.setMenu(self._passes())
        self.origin = QPushButton()
        self.origin.setToolTip("Where the run begins that is drawn and played")
        self.origin.setMenu(self._origins())
        self.draws = QPushButton()
        self.draws.setObjectName("pretended")
        self.draws.setToolTip("Pretended: how many pictures a slower machine reaches (Ctrl+Alt+D)")
        for button in (self.play, self.start, self.what, self.shown, self.origin, self.draws):
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.setIconSize(QSize(14, 14))
            row.addWidget(button)
        row.addSpacing(14)
        self._add_readings(row)
        session.playhead_moved.connect(self._show_place)
        session.scene_changed.connect(self._show_place)
        session.document.changed.connect(self._show_place)
        transport.state_changed.connect(self._show_state)
        scrubbing.changed.connect(self._show_state)
        conditions.changed.connect(self._show_run)
        planning.planned.connect(self._show_run)
        self.dress()
        self._show_place()
        self._show_run()

    def _add_readings(self, row: QHBoxLayout) -> None:
        """Where the playhead is, what else there is to say, and the meter."""
        self.frame = QLabel()
        self.frame.setFont(theme.font(22, 600))
        self.frame.setAccessibleName("Frame")
        self.frame.setMinimumWidth(44)
        self.of = QLabel()
        self.of.setObjectName("soft")
        self.seconds = QLabel()
        self.seconds.setFont(theme.font(14))
        self.seconds.setAccessibleName("Seconds")
        self.timecode = QLabel()
        self.timecode.setFont(theme.font(14))
        self.timecode.setAccessibleName("Timecode")
        for label in (self.frame, self.of, self.seconds, self.timecode):
            row.addWidget(label)
            row.addSpacing(6)
        self.note = QLabel()
        self.note.setObjectName("soft")
        self.note.setMinimumWidth(0)
        self.note.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        row.addWidget(self.note, 1)
        # What does not fit is left out, the least needed first.
        row.setSizeConstraint(QHBoxLayout.SizeConstraint.SetNoConstraint)
        self.meter = Meter(self._metering)
        row.addWidget(self.meter)

    def dress(self) -> None:
        """Take the icons in the colours of now."""
        light, ink = theme.CARD.name(), theme.INK.name()
        self._icons = icon("play", light), icon("stop", light)
        self.start.setIcon(icon("start", ink))
        self._show_state()

    def _passes(self) -> QMenu:
        menu = QMenu(self)
        for number in (1, 2, 3, STEADY):
            action = menu.addAction(PASSES[number])
            action.triggered.connect(lambda _=False, n=number: self._conditions.show_pass(n))
        return menu

    def _origins(self) -> QMenu:
        menu = QMenu(self)
        for words, playhead, chase in ORIGINS:
            action = menu.addAction(words)
            action.triggered.connect(
                lambda _=False, playhead=playhead, chase=chase: self._conditions.run_from(
                    playhead=playhead, chase=chase
                )
            )
        return menu

    def _scrubbing_words(self) -> str:
        """What a hand on the rulers makes heard."""
        conditions = self._conditions
        if conditions.from_playhead and not conditions.chase:
            return "as it sounds out of silence"
        return f"as it sounds in pass {self._planning.number}"

    def _show_run(self) -> None:
        self._show_what()
        conditions, planning = self._conditions, self._planning
        text = PASSES[conditions.shown_pass]
        if conditions.shown_pass == STEADY and planning.up_to_date:
            text = f"Steady: pass {planning.number}" if planning.settles else "Never steady"
        self.shown.setText(text)
        here = (conditions.from_playhead, conditions.chase if conditions.from_playhead else True)
        words = {(playhead, chase): SHORT[words] for words, playhead, chase in ORIGINS}
        self.origin.setText(words[here])
        slow, rate = conditions.draw_time, self._session.document.project.rate
        self.draws.setVisible(bool(slow))
        self.draws.setText(f"draws {draw_time_text(slow, rate)}" if slow else "")
        self._fit()

    def _show_place(self) -> None:
        project, scene = self._session.document.project, self._session.scene
        base = project.timebase
        frame = self._session.playhead
        self.frame.setText(str(project.shown(frame)))
        num, den = project.fps
        fps = f"{num}" if den == 1 else f"{num / den:.3f}"
        self.of.setText(f"of {project.shown(scene.length - 1)} at {fps} fps")
        self.seconds.setText(f"{base.seconds(frame):.3f} s")
        self.timecode.setText(base.timecode(frame))

    def _show_state(self) -> None:
        busy = self._transport.sounding
        self.play.setText("Stop" if busy else "Play from here")
        self.play.setIcon(self._icons[1] if busy else self._icons[0])
        silent, scrubbing = self._transport.silent_device, self._scrubbing.going_on
        text = self._scrubbing_words() if scrubbing else "no device" if silent else ""
        self.note.setText(text)
        self._fit()
        trouble = self._transport.devices.known.trouble
        self.note.setToolTip(f"No sound device: playing in silence. {trouble}" if silent else text)
        self._show_what()

    def _fit(self) -> None:
        """Leave out what there is no room for: the frame and the buttons come first."""
        scrubbing = self._scrubbing.going_on
        room = self.width() - (DRAWS if self._conditions.draw_time else 0)
        room -= NOTE if self.note.text() and room < self.width() else 0
        # There is room for one of them: whoever scrubs reads the frame.
        self.timecode.setVisible(not scrubbing and room >= TIMECODE_FROM)
        self.seconds.setVisible(not scrubbing and room >= SECONDS_FROM)
        self.of.setVisible(room >= OF_FROM)
        wide = room >= OF_FROM
        self.start.setText("Play from start" if wide else "")
        self.start.setAccessibleName("Play from start")
        self.meter.setFixedWidth(156 if wide else 100)

    @override
    def minimumSizeHint(self) -> QSize:
        return QSize(LEAST, 40)

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()

    def _show_what(self) -> None:
        conditions, pace = self._conditions, self._transport.pace
        what = {"film": "All", "scene": "This scene", "range": "The range"}[conditions.scope]
        words = f"{what}, {times_text(conditions.passes)}"
        self.what.setText(words if pace == 1 else f"{words}, {PACE_SIGNS[pace]}")
