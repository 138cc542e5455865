"""A video with its sound, written with FFmpeg's libraries and read back."""

from collections import deque
from collections.abc import Callable, Iterator
from fractions import Fraction
from math import log2
from pathlib import Path
from typing import Any, NamedTuple

import av
import numpy as np

from cicada.core.arrays import Samples
from cicada.core.recipes import VideoRecipe
from cicada.deliver.measuring import BEFORE, FARTHEST, KEPT, Measured, shifted
from cicada.deliver.promises import File, Promise
from cicada.deliver.shown import Pixels, Shown
from cicada.deliver.signal import Signal
from cicada.errors import Cancelled, CannotWrite

Going = Callable[[float], bool]
Picture = Callable[[Shown], Pixels]
"""The picture of what is shown; all of one size, of even numbers."""


class Codecs(NamedTuple):
    """How a kind of video is written, and the rates of sound it holds."""

    video: str
    audio: str
    format: str
    rates: tuple[int, ...]


KINDS = {
    "mp4": Codecs("libx264", "aac", "mp4", (
        8000, 11025, 12000, 16000, 22050, 24000, 32000, 44100, 48000, 64000, 88200, 96000,
    )),
    "webm": Codecs("libvpx-vp9", "libopus", "webm", (8000, 12000, 16000, 24000, 48000)),
}  # fmt: skip
# Bits a second of sound, for each side.
SOUND = 96_000
# By how many seconds sound may be moved: by coding, and where time goes by thousandths.
MOVED = {"mp4": 0.0001, "webm": 0.001}


def nearest_video_rate(kind: str, rate: int) -> int:
    """The rate itself if such a video holds it, else the nearest it holds."""
    held = KINDS[kind].rates
    return rate if rate in held else min(held, key=lambda each: (abs(log2(each / rate)), -each))


class Video(NamedTuple):
    """What a video is made of; ``gain`` is in dB."""

    recipe: VideoRecipe
    shown: list[Shown]
    picture: Picture
    height: int
    width: int
    fps: tuple[int, int]
    rate: int
    signal: Signal
    gain: float


def write_video(made: Video, path: Path, name: str, going: Going) -> File:
    """Write a video into a file, read it back and say what it is; raises ``CannotWrite``."""
    try:
        sent = _write(made, path, going)
        found = _read_back(path, made, sent)
    except (av.FFmpegError, OSError, ValueError, RuntimeError) as error:
        raise CannotWrite(
            f"cannot be written ({getattr(error, 'strerror', None) or 'its coder refuses it'})",
            file=name, remedy="choose another size, kind or folder",
        ) from None  # fmt: skip
    now = found.sound
    pictures = len(made.shown)
    all_there = found.pictures == pictures
    said = f"{pictures:,} pictures" if all_there else (
        f"{found.pictures:,} of {pictures:,} pictures"
    )  # fmt: skip
    promises = [Promise("frames", all_there, said, pictures, found.pictures)]
    if found.late is not None:
        moved = MOVED[made.recipe.kind] * made.signal.rate
        begins = "sound begins on its sample" if not found.late else (
            f"sound begins {found.late:+} samples beside its own"
        )  # fmt: skip
        promises.append(Promise("start", abs(found.late) <= moved, begins, 0, found.late))
    kind = f"{made.recipe.kind.upper()} {made.width} × {made.height}"
    return File(
        name, path.stat().st_size, kind, made.signal.length, now.rate, now.channels,
        round(made.gain, 3), _round(now.peak), _round(now.true_peak), _round(now.loudness),
        tuple(promises),
    )  # fmt: skip


def _round(value: float | None) -> float | None:
    return None if value is None else round(value, 2)


def _write(made: Video, path: Path, going: Going) -> Measured:
    codecs = KINDS[made.recipe.kind]
    with av.open(str(path), "w", format=codecs.format) as container:
        video = _video_stream(container, made, codecs)
        sound: Any = container.add_stream(codecs.audio, rate=made.signal.rate)
        sound.layout = "mono" if made.signal.mono else "stereo"
        sound.bit_rate = SOUND * made.signal.channels
        sound.codec_context.open()
        encoder = _Sound(made, sound)
        lengths: deque[int] = deque()
        for number, shown in enumerate(made.shown):
            frame = av.VideoFrame.from_ndarray(
                np.ascontiguousarray(made.picture(shown)[:, :, :3]), format="bgr24"
            )
            frame.pts, frame.time_base = shown.at, Fraction(1, made.rate)
            lengths.append(shown.length)
            _mux(container, video.encode(frame), lengths)
            for packet in encoder.up_to(shown.at + shown.length):
                container.mux(packet)
            if not going(0.9 * (number + 1) / len(made.shown)):
                raise Cancelled("the delivery was stopped; nothing of it was written")
        _mux(container, video.encode(), lengths)
        for packet in encoder.rest():
            container.mux(packet)
        return encoder.sent


