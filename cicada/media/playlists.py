"""Playlists put together into the cache, under a key that says what they are made of."""

from collections.abc import Sequence
from contextlib import suppress
from hashlib import blake2b

import numpy as np

from cicada.core.in_a_row import ReadPart, blocks
from cicada.core.lengths import Row
from cicada.errors import CicadaError
from cicada.media.cache import SoundCache
from cicada.media.peaks import PeakGatherer
from cicada.media.resample import AT_ONCE


def playlist_key(cache: SoundCache, rows: Sequence[Row], keys: Sequence[str], rate: int) -> str:
    """The key of a playlist of these rows, whose sounds stand under ``keys``."""
    text = "\n".join(
        f"{key} {row.starts.start} {row.starts.stop} {row.starts.step} {row.length}"
        for row, key in zip(rows, keys, strict=True)
    )
    content = blake2b(f"in a row\n{text}".encode(), digest_size=20).hexdigest()
    return cache.sound_key(content, rate)


def make_playlist(
    cache: SoundCache, key: str, rows: Sequence[Row], length: int, rate: int, channels: int,
    read: ReadPart,
) -> None:  # fmt: skip
    """Put a playlist and its peaks into the cache; nothing if there is no room for it."""
    if cache.too_large(4 * channels * length):
        return
    peaks = PeakGatherer()
    with suppress(CicadaError), cache.filling(channels, length) as target:
        for block in blocks(rows, length, rate, channels, read, AT_ONCE):
            frames = np.ascontiguousarray(block.T)
            target.append(frames)
            peaks.append(frames)
        target.fit(length)
        cache.put(cache.peaks_key(key), peaks.peaks(length))
        target.key = key
