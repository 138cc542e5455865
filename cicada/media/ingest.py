"""Taking a sound file in: hash, decode, take to the project's rate, find peaks, keep."""

import hashlib
import os
from collections.abc import Callable
from pathlib import Path

import msgspec
import numpy as np
from msgspec import Struct

from cicada.core.timebase import resampled_length
from cicada.errors import BadSound, Cancelled
from cicada.media.cache import SoundCache
from cicada.media.decode import SoundInfo, SoundReader, opened, stereo
from cicada.media.peaks import find_peaks
from cicada.media.resample import RateChange

Heard = Callable[[float], bool]
HASH_AT_ONCE = 1 << 20


class Ingested(Struct, frozen=True):
    """A sound file that is in: what it is, and the hashes of its bytes and of its samples."""

    info: SoundInfo
    hash: str
    pcm_hash: str


def _go_on(_: float) -> bool:
    return True


def content_hash(path: Path, heard: Heard = _go_on) -> str:
    """``blake2b:`` and the hash of the file's bytes; raises ``BadSound`` or ``Cancelled``."""
    digest = hashlib.blake2b(digest_size=20)
    buffer = bytearray(HASH_AT_ONCE)
    view = memoryview(buffer)
    try:
        with path.open("rb", buffering=0) as file:
            while count := file.readinto(buffer):
                digest.update(view[:count])
                if not heard(0.0):
                    raise Cancelled("stopped", file=str(path))
    except OSError as error:
        reason = error.strerror or "it cannot be opened"
        raise BadSound(
            f"cannot be read ({reason})",
            file=str(path),
            remedy="check the name and its permissions",
        ) from None
    return f"blake2b:{digest.hexdigest()}"


class _Seen(Struct, frozen=True):
    """A file as it was when it was hashed."""

    size: int
    changed: int
    hash: str


def seen_hash(path: Path, cache: SoundCache) -> str:
    """The hash of the file's bytes, read only if the file is not as it was; raises ``BadSound``."""
    name = f"{hashlib.blake2b(os.fsencode(path), digest_size=20).hexdigest()}-seen"
    try:
        state = path.stat()
        known = msgspec.json.decode(cache.read_note(name) or b"{}", type=_Seen)
    except OSError as error:
        raise BadSound(f"cannot be read ({error.strerror})", file=str(path)) from None
    except msgspec.DecodeError:
        known = _Seen(-1, -1, "")
    if (known.size, known.changed) == (state.st_size, state.st_mtime_ns):
        return known.hash
    content = content_hash(path)
    cache.write_note(name, msgspec.json.encode(_Seen(state.st_size, state.st_mtime_ns, content)))
    return content


def ingest(path: Path, rate: int, cache: SoundCache, heard: Heard = _go_on) -> Ingested:
    """Have ``path`` in the cache at ``rate``, decoding it if it is not there yet.

    ``heard`` is told the share done and answers whether to go on. Raises ``BadSound``,
    ``CannotWrite`` or ``Cancelled``.
    """
    content = content_hash(path, heard)
    key = cache.sound_key(content, rate)
    name = f"{content.removeprefix('blake2b:')}-decoded"
    known = cache.read_note(name)
    if known is not None and cache.has(key) and cache.has(cache.peaks_key(key)):
        return msgspec.json.decode(known, type=Ingested)
    with opened(path) as file:
        pcm = _decode(path, file, rate, cache, key, heard)
        taken = Ingested(file.info, content, pcm)
    samples = cache.open(key)
    assert samples is not None
    cache.put(cache.peaks_key(key), find_peaks(samples))
    cache.write_note(name, msgspec.json.encode(taken))
    return taken


def _decode(
    path: Path, file: SoundReader, rate: int, cache: SoundCache, key: str, heard: Heard
) -> str:
    """Write the samples down; the hash of them as they came, ``pcm_hash``."""
    own, channels, said = file.info.rate, min(2, file.info.channels), file.info.frames
    digest = hashlib.blake2b(np.int64(own).tobytes(), digest_size=20)
    change = RateChange(own, rate, channels)
    frames = 0
    with cache.filling(key, channels, resampled_length(said, own, rate)) as target:
        for block in file.blocks():
            plain = np.ascontiguousarray(stereo(block))
            digest.update(plain.data)
            frames += len(plain)
            for changed in change.take(plain):
                target.append(changed)
                if not heard(min(1.0, frames / max(1, said))):
                    raise Cancelled("stopped", file=str(path))
        if not frames:
            raise BadSound(
                "has no sound in it", file=str(path), remedy="export it again, it is empty"
            )
        for changed in change.rest():
            target.append(changed)
        target.fit(resampled_length(frames, own, rate))
    return f"blake2b:{digest.hexdigest()}"
