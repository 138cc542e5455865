"""Videos and animated images: the picture shown at any moment, at their own pace."""

import ctypes
import gc
from collections import OrderedDict
from collections.abc import Iterator
from contextlib import suppress
from fractions import Fraction
from pathlib import Path
from typing import NamedTuple, Protocol

import av
import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QImage, QImageReader, QTransform

from cicada.disk.reading import open_file
from cicada.errors import BadPicture

# Nothing that names other files or addresses: a picture must not make anything be fetched.
DEMUXERS = "apng,asf,avi,flv,gif,matroska,webm,mov,mp4,m4a,mpeg,mpegts,ogg"
# From so many seconds ahead on it is quicker to seek than to decode all that is between.
FAR = Fraction(2)
# Pictures kept of those that were decoded on the way to one before them, by their bytes.
ROOM = 24 << 20


class MovingInfo(NamedTuple):
    """What a video or animated image is: its size in pixels, its length in seconds."""

    width: int
    height: int
    seconds: float
    rate: float
    has_sound: bool


class Moving(Protocol):
    """An opened video or animated image."""

    info: MovingInfo

    def at(self, moment: Fraction, fit: QSize) -> QImage:
        """What is shown ``moment`` seconds after its beginning, shrunk to fit."""

    def close(self) -> None:
        """Let go of the file."""


def open_moving(path: Path) -> Moving:
    """The file, ready to be looked at; raises ``BadPicture``."""
    reader = QImageReader(str(path))
    # FFmpeg does not decode animated WebP, and Qt composes GIF and WebP as they are meant.
    if reader.supportsAnimation() and reader.imageCount() > 1:
        return Animation(path)
    return OpenVideo(path)


def is_animated(path: Path) -> bool:
    """Whether an image file has more than one picture in it."""
    reader = QImageReader(str(path))
    if reader.supportsAnimation():
        return reader.imageCount() > 1
    if bytes(reader.format().data()) == b"png":
        with open_file(path, BadPicture) as file:
            return b"acTL" in file.read(1 << 16)
    return False


class _Shown(NamedTuple):
    """A decoded picture: shown from ``start`` to ``end``, in seconds of the file's own clock."""

    start: Fraction
    end: Fraction
    image: QImage


class _Kept:
    """Pictures of the last size asked for, as many as there is room for."""

    def __init__(self) -> None:
        self._fit = QSize()
        self._kept: OrderedDict[Fraction, _Shown] = OrderedDict()
        self._size = 0

    def find(self, moment: Fraction, fit: QSize) -> QImage | None:
        if fit != self._fit:
            self._kept.clear()
            self._fit, self._size = fit, 0
        for shown in reversed(self._kept.values()):
            if shown.start <= moment < shown.end:
                return shown.image
        return None

    def keep(self, shown: _Shown) -> None:
        if shown.start in self._kept:
            return
        self._kept[shown.start] = shown
        self._size += shown.image.sizeInBytes()
        while self._size > ROOM and len(self._kept) > 1:
            self._size -= self._kept.popitem(last=False)[1].image.sizeInBytes()


