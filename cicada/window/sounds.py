"""The document's sounds as the window draws them: peaks from the cache, opened once."""

from pathlib import Path

import numpy as np
from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QColor, QImage

from cicada.core.timebase import resampled_length
from cicada.media.cache import SoundCache
from cicada.media.ingest import OpenedSounds
from cicada.media.peaks import Peaks
from cicada.window.document import Document
from cicada.window.waveform import columns_image


class Sounds(QObject):
    """Peaks by sound; ``changed`` comes when more can be drawn than before."""

    changed = Signal()

    def __init__(self, document: Document, cache: SoundCache) -> None:
        super().__init__()
        self.cache = cache
        self._document = document
        self._peaks: dict[tuple[str, str, int], Peaks] = {}
        self._small: dict[tuple[str, int, int, int], QImage] = {}

    def peaks(self, sound_id: str) -> Peaks | None:
        """The peaks of a sound at the project's rate; None while they are not in the cache."""
        project = self._document.project
        try:
            sound = project.sound(sound_id)
        except KeyError:
            return None
        key = (sound.hash or sound_id, sound.file, project.rate)
        if key not in self._peaks:
            files: dict[str, Path] = self._document.sound_files()
            found = OpenedSounds(project, files, self.cache, only_cached=True).peaks(sound_id)
            if found is None:
                return None
            self._peaks[key] = found
        return self._peaks[key]

    def refresh(self) -> None:
        """Something has been taken in."""
        self._small.clear()
        self.changed.emit()

    def small_waveform(
        self, sound_id: str, width: int, height: int, colour: QColor
    ) -> QImage | None:
        """The whole sound in a small picture; None while there are no peaks."""
        key = (sound_id, width, height, colour.rgba())
        if key not in self._small:
            peaks = self.peaks(sound_id)
            if peaks is None:
                return None
            project = self._document.project
            sound = project.sound(sound_id)
            length = resampled_length(sound.frames, sound.rate, project.rate)
            columns = peaks.columns(np.linspace(0, length, width + 1)).astype(np.float64)
            loudest = float(np.abs(columns).max()) or 1.0
            self._small[key] = columns_image(columns / loudest, height, colour)
        return self._small[key]
