"""The document's sounds as the window draws them: peaks from the cache, the latest kept open."""

from collections import OrderedDict

import numpy as np
from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QColor, QImage

from cicada.core.model import Project, Sound
from cicada.core.plan import Voice
from cicada.core.timebase import resampled_length
from cicada.media.cache import SoundCache
from cicada.media.opened import OpenedSounds, open_peaks
from cicada.media.peaks import Peaks, Samples
from cicada.window.drawing.axis import Axis
from cicada.window.drawing.narrow import WAVES
from cicada.window.drawing.traces import Trace
from cicada.window.drawing.waveform import Columns, columns_image, trace_columns
from cicada.window.state.document import Document
from cicada.window.state.presence import Presence

# Each opened file takes one of the process's file handles, each small picture 10 kB.
OPENED = 256
DRAWN = 4000


class Sounds(QObject):
    """Peaks by sound; ``changed`` comes when more can be drawn than before."""

    changed = Signal()

    def __init__(self, document: Document, presence: Presence, cache: SoundCache) -> None:
        super().__init__()
        self.cache = cache
        self._document, self._presence = document, presence
        self._peaks: OrderedDict[tuple[str, int, int], Peaks] = OrderedDict()
        self._overviews: OrderedDict[object, tuple[Peaks, Columns]] = OrderedDict()
        self._small: OrderedDict[tuple[str, int, int, int], QImage] = OrderedDict()

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
        return OpenedSounds(project, files, self.cache, only_cached=True).whole(sound_id)

    def _found(self, sound: Sound) -> Peaks | None:
        project = self._document.project
        if not sound.hash:
            files = self._presence.standing.files
            return OpenedSounds(project, files, self.cache, only_cached=True).peaks(sound.id)
        length = resampled_length(sound.frames, sound.rate, project.rate)
        return open_peaks(self.cache, self.cache.sound_key(sound.hash, project.rate), length)

    def overview(self, trace: Trace, project: Project, axis: Axis, voice: Voice) -> Columns | None:
        """A whole voice in few columns, shape (2, WAVES); None while there are no peaks."""
        peaks = self.peaks(voice.sound)
        if peaks is None:
            return None
        layer = project.layer(voice.layer)[1]
        start = voice.start
        key = (
            voice.sound, trace.clip, layer.level, layer.pan, layer.line,
            tuple((a - start, b - start, c) for a, b, c in voice.pieces),
            tuple((a - start, b - start) for a, b in voice.fades),
            start if layer.line else 0,
        )  # fmt: skip
        known = self._overviews.get(key)
        if known is not None and known[0] is peaks:
            return known[1]
        moments = np.linspace(start, voice.end, WAVES + 1).astype(np.int64)
        columns = trace_columns(trace, layer, axis, peaks, moments)
        self._overviews[key] = peaks, columns
        if len(self._overviews) > DRAWN:
            self._overviews.popitem(last=False)
        return columns

    def forget_pictures(self) -> None:
        """The colours are others."""
        self._small.clear()

    def refresh(self) -> None:
        """Something has been taken in."""
        self.changed.emit()

    def small_waveform(
        self, sound_id: str, width: int, height: int, colour: QColor
    ) -> QImage | None:
        """The whole sound in a small picture; None while there are no peaks."""
        peaks = self.peaks(sound_id)
        if peaks is None:
            return None
        key = (f"{sound_id} {id(peaks)}", width, height, colour.rgba())
        if key not in self._small:
            columns = peaks.columns(np.linspace(0, peaks.samples, width + 1)).astype(np.float64)
            loudest = float(np.abs(columns).max()) or 1.0
            self._small[key] = columns_image(columns / loudest, height, colour)
            if len(self._small) > DRAWN:
                self._small.popitem(last=False)
        return self._small[key]
