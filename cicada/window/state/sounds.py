"""The document's sounds at the project's rate: samples and peaks from the cache, kept open."""

from collections import OrderedDict

from PySide6.QtCore import QObject, Signal

from cicada.core.arrays import Samples
from cicada.core.model import Sound
from cicada.core.timebase import resampled_length
from cicada.media.cache import SoundCache
from cicada.media.peaks import Peaks
from cicada.media.sources import SoundSources, open_peaks
from cicada.window.state.document import Document
from cicada.window.state.presence import Presence

# Each opened file takes one of the process's file handles.
OPENED = 256


class Sounds(QObject):
    """Peaks by sound; ``changed`` comes when more can be drawn than before."""

    changed = Signal()

    def __init__(self, document: Document, presence: Presence, cache: SoundCache) -> None:
        super().__init__()
        self.cache = cache
        self._document, self._presence = document, presence
        self._peaks: OrderedDict[tuple[str, int, int], Peaks] = OrderedDict()

    def peaks(self, sound_id: str) -> Peaks | None:
        """The peaks of a sound at the project's rate; None while they are not in the cache."""
        project = self._document.project
        try:
            sound = project.sound(sound_id)
        except KeyError:
            return None
        key = (sound.hash or sound_id, sound.frames, project.rate)
        if key in self._peaks:
            self._peaks.move_to_end(key)
            return self._peaks[key]
        found = self._found(sound)
        if found is not None:
            self._peaks[key] = found
            if len(self._peaks) > OPENED:
                self._peaks.popitem(last=False)
        return found

    def samples(self, sound_id: str) -> Samples | None:
        """A whole sound at the project's rate, (channels, n); None while it is not decoded."""
        project, files = self._document.project, self._presence.standing.files
        try:
            sound = project.sound(sound_id)
        except KeyError:
            return None
        if sound.hash:
            found = self.cache.open(self.cache.sound_key(sound.hash, project.rate))
            length = resampled_length(sound.frames, sound.rate, project.rate)
            if found is None or found.shape[1] == length:
                return found
        return SoundSources(project, files, self.cache, only_cached=True).whole(sound_id)

    def _found(self, sound: Sound) -> Peaks | None:
        project = self._document.project
        if not sound.hash:
            files = self._presence.standing.files
            return SoundSources(project, files, self.cache, only_cached=True).peaks(sound.id)
        length = resampled_length(sound.frames, sound.rate, project.rate)
        return open_peaks(self.cache, self.cache.sound_key(sound.hash, project.rate), length)

    def refresh(self) -> None:
        """Something has been taken in."""
        self.changed.emit()
