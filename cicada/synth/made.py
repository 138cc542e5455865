"""A sound made here: its samples block by block, on the grid of 24 bits that a file holds."""

from collections.abc import Iterator

import numpy as np

from cicada.core.arrays import Block
from cicada.core.made import Making, RoomTone, made_frames
from cicada.core.patterns import Pattern
from cicada.synth import patterns, plain, room
from cicada.synth.patterns import Played

_FULL = 1 << 23


def made_blocks(making: Making, rate: int, played: Played) -> Iterator[Block]:
    """All of it at a rate, blocks of shape (n, channels); past full scale it is cut off."""
    for block in _blocks(making, made_frames(making, rate), rate, played):
        whole = np.clip(np.rint(block.astype(np.float64) * _FULL), -_FULL, _FULL - 1)
        yield (whole / _FULL).astype(np.float32)


def _blocks(making: Making, frames: int, rate: int, played: Played) -> Iterator[Block]:
    match making:
        case Pattern():
            return patterns.blocks(making, frames, rate, played)
        case RoomTone():
            return room.blocks(making, frames, rate)
        case _:
            return plain.blocks(making, frames, rate)
