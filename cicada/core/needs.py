"""Which sounds a project's clips may play, how much of them, and what values drive them."""

from collections.abc import Iterable, Iterator
from typing import NamedTuple

from cicada.core.answers import Blend, Fire, Playlist, Pool
from cicada.core.clip import clip_timing
from cicada.core.lengths import Lengths
from cicada.core.model import Clip, Placeable, Project, Sound, clip_of

Made = Blend | Pool | Playlist


class Need(NamedTuple):
    """Samples ``first..last`` of a sound or playlist, changed by ``speed``."""

    sound: str
    first: int
    last: int
    speed: float


def all_clips(project: Project) -> Iterator[Clip]:
    """Every clip on a layer, and every one that a pad fires."""
    for _, layer in project.all_layers():
        for keyframe in layer.keyframes:
            if isinstance(keyframe, Clip):
                yield keyframe
    for pad in project.pads:
        for deed in pad.does:
            if isinstance(deed, Fire):
                yield clip_of(deed, 0)


def parts_of(made: Placeable) -> tuple[str, ...]:
    """The ids of what something is made of, each once and in order; nothing for a sound."""
    parts = getattr(made, "parts", ())
    return tuple(dict.fromkeys(part.sound for part in parts))


def may_be_part(project: Project, made: Made, part: str) -> bool:
    """Whether something on the shelf may be a part of what is made of sounds."""
    found = project.placeable(part)
    if isinstance(made, Playlist):
        return isinstance(found, Sound)
    if isinstance(made, Blend):
        return isinstance(found, (Sound, Playlist))
    return not isinstance(found, Pool)


def sounds_in(project: Project, placed: str) -> frozenset[str]:
    """The ids of the sounds that may be heard of what a clip places."""
    made = project.placeable(placed)
    inside = parts_of(made)
    if not inside:
        return frozenset((placed,))
    return frozenset().union(*(sounds_in(project, part) for part in inside))


def stored_of(project: Project, placed: str) -> frozenset[str]:
    """The ids of the sounds and playlists of which samples are kept for what a clip places."""
    made = project.placeable(placed)
    found = frozenset() if isinstance(made, (Blend, Pool)) else frozenset((placed,))
    return found.union(*(stored_of(project, part) for part in parts_of(made)))


class Driven(NamedTuple):
    """What a value drives: of what a clip may place, and of layers and pads."""

    placed: frozenset[str]
    layers: frozenset[str]

    def drives(self, layer: str, sound: str) -> bool:
        """Whether it drives what a clip of ``sound`` does on a layer or pad."""
        return layer in self.layers or sound in self.placed


def driven_by(project: Project, value: str) -> Driven:
    """What follows a value, is drawn by it, or is fired as it changes."""
    placed = {blend.id for blend in project.blends if blend.value == value}
    for pool in project.pools:
        if any(part.value == value or part.sound in placed for part in pool.parts):
            placed.add(pool.id)
    layers = {
        layer.id
        for _, layer in project.all_layers()
        if layer.follows is not None and layer.follows.value == value
    }
    layers |= {pad.id for pad in project.pads if pad.follows and pad.follows.value == value}
    layers |= {pad.id for pad in project.pads if pad.watch and pad.watch.value == value}
    return Driven(frozenset(placed), frozenset(layers))


def needs(project: Project, of: Iterable[Clip] | None = None) -> list[Need]:
    """What some clips of a project may play, or all of them; each need once."""
    lengths = Lengths(project)
    known = {made.id: made for made in project.all_placeables()}
    clips = {(clip.sound, clip.trim, clip.speed): clip for clip in of or all_clips(project)}
    found: dict[Need, None] = {}
    for clip in clips.values():
        made = known[clip.sound]
        drawn = [known[part] for part in parts_of(made)] if isinstance(made, Pool) else [made]
        for each in drawn:
            timing = clip_timing(clip, lengths[each.id], project.rate)
            played = parts_of(each) if isinstance(each, Blend) else (each.id,)
            for sound in played if timing.loop else ():
                found[Need(sound, timing.first, timing.last, clip.speed)] = None
    return list(found)