class OpenVideo:
    """By FFmpeg: any video, GIF and animated PNG."""

    def __init__(self, path: Path) -> None:
        self._path = path
        try:
            self._container = av.open(
                str(path),
                options={"protocol_whitelist": "file", "format_whitelist": DEMUXERS},
                metadata_errors="ignore",
            )
        except (av.FFmpegError, ValueError, OSError) as error:
            raise self._unreadable(error) from None
        tracks = [s for s in self._container.streams.video if not _is_cover(s)]
        if not tracks:
            self._container.close()
            raise BadPicture(
                "has no moving picture in it", file=str(path), remedy="export it with its picture"
            )
        self._track = tracks[0]
        self._track.thread_type = "AUTO"
        self._kept = _Kept()
        self._tick = self._track.time_base or Fraction(1, 1000)
        rate = self._track.average_rate or self._track.base_rate or Fraction(25)
        self._lasts = 1 / rate
        try:
            self._begin(0)
        except BadPicture:
            self._container.close()
            raise
        self._first = self._start_of(self._frame)
        self._wide, self._turned = self._shape()
        self.info = MovingInfo(
            self._wide, self._frame.height, self._seconds(), float(rate),
            bool(self._container.streams.audio),
        )  # fmt: skip
        if self._turned % 180:
            self.info = self.info._replace(width=self._frame.height, height=self._wide)

    def _shape(self) -> tuple[int, int]:
        """How wide it is in square pixels, and by how many degrees it is to be turned."""
        aspect = self._track.sample_aspect_ratio or Fraction(1)
        wide = round(self._frame.width * aspect) if 0 < aspect < 100 else self._frame.width
        return max(1, wide), int(self._frame.rotation)

    def _seconds(self) -> float:
        if self._track.duration is not None:
            return float(self._track.duration * self._tick)
        if self._container.duration:
            return self._container.duration / 1_000_000
        # A length that is written nowhere is found by going through the file once.
        last = self._first
        try:
            for frame in self._container.decode(self._track):
                last = max(last, self._start_of(frame))
        except (av.FFmpegError, ValueError, OSError):
            pass
        self._begin(0)
        return float(last - self._first + self._lasts)

    def _unreadable(self, error: Exception | None = None) -> BadPicture:
        why = "" if error is None else f" ({getattr(error, 'strerror', None) or error})"
        return BadPicture(
            f"is no picture or video that can be read here{why}",
            file=str(self._path),
            remedy="use MP4, MOV, WebM, MKV, GIF, animated PNG or WebP",
        )

    # -- from picture to picture ---------------------------------------------------------------

    def _begin(self, moment: Fraction | int) -> None:
        """Decode from the last picture that can be decoded by itself and is not after a moment."""
        try:
            self._container.seek(int(moment / self._tick), stream=self._track)
            self._frames = self._decoded()
            first = next(self._frames, None)
        except (av.FFmpegError, ValueError, OSError) as error:
            raise self._unreadable(error) from None
        if first is None:
            raise self._unreadable()
        self._frame, self._following = first, self._next()

    def _decoded(self) -> Iterator[av.VideoFrame]:
        for frame in self._container.decode(self._track):
            if frame.pts is not None:
                yield frame

    def _next(self) -> av.VideoFrame | None:
        """The picture after this; none after a damaged place, so that the last one stays."""
        try:
            return next(self._frames, None)
        except (av.FFmpegError, ValueError, OSError):
            return None

    def _start_of(self, frame: av.VideoFrame) -> Fraction:
        return Fraction(frame.pts or 0) * self._tick

    def _end(self) -> Fraction:
        """When the picture it is at is over."""
        if self._following is None:
            return self._start_of(self._frame) + 10**6
        return self._start_of(self._following)

    def at(self, moment: Fraction, fit: QSize) -> QImage:
        """What is shown ``moment`` seconds after its beginning, shrunk to fit."""
        # Containers that count milliseconds write a picture's time up to half of one late.
        moment = self._first + moment + min(self._tick, self._lasts / 4)
        known = self._kept.find(moment, fit)
        if known is not None:
            return known
        back = moment < self._start_of(self._frame)
        if back or moment > self._end() + FAR:
            self._begin(max(self._first, moment))
            if moment < self._start_of(self._frame):
                self._begin(self._first)
        while moment >= self._end() and self._following is not None:
            if back:
                # Whoever goes backwards comes past these next.
                self._keep(fit)
            self._frame, self._following = self._following, self._next()
        return self._keep(fit)

    def _keep(self, fit: QSize) -> QImage:
        image = self._image(fit)
        self._kept.keep(_Shown(self._start_of(self._frame), self._end(), image))
        return image

    def _image(self, fit: QSize) -> QImage:
        frame = self._frame
        size = QSize(self._wide, frame.height)
        if self._turned % 180:
            fit = fit.transposed()
        wanted = size.scaled(fit, Qt.AspectRatioMode.KeepAspectRatio)
        if wanted.width() > size.width():
            wanted = size
        untold = frame.colorspace == UNTOLD
        try:
            pixels = frame.to_ndarray(
                format="bgra",
                width=max(1, wanted.width()),
                height=max(1, wanted.height()),
                # High definition is by its own matrix where the file does not say.
                src_colorspace="ITU709" if untold and frame.height >= 720 else None,
                interpolation="AREA",
            )
        except (av.FFmpegError, ValueError, OSError) as error:
            raise self._unreadable(error) from None
        image = image_of(pixels.astype(np.uint8, copy=False))
        if self._turned:
            image = image.transformed(QTransform().rotate(-self._turned))
        return image

    def close(self) -> None:
        """Let go of the file and of its decoded pictures."""
        self._container.close()
        # They refer to each other, and Python does not know how large they are. What is freed goes
        # back to the system, or five videos of 3840 by 2160 in turn would take 3.3 GB.
        del self._frames, self._frame, self._following, self._kept
        gc.collect()
        with suppress(OSError, AttributeError):
            ctypes.CDLL(None).malloc_trim(0)