def _video_stream(container: Any, made: Video, codecs: Codecs) -> Any:  # noqa: ANN401 - of av
    stream = container.add_stream(codecs.video, rate=Fraction(*made.fps))
    stream.height, stream.width, stream.pix_fmt = made.height, made.width, "yuv420p"
    # The clock of the sound, so that pictures stand where the plan has them.
    stream.time_base = stream.codec_context.time_base = Fraction(1, made.rate)
    worst, best = (40, 12) if codecs.video == "libx264" else (50, 15)
    quality = str(round(worst + (best - worst) * made.recipe.quality))
    if codecs.video == "libx264":
        # Without pictures that are shown in another order than they are written.
        stream.options = {"crf": quality, "preset": "veryfast", "bf": "0"}
    else:
        stream.bit_rate = 0
        stream.options = {
            "crf": quality, "b": "0", "deadline": "realtime", "cpu-used": "6", "row-mt": "1",
            "lag-in-frames": "0", "auto-alt-ref": "0",
        }  # fmt: skip
    return stream


def _mux(container: Any, packets: Any, lengths: deque[int]) -> None:  # noqa: ANN401 - of av
    for packet in packets:
        # A coder does not know how long a picture is shown.
        if lengths:
            packet.duration = lengths.popleft()
        container.mux(packet)


class _Sound:
    """Encodes the sound as far as the pictures are."""

    def __init__(self, made: Video, stream: Any) -> None:  # noqa: ANN401 - of av
        self._signal, self._stream = made.signal, stream
        self._factor = np.float32(10 ** (made.gain / 20))
        self._ratio = Fraction(made.signal.rate, made.rate)
        self._blocks = self._signal.blocks()
        self._left = np.zeros((self._signal.channels, 0), np.float32)
        self._at = 0
        self.sent = Measured(self._signal.rate, self._signal.channels)

    @property
    def _size(self) -> int:
        return int(self._stream.codec_context.frame_size or 1024)

    def up_to(self, sample: int) -> Iterator[Any]:
        """What comes before a sample of the plan."""
        until = min(self._signal.length, int(sample * self._ratio))
        while self._at + self._size <= until:
            yield from self._encode(self._take(self._size))

    def rest(self) -> Iterator[Any]:
        """What is left."""
        while self._at < self._signal.length:
            yield from self._encode(self._take(min(self._size, self._signal.length - self._at)))
        yield from self._stream.encode()

    def _take(self, count: int) -> Samples:
        while self._left.shape[1] < count:
            block = next(self._blocks, None)
            if block is None:
                block = np.zeros((self._signal.channels, count), np.float32)
            self._left = np.concatenate((self._left, block), axis=1)
        taken, self._left = self._left[:, :count], self._left[:, count:]
        return np.ascontiguousarray(taken * self._factor)

    def _encode(self, block: Samples) -> Iterator[Any]:
        self.sent.add(block)
        layout = "mono" if self._signal.mono else "stereo"
        planar = self._stream.codec_context.format.is_planar
        data = block if planar else np.ascontiguousarray(block.T).reshape(1, -1)
        frame = av.AudioFrame.from_ndarray(data, format="fltp" if planar else "flt", layout=layout)
        frame.sample_rate, frame.pts = self._signal.rate, self._at
        frame.time_base = Fraction(1, self._signal.rate)
        self._at += block.shape[1]
        yield from self._stream.encode(frame)


class _Found(NamedTuple):
    """What was read back: how many pictures, the sound, and by how much that comes late."""

    pictures: int
    sound: Measured
    late: int | None


def _read_back(path: Path, made: Video, sent: Measured) -> _Found:
    pictures, rate = 0, made.signal.rate
    now = Measured(rate, made.signal.channels)
    first = None if sent.begins is None else sent.begins - BEFORE - FARTHEST
    stretch, wanted = list[Samples](), KEPT + 2 * FARTHEST
    with av.open(str(path)) as container:
        for frame in container.decode(video=0):
            pictures += 1
            del frame
    with av.open(str(path)) as container:
        for at, block in _sounding(container, rate, made.signal.channels):
            now.add(block)
            if first is not None:
                low, high = max(0, first - at), max(0, first + wanted - at)
                stretch.append(block[:, low:high])
    if first is None or not stretch:
        return _Found(pictures, now, None)
    heard = np.concatenate(stretch, axis=1)
    heard = np.pad(heard, ((0, 0), (max(0, -first), 0)))
    return _Found(pictures, now, shifted(sent, heard))


def _sounding(
    container: Any,  # noqa: ANN401 - of av
    rate: int,
    channels: int,
) -> Iterator[tuple[int, Samples]]:
    """The sound by its times, from the first sample on: each block with where it stands."""
    at = 0
    for frame in container.decode(audio=0):
        data = frame.to_ndarray()
        if not frame.format.is_planar:
            data = data.reshape(-1, channels).T
        if frame.sample_rate != rate:
            return
        stands = round(float(frame.pts * frame.time_base) * rate) if frame.pts is not None else at
        block = np.ascontiguousarray(data, np.float32)
        if stands < 0:
            block, stands = block[:, -stands:], 0
        at = stands + block.shape[1]
        yield stands, block
