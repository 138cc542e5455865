"""The sounds of a project, opened from the cache as the mixer and the sheet want them."""

from pathlib import Path
from typing import NamedTuple

import numpy as np

from cicada.core.arrays import Samples
from cicada.core.lengths import Lengths
from cicada.core.model import Project
from cicada.core.needs import Need, parts_of
from cicada.core.patterns import Pattern
from cicada.core.timebase import decimal_ratio, round_half_up
from cicada.core.tone import InMemory, Source, right
from cicada.errors import BadSound, CannotWrite
from cicada.media.cache import SoundCache
from cicada.media.ingest import Progress, content_hash, going_on, ingest, take_made
from cicada.media.made import Made
from cicada.media.peaks import BRIEF, Peaks, level_lengths, peaks_of
from cicada.media.playlists import make_playlist, playlist_key
from cicada.media.resample import AT_ONCE, RateChange
from cicada.media.stored import Stored

# Seconds that a sound may be shorter than its project says, and bytes of one that is made longer.
OTHERWISE, FITTED = 10.0, 1 << 30


def open_peaks(cache: SoundCache, sound_key: str, length: int) -> Peaks | None:
    """The peaks of a sound of ``length`` samples, read; None if they are not in the cache.

    Those of a brief sound are found anew in its samples.
    """
    if 0 < length <= BRIEF:
        brief = cache.reading(sound_key)
        samples = brief.read() if brief is not None and brief.shape[1] == length else None
        if samples is not None:
            return Peaks(peaks_of(samples), length)
    stored = cache.reading(cache.peaks_key(sound_key))
    fits = stored is not None and stored.shape == (2, sum(level_lengths(length)))
    found = stored.read() if stored is not None and fits and length else None
    return None if found is None else Peaks(found, length)


class Part(NamedTuple):
    """Samples from ``first`` on of a whole sound."""

    whole: Source
    first: int
    samples: Samples

    def right_until(self, at: int) -> int:
        """Up to where, from sample ``at`` on, all is known to be right."""
        return self.whole.right_until(self.first + at) - self.first


class Reader(NamedTuple):
    """A sound in the cache, read stretch by stretch, as long as the plan reckons with."""

    stored: Stored

    def read(self, first: int, last: int) -> Samples:
        """Samples ``first..last``: an ``arrays.Read``."""
        wanted = np.zeros((self.stored.shape[0], max(0, last - first)), np.float32)
        found = self.stored.read(first, last)
        if found is not None:
            wanted[:, : found.shape[1]] = found
        return wanted


