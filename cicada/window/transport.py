"""Playing: tells the player, and lets the playhead follow what is audible."""

import time
from typing import Protocol

from PySide6.QtCore import QObject, QTimer, Signal

from cicada.core.timebase import round_half_up
from cicada.playback.messages import (
    FILM,
    LISTENING,
    Listen,
    Load,
    Message,
    Play,
    Repeat,
    Scrub,
    Status,
    Stop,
)
from cicada.window.axis import visits_of
from cicada.window.planning import Planning
from cicada.window.presence import Presence
from cicada.window.session import Session

TICK = 8


class PlayerLink(Protocol):
    """The window's end of a player, in its process or, in tests, in this one."""

    rate: int

    @property
    def alive(self) -> bool:
        """Whether the player is there."""

    def send(self, message: Message) -> bool:
        """Tell it something; whether it is there to hear."""

    def status(self) -> Status:
        """Where it is."""

    def close(self) -> None:
        """End it."""


class PlayerMaker(Protocol):
    """Starts a player at a sample rate."""

    def __call__(self, rate: int) -> PlayerLink:
        """A player at that rate."""


class Transport(QObject):
    """Play, stop, repeat, scrub, listen; ``state_changed`` comes when one begins or ends.

    ``listened`` says which sample of the sound listened to is audible.
    """

    state_changed = Signal()
    metered = Signal(float, float)
    listened = Signal(float)

    def __init__(
        self,
        session: Session,
        planning: Planning,
        presence: Presence,
        make_player: PlayerMaker,
    ) -> None:
        super().__init__()
        self._presence = presence
        self._session, self._planning, self._make = session, planning, make_player
        self._document = session.document
        self._player: PlayerLink | None = None
        self._wanted_plays = 0
        self.playing = False
        self.listening = False
        self.repeating = False
        self.silent_device = False
        self._timer = QTimer(self)
        self._timer.setInterval(TICK)
        self._timer.timeout.connect(self.follow)
        planning.planned.connect(self.load)

    def start(self) -> None:
        """Start the player's process; later than the first paint."""
        if self._player is None:
            self._player = self._make(self._document.project.rate)
            self.load()
            self._timer.start()

    def load(self) -> None:
        """Hand the newest plan to the player."""
        if self._player is None or not self._planning.heard:
            return
        project = self._planning.project
        if self._player.rate != project.rate or not self._player.alive:
            self._player.close()
            self.playing = self.listening = False
            self._wanted_plays = 0
            self._player = self._make(project.rate)
        files = {sound: str(path) for sound, path in self._presence.standing.files.items()}
        self._player.send(
            Load(project, self._planning.plan, files, tuple(sorted(self._planning.silent)))
        )

    def _sample_of(self, frame: int) -> int:
        plan = self._planning.plan
        visit = visits_of(plan, self._session.scene_id, self._planning.number)
        return (plan.entered(frame, visit) or 0) if visit is not None else 0

    def _scene_range(self) -> tuple[int, int]:
        plan = self._planning.plan
        visit = visits_of(plan, self._session.scene_id, self._planning.number)
        if visit is None:
            return 0, plan.end
        return plan.visits[visit].start, plan.visits[visit].end

    def toggle(self) -> None:
        """Space: stop whatever sounds, or play from the playhead."""
        if self.playing or self.listening:
            self.stop()
        else:
            self.play_from(self._session.playhead)

    def play_from(self, frame: int) -> None:
        """Play from a frame of the scene shown."""
        self.start()
        if self._player is None:
            return
        if not self._player.alive:
            self.load()
        repeat = self._scene_range() if self.repeating else None
        self._player.send(Play(self._sample_of(frame), repeat))
        self._wanted_plays += 1
        self.playing, self.listening = True, False
        self.state_changed.emit()

    def play_between(self, first: int, last: int) -> None:
        """Play one stretch of the run, given in its samples, again and again."""
        self.start()
        if self._player is None:
            return
        self._player.send(Play(first, (first, last)))
        self._wanted_plays += 1
        self.playing, self.listening = True, False
        self.state_changed.emit()

    def play_from_start(self) -> None:
        """Play the scene shown from its first frame."""
        self._session.move_playhead(0)
        self.play_from(0)

    def stop(self) -> None:
        """Silence everything."""
        if self._player is not None:
            self._player.send(Stop())
        self.playing = self.listening = False
        self.state_changed.emit()

    def set_repeating(self, *, on: bool) -> None:
        """Play the scene again and again, or through to the end."""
        self.repeating = on
        if self.playing and self._player is not None:
            self._player.send(Repeat(self._scene_range() if on else None))
        self.state_changed.emit()

    def scrub(self, frame: int) -> None:
        """Let one frame of the plan's mix be heard."""
        self.start()
        if self._player is None or self.playing:
            if self.playing:
                self.play_from(frame)
            return
        start = self._sample_of(frame)
        length = round_half_up(self._planning.plan.rate, 12)
        frame_length = self._planning.plan.timebase.duration(frame)
        self._player.send(Scrub(start, start + max(length, frame_length)))

    def listen(self, key: str, gain: float, start: int) -> None:
        """Hear a sound of the cache by itself from its sample ``start``; the film stops."""
        self.start()
        if self._player is not None:
            self._player.send(Listen(key, gain, start))
            self._wanted_plays += 1
            self.playing, self.listening = False, True
            self.state_changed.emit()

    def follow(self) -> None:
        """Let the playhead, the meters and the buttons follow the player."""
        if self._player is None:
            return
        status = self._player.status()
        self.metered.emit(status.peak_left, status.peak_right)
        if status.rate and status.real == self.silent_device:
            self.silent_device = not status.real
            self.state_changed.emit()
        if self.playing and status.plays >= self._wanted_plays:
            if status.doing == FILM:
                self._show(status)
            elif status.doing != LISTENING:
                self.playing = False
                self.state_changed.emit()
        elif self.listening and status.plays >= self._wanted_plays:
            if status.doing == LISTENING:
                self.listened.emit(status.sample)
            else:
                self.listening = False
                self.state_changed.emit()

    def _show(self, status: Status) -> None:
        elapsed = min(0.05, max(0.0, time.monotonic() - status.clock))
        sample = int(status.sample + elapsed * status.rate)
        plan = self._planning.plan
        if not plan.stretches or sample >= plan.end:
            return
        visit, frame, _ = plan.frame_at(sample)
        if visit.scene != self._session.scene_id:
            self._session.show_scene(visit.scene, playing=True)
        self._session.move_playhead(frame, playing=True)

    def close(self) -> None:
        """End the player."""
        self._timer.stop()
        if self._player is not None:
            self._player.close()
            self._player = None
