"""Measures of the shelf's sounds, taken one after the other while nothing else is to be done."""

from PySide6.QtCore import QObject, QTimer, Signal

from cicada.core.model import Sound
from cicada.deliver.work import take_measures
from cicada.media.cache import SoundCache
from cicada.media.measures import Measures, known_measures
from cicada.window.document import Document
from cicada.window.jobs import Jobs
from cicada.window.presence import Presence

# Notes of earlier measures read in one go: a millisecond.
AT_ONCE = 16


class Measuring(QObject):
    """What has been measured, by content; ``changed`` comes with every measure."""

    changed = Signal()

    def __init__(
        self, document: Document, presence: Presence, jobs: Jobs, cache: SoundCache
    ) -> None:
        super().__init__()
        self._document, self._presence, self._jobs, self._cache = document, presence, jobs, cache
        self._known: dict[str, Measures | None] = {}
        self._under_way = False
        presence.changed.connect(self.go_on)

    def of(self, sound: Sound) -> Measures | None:
        """The measures of a sound; None while they are not known."""
        return self._known.get(self._key(sound))

    def learn(self, key: str, measures: Measures) -> None:
        """Take note of measures somebody else has taken."""
        self._known[key] = measures
        self.changed.emit()

    def _key(self, sound: Sound) -> str:
        return self._cache.sound_key(sound.hash or sound.id, self._document.project.rate)

    def go_on(self) -> None:
        """Measure the next sound that is not yet."""
        if self._under_way:
            return
        left = [
            sound
            for sound in self._document.project.sounds
            if sound.hash and self._key(sound) not in self._known
        ]
        if not left:
            return
        self._under_way = True
        known = [(self._key(sound), self._read(sound)) for sound in left[:AT_ONCE]]
        self._known.update((key, measures) for key, measures in known if measures is not None)
        unknown = [x for x, (_, measures) in zip(left, known, strict=False) if measures is None]
        if not unknown:
            self._under_way = False
            self.changed.emit()
            QTimer.singleShot(0, self.go_on)
            return
        self._measure(unknown[0])

    def _read(self, sound: Sound) -> Measures | None:
        """What was measured of it at another time."""
        return known_measures(self._cache, self._key(sound))

    def _measure(self, sound: Sound) -> None:
        key = self._key(sound)

        def done(measures: Measures | None) -> None:
            self._under_way = False
            self._known[key] = measures
            self.changed.emit()
            self.go_on()

        def failed(_: str) -> None:
            # Whatever is wrong with the file is said elsewhere; here it only has no measures.
            done(None)

        self._jobs.run(
            take_measures,
            self._presence.standing.files.get(sound.id),
            sound.hash,
            self._document.project.rate,
            self._cache.folder,
            done=done,
            failed=failed,
            watched=True,
        )
