"""The sound of files that hold more than sound, or a coding libsndfile does not read: by PyAV."""

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path

import av
import numpy as np

from cicada.core.arrays import Block
from cicada.disk.paths import is_text
from cicada.disk.reading import open_file
from cicada.errors import BadSound
from cicada.media.blocks import BLOCK_SAMPLES, LONGEST, SoundInfo, finite

# Nothing that names other files or addresses: a sound file must not make anything be fetched.
DEMUXERS = (
    "aac,ac3,aiff,amr,ape,asf,avi,caf,dts,eac3,flac,flv,matroska,webm,mov,mp4,m4a,mp3,mpeg,mpegts,"
    "ogg,tta,wav,wv"
)
NAMES = {"matroska": "Matroska", "webm": "WebM", "m4a": "M4A", "mp4": "MP4", "mov": "MOV"}
# A sound that begins later than the picture by less is not shifted: that is the coder's own delay.
LATE = 0.05


@contextmanager
def open_container(path: Path) -> Iterator["_Container"]:
    """The file, ready to be read; raises ``BadSound``."""
    # A name that is no text cannot be handed over, what is open can.
    held = None if is_text(path) else open_file(path, BadSound)
    try:
        container = av.open(
            str(path) if held is None else f"/proc/self/fd/{held.fileno()}",
            options={"protocol_whitelist": "file", "format_whitelist": DEMUXERS},
            metadata_errors="ignore",
        )
    except av.InvalidDataError:
        raise _unreadable(path) from None
    except (av.FFmpegError, ValueError, OSError) as error:
        raise _unreadable(path, getattr(error, "strerror", None) or str(error)) from None
    finally:
        if held is not None:
            held.close()
    with container:
        yield _Container(path, container)


def _unreadable(path: Path, reason: str = "") -> BadSound:
    why = f" ({reason.rstrip('.')})" if reason else ""
    return BadSound(
        f"is not a sound file that can be read here{why}",
        file=str(path),
        remedy="use WAV, AIFF, FLAC, Ogg Vorbis, Opus, MP3, M4A, MP4, MOV, MKV or WebM",
    )


class _Container:
    """One sound track of an opened file."""

    def __init__(self, path: Path, container: "av.container.InputContainer") -> None:
        self._path, self._container = path, container
        tracks = container.streams.audio
        if not tracks:
            if container.streams.video:
                raise BadSound(
                    "has pictures but no sound in it",
                    file=str(path),
                    remedy="export it again with its sound",
                )
            raise _unreadable(path, "no sound track in it")
        self._track = container.streams.best("audio") or tracks[0]
        try:
            self._frames = self._decoded()
            self._first = next(self._frames, None)
        except av.InvalidDataError:
            raise _unreadable(path, "its sound is damaged") from None
        except (av.FFmpegError, ValueError, OSError) as error:
            raise _unreadable(path, getattr(error, "strerror", None) or str(error)) from None
        if self._first is None:
            raise BadSound(
                "has no sound in it", file=str(path), remedy="export it again, it is empty"
            )
        rate, channels = self._first.sample_rate, self._first.layout.nb_channels
        notes = (f"the first of its {len(tracks)} sound tracks",) if len(tracks) > 1 else ()
        frames = self._estimate(rate)
        # The length written in these is exact; what is decoded past it fills the last packet up.
        exact = "mp4" in container.format.name and frames
        self._whole = frames + round(self._late() * rate) if exact else 1 << 62
        self.info = SoundInfo(frames, rate, channels, self._encoding(), notes)

    def _decoded(self) -> "Iterator[av.AudioFrame]":
        for frame in self._container.decode(self._track):
            if isinstance(frame, av.AudioFrame):
                yield frame

    def _estimate(self, rate: int) -> int:
        if self._track.duration is not None and self._track.time_base is not None:
            return int(self._track.duration * self._track.time_base * rate)
        return int((self._container.duration or 0) * rate / 1_000_000)

    def _encoding(self) -> str:
        coding = self._track.codec_context.name.split("_", 1)[0].upper().replace("OPUS", "Opus")
        names = self._container.format.name.split(",")
        suffix = self._path.suffix.lower().lstrip(".").replace("mkv", "matroska")
        holder = suffix if suffix in names else names[0]
        holder = NAMES.get(holder, holder.upper())
        return coding if holder == coding else f"{coding} in {holder}"

    def blocks(self) -> Iterator[Block]:
        """All of it, (frames, channels) a block; raises ``BadSound``."""
        rate, written = self.info.rate, 0
        try:
            for block in self._gathered():
                kept = finite(block[: self._whole - written])
                written += len(kept)
                self._not_endless(written)
                yield kept
        except (av.FFmpegError, ValueError, OSError):
            note = f"cut short: it breaks off after {written / rate:.2f} s"
            self.info = replace(self.info, notes=(*self.info.notes, note))
        self.info = replace(self.info, frames=written)

    def _gathered(self) -> Iterator[Block]:
        """Blocks of many of the coder's frames, for each block costs something of its own."""
        assert self._first is not None
        channels, rate = self.info.channels, self.info.rate
        yield from self._silence(round(self._late() * rate))
        plain = self._first.format.name in ("flt", "fltp")
        change = None if plain else av.AudioResampler("flt", self._first.layout, rate)
        queue = av.AudioFifo()
        broken: Exception | None = None
        frames = self._all()
        while broken is None:
            try:
                frame = next(frames)
                for each in (frame,) if change is None else change.resample(frame):
                    if each is not None:
                        each.pts = None
                        queue.write(each)
            except StopIteration:
                break
            except (av.FFmpegError, ValueError, OSError) as error:
                broken = error
            if queue.samples * channels >= BLOCK_SAMPLES:
                yield _block(queue, channels)
        # What came before a damaged place is kept.
        if queue.samples:
            yield _block(queue, channels)
        if broken is not None:
            raise broken

    def _all(self) -> "Iterator[av.AudioFrame | None]":
        assert self._first is not None
        yield self._first
        yield from self._frames
        yield None

    def _late(self) -> float:
        """By how many seconds the sound begins later than the picture it belongs to."""
        assert self._first is not None
        if not self._container.streams.video or self._first.time is None:
            return 0.0
        late = self._first.time - (self._container.start_time or 0) / 1_000_000
        return late if LATE < late < LONGEST else 0.0

    def _silence(self, frames: int) -> Iterator[Block]:
        while frames > 0:
            count = min(frames, 1 << 16)
            yield np.zeros((count, self.info.channels), np.float32)
            frames -= count

    def _not_endless(self, written: int) -> None:
        if written > LONGEST * self.info.rate:
            raise BadSound(
                "is longer than a day", file=str(self._path), remedy="cut out the part you need"
            )


def _block(queue: av.AudioFifo, channels: int) -> Block:
    """All that is in the queue, (frames, channels)."""
    made = queue.read()
    assert made is not None
    samples = made.to_ndarray().astype(np.float32, copy=False)
    return samples.T if made.format.is_planar else samples.reshape(-1, channels)
