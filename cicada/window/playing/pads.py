"""Pads as they are played: by click, by key, by OSC; what was pressed is kept with its run."""

from collections import deque
from math import isfinite
from statistics import median

from PySide6.QtCore import QEvent, QObject, Qt, QTimer, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QAbstractSpinBox, QApplication, QComboBox, QLineEdit, QWidget
from typing_extensions import override

from cicada.core.answers import Fire, Input, Pad
from cicada.core.model import clip_of
from cicada.core.needs import needs
from cicada.remote.osc_packets import Argument
from cicada.window.playing.remote import MOVES_VALUE
from cicada.window.playing.transport import Transport
from cicada.window.state.conditions import Conditions
from cicada.window.state.notices import Notices
from cicada.window.state.session import Session
from cicada.window.state.sounds import Sounds

# Seconds over which a slider's newest place is reached, and milliseconds between two.
GLIDE, OFTEN = 0.03, 25
# Seconds over which a value is moved from outside, at most.
LONGEST = 3600.0
# What has text or rows of its own keeps its keys.
TYPED_INTO = (QLineEdit, QAbstractSpinBox, QComboBox)
# These keys never go to pads.
NEVER = (Qt.Key.Key_Space, Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Escape)


class Pads(QObject):
    """Whether pads are played, and what makes them act; ``changed`` comes when either differs.

    ``pressed`` comes with the id of a pad that is being pressed, ``heard`` when ``delay`` differs,
    ``more_ready`` when more sounds can be played than before.
    """

    changed = Signal()
    more_ready = Signal()
    pressed = Signal(str)
    heard = Signal()

    def __init__(
        self,
        session: Session,
        conditions: Conditions,
        transport: Transport,
        sounds: Sounds,
        notices: Notices,
    ) -> None:
        super().__init__()
        self._session, self._conditions = session, conditions
        self._transport, self._sounds, self._notices = transport, sounds, notices
        self._window: QWidget | None = None
        # Where each slider is to go, as long as that has not been told.
        self._newest: dict[str, float] = {}
        self.numbers: dict[str, float] = {}
        self._telling = QTimer(self)
        self._telling.setInterval(OFTEN)
        self._telling.timeout.connect(self._tell_newest)
        # How long, in seconds, what was pressed took to be heard, and what is handed over ahead.
        self._took: deque[float] = deque(maxlen=21)
        self._ahead, self._missed = 0.0, False
        self._at_hand = False
        transport.giving.answered.connect(self._answered)
        transport.buffered.connect(self._buffered)
        session.document.changed.connect(self._keep_up)
        sounds.changed.connect(self.more_ready)

    @property
    def played(self) -> bool:
        """Whether keys go to pads and what is played is a live run."""
        return self._conditions.plays_pads

    def play(self, *, on: bool) -> None:
        """Let keys go to pads, or back to the window."""
        if on == self.played:
            return
        if on and not self._session.document.project.pads:
            self._notices.say("There is no pad yet; add one first.")
            self.changed.emit()
            return
        if self._transport.playing:
            self._transport.stop()
        self._conditions.play_pads(on=on)
        self._be_quick()
        self._notices.say(
            "Keys go to the pads now; Esc gives them back."
            if on
            else "Keys are the window's again."
        )
        self.changed.emit()

    def at_hand(self, *, shown: bool) -> None:
        """Whether the pads are on screen, so that they may be pressed any moment."""
        self._at_hand = shown
        self._be_quick()
        self.changed.emit()

    @property
    def ready_to_hand(self) -> bool:
        """Whether the pads are on screen, or played."""
        return self._at_hand or self.played

    def _be_quick(self) -> None:
        self._transport.giving.be_quick(on=self.ready_to_hand)

    def _answered(self, seconds: float) -> None:
        self._took.append(seconds)
        self.heard.emit()

    def _buffered(self, seconds: float, missed: bool) -> None:  # noqa: FBT001 # a signal's
        self._ahead, self._missed = seconds, missed
        self._took.clear()
        self.heard.emit()

    @property
    def delay(self) -> str:
        """How soon what is pressed is heard, in words; empty as long as nobody knows."""
        words = []
        if self._took:
            words.append(f"A press is heard after {1000 * median(self._took):.0f} ms.")
        if self._missed:
            words.append(
                f"This machine could not keep up; {1000 * self._ahead:.0f} ms are ready ahead now."
            )
        return "\n".join(words)

    def _keep_up(self) -> None:
        project = self._session.document.project
        there = {value.id for value in project.values}
        self.numbers = {value: number for value, number in self.numbers.items() if value in there}
        self._newest = {value: number for value, number in self._newest.items() if value in there}
        if self.played and not project.pads:
            self.play(on=False)
        self.changed.emit()

    # -- what is done --------------------------------------------------------------------------

    def press(self, pad: str) -> None:
        """Press a pad: it counts in the run that plays, or is heard where the picture stands."""
        self.pressed.emit(pad)
        self._give(Input(at=0, pad=pad))

    def _give(self, given: Input) -> None:
        if self._transport.playing:
            if not self._transport.give(given):
                self._notices.say("This run is played as it is; switch “Play the pads” on first.")
            return
        self._transport.answer_standing(given)

    def move(self, value: str, number: float) -> None:
        """A slider is moved: its newest place is what counts, a few times in a frame at most."""
        self.numbers[value] = number
        self._newest[value] = number
        if not self._telling.isActive():
            self._tell_newest()
            self._telling.start()

    def let_go(self, value: str) -> None:
        """Let a value follow its line again."""
        self._newest.pop(value, None)
        self.numbers.pop(value, None)
        self._give(Input(at=0, value=value, to=None, over=GLIDE))
        self.changed.emit()

    def _tell_newest(self) -> None:
        if not self._newest:
            self._telling.stop()
            return
        newest, self._newest = self._newest, {}
        for value, number in newest.items():
            self._give(Input(at=0, value=value, to=number, over=GLIDE))

    def told(self, address: str, arguments: tuple[Argument, ...]) -> None:
        """An OSC message: the first pad of that address is pressed; 0 is a release.

        ``/cicada/value`` moves the value of a name or id to a number, or back to its line.
        """
        if address == MOVES_VALUE:
            self._told_value(arguments)
            return
        if arguments and not isinstance(arguments[0], str) and not arguments[0]:
            return
        for pad in self._session.document.project.pads:
            if pad.message == address and not pad.off:
                self.press(pad.id)
                return

    def _told_value(self, arguments: tuple[Argument, ...]) -> None:
        project = self._session.document.project
        name, *given = arguments or ("",)
        value = next((v for v in project.values if name in (v.id, v.label)), None)
        numbers = [float(each) for each in given[:2] if isinstance(each, (int, float))]
        if value is None or len(numbers) < len(given[:2]) or not all(map(isfinite, numbers)):
            return
        if not numbers:
            self.let_go(value.id)
            return
        over = min(LONGEST, max(0.0, numbers[1])) if len(numbers) > 1 else GLIDE
        to = min(value.high, max(value.low, numbers[0]))
        self.numbers[value.id] = to
        self._give(Input(at=0, value=value.id, to=to, over=over))

    # -- what is known -------------------------------------------------------------------------

    def not_ready(self) -> dict[str, list[str]]:
        """By pad, the names of what it may play that is not decoded, or not at its speed yet."""
        project = self._session.document.project
        fired = {
            pad.id: [clip_of(deed, 0) for deed in pad.does if isinstance(deed, Fire)]
            for pad in project.pads
        }
        wanted = {pad: needs(project, clips) for pad, clips in fired.items() if clips}
        missing = set(self._sounds.unready([need for each in wanted.values() for need in each]))
        return {
            pad: [project.placeable(need.sound).label for need in each if need in missing]
            for pad, each in wanted.items()
        }

    # -- keys ----------------------------------------------------------------------------------

    def listen_to_keys(self, window: QWidget) -> None:
        """Take the keys of a window while pads are played."""
        self._window = window
        application = QApplication.instance()
        if application is not None:
            application.installEventFilter(self)

    @override
    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        kinds = (QEvent.Type.ShortcutOverride, QEvent.Type.KeyPress)
        if not self.played or event.type() not in kinds or not isinstance(event, QKeyEvent):
            return False
        pad = self._pad_of(event)
        if pad is None:
            return False
        if event.type() == QEvent.Type.ShortcutOverride:
            event.accept()
        elif not event.isAutoRepeat():
            # A held key counts once.
            self.press(pad.id)
        return True

    def _pad_of(self, event: QKeyEvent) -> Pad | None:
        """The pad whose key that is, if keys go to pads now."""
        focus = QApplication.focusWidget()
        window = self._window
        if window is None or not window.isActiveWindow() or isinstance(focus, TYPED_INTO):
            return None
        held = event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier
        if event.key() in NEVER or held not in (
            Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ShiftModifier,
        ):  # fmt: skip
            return None
        pads = self._session.document.project.pads
        return next((p for p in pads if p.key and p.key == event.text() and not p.off), None)