# What FFmpeg calls a colour space that the file does not tell.
UNTOLD = 2


def _is_cover(track: "av.video.stream.VideoStream") -> bool:
    """Whether a track is a still picture that goes with a sound."""
    return bool(track.disposition & av.stream.Disposition.attached_pic)


def image_of(pixels: NDArray[np.uint8]) -> QImage:
    """An image of its own of pixels (height, width, 4), blue first."""
    height, width = pixels.shape[:2]
    plain = np.ascontiguousarray(pixels)
    return QImage(plain.data, width, height, 4 * width, QImage.Format.Format_ARGB32).copy()


class Animation:
    """By Qt: GIF and WebP, which can only be read in order."""

    def __init__(self, path: Path) -> None:
        self._path, self._kept = path, _Kept()
        self._begin()
        size, moment, number = self._reader.size(), Fraction(0), 0
        # How long each is shown is known only by going through it once.
        self._ends: list[Fraction] = []
        while not (image := self._reader.read()).isNull():
            size = image.size()
            moment += self._delay()
            self._ends.append(moment)
            number += 1
        if not number:
            raise BadPicture(
                f"cannot be shown ({self._reader.errorString().rstrip('.')})",
                file=str(path),
                remedy="export it again",
            )
        seconds = float(moment)
        self.info = MovingInfo(size.width(), size.height(), seconds, number / seconds, False)
        self._begin()

    def _delay(self) -> Fraction:
        """How long the picture just read is shown; a time of none is a tenth, as everywhere."""
        delay = self._reader.nextImageDelay()
        return Fraction(delay if delay > 10 else 100, 1000)

    def _begin(self) -> None:
        self._reader = QImageReader(str(self._path))
        self._number = -1

    def at(self, moment: Fraction, fit: QSize) -> QImage:
        """What is shown ``moment`` seconds after its beginning, shrunk to fit."""
        known = self._kept.find(moment, fit)
        if known is not None:
            return known
        wanted = next((n for n, end in enumerate(self._ends) if moment < end), len(self._ends) - 1)
        if wanted <= self._number:
            self._begin()
        shown = QImage()
        while self._number < wanted and not (image := self._reader.read()).isNull():
            self._number += 1
            shown = self._keep(image, fit)
        return shown

    def _keep(self, image: QImage, fit: QSize) -> QImage:
        if image.width() > fit.width() or image.height() > fit.height():
            image = image.scaled(
                fit, Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation
            )
        number = max(0, self._number)
        last = number == len(self._ends) - 1
        start = self._ends[number - 1] if number else Fraction(0)
        end = start + 10**6 if last else self._ends[number]
        self._kept.keep(_Shown(start, end, image))
        return image

    def close(self) -> None:
        """Let go of the file."""
        self._reader = QImageReader()
