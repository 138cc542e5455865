"""The document's sounds at the project's rate: samples and peaks, read from the cache."""

import time
from collections import OrderedDict
from collections.abc import Sequence

from PySide6.QtCore import QObject, Signal

from cicada.core.answers import Playlist
from cicada.core.arrays import Read
from cicada.core.lengths import length_of
from cicada.core.model import Sound
from cicada.core.needs import Need
from cicada.core.timebase import resampled_length
from cicada.media.cache import SoundCache
from cicada.media.peaks import Peaks
from cicada.media.sources import Reader, SoundSources, open_peaks
from cicada.window.state.document import Document
from cicada.window.state.presence import Presence

# Bytes of peaks that are kept, and sounds that are kept open to be read.
KEPT, OPENED = 200_000_000, 16
# Seconds until what was not in the cache is looked for again, if nobody tells: not at each paint.
AGAIN = 1.0


class Sounds(QObject):
    """Peaks by sound; ``changed`` comes when more can be drawn than before."""

    changed = Signal()

    def __init__(self, document: Document, presence: Presence, cache: SoundCache) -> None:
        super().__init__()
        self.cache = cache
        self._document, self._presence = document, presence
        self._peaks: OrderedDict[tuple[str, int, int], Peaks] = OrderedDict()
        self._kept = 0
        # When what is not there is looked for again.
        self._absent: dict[tuple[str, int, int], float] = {}
        self._readers: OrderedDict[tuple[str, int, int], Reader] = OrderedDict()

    def peaks(self, sound_id: str) -> Peaks | None:
        """The peaks of a sound or playlist at the project's rate; None while there are none."""
        key = self._key(sound_id)
        if key is None:
            return None
        if key in self._peaks:
            self._peaks.move_to_end(key)
            return self._peaks[key]
        if time.monotonic() < self._absent.get(key, 0.0):
            return None
        found = self._found(sound_id)
        if found is None:
            self._absent[key] = time.monotonic() + AGAIN
        else:
            self._peaks[key] = found
            self._kept += found.size
            while self._kept > KEPT and len(self._peaks) > 1:
                self._kept -= self._peaks.popitem(last=False)[1].size
        return found

    def read(self, sound_id: str) -> Read | None:
        """What reads a sound or playlist at the project's rate; None while it is not decoded."""
        project, files = self._document.project, self._presence.standing.files
        key = self._key(sound_id)
        if key is None:
            return None
        reader = self._readers.get(key)
        if reader is None or reader.stored.damaged:
            reader = SoundSources(project, files, self.cache, only_cached=True).reader(sound_id)
            if reader is None:
                return None
            self._readers[key] = reader
            if len(self._readers) > OPENED:
                self._readers.popitem(last=False)
        return reader.read

    def unready(self, wanted: Sequence[Need]) -> list[Need]:
        """Those of some needs that are not in the cache yet, at their speed."""
        project, files = self._document.project, self._presence.standing.files
        sources = SoundSources(project, files, self.cache, only_cached=True)
        return [need for need in wanted if not sources.has(need)]

    def _key(self, sound_id: str) -> tuple[str, int, int] | None:
        """What is known of a sound or playlist; None of a blend or pool, or what is gone."""
        project = self._document.project
        try:
            made = project.placeable(sound_id)
        except KeyError:
            return None
        if isinstance(made, Sound):
            return made.content or sound_id, made.frames, project.rate
        if isinstance(made, Playlist):
            hashes = " ".join(project.sound(part.sound).content for part in made.parts)
            return f"{made.parts!r} {hashes}", length_of(project, sound_id), project.rate
        return None

    def _found(self, sound_id: str) -> Peaks | None:
        project = self._document.project
        made = project.placeable(sound_id)
        if not isinstance(made, Sound) or not made.content:
            files = self._presence.standing.files
            return SoundSources(project, files, self.cache, only_cached=True).peaks(sound_id)
        length = resampled_length(made.frames, made.rate, project.rate)
        return open_peaks(self.cache, self.cache.sound_key(made.content, project.rate), length)

    def refresh(self) -> None:
        """Something has been taken in."""
        self._absent.clear()
        self.changed.emit()
