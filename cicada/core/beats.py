"""Where beats fall in a scene: format.md, `tempo`."""

from collections.abc import Iterator
from math import ceil

from cicada.core.model import Scene, Tempo
from cicada.core.timebase import Timebase, seconds_to_samples


def beat_length(tempo: Tempo, rate: int) -> float:
    """Samples from one beat to the next."""
    return 60.0 * rate / tempo.bpm


def first_beat(tempo: Tempo, base: Timebase) -> int:
    """The sample, in the scene's own time, of a tempo's first beat."""
    return base.start(tempo.frame) + seconds_to_samples(tempo.offset, base.rate)


def tempo_at(scene: Scene, frame: int) -> float | None:
    """The beats a minute on a frame; None before the first tempo."""
    earlier = [tempo for tempo in scene.tempo if tempo.frame <= frame]
    return max(earlier, key=lambda tempo: tempo.frame).bpm if earlier else None


def beats(scene: Scene, base: Timebase, start: float, end: float) -> Iterator[tuple[int, float]]:
    """Beats from sample ``start`` to before ``end``, each with its number in its tempo from 1.

    A tempo holds up to the frame of the next, whose first beat may come later.
    """
    changes = sorted(scene.tempo, key=lambda tempo: tempo.frame)
    for index, tempo in enumerate(changes):
        begins, length = first_beat(tempo, base), beat_length(tempo, base.rate)
        following = changes[index + 1 : index + 2]
        until = min(end, base.start(following[0].frame) if following else end)
        number = max(0, ceil((start - begins) / length))
        while begins + number * length < until:
            yield number + 1, begins + number * length
            number += 1
