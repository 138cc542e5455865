"""The sounds of a film that are to be heard and cannot be had."""

from collections.abc import Collection, Iterable

from cicada.core.model import Project
from cicada.core.needs import sounds_in
from cicada.core.plan import Plan
from cicada.media.sources import SoundSources


def unheard_sounds(
    planned: Plan,
    project: Project,
    sources: SoundSources,
    silent: Collection[str],
    more: Iterable[str] = (),
) -> dict[str, str]:
    """Of the sounds that a plan has heard, or ``more``, those that cannot be had, and why."""
    played = {voice.plays for voice in planned.voices if voice.layer not in silent} | {*more}
    heard = frozenset[str]().union(*(sounds_in(project, each) for each in played))
    found = {s.id: sources.why_silent(s.id) for s in project.sounds if s.id in heard}
    return {sound: why for sound, why in found.items() if why}
