"""Picture files for tests: numbered greys, one step lighter each."""

from fractions import Fraction

import av
import numpy as np

STEP, FIRST = 24, 8
CODERS = {
    ".mp4": ("libx264", "mp4", "yuv444p"),
    ".mov": ("mpeg4", "mov", "yuv420p"),
    ".mkv": ("libx264", "matroska", "yuv444p"),
    ".webm": ("libvpx-vp9", "webm", "yuv420p"),
    ".gif": ("gif", "gif", "gray"),
    ".apng": ("apng", "apng", "rgb24"),
    ".webp": ("libwebp_anim", "webp", "bgra"),
}


def grey(number, size=(64, 36)):
    """An image of the grey that stands for a number from 0 to 9."""
    return np.full((size[1], size[0], 3), FIRST + STEP * number, np.uint8)


def number_of(image):
    """The number that the middle of an image stands for; None for black."""
    value = image.pixelColor(image.width() // 2, image.height() // 2).red()
    return None if value < 3 else round((value - FIRST) / STEP)


def write_moving(path, fps=12, count=10, size=(64, 36), **options):
    """A video or animated image of ``count`` numbered greys."""
    coder, holder, pixels = CODERS[path.suffix]
    with av.open(str(path), "w", format=holder) as file:
        track = file.add_stream(coder, rate=fps, options={k: str(v) for k, v in options.items()})
        track.width, track.height = size
        track.pix_fmt = pixels
        for number in range(count):
            frame = av.VideoFrame.from_ndarray(grey(number, size), "rgb24")
            frame.pts, frame.time_base = number, Fraction(1, fps)
            file.mux(track.encode(frame))
        file.mux(track.encode())
    return path