class SoundSources:
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
        progress: Progress = going_on,
    ) -> None:
        self._progress = progress
        self._sounds = {sound.id: sound for sound in project.sounds}
        self._playlists = {playlist.id: playlist for playlist in project.playlists}
        self._lengths = Lengths(project)
        self._rate = project.rate
        self._files = files
        self._cache = cache
        self._only_cached = only_cached
        self._opened: dict[str, Stored] = {}
        self._fitting: dict[str, InMemory] = {}
        self._contents: dict[str, str] = {}
        self.refused: dict[str, BadSound] = {}

    def whole(self, sound_id: str) -> Source | None:
        """All of a sound at the project's rate; None if it cannot be had."""
        key = self._key(sound_id)
        if key is None:
            return None
        if self._opened.get(key) is None or self._opened[key].damaged:
            found = self._cache.open(key)
            if found is None and not self._only_cached:
                found = self._make(sound_id, key)
            if found is None:
                return None
            self._opened[key] = found
        return self._fitted(sound_id, key)

    def key(self, sound_id: str) -> str | None:
        """What a sound or playlist is known by in the cache; None if that is not known."""
        return self._key(sound_id)

    def reader(self, sound_id: str) -> Reader | None:
        """A sound to be read stretch by stretch; None if it is not in the cache."""
        key = self._key(sound_id)
        found = None if key is None else self._cache.reading(key)
        return None if found is None else Reader(found)

    def why_silent(self, sound_id: str) -> str:
        """Why a sound or playlist cannot be heard, in a sentence; empty if it can be."""
        if self.whole(sound_id) is not None:
            return ""
        playlist = self._playlists.get(sound_id)
        if playlist is not None:
            silent = {part: self.why_silent(part) for part in parts_of(playlist)}
            return next(
                (why for why in silent.values() if why), "there is no room to put it together"
            )
        sound = self._sounds.get(sound_id)
        if sound_id not in self._files and (sound is None or sound.making is None):
            return "it has no file; import it again, or remove it"
        return str(self.refused.get(sound_id, "it is not decoded yet"))

    def source(self, sound: str, first: int, last: int, speed: float) -> Source | None:
        """Samples ``first..last`` at ``speed``: see ``tone.Sources``."""
        if speed == 1:
            whole = self.whole(sound)
            return None if whole is None else Part(whole, first, whole.samples[:, first:last])
        sound_key = self._key(sound)
        if sound_key is None:
            return None
        key = self._cache.speed_key(sound_key, first, last, speed)
        if self._opened.get(key) is None or self._opened[key].damaged:
            found = self._cache.open(key)
            if found is None and not self._only_cached:
                samples = self._proved(sound, first, last)
                if samples is None:
                    return None
                self._change_speed(key, samples, speed)
                found = self._cache.open(key)
            if found is None:
                return None
            self._opened[key] = found
        return self._opened[key]

    def has(self, need: Need) -> bool:
        """Whether what a clip may play is in the cache; it is not opened for that."""
        key = self._key(need.sound)
        if key is not None and need.speed != 1:
            key = self._cache.speed_key(key, need.first, need.last, need.speed)
        return key is not None and self._cache.has(key)

    def drawable(self, sound_id: str) -> bool:
        """Whether the peaks of a sound or playlist are in the cache, or found without them."""
        key = self._key(sound_id)
        if key is None:
            return False
        brief = self._lengths[sound_id] <= BRIEF and self._cache.has(key)
        return brief or self._cache.has(self._cache.peaks_key(key))

    def make_drawable(self, sound_id: str) -> None:
        """Have the sound's peaks in the cache, if its file can be had."""
        key = self._key(sound_id)
        if key is not None:
            self._make(sound_id, key)

    def peaks(self, sound_id: str) -> Peaks | None:
        """The peaks of a whole sound; None if they are not in the cache."""
        key = self._key(sound_id)
        return None if key is None else open_peaks(self._cache, key, self._lengths[sound_id])

    def _key(self, sound_id: str) -> str | None:
        if sound_id in self._playlists:
            rows = self._lengths.rows(self._playlists[sound_id])
            keys = [key for row in rows if (key := self._key(row.sound)) is not None]
            return (
                playlist_key(self._cache, rows, keys, self._rate)
                if len(keys) == len(rows)
                else None
            )
        sound = self._sounds.get(sound_id)
        if sound is None:
            return None
        if sound.content:
            return self._cache.sound_key(sound.content, self._rate)
        path = self._file(sound_id)
        if path is None:
            return None
        if sound_id not in self._contents:
            try:
                self._contents[sound_id] = content_hash(path)
            except BadSound as error:
                self.refused[sound_id] = error
                return None
        return self._cache.sound_key(self._contents[sound_id], self._rate)

    def _file(self, sound_id: str) -> Path | None:
        """The file of a sound that has not been refused."""
        path = self._files.get(sound_id)
        return None if sound_id in self.refused else path

    def _make(self, sound_id: str, key: str) -> Stored | None:
        if sound_id in self._playlists:
            return self._put_together(sound_id, key)
        if self._sounds[sound_id].making is not None:
            return self._make_here(sound_id, key)
        path = self._file(sound_id)
        if path is None:
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

    def _make_here(self, sound_id: str, key: str) -> Stored | None:
        """A sound made here, made anew from how it was made."""
        sound = self._sounds[sound_id]
        reader = Made(sound, self._played)
        try:
            take_made(reader, sound.content, self._rate, self._cache, self._progress)
        except (BadSound, CannotWrite) as error:
            self.refused[sound_id] = BadSound(error.problem, file=sound.label, remedy=error.remedy)
            return None
        return self._cache.open(key)

    def _played(self, sound_id: str) -> Samples | None:
        """A sound that a pattern plays; a pattern plays no patterns."""
        sound = self._sounds.get(sound_id)
        if sound is None or isinstance(sound.making, Pattern):
            return None
        whole = self.whole(sound_id)
        length = 0 if whole is None else whole.samples.shape[1]
        return None if whole is None or not right(whole, 0, length) else whole.samples

    def _put_together(self, playlist: str, key: str) -> Stored | None:
        """A playlist made of its sounds, all of which must be there."""
        rows = self._lengths.rows(self._playlists[playlist])
        wholes = [self.whole(row.sound) for row in rows]
        if any(whole is None for whole in wholes):
            return None
        channels = max(len(whole.samples) for whole in wholes if whole is not None)
        length = self._lengths[playlist]
        make_playlist(self._cache, key, rows, length, self._rate, channels, self._proved)
        return self._cache.open(key)

    def _proved(self, sound_id: str, first: int, last: int) -> Samples | None:
        """Samples ``first..last``, all of them right; made anew once if they are not."""
        for _ in range(2):
            whole = self.whole(sound_id)
            if whole is None or right(whole, first, last):
                return None if whole is None else whole.samples[:, first:last]
        return None

    def _change_speed(self, key: str, samples: Samples, speed: float) -> None:
        numerator, denominator = decimal_ratio(speed)
        channels, count = samples.shape
        length = round_half_up(count * denominator, numerator)
        change = RateChange(speed, 1.0, channels)
        with self._cache.filling(channels, length) as target:
            target.key = key
            for start in range(0, count, AT_ONCE):
                block = np.ascontiguousarray(samples[:, start : start + AT_ONCE].T)
                for changed in change.take(block):
                    target.append(changed)
            for changed in change.rest():
                target.append(changed)
            target.fit(length)

    def _fitted(self, sound_id: str, key: str) -> Source | None:
        """Exactly as many samples as the plan reckons with, whatever the file held."""
        stored, length = self._opened[key], self._lengths[sound_id]
        channels, there = stored.shape
        if there == length:
            return stored
        if there > length:
            return Part(stored, 0, stored.samples[:, :length])
        # Coders differ in where they end; what differs by more is not what the project means.
        if length - there > OTHERWISE * self._rate or 4 * channels * length > FITTED:
            self.refused[sound_id] = BadSound(
                f"has {there / self._rate:.3f} s, and the project says {length / self._rate:.3f} s",
                file=str(self._files.get(sound_id, "")),
                remedy="import it again",
            )
            return None
        if key not in self._fitting and stored.right():
            fitted = np.zeros((channels, length), np.float32)
            fitted[:, :there] = stored.samples
            self._fitting[key] = InMemory(fitted)
        return self._fitting.get(key)
