"""Measures of the shelf's sounds, taken one after the other while nothing else is to be done."""

from collections import deque

from PySide6.QtCore import QObject, QTimer, Signal

from cicada.core.model import Sound
from cicada.jobs.measuring import take_measures
from cicada.media.cache import SoundCache
from cicada.media.measures import Measures, known_measures
from cicada.window.state.document import Document
from cicada.window.state.jobs import Jobs
from cicada.window.state.presence import Presence

# Notes of earlier measures read in one go: a millisecond.
AT_ONCE = 16
# Milliseconds in which measures are told together.
TOGETHER = 100


class Measuring(QObject):
    """What has been measured, by content; ``changed`` comes soon after each."""

    changed = Signal()

    def __init__(
        self, document: Document, presence: Presence, jobs: Jobs, cache: SoundCache
    ) -> None:
        super().__init__()
        self._document, self._presence, self._jobs, self._cache = document, presence, jobs, cache
        self._known: dict[str, Measures | None] = {}
        self._queue: deque[Sound] = deque()
        self._under_way = self._news = False
        self._teller = QTimer(self)
        self._teller.setSingleShot(True)
        self._teller.setInterval(TOGETHER)
        self._teller.timeout.connect(self.changed)
        presence.changed.connect(self.look)

    def of(self, sound: Sound) -> Measures | None:
        """The measures of a sound; None while they are not known."""
        return self._known.get(self._key(sound))

    def learn(self, key: str, measures: Measures) -> None:
        """Take note of measures somebody else has taken."""
        self._known[key] = measures
        self.changed.emit()

    def _key(self, sound: Sound) -> str:
        return self._cache.sound_key(sound.content or sound.id, self._document.project.rate)

    def look(self) -> None:
        """See which sounds are to be measured, and begin with it."""
        self._queue = deque(
            sound
            for sound in self._document.project.sounds
            if sound.content and self._key(sound) not in self._known
        )
        self._go_on()

    def _go_on(self) -> None:
        """Take the next few that have been measured at another time, or measure one."""
        for _ in range(AT_ONCE):
            if self._under_way or not self._queue:
                break
            sound = self._queue.popleft()
            measures = known_measures(self._cache, self._key(sound))
            if measures is not None:
                self._known[self._key(sound)] = measures
                self._news = True
            elif sound.id not in self._presence.missing:
                self._measure(sound)
        if self._news:
            self._news = False
            if not self._teller.isActive():
                self._teller.start()
        if self._queue and not self._under_way:
            QTimer.singleShot(0, self._go_on)

    def _measure(self, sound: Sound) -> None:
        key = self._key(sound)

        self._under_way = True

        def done(measures: Measures | None) -> None:
            self._under_way = False
            if measures is not None or sound.making is None:
                self._known[key] = measures
            self._news = True
            self._go_on()

        def failed(_: str) -> None:
            # Whatever is wrong with the file is said elsewhere; here it only has no measures.
            done(None)

        self._jobs.run(
            take_measures,
            self._presence.standing.files.get(sound.id),
            sound.content,
            self._document.project.rate,
            self._cache.folder,
            done=done,
            failed=failed,
            watched=True,
        )
