"""A job that measures how the quiet of a stretch is coloured."""

from pathlib import Path

from cicada.core.model import Project
from cicada.core.timebase import seconds_to_samples
from cicada.core.tone import right
from cicada.errors import BadSound
from cicada.media.cache import SoundCache
from cicada.media.sources import SoundSources
from cicada.synth.room import band_levels


def colour_of(
    project: Project, files: dict[str, Path], cache: Path, sound: str, first: float, last: float
) -> tuple[float, ...]:
    """The levels by band of a sound from ``first`` to ``last`` seconds; raises ``BadSound``."""
    sources = SoundSources(project, files, SoundCache(cache))
    whole = sources.whole(sound)
    label = project.placeable(sound).label
    if whole is None:
        raise BadSound(
            f"cannot be heard: {sources.why_silent(sound)}", file=label, remedy="find it first"
        )
    begin, end = (seconds_to_samples(at, project.rate) for at in (first, last))
    end = min(end, whole.samples.shape[1])
    if end <= begin or not right(whole, begin, end):
        raise BadSound("there is nothing of it there", file=label, remedy="choose another stretch")
    return band_levels(whole.samples[:, begin:end], project.rate)
