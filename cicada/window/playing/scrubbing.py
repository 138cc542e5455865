"""Frames that are heard while a hand drags the playhead over them, or steps onto one."""

from PySide6.QtCore import QObject, Signal

from cicada.playback.messages import LetGo, Scrub, Step
from cicada.window.playing.transport import Transport
from cicada.window.state.planning import Planning


class Scrubbing(QObject):
    """``changed`` comes when a hand begins to drag the playhead, goes on, and lets go."""

    changed = Signal()

    def __init__(self, planning: Planning, transport: Transport) -> None:
        super().__init__()
        self._planning, self._transport = planning, transport
        self.going_on = False

    def scrub(self, frame: int) -> None:
        """A hand drags the playhead over a frame: let it be heard."""
        if self._ready(frame):
            self._transport.send(Scrub(*self._slice(frame)))
            self.going_on = True
            self.changed.emit()

    def let_go(self) -> None:
        """The hand has let go of the playhead."""
        if self.going_on:
            self._transport.send(LetGo())
            self.going_on = False
            self.changed.emit()

    def step(self, frame: int) -> None:
        """The playhead was put on a frame: let that be heard."""
        if self._ready(frame):
            self._transport.send(Step(*self._slice(frame)))

    def _slice(self, frame: int) -> tuple[int, int]:
        plan = self._planning.plan
        start = self._transport.sample_of(frame, plan)
        return start, start + plan.timebase.duration(frame)

    def _ready(self, frame: int) -> bool:
        """Whether the film stands; one that is playing goes on from the frame."""
        self._transport.start()
        if self._transport.playing:
            self._transport.play_from(frame)
        return not self._transport.playing
