"""What a file is made of: the mix of what a recipe asks for, folded and brought to a rate."""

from collections.abc import Callable, Collection
from math import ceil

from msgspec.structs import replace

from cicada.core.arrays import Samples
from cicada.core.mix import Mixer
from cicada.core.plan import Voice
from cicada.core.scoped import Asked
from cicada.core.tone import Sources


class Passage:
    """The samples of a file at the project's rate, shape (2, length).

    What is folded is the mix and all that rings past its end, laid over the beginning as often as
    it takes.
    """

    def __init__(
        self,
        found: Asked,
        sources: Sources,
        silent: Collection[str] = (),
        only: Callable[[Voice], bool] | None = None,
    ) -> None:
        """Of the voices ``only`` some, and none of the layers and pads ``silent``."""
        planned = found.plan
        if only is not None:
            planned = replace(planned, voices=tuple(filter(only, planned.voices)))
        self._mixer = Mixer(planned, found.project, sources, silent)
        self.rate, self.length, self.loops = planned.rate, found.length, found.loops
        self._first = found.first
        self._turns = max(1, ceil(planned.length / found.length)) if found.folded else 1

    def block(self, start: int, count: int) -> Samples:
        """Samples ``start..start+count``, which are all inside."""
        mixed = self._mixer.mix(self._first + start, count)
        for turn in range(1, self._turns):
            mixed += self._mixer.mix(start + turn * self.length, count)
        return mixed
