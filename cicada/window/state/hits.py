"""Hits of sounds, found in a worker when a sound is first looked at closely."""

from PySide6.QtCore import QObject, Signal

from cicada.core.model import Sound
from cicada.jobs.measuring import find_hits
from cicada.media.cache import SoundCache
from cicada.media.moments import Moments, known_moments
from cicada.window.state.document import Document
from cicada.window.state.jobs import Jobs
from cicada.window.state.presence import Presence


class Hits(QObject):
    """What is known of the hits of the document's sounds; ``changed`` comes with more."""

    changed = Signal()

    def __init__(
        self, document: Document, presence: Presence, jobs: Jobs, cache: SoundCache
    ) -> None:
        super().__init__()
        self._document, self._presence, self._jobs, self._cache = document, presence, jobs, cache
        self._known: dict[str, Moments | None] = {}
        presence.changed.connect(self._try_again)

    def of(self, sound_id: str) -> Moments | None:
        """The hits of a sound; None while they are not known, and then they are looked for."""
        try:
            sound = self._document.project.sound(sound_id)
        except KeyError:
            return None
        key = self._key(sound)
        if key not in self._known:
            self._known[key] = known_moments(self._cache, key)
            if self._known[key] is None:
                self._look(sound, key)
        return self._known[key]

    def _try_again(self) -> None:
        """What could not be looked at may be decoded by now."""
        self._known = {key: found for key, found in self._known.items() if found is not None}

    def known(self, sound_id: str) -> Moments | None:
        """The hits of a sound that were found before."""
        try:
            sound = self._document.project.sound(sound_id)
        except KeyError:
            return None
        return self._known.get(self._key(sound))

    def _key(self, sound: Sound) -> str:
        return self._cache.sound_key(sound.content or sound.id, self._document.project.rate)

    def _look(self, sound: Sound, key: str) -> None:
        if sound.id in self._presence.missing:
            return

        def done(moments: Moments | None) -> None:
            self._known[key] = moments
            if moments is not None:
                self.changed.emit()

        self._jobs.run(
            find_hits, key, self._document.project.rate, self._cache.folder,
            done=done, failed=lambda _: done(None),
        )  # fmt: skip
