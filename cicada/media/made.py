"""A sound made here, read like a sound file."""

from collections.abc import Iterator

from cicada.core.arrays import Block
from cicada.core.model import Sound
from cicada.media.blocks import SoundInfo
from cicada.synth.made import made_blocks
from cicada.synth.patterns import Played


class Made:
    """A ``SoundReader`` of what is made; ``played`` gives the sounds that a pattern plays."""

    def __init__(self, sound: Sound, played: Played) -> None:
        self.info = SoundInfo(sound.frames, sound.rate, sound.channels, sound.encoding)
        self._making, self._played = sound.making, played

    def blocks(self) -> Iterator[Block]:
        """All of it, blocks of shape (frames, channels)."""
        if self._making is not None:
            yield from made_blocks(self._making, self.info.rate, self._played)
