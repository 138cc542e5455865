"""Taking a sound file in: hash, decode, take to the project's rate, find peaks, keep."""

import hashlib
import os
from collections import deque
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path
from typing import Any

import numpy as np
from msgspec import Struct

from cicada.core.arrays import Block
from cicada.core.timebase import resampled_length
from cicada.disk.reading import open_file
from cicada.disk.why import why
from cicada.errors import BadSound, Cancelled
from cicada.media.blocks import SoundInfo, SoundReader
from cicada.media.cache import Filling, SoundCache
from cicada.media.decode import opened, stereo
from cicada.media.peaks import BRIEF, PeakGatherer
from cicada.media.resample import RateChange

Progress = Callable[[float], bool]
HASH_AT_ONCE = 1 << 20
# How many blocks decoding may be ahead of writing.
AHEAD = 6
# A file of so many samples or fewer is decoded without a thread beside.
SMALL = 100_000


class Ingested(Struct, frozen=True):
    """A sound file that is in: what it is, and the hashes of its bytes and of its samples."""

    info: SoundInfo
    hash: str
    pcm_hash: str


def going_on(_: float) -> bool:
    """Nobody asks how far it is: go on."""
    return True


def content_hash(path: Path, progress: Progress = going_on) -> str:
    """``blake2b:`` and the hash of the file's bytes; raises ``BadSound`` or ``Cancelled``."""
    digest = hashlib.blake2b(digest_size=20)
    with open_file(path, BadSound) as file:
        # To clear a whole buffer takes longer than to read a small file.
        size = os.fstat(file.fileno()).st_size
        buffer = bytearray(min(size + 1, HASH_AT_ONCE))
        view = memoryview(buffer)
        try:
            while count := file.readinto(buffer):  # type: ignore[attr-defined] # it has no buffer
                digest.update(view[:count])
                if not progress(0.0):
                    raise Cancelled("stopped", file=str(path))
        except OSError as error:
            raise BadSound(
                f"cannot be read ({why(error)})", file=str(path), remedy="try it again"
            ) from None
    return f"blake2b:{digest.hexdigest()}"


class _Seen(Struct, frozen=True):
    """A file as it was when it was hashed."""

    # Its size, its number on its disk, and when its bytes and anything else of it changed last.
    state: tuple[int, int, int, int]
    hash: str


def seen_hash(path: Path, cache: SoundCache) -> str:
    """The hash of the file's bytes, read only if the file is not as it was; raises ``BadSound``."""
    name = f"{hashlib.blake2b(os.fsencode(path), digest_size=20).hexdigest()}-seen"
    try:
        state = path.stat()
    except OSError as error:
        raise BadSound(f"cannot be read ({why(error)})", file=str(path)) from None
    now = (state.st_size, state.st_ino, state.st_mtime_ns, state.st_ctime_ns)
    known = cache.read_note(name, _Seen)
    if known is not None and known.state == now:
        return known.hash
    content = content_hash(path)
    cache.write_note(name, _Seen(now, content))
    return content


def ingest(path: Path, rate: int, cache: SoundCache, progress: Progress = going_on) -> Ingested:
    """Have ``path`` in the cache at ``rate``, decoding it if it is not there yet.

    ``progress`` is told the share done and answers whether to go on. Raises ``BadSound``,
    ``CannotWrite`` or ``Cancelled``.
    """
    with opened(path) as file:
        if file.info.frames * file.info.channels <= SMALL:
            return _Intake(path, file, rate, cache, progress, _AtOnce()).take()
        # Hashing and writing go on beside decoding and resampling: all four leave the interpreter.
        with ThreadPoolExecutor(1) as thread:
            return _Intake(path, file, rate, cache, progress, _Beside(thread)).take()


def take_made(
    reader: SoundReader, content: str, rate: int, cache: SoundCache, progress: Progress = going_on
) -> Ingested:
    """Have what is made here, and read block by block, in the cache under its ``content``.

    Raises ``CannotWrite`` or ``Cancelled``.
    """
    intake = _Intake(Path("a sound made here"), reader, rate, cache, progress, _AtOnce())
    intake.is_known_by(content)
    return intake.take()


class _AtOnce:
    """Work done as it comes: for a small file a thread would take longer than it saves."""

    def do(self, work: Callable[[Any], None], piece: object) -> None:
        work(piece)

    def wait(self) -> None:
        """All is done."""


