"""How long what a clip may place is: sounds, and what is put together from them (live.md, L2)."""

from collections.abc import Mapping
from typing import NamedTuple

from cicada.core.answers import Blend, Playlist, Pool
from cicada.core.model import Project, Sound
from cicada.core.timebase import resampled_length, seconds_to_samples


class Row(NamedTuple):
    """A piece of a playlist: its sound, the sample each of its loops starts at, and its length."""

    sound: str
    starts: range
    length: int


class Lengths(dict[str, int]):
    """The lengths of a project's sounds, blends, pools and playlists, in samples of the project.

    That of a pool is its longest part's: as much room as it may need. They are worked out as they
    are asked for; ``KeyError`` for what is not there.
    """

    def __init__(self, project: Project) -> None:
        self._rate = project.rate
        super().__init__()
        self._made: Mapping[str, Sound | Blend | Pool | Playlist] = {
            each.id: each for each in project.all_placeables()
        }

    def __missing__(self, placed: str) -> int:
        length = self[placed] = self._length(self._made[placed])
        return length

    def _length(self, made: Sound | Blend | Pool | Playlist) -> int:
        if isinstance(made, Sound):
            return resampled_length(made.frames, made.rate, self._rate)
        if isinstance(made, Playlist):
            *_, last = self.rows(made)
            return last.starts[-1] + last.length
        lengths = [self[part.sound] for part in made.parts]
        return min(lengths) if isinstance(made, Blend) else max(lengths)

    def rows(self, playlist: Playlist) -> list[Row]:
        """Where the pieces of a playlist start; what would ring beyond its end is cut there."""
        found, at = [], 0
        for part in playlist.parts:
            length = self[part.sound]
            step = length - min(seconds_to_samples(part.tail, self._rate), length // 2)
            over = at + part.loops * step
            # Steps of nothing are still so many loops.
            starts = range(at, over, step) if step else range(at, at + 1)
            found.append(Row(part.sound, starts, length))
            at = over
        return found


def length_of(project: Project, placed: str) -> int:
    """The length in samples of what a clip of that project may place; ``KeyError`` if none."""
    return Lengths(project)[placed]
