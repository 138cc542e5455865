"""Waveforms from peaks at the shown scale, through the clip's own levels, fades and loops."""

import numpy as np
from numpy.typing import NDArray
from PySide6.QtGui import QColor, QImage

from cicada.core.clip import ClipTiming
from cicada.core.lines import Curve
from cicada.core.model import Layer
from cicada.core.shape import VoiceShape
from cicada.media.peaks import Peaks
from cicada.window.drawing.axis import Axis, Moments
from cicada.window.drawing.traces import Trace

Columns = NDArray[np.float64]
# Steps of how much of a pixel is covered.
SHADES = 63


def trace_columns(
    trace: Trace, layer: Layer, axis: Axis, peaks: Peaks, moments: Moments
) -> Columns:
    """Lows and highs of a voice between each two ``moments`` (run samples, ascending): (2, n)."""
    voice, clip, timing = trace.voice, trace.clip, trace.timing
    level = clip.level * layer.level
    shape = VoiceShape(voice, clip, timing, level, clip.pan + layer.pan, axis.plan.rate)
    count = len(moments) - 1
    columns = np.zeros((2, count))
    middles = (moments[:-1] + moments[1:]) // 2
    for number, piece in enumerate(voice.pieces):
        inside = (middles >= piece.start) & (middles < piece.end)
        if not inside.any():
            continue
        low = int(np.argmax(inside))
        high = count - int(np.argmax(inside[::-1]))
        begins = shape.zero(number) + timing.loop_begins(0)
        heard = looped_columns(peaks, timing, clip.speed, moments[low : high + 1] - begins)
        gains = np.atleast_2d(shape.gains(middles[low:high], number)).max(axis=0)
        if shape.per_loop:
            since = (middles[low:high] - begins) % timing.step
            gains = gains * shape.line_gains(since).max(axis=0)
        columns[:, low:high] = np.where(inside[low:high], heard * gains, 0.0)
    if layer.line:
        columns *= Curve(layer.line).values(axis.frames(middles))
    return columns


def looped_columns(
    peaks: Peaks, timing: ClipTiming, speed: float, since: NDArray[np.int64]
) -> Columns:
    """Peaks between times since the first loop's beginning, taken round the loops."""
    result = np.zeros((2, len(since) - 1))
    # A column belongs to the loop its middle is in; what rings over a join is not drawn twice.
    middles = (since[:-1] + since[1:]) // 2
    loops = np.maximum(middles // timing.step, 0)
    if timing.loops:
        loops = np.minimum(loops, timing.loops - 1)
    bounds = np.flatnonzero(np.diff(loops)) + 1
    for low, high in zip([0, *bounds], [*bounds, len(middles)], strict=True):
        if low == high:
            continue
        began = loops[low] * timing.step
        inside = np.clip(since[low : high + 1] - began, 0, timing.loop)
        places = timing.first + inside * speed
        result[:, low:high] = peaks.columns(np.minimum(places.astype(np.float64), timing.last))
    return result


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
