"""What sound is as it is read: blocks of samples, and what its file says of it."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Protocol

import numpy as np

from cicada.core.arrays import Block

# Samples over all channels in one block: small enough to stay in the processor's cache.
BLOCK_SAMPLES = 1 << 17
LONGEST = 24 * 3600


@dataclass(frozen=True, slots=True)
class SoundInfo:
    """What a sound file is: ``frames`` sample frames at ``rate``, as it came."""

    frames: int
    rate: int
    channels: int
    encoding: str
    notes: tuple[str, ...] = ()


class SoundReader(Protocol):
    """An opened sound file. ``info`` is what its header says, and the truth once all is read."""

    info: SoundInfo

    def blocks(self) -> Iterator[Block]:
        """All of it, (frames, channels) float32 a block; raises ``BadSound``."""


def finite(block: Block) -> Block:
    """The block with what is no number, or endless, made silent."""
    # Most blocks are sound, and one sum tells.
    with np.errstate(invalid="ignore"):
        total = block.sum()
    if not np.isfinite(total):
        block = np.nan_to_num(block, nan=0.0, posinf=0.0, neginf=0.0)
    return block
