"""Playing from outside the window: the desktop's media keys, and Open Sound Control if wanted."""

import time
from math import log10

from PySide6.QtCore import QObject, Signal

from cicada.remote.media_keys import Command, MediaKeys, Playing
from cicada.remote.osc_packets import Argument, OscMessage
from cicada.remote.osc_server import OscServer, PortTaken
from cicada.window.playing.metering import Metering
from cicada.window.playing.transport import Transport
from cicada.window.state.beside import Inbox
from cicada.window.state.session import Session

# What silence is told as, in dB and LUFS.
SILENCE = -200.0
# Seconds from one telling of the meters to the next; no peak between is lost.
OFTEN = 0.05

# What pads and values are told by, besides the pads' own addresses.
MOVES_VALUE = "/cicada/value"


class Remote(QObject):
    """Does what is asked for from outside, and tells what goes on.

    ``told`` comes with what is to be said; ``raise_wanted`` and ``quit_wanted`` as a desktop asks.
    """

    told = Signal(str)
    raise_wanted = Signal()
    quit_wanted = Signal()
    # An OSC message that is none of ours, with its arguments.
    other = Signal(str, tuple)

    def __init__(self, session: Session, transport: Transport, metering: Metering) -> None:
        super().__init__()
        self._session, self._transport, self._metering = session, transport, metering
        self._inbox = Inbox(self._do)
        self._keys: MediaKeys | None = None
        self.osc: OscServer | None = None
        self._said: tuple[str, int, bool] | None = None
        self._jumps = 0
        self._peaks, self._metered_at = (0.0, 0.0), 0.0
        for signal in (
            session.playhead_moved, session.scene_changed, transport.state_changed,
            session.document.changed,
        ):  # fmt: skip
            signal.connect(self._tell)
        session.playhead_placed.connect(self._jumped)
        metering.changed.connect(self._tell_meters)

    def begin(self) -> None:
        """Take the desktop's media keys; later than the first paint."""
        if self._keys is None:
            self._keys = MediaKeys(self._inbox.post)
            self._tell()

    def switch_osc(self) -> None:
        """Listen to Open Sound Control, or no more."""
        if self.osc is not None:
            self.osc.close()
            self.osc = None
            self.told.emit("Open Sound Control is off.")
            return
        try:
            self.osc = OscServer(self._inbox.post)
        except PortTaken as error:
            self.told.emit(str(error))
            return
        self.told.emit(
            f"Open Sound Control: this window listens on port {self.osc.port} of this machine."
        )

    # -- what is asked for -----------------------------------------------------------------------

    def _do(self, what: OscMessage | Command, seconds: float = 0.0) -> None:
        if isinstance(what, OscMessage):
            self._do_osc(what.address, what.arguments)
        else:
            self._do_key(what, seconds)

    def _do_key(self, what: Command, seconds: float) -> None:
        transport, session = self._transport, self._session
        base = session.document.project.timebase
        match what:
            case "play" if not transport.sounding:
                transport.play_from(session.playhead)
            case "stop" if transport.sounding:
                transport.stop()
            case "toggle":
                transport.toggle()
            case "next" | "previous":
                self._turn(1 if what == "next" else -1)
            case "seek":
                self._go_to(session.playhead + round(seconds * base.fps))
            case "position":
                self._go_to(round(seconds * base.fps))
            case "raise":
                self.raise_wanted.emit()
            case "quit":
                self.quit_wanted.emit()

    def _do_osc(self, address: str, arguments: tuple[Argument, ...]) -> None:
        if address == "/cicada/play" and not self._transport.sounding:
            self._transport.play_from(self._session.playhead)
        elif address == "/cicada/follow":
            self._said = None
            self._tell()
        elif address == "/cicada/stop" and self._transport.sounding:
            self._transport.stop()
        elif address == "/cicada/locate" and arguments:
            frame, scene = arguments[0], arguments[1] if len(arguments) > 1 else None
            if isinstance(frame, bool) or not isinstance(frame, int):
                return
            if isinstance(scene, str):
                if all(each.id != scene for each in self._session.document.project.scenes):
                    return
                self._session.show_scene(scene)
            self._go_to(frame)
        elif address == MOVES_VALUE or not address.startswith("/cicada/"):
            self.other.emit(address, arguments)

    def _go_to(self, frame: int) -> None:
        """Put the playhead on a frame of the scene, and play on there if it plays."""
        self._session.move_playhead(frame)
        self._session.gone_to.emit(self._session.playhead)
        if self._transport.playing:
            self._transport.play_from(self._session.playhead)

    def _turn(self, by: int) -> None:
        ids = [scene.id for scene in self._session.document.project.scenes]
        index = ids.index(self._session.scene_id) + by
        if 0 <= index < len(ids):
            self._session.show_scene(ids[index])

    # -- what is told ----------------------------------------------------------------------------

    def _jumped(self) -> None:
        self._jumps += 1
        self._tell()

    def _tell(self) -> None:
        session, playing = self._session, self._transport.playing
        project, scene = session.document.project, session.scene
        base, frame = project.timebase, session.playhead
        if self._keys is not None:
            self._keys.show(
                Playing(
                    playing,
                    project.name,
                    scene.label,
                    scene.id,
                    base.seconds(frame),
                    base.seconds(scene.length),
                    self._jumps,
                )
            )
        now = scene.id, frame, playing
        if self.osc is not None and self.osc.followers and now != self._said:
            self._said = now
            self.osc.tell("/cicada/position", scene.id, frame, base.seconds(frame), int(playing))

    def _tell_meters(self) -> None:
        """Peaks in dB of full scale, loudness in LUFS."""
        left, right = self._metering.sides
        self._peaks = max(left, self._peaks[0]), max(right, self._peaks[1])
        now = time.monotonic()
        if self.osc is None or now - self._metered_at < OFTEN or not self.osc.followers:
            return
        whole = self._metering.whole
        peaks = [_decibels(peak) for peak in self._peaks]
        self._metered_at, self._peaks = now, (0.0, 0.0)
        loud = [
            SILENCE if value is None else value
            for value in (whole.momentary, whole.short, whole.integrated)
        ]
        self.osc.tell("/cicada/meters", *peaks, *loud)

    def close(self) -> None:
        """Listen to nobody any more."""
        if self.osc is not None:
            self.osc.close()
            self.osc = None
        if self._keys is not None:
            self._keys.close()
            self._keys = None
        self._inbox.close()


def _decibels(peak: float) -> float:
    return 20 * log10(peak) if peak > 1e-10 else SILENCE
