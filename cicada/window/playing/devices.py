"""Where sound comes out: the devices there are, the one wanted, how late it is beyond its word."""

from PySide6.QtCore import QObject, QSettings, Signal

from cicada.playback.messages import Devices, UseDevice
from cicada.window.playing.link import Link


class SoundDevices(QObject):
    """``changed`` comes when there are others, or another is in use."""

    changed = Signal()

    def __init__(self, link: Link, settings: QSettings) -> None:
        super().__init__()
        self._link, self._settings = link, settings
        self.known = Devices((), "")
        # Seconds by which the device in use is later than it says.
        self.correction = 0.0

    @property
    def wanted(self) -> str:
        """The device that was chosen; empty if the system chooses."""
        return str(self._settings.value("playing/device", ""))

    def use(self, name: str) -> None:
        """Play to a device while it is there; an empty name leaves it to the system."""
        self._settings.setValue("playing/device", name)
        self._link.send(UseDevice(name))

    def use_wanted(self) -> None:
        """Tell a player that has just begun."""
        if self.wanted:
            self._link.send(UseDevice(self.wanted))

    def correct(self, seconds: float) -> None:
        """Take the device in use to be so much later than it says; this is remembered."""
        self.correction = seconds
        self._settings.setValue(self._key, seconds)

    def take(self, known: Devices) -> None:
        """These are the devices there are."""
        self.known = known
        self.correction = float(str(self._settings.value(self._key, 0.0)))
        self.changed.emit()

    @property
    def _key(self) -> str:
        """The device in use as the settings may have it."""
        return f"playing/correction/{self.known.used.replace('/', ' ') or 'unknown'}"
