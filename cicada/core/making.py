"""Blends, pools and playlists made of chosen sounds, and how their parts are changed."""

from collections.abc import Sequence
from math import ceil

from msgspec.structs import replace

from cicada.core.answer_edits import PutBlend, PutPlaylist, PutPool, PutValue
from cicada.core.answers import Blend, BlendPart, Playlist, PlaylistPart, Pool, PoolPart, Value
from cicada.core.editing import Edit, Several
from cicada.core.lengths import Lengths
from cicada.core.model import Project
from cicada.core.naming import all_ids, free_name, likeness, next_id
from cicada.errors import BadEdit

Made = Blend | Pool | Playlist
MadeEdit = tuple[Edit, str]
"""An edit, and the id of what it puts on the shelf."""


def _name(project: Project, sounds: Sequence[str], kind: str) -> str:
    """What the sounds have in common in their names, or else the kind."""
    alike = {likeness(project.placeable(sound).label) for sound in sounds}
    stem = alike.pop() if len(alike) == 1 else ""
    taken = {made.label for made in project.all_placeables()}
    return free_name(stem[:1].upper() + stem[1:] or kind, taken)


def making_pool(project: Project, sounds: Sequence[str]) -> MadeEdit:
    """A pool of sounds, blends and playlists; raises ``BadEdit`` if there is nothing."""
    if not sounds:
        raise BadEdit("a pool is made of sounds", remedy="choose some on the shelf")
    own = next_id("po", all_ids(project))
    parts = tuple(PoolPart(sound=sound) for sound in sounds)
    pool = Pool(id=own, name=_name(project, sounds, "Pool"), again="other", parts=parts)
    return PutPool(pool=pool), own


def making_playlist(project: Project, sounds: Sequence[str]) -> MadeEdit:
    """A playlist of sounds in the order they stand on the shelf; raises ``BadEdit``."""
    if not sounds:
        raise BadEdit("a playlist is made of sounds", remedy="choose some on the shelf")
    own = next_id("pl", all_ids(project))
    parts = tuple(PlaylistPart(sound=sound) for sound in sounds)
    name = _name(project, sounds, "Playlist")
    return PutPlaylist(playlist=Playlist(id=own, name=name, parts=parts)), own


def unequal(project: Project, sounds: Sequence[str]) -> tuple[float, float] | None:
    """Seconds of the shortest and the longest, if sounds are of unequal length."""
    lengths = Lengths(project)
    seconds = [lengths[sound] / project.rate for sound in sounds]
    return None if min(seconds) == max(seconds) else (min(seconds), max(seconds))


def making_blend(
    project: Project, sounds: Sequence[str], value: str | None = None, *, repeat: bool = False
) -> MadeEdit:
    """A blend of sounds and playlists over a value, evenly from its one end to the other.

    Without a value of that id one is made, too. With ``repeat`` short ones are looped, each as a
    playlist of its own, until they are as long as the longest. Raises ``BadEdit``.
    """
    if len(sounds) < 2:
        raise BadEdit("a blend has at least two parts", remedy="choose two or more on the shelf")
    edits: list[Edit] = []
    taken = all_ids(project)
    made = next((each for each in project.values if each.id == value), None)
    if made is None:
        name = free_name("Value", {each.label for each in project.values})
        made = Value(id=next_id("v", taken), name=name)
        taken.add(made.id)
        edits.append(PutValue(value=made))
    own = next_id("bl", taken)
    taken.add(own)
    parts = list(sounds)
    lengths = Lengths(project)
    longest = max(lengths[sound] for sound in sounds) if repeat else 0
    for place, sound in enumerate(sounds):
        if 0 < lengths[sound] < longest:
            looped = next_id("pl", taken)
            taken.add(looped)
            row = PlaylistPart(sound=sound, loops=ceil(longest / lengths[sound]))
            name = f"{project.placeable(sound).label}, looped"
            edits.append(PutPlaylist(playlist=Playlist(id=looped, name=name, parts=(row,))))
            parts[place] = looped
    step = (made.high - made.low) / (len(parts) - 1)
    stands = tuple(
        BlendPart(sound=sound, at=round(made.low + place * step, 9))
        for place, sound in enumerate(parts)
    )
    blend = Blend(id=own, name=_name(project, sounds, "Blend"), value=made.id, parts=stands)
    edits.append(PutBlend(blend=blend))
    return Several(named=f"make the blend {blend.name}", edits=tuple(edits)), own


def put(made: Blend | Pool | Playlist, named: str = "") -> Edit:
    """The edit that puts it on the shelf as it is now."""
    if isinstance(made, Blend):
        return PutBlend(blend=made, named=named)
    if isinstance(made, Pool):
        return PutPool(pool=made, named=named)
    return PutPlaylist(playlist=made, named=named)


def with_part(made: Made, sound: str, place: int | None = None) -> Made:
    """It with one more part, before that place or at the end; of a blend, always the last."""
    if isinstance(made, Blend):
        return replace(made, parts=(*made.parts, BlendPart(sound=sound, at=_further(made))))
    at = len(made.parts) if place is None else max(0, min(place, len(made.parts)))
    if isinstance(made, Pool):
        drawn = PoolPart(sound=sound)
        return replace(made, parts=(*made.parts[:at], drawn, *made.parts[at:]))
    piece = PlaylistPart(sound=sound)
    return replace(made, parts=(*made.parts[:at], piece, *made.parts[at:]))


def _further(blend: Blend) -> float:
    """A number above the last part's, as far as the parts are apart on average."""
    first, last = blend.parts[0].at, blend.parts[-1].at
    return round(last + (last - first) / (len(blend.parts) - 1), 9)


def without_part(made: Made, place: int) -> Made:
    """It without the part at a place; raises ``BadEdit`` if too few would be left."""
    least = 2 if isinstance(made, Blend) else 1
    if len(made.parts) <= least:
        many = "two parts" if least == 2 else "one part"
        raise BadEdit(
            f"{made.label} keeps at least {many}",
            remedy="add another one first, or remove it from the shelf",
        )
    return replace(made, parts=(*made.parts[:place], *made.parts[place + 1 :]))


def with_part_moved(made: Made, place: int, to: int) -> Made:
    """It with a part at another place; in a blend the numbers stay, and the sounds move."""
    order = list(range(len(made.parts)))
    order.insert(max(0, min(to, len(order) - 1)), order.pop(place))
    if isinstance(made, Blend):
        stands = tuple(
            replace(made.parts[each], at=part.at)
            for each, part in zip(order, made.parts, strict=True)
        )
        return replace(made, parts=stands)
    return replace(made, parts=tuple(made.parts[each] for each in order))
