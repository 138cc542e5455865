"""Waveforms from peaks at the shown scale, through the clip's own levels, fades and loops."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray
from PySide6.QtGui import QColor, QImage

from cicada.core.arrays import RunSamples
from cicada.core.outline import Columns, Peaks, voice_peaks
from cicada.window.drawing.traced import Trace
from cicada.window.drawing.traces import SceneTraces

# Steps of how much of a pixel is covered.
SHADES = 63


PeaksOf = Callable[[str], Peaks | None]


def trace_columns(
    traces: SceneTraces, trace: Trace, peaks: PeaksOf, moments: RunSamples
) -> Columns | None:
    """Lows and highs of a voice between each two ``moments`` (run samples, ascending): (2, n).

    Of a blend, those of its parts as loud as they sound; None while there are no peaks.
    """
    axis, voice = traces.axis, trace.voice
    assert axis is not None
    layer = traces.placements.layer(voice)
    middles = (moments[:-1] + moments[1:]) / 2
    total: Columns | None = None
    for sound, follows in traces.following.parts(voice.plays, layer):
        found = peaks(sound)
        if found is None:
            continue
        columns = voice_peaks(
            voice, trace.clip, trace.timing, layer, axis.plan.rate, found, moments, axis.frames
        )
        for followed in follows:
            columns = columns * followed.about(middles)
        total = columns if total is None else total + columns
    return total


def seen_height(columns: Columns) -> Columns:
    """How far from the middle, up to 1, each low and high is drawn.

    It goes by amplitude to the power 0.6, nearer to how loud it seems, so that quiet beds can be
    seen and quieter still looks quieter.
    """
    return np.asarray(np.sign(columns) * np.abs(columns) ** 0.6)


def columns_image(columns: Columns, height: int, colour: QColor) -> QImage:
    """The columns drawn about the middle of an image, one pixel each; full scale fills it."""
    columns = seen_height(columns).astype(np.float32)
    middle = (height - 1) / 2
    top = np.maximum(middle - columns[1] * middle - 0.35, 0)
    bottom = np.minimum(middle - columns[0] * middle + 0.35, height)
    rows = np.arange(height, dtype=np.float32)[:, None]
    cover = np.minimum(rows + 1, bottom + 0.5) - np.maximum(rows, top)
    return tinted(np.minimum(np.maximum(cover, 0.0), 1.0), colour)


def tinted(cover: Columns, colour: QColor) -> QImage:
    """An image of one colour, covering each pixel as much (0..1) as given."""
    values = np.array((colour.blue(), colour.green(), colour.red(), 255)) * colour.alphaF()
    shades = (np.arange(SHADES + 1)[:, None] * (values / SHADES)).astype(np.uint8)
    pixels = shades.view(np.uint32).ravel()[(cover * SHADES).astype(np.uint8)]
    return premultiplied(pixels.view(np.uint8).reshape(*cover.shape, 4))


def premultiplied(pixels: NDArray[np.uint8]) -> QImage:
    """An image of its own from blue, green, red and alpha, shape (height, width, 4)."""
    height, width, _ = pixels.shape
    data = np.ascontiguousarray(pixels).data
    image = QImage(data, width, height, 4 * width, QImage.Format.Format_ARGB32_Premultiplied)
    return image.copy()
