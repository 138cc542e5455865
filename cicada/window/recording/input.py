"""An input that is listened to: found, chosen, opened, looked at, and let go of.

The recorder itself is a process of its own (``playback/recorder``).
"""

from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from typing import Literal, Protocol

from PySide6.QtCore import QObject, QSettings, QTimer, Signal

from cicada.playback.input import InputDevice
from cicada.playback.recorder import (
    Close,
    Inputs,
    Lost,
    Open,
    Opened,
    Report,
    Standing,
    Told,
)
from cicada.window.words.quantities import begun

# Milliseconds between two looks at the recorder.
LOOK = 33
Hearing = Literal["closed", "opening", "open"]


class RecorderLink(Protocol):
    """The window's end of a recorder."""

    @property
    def alive(self) -> bool:
        """Whether the recorder is there."""

    def send(self, message: Told) -> bool:
        """Tell it something; whether it is there to hear."""

    def standing(self) -> Standing:
        """Where it is."""

    def reports(self) -> list[Report]:
        """What it has had to say since it was asked last."""

    def close(self) -> None:
        """End it."""


class Input(QObject):
    """The recorder, and the input it has open.

    ``started`` comes when somebody begins to listen, ``opening`` with each input that is opened,
    ``changed`` when something is another, ``reported`` with what the recorder says of a recording,
    ``died`` when it is gone, and ``looked`` after each look.
    """

    started = Signal()
    changed = Signal()
    opening = Signal(object)
    reported = Signal(object)
    died = Signal()
    looked = Signal()

    def __init__(self, settings: QSettings, folder: Path, make: Callable[[], RecorderLink]) -> None:
        """Recordings under way stand in ``folder``."""
        super().__init__()
        self._settings, self.folder, self._make = settings, folder, make
        self._link: RecorderLink | None = None
        self.state: Hearing = "closed"
        self.inputs: tuple[InputDevice, ...] = ()
        self.device: InputDevice | None = None
        self.columns: tuple[int, ...] = (0,)
        self.trouble = ""
        self.standing: Standing | None = None
        # Something is recorded from it: it stays as it is.
        self.held = False
        self._timer = QTimer(self)
        self._timer.setInterval(LOOK)
        self._timer.timeout.connect(self.look)

    def start(self) -> None:
        """Have a recorder, and listen to what was chosen."""
        if self._link is None:
            self._link = self._make()
            self._timer.start()
            self.started.emit()
            if self.device is not None:
                self._open(self.device)

    def end(self) -> None:
        """Listen no more."""
        self._let_go()
        self._be("closed")

    def close(self) -> None:
        """End the recorder, which keeps what it has by now."""
        self.send(Close())
        self._let_go()

    def _let_go(self) -> None:
        self._timer.stop()
        if self._link is not None:
            self._link.close()
        self._link, self.standing = None, None

    def _be(self, state: Hearing) -> None:
        self.state = state
        self.changed.emit()

    def choose(self, device: InputDevice, columns: tuple[int, ...] = ()) -> None:
        """Listen to an input, and of it to some channels."""
        if self.held:
            return
        self.device = device
        self.columns = columns or tuple(range(min(2, device.channels)))
        if device in self.inputs:
            self._settings.setValue("recording/input", device.name)
        if self._link is None:
            self.start()
        else:
            self._open(device)

    def _open(self, device: InputDevice) -> None:
        self.trouble = ""
        with suppress(OSError):
            self.folder.mkdir(parents=True, exist_ok=True)
        self.opening.emit(device)
        known = {each.name for each in self.inputs}
        self.send(Open(device, self.columns, device.name not in known, str(self.folder)))
        self._be("opening")

    def send(self, message: Told) -> None:
        """Tell the recorder something."""
        if self._link is not None:
            self._link.send(message)

    def look(self) -> None:
        """See what comes in, and what the recorder has to say."""
        link = self._link
        if link is None:
            return
        self.standing = link.standing()
        for report in link.reports():
            self._take(report)
        if not link.alive and self._link is link:
            self._gone()
        self.looked.emit()

    def _take(self, report: Report) -> None:
        match report:
            case Inputs(there):
                self._know_inputs(there)
            case Opened(_, trouble):
                self.trouble = trouble
                if self.device is not None:
                    self.opening.emit(self.device)
                self._be("closed" if trouble else "open")
            case Lost(trouble):
                self.trouble = begun(trouble)
                self._be("closed")
            case _:
                self.reported.emit(report)

    def _know_inputs(self, there: tuple[InputDevice, ...]) -> None:
        self.inputs = there
        if self.device is None and self.state == "closed":
            wanted = str(self._settings.value("recording/input", ""))
            found = [each for each in there if each.name == wanted]
            found += [each for each in there if each.default and not each.loop]
            found += [each for each in there if not each.loop]
            if found:
                self.choose(found[0])
        elif self.state == "closed" and self.device is not None and self.trouble:
            # It is back.
            again = [each for each in there if each.name == self.device.name]
            if again:
                self.choose(again[0])
        self.changed.emit()

    def _gone(self) -> None:
        """The recorder is gone: what it has kept is offered at the next start."""
        self._let_go()
        self.trouble = "The recorder has ended: choose the input again."
        self.died.emit()
        self._be("closed")
