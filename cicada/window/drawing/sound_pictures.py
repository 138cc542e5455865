"""Waveforms drawn small and often, the latest kept: of whole voices, and of sounds in lists."""

from collections import OrderedDict
from collections.abc import Callable
from operator import is_

import numpy as np
from PySide6.QtGui import QColor, QImage

from cicada.core.outline import Columns
from cicada.core.plan import Voice
from cicada.media.peaks import Peaks
from cicada.window.drawing.narrow import WAVES
from cicada.window.drawing.traced import Trace
from cicada.window.drawing.traces import SceneTraces
from cicada.window.drawing.waveform import columns_image, trace_columns

# Each small picture takes 10 kB.
DRAWN = 4000


class SoundPictures:
    """Drawn from the peaks of a sound, as ``peaks`` gives them; None while there are none."""

    def __init__(self, peaks: Callable[[str], Peaks | None]) -> None:
        self._peaks = peaks
        self._overviews: OrderedDict[object, tuple[list[Peaks | None], Columns]] = OrderedDict()
        self._small: OrderedDict[tuple[int, int, int, int], tuple[Peaks, QImage]] = OrderedDict()

    def overview(self, traces: SceneTraces, trace: Trace, voice: Voice) -> Columns | None:
        """A whole voice in few columns, shape (2, WAVES); None while there are no peaks."""
        layer, start = traces.placements.layer(voice), voice.start
        parts = traces.following.parts(voice.plays, layer)
        moments = np.linspace(start, voice.end, WAVES + 1).astype(np.int64)
        if any(followed for _, followed in parts):
            return trace_columns(traces, trace, self._peaks, moments)
        key = (
            voice.plays, trace.clip, layer.level, layer.pan, layer.line,
            tuple((a - start, b - start, c) for a, b, c in voice.pieces),
            tuple((a - start, b - start) for a, b in voice.fades),
            start if layer.line else 0,
        )  # fmt: skip
        peaks = [self._peaks(sound) for sound, _ in parts]
        known = self._overviews.get(key)
        if known is not None and all(map(is_, known[0], peaks)):
            return known[1]
        columns = trace_columns(traces, trace, self._peaks, moments)
        if columns is None:
            return None
        self._overviews[key] = peaks, columns
        if len(self._overviews) > DRAWN:
            self._overviews.popitem(last=False)
        return columns

    def small_waveform(
        self, sound_id: str, width: int, height: int, colour: QColor
    ) -> QImage | None:
        """The whole sound in a small picture; None while there are no peaks."""
        peaks = self._peaks(sound_id)
        if peaks is None:
            return None
        key = (id(peaks), width, height, colour.rgba())
        # The peaks are kept with it, so that nothing else can be known by the same number.
        if key not in self._small:
            columns = peaks.columns(np.linspace(0, peaks.samples, width + 1)).astype(np.float64)
            loudest = float(np.abs(columns).max()) or 1.0
            self._small[key] = peaks, columns_image(columns / loudest, height, colour)
            if len(self._small) > DRAWN:
                self._small.popitem(last=False)
        return self._small[key][1]

    def forget(self) -> None:
        """The colours are others."""
        self._small.clear()
