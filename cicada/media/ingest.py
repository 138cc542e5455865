"""Taking a sound file in: hash, decode, take to the project's rate, find peaks, keep."""

import hashlib
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from cicada.core.clip import ClipTiming, clip_timing
from cicada.core.model import Clip, Project, Sound
from cicada.core.timebase import resampled_length
from cicada.errors import BadSound
from cicada.media.cache import SoundCache
from cicada.media.decode import SoundInfo, decode
from cicada.media.peaks import Peaks, find_peaks, level_lengths
from cicada.media.resample import to_rate, to_speed

Samples = NDArray[np.float32]


@dataclass(frozen=True, slots=True)
class Ingested:
    """A sound file that is in: what it is, and the hashes of its bytes and of its samples."""

    info: SoundInfo
    hash: str
    pcm_hash: str


def content_hash(path: Path) -> str:
    """``blake2b:`` and the hash of the file's bytes; raises ``BadSound``."""
    try:
        with path.open("rb") as file:
            digest = hashlib.file_digest(file, lambda: hashlib.blake2b(digest_size=20))
    except OSError as error:
        reason = error.strerror or "it cannot be opened"
        raise BadSound(
            f"cannot be read ({reason})",
            file=str(path),
            remedy="check the name and its permissions",
        ) from None
    return f"blake2b:{digest.hexdigest()}"


def ingest(path: Path, rate: int, cache: SoundCache) -> Ingested:
    """Decode ``path`` and keep it in the cache at ``rate``; raises ``BadSound``."""
    content = content_hash(path)
    samples, info = decode(path)
    pcm = hashlib.blake2b(np.int64(info.rate).tobytes(), digest_size=20)
    pcm.update(samples.data)
    _keep(samples, info.rate, rate, cache, cache.sound_key(content, rate))
    return Ingested(info, content, f"blake2b:{pcm.hexdigest()}")


def _keep(samples: Samples, own_rate: int, rate: int, cache: SoundCache, key: str) -> None:
    resampled = to_rate(samples, own_rate, rate)
    cache.put(f"{key}-peaks", find_peaks(resampled))
    cache.put(key, resampled)


class OpenedSounds:
    """The sounds of a project as the mixer and the sheet want them: a ``tone.Sources``.

    ``files`` says where each sound's file stands. Sounds not in the cache yet are taken in when
    asked for, unless ``only_cached``: then they are silent until somebody else has done so.
    """

    def __init__(
        self,
        project: Project,
        files: dict[str, Path],
        cache: SoundCache,
        *,
        only_cached: bool = False,
    ) -> None:
        self._sounds = {sound.id: sound for sound in project.sounds}
        self._rate = project.rate
        self._files = files
        self._cache = cache
        self._only_cached = only_cached
        self._opened: dict[str, Samples] = {}
        self._contents: dict[str, str] = {}
        self.refused: dict[str, BadSound] = {}

    def whole(self, sound_id: str) -> Samples | None:
        """All of a sound at the project's rate, (1 or 2, N); None if it cannot be had."""
        key = self._key(sound_id)
        if key is None:
            return None
        if key not in self._opened:
            found = self._cache.open(key)
            if found is None and not self._only_cached:
                found = self._make(sound_id, key)
            if found is None:
                return None
            self._opened[key] = self._fitted(sound_id, found)
        return self._opened[key]

    def samples(self, sound: str, first: int, last: int, speed: float) -> Samples | None:
        """Samples ``first..last`` at ``speed``: see ``tone.Sources``."""
        whole = self.whole(sound)
        if whole is None or speed == 1:
            return None if whole is None else whole[:, first:last]
        sound_key = self._key(sound)
        assert sound_key is not None
        key = self._cache.speed_key(sound_key, first, last, speed)
        if key not in self._opened:
            found = self._cache.open(key)
            if found is None and self._only_cached:
                return None
            if found is None:
                found = to_speed(whole[:, first:last], speed)
                self._cache.put(key, found)
                found = self._cache.open(key)
            if found is None:
                return None
            self._opened[key] = found
        return self._opened[key]

    def timing(self, clip: Clip) -> ClipTiming:
        """The lengths of a clip of one of these sounds."""
        return clip_timing(clip, self._sounds[clip.sound], self._rate)

    def has(self, clip: Clip) -> bool:
        """Whether what ``clip`` plays is in the cache, or can never be."""
        timing = self.timing(clip)
        if self.whole(clip.sound) is None or not timing.loop:
            return True
        return self.samples(clip.sound, timing.first, timing.last, clip.speed) is not None

    def peaks(self, sound_id: str) -> Peaks | None:
        """The peaks of a whole sound; None if they are not in the cache."""
        key = self._key(sound_id)
        found = None if key is None else self._cache.open(f"{key}-peaks")
        if found is None:
            return None
        sound = self._sounds[sound_id]
        length = resampled_length(sound.frames, sound.rate, self._rate)
        fits = found.shape == (2, sum(level_lengths(length)))
        return Peaks(found, length) if fits and length else None

    def _key(self, sound_id: str) -> str | None:
        sound = self._sounds[sound_id]
        if sound.hash:
            return self._cache.sound_key(sound.hash, self._rate)
        path = self._files.get(sound_id)
        if path is None or sound_id in self.refused:
            return None
        if sound_id not in self._contents:
            try:
                self._contents[sound_id] = content_hash(path)
            except BadSound as error:
                self.refused[sound_id] = error
                return None
        return self._cache.sound_key(self._contents[sound_id], self._rate)

    def _make(self, sound_id: str, key: str) -> Samples | None:
        path = self._files.get(sound_id)
        if path is None or sound_id in self.refused:
            return None
        try:
            taken = ingest(path, self._rate, self._cache)
        except BadSound as error:
            self.refused[sound_id] = error
            return None
        made = self._cache.sound_key(taken.hash, self._rate)
        if made != key:
            self.refused[sound_id] = BadSound(
                "has changed since it was imported",
                file=str(path),
                remedy="import it again to use it as it is now",
            )
            return None
        return self._cache.open(key)

    def _fitted(self, sound_id: str, samples: Samples) -> Samples:
        """Exactly as many samples as the plan reckons with, whatever the file held."""
        sound: Sound = self._sounds[sound_id]
        length = resampled_length(sound.frames, sound.rate, self._rate)
        if samples.shape[1] == length:
            return samples
        fitted = np.zeros((samples.shape[0], length), np.float32)
        kept = min(length, samples.shape[1])
        fitted[:, :kept] = samples[:, :kept]
        return fitted