class _Beside:
    """Work done in order in another thread, a few pieces behind at most."""

    def __init__(self, thread: ThreadPoolExecutor) -> None:
        self._thread = thread
        self._under_way: deque[Future[None]] = deque()

    def do(self, work: Callable[[Any], None], piece: object) -> None:
        if len(self._under_way) >= AHEAD:
            self._under_way.popleft().result()
        self._under_way.append(self._thread.submit(work, piece))

    def wait(self) -> None:
        while self._under_way:
            self._under_way.popleft().result()


class _Intake:
    """One file on its way into the cache."""

    def __init__(
        self,
        path: Path,
        file: SoundReader,
        rate: int,
        cache: SoundCache,
        progress: Progress,
        beside: _Beside | _AtOnce,
    ) -> None:
        self._path, self._file, self._rate = path, file, rate
        self._cache, self._heard, self._beside = cache, progress, beside
        self._content = ""
        self._already: Ingested | None = None
        self._digest = hashlib.blake2b(np.int64(file.info.rate).tobytes(), digest_size=20)
        self._peaks, self._unseen = PeakGatherer(), list[Block]()

    def is_known_by(self, content: str) -> None:
        """There is no file to be hashed: this is what it is known by."""
        self._content = content

    def take(self) -> Ingested:
        """Decode it while its bytes are hashed, and stop if they turn out to be known."""
        info, channels = self._file.info, min(2, self._file.info.channels)
        expected = resampled_length(info.frames, info.rate, self._rate)
        problem = self._cache.too_large(4 * channels * expected)
        if problem:
            raise BadSound(
                problem, file=str(self._path), remedy="cut out the part you need, or make room"
            )
        self._beside.do(self._hash, self._path)
        with self._cache.filling(channels, expected) as target:
            target.beat = lambda: self._heard(1.0)
            frames = self._decode(RateChange(info.rate, self._rate, channels), target)
            if frames is not None:
                self._beside.wait()
                length = resampled_length(frames, info.rate, self._rate)
                target.fit(length)
                target.key = self._key
                if length > BRIEF:
                    self._gather()
                    self._cache.put(self._cache.peaks_key(self._key), self._peaks.peaks(length))
        return self._already or self._taken(note=target.length > BRIEF)

    def _gather(self) -> None:
        """Find the peaks of what was not looked at yet."""
        for block in self._unseen:
            self._peaks.append(block)
        self._unseen.clear()

    def _hash(self, path: Path) -> None:
        self._content = self._content or content_hash(path, self._heard)

    def _decode(self, change: RateChange, target: Filling) -> int | None:
        """Decode all of it: how many frames it has; None if it is in the cache already."""
        frames, promised = 0, self._file.info.frames
        said = max(1, promised)

        def write(block: Block) -> None:
            target.append(block)
            self._unseen.append(block)
            if target.length > BRIEF:
                self._gather()

        looked = False
        for block in self._file.blocks():
            plain = np.ascontiguousarray(stereo(block))
            self._beside.do(self._digest.update, plain.data)
            frames += len(plain)
            for changed in change.take(plain):
                self._beside.do(write, changed)
                if not self._heard(min(1.0, frames / said)):
                    raise Cancelled("stopped", file=str(self._path))
            if self._content and not looked:
                looked = True
                self._already = self._known()
                if self._already is not None:
                    return None
        if not frames and promised:
            raise BadSound(
                "has no sound in it", file=str(self._path), remedy="export it again, it is empty"
            )
        for changed in change.rest():
            self._beside.do(write, changed)
        return frames

    @property
    def _key(self) -> str:
        return self._cache.sound_key(self._content, self._rate)

    @property
    def _note(self) -> str:
        return f"{self._content.removeprefix('blake2b:')}-decoded"

    def _known(self) -> Ingested | None:
        """What the cache knows of these bytes, if it has them decoded too."""
        for key in (self._key, self._cache.peaks_key(self._key)):
            if not self._cache.has(key):
                return None
            stored = self._cache.open(key)
            if stored is None or not stored.right():
                return None
        return self._cache.read_note(self._note, Ingested)

    def _taken(self, *, note: bool) -> Ingested:
        pcm = f"blake2b:{self._digest.hexdigest()}"
        taken = Ingested(self._file.info, self._content, pcm)
        if note:
            self._cache.write_note(self._note, taken)
        return taken
