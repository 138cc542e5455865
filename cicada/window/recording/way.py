"""The way from the output in use to the input: what is remembered of it, and what is seen of it."""

from PySide6.QtCore import QObject, QSettings, Signal

from cicada.playback.input import InputDevice
from cicada.playback.lining_up import LiningUp
from cicada.playback.output import LATENCY
from cicada.window.playing.transport import Transport
from cicada.window.state.document import Document


class Way(QObject):
    """How late what is played comes in; ``changed`` when what was known of it is known no more."""

    changed = Signal()

    def __init__(self, document: Document, transport: Transport, settings: QSettings) -> None:
        super().__init__()
        self._document, self._transport, self._settings = document, transport, settings
        self._device: InputDevice | None = None
        self._output, self._buffer = "", LATENCY
        self.lining_up = LiningUp()
        # Whether it was measured before, on this output and this input.
        self.remembered = False
        transport.player_begun.connect(self._anew)
        transport.buffered.connect(self._another_buffer)
        transport.devices.changed.connect(self._another_output)

    def leads_to(self, device: InputDevice) -> None:
        """It is to that input from now on, which is opened anew."""
        self._device = device
        self._anew()

    def remember(self, late: float) -> None:
        """What was measured, in seconds, holds the next time too."""
        self._settings.setValue(self._key, late)

    def _anew(self, *_: object) -> None:
        key = self._key
        kept = self._settings.value(key) if key else None
        self.remembered = kept is not None
        self.lining_up = LiningUp(float(str(kept)) if kept is not None else 0.0)
        self.changed.emit()

    def _another_buffer(self, seconds: float, _: bool) -> None:  # noqa: FBT001 - a signal says so
        self._buffer = seconds
        self._anew()

    def _another_output(self) -> None:
        used = self._transport.devices.known.used
        if used != self._output:
            self._output = used
            self._anew()

    @property
    def _key(self) -> str:
        """The output in use with this input, as the settings may have it."""
        if self._device is None:
            return ""
        names = f"{self._output} {self._device.name} {self._device.rate}".replace("/", " ")
        return f"recording/late/{names} {self._document.project.rate} {self._buffer:g}"
