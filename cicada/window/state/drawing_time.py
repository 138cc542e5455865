"""How long drawing the picture takes on this machine, measured once beside the window."""

import time
from collections.abc import Callable
from statistics import median

from PySide6.QtCore import QObject

from cicada.core.model import DrawTime
from cicada.errors import BadPicture
from cicada.media.picture_process import PictureDecoder
from cicada.media.wanted import Wanted
from cicada.window.state.beside import Beside, Post
from cicada.window.state.document import Document
from cicada.window.state.frames import Frames

# Frames of a scene that are drawn to be measured at most, and the seconds that may take.
MOST, PATIENCE = 1000, 6.0
Measured = dict[str, DrawTime]
Asked = list[tuple[str, int, list[Wanted | None]]]


class DrawingTime(QObject):
    """Draws each scene from its beginning with a decoder of its own, and takes the time."""

    def __init__(self, document: Document, frames: Frames) -> None:
        super().__init__()
        self._document, self._frames = document, frames
        self._beside = Beside("drawing-time", self._take)
        self._then: Callable[[Measured, int], None] | None = None

    @property
    def busy(self) -> bool:
        """Whether it is being measured."""
        return self._then is not None

    def measure(self, height: int, then: Callable[[Measured, int], None]) -> None:
        """Measure all scenes at a height in pixels; ``then`` is called with seconds by scene.

        It is told, too, of how many frames these are; the others have the median of their scene.
        """
        if self.busy:
            return
        self._then = then
        asked: Asked = []
        for scene in self._document.project.scenes:
            first = range(min(scene.length, MOST))
            wanted = [self._frames.wanted(scene, frame, height) for frame in first]
            asked.append((scene.id, scene.length, wanted))
        self._beside.do(_measure, asked)

    def _take(self, found: Measured, count: int) -> None:
        then, self._then = self._then, None
        if then is not None:
            then(found, count)

    def close(self) -> None:
        """Measure no more."""
        self._then = None
        self._beside.close()


def _measure(post: Post, asked: Asked) -> None:
    decoder = PictureDecoder()
    found: Measured = {}
    drawn = 0
    try:
        for scene, length, wanted in asked:
            times = _times(decoder, wanted)
            drawn += len(times)
            usual = round(median(times), 6) if times else 0.0
            found[scene] = (*times, *(usual for _ in range(length - len(times))))
    finally:
        decoder.close()
    post(found, drawn)


def _times(decoder: PictureDecoder, wanted: list[Wanted | None]) -> list[float]:
    """Seconds for each frame, as many as there is patience for; the first was warmed up to."""
    began, times = time.monotonic(), list[float]()
    for number, each in enumerate(wanted):
        if number and time.monotonic() - began > PATIENCE:
            break
        if each is None:
            times.append(0.0)
            continue
        try:
            if not number:
                # Starting the decoder and opening the files is no part of drawing.
                decoder.compose(each)
            at = time.perf_counter()
            decoder.compose(each)
            times.append(round(time.perf_counter() - at, 6))
        except BadPicture:
            times.append(0.0)
    return times
