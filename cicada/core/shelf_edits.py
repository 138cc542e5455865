"""Edits of the shelf: its sounds, what is known of them, and their takes."""

from collections.abc import Collection
from typing import Any, TypeVar

from msgspec.structs import replace
from typing_extensions import override

from cicada.core.answers import Blend, Fire, HushDeed, Pad, Playlist, Pool
from cicada.core.editing import (
    SHELF,
    Cell,
    Changes,
    Edit,
    all_there,
    changed,
    frame_of,
    with_keyframes,
    with_shelf,
    with_sounds,
)
from cicada.core.model import Clip, Hush, Keyframe, Project, Rest, Sound, Take
from cicada.core.naming import all_ids
from cicada.core.needs import may_be_part
from cicada.core.patterns import Pattern
from cicada.errors import BadEdit


def uses_of(project: Project, sounds: Collection[str]) -> list[tuple[str, Cell]]:
    """Where sounds are placed: scene and cell of each clip, in the order of the film."""
    return [
        (scene.id, Cell(layer.id, keyframe.frame))
        for scene, layer in project.all_layers()
        for keyframe in sorted(layer.keyframes, key=frame_of)
        if isinstance(keyframe, Clip) and keyframe.sound in sounds
    ]


class AddSounds(Edit, frozen=True, kw_only=True, tag="add-sounds"):
    """Put sounds on the shelf, each before the sound of ``before`` at its place, or at the end."""

    sounds: tuple[Sound, ...]
    before: tuple[str, ...] = ()

    @property
    @override
    def title(self) -> str:
        if len(self.sounds) == 1:
            return f"import {self.sounds[0].name}"
        return f"import {len(self.sounds)} sounds"

    @override
    def apply(self, project: Project) -> Project:
        taken = all_ids(project)
        for sound in self.sounds:
            if sound.id in taken:
                raise BadEdit(f"the id {sound.id} is in use", remedy="give the sound another")
            taken.add(sound.id)
        shelf = list(project.sounds)
        for number, sound in enumerate(self.sounds):
            before = self.before[number] if number < len(self.before) else ""
            ids = [other.id for other in shelf] if before else []
            shelf.insert(ids.index(before) if before in ids else len(shelf), sound)
        return replace(project, sounds=tuple(shelf))


class ChangeSounds(Edit, frozen=True, kw_only=True, tag="change-sounds"):
    """Change what is known of sounds: name, note, tags, folder ..."""

    sounds: tuple[str, ...]
    changes: Changes

    @property
    @override
    def title(self) -> str:
        what = "the sound" if len(self.sounds) == 1 else f"{len(self.sounds)} sounds"
        if "name" in self.changes:
            return f"rename {what}"
        fields = " and ".join(self.changes).replace("_", " ")
        return f"change the {fields} of {what}"

    @override
    def apply(self, project: Project) -> Project:
        return with_shelf(project, self.sounds, lambda made: changed(made, self.changes))


class TagSounds(Edit, frozen=True, kw_only=True, tag="tag-sounds"):
    """Give sounds a tag, or take it off them."""

    sounds: tuple[str, ...]
    tagged: str
    off: bool = False

    @property
    @override
    def title(self) -> str:
        return f"take the tag {self.tagged} off" if self.off else f"tag with {self.tagged}"

    @override
    def apply(self, project: Project) -> Project:
        def change(made: Any) -> Any:  # noqa: ANN401 - anything on the shelf
            kept = tuple(tag for tag in made.tags if tag != self.tagged)
            return replace(made, tags=kept if self.off else (*kept, self.tagged))

        return with_shelf(project, self.sounds, change)


class RemoveSounds(Edit, frozen=True, kw_only=True, tag="remove-sounds"):
    """Take sounds off the shelf; their clips, and hushes of them, become rests.

    So goes what is made of sounds. What is a part of something that stays is taken out there only
    with ``from_parts``; a blend keeps two parts, and anything else one.
    """

    sounds: tuple[str, ...]
    from_parts: bool = False

    @property
    @override
    def title(self) -> str:
        return "remove the sound" if len(self.sounds) == 1 else f"remove {len(self.sounds)} sounds"

    @override
    def apply(self, project: Project) -> Project:
        gone = frozenset(self.sounds)
        all_there(project, gone)
        for name in SHELF:
            left = tuple(made for made in getattr(project, name) if made.id not in gone)
            project = replace(project, **{name: left})
        project = self._without_parts(project, gone)
        pads = tuple(_without_deeds(pad, gone) for pad in project.pads)

        def without(keyframe: Keyframe) -> Keyframe:
            if isinstance(keyframe, (Clip, Hush)) and keyframe.sound in gone:
                return Rest(frame=keyframe.frame, off=keyframe.off)
            return keyframe

        return with_keyframes(replace(project, pads=pads), without)

    def _without_parts(self, project: Project, gone: frozenset[str]) -> Project:
        for name, least in (("blends", 2), ("pools", 1), ("playlists", 1)):
            made = []
            for each in getattr(project, name):
                parts = tuple(part for part in each.parts if part.sound not in gone)
                if len(parts) < len(each.parts) and (not self.from_parts or len(parts) < least):
                    raise BadEdit(
                        f"{each.label} has it as a part"
                        + (f", and keeps at least {least}" if self.from_parts else ""),
                        remedy="take it out there, or remove that as well",
                    )
                made.append(each if len(parts) == len(each.parts) else replace(each, parts=parts))
            project = replace(project, **{name: tuple(made)})
        return project


def played_by(project: Project, sounds: Collection[str]) -> list[Sound]:
    """The patterns that play some of these sounds as instruments."""
    return [
        sound
        for sound in project.sounds
        if isinstance(sound.making, Pattern)
        and any(
            part.sound is not None and part.sound.sound in sounds for part in sound.making.parts
        )
    ]


def _without_deeds(pad: Pad, gone: frozenset[str]) -> Pad:
    """A pad that neither fires nor silences what is gone."""
    does = tuple(
        deed for deed in pad.does
        if not (isinstance(deed, (Fire, HushDeed)) and deed.sound in gone)
    )  # fmt: skip
    return pad if len(does) == len(pad.does) else replace(pad, does=does)


def _with_deeds(pad: Pad, sound: str, by: str) -> Pad:
    """A pad that fires and silences another sound instead of one."""
    does = tuple(
        replace(deed, sound=by)
        if isinstance(deed, (Fire, HushDeed)) and deed.sound == sound
        else deed
        for deed in pad.does
    )
    return pad if does == pad.does else replace(pad, does=does)


M = TypeVar("M", Blend, Pool, Playlist)


class ReplaceSound(Edit, frozen=True, kw_only=True, tag="replace-sound"):
    """Let every clip, hush and part of one sound be of another; settings stay.

    Where the other may not be a part, the one stays it.
    """

    sound: str
    by: str

    @property
    @override
    def title(self) -> str:
        return "replace the sound everywhere"

    @override
    def apply(self, project: Project) -> Project:
        all_there(project, {self.sound, self.by})

        def change(keyframe: Keyframe) -> Keyframe:
            if isinstance(keyframe, (Clip, Hush)) and keyframe.sound == self.sound:
                return replace(keyframe, sound=self.by)
            return keyframe

        pads = tuple(_with_deeds(pad, self.sound, self.by) for pad in project.pads)
        made = self._with_parts(self._with_instruments(project))
        return with_keyframes(replace(made, pads=pads), change)

    def _with_instruments(self, project: Project) -> Project:
        """Patterns that play the one play the other, unless that is a pattern itself."""
        by = next((sound for sound in project.sounds if sound.id == self.by), None)
        if by is None or isinstance(by.making, Pattern):
            return project

        def exchanged(sound: Sound) -> Sound:
            making = sound.making
            if not isinstance(making, Pattern):
                return sound
            parts = tuple(
                replace(part, sound=replace(part.sound, sound=self.by))
                if part.sound is not None and part.sound.sound == self.sound
                else part
                for part in making.parts
            )
            if parts == making.parts:
                return sound
            return replace(sound, making=replace(making, parts=parts))

        return replace(project, sounds=tuple(map(exchanged, project.sounds)))

    def _with_parts(self, project: Project) -> Project:
        def exchanged(made: M) -> M:
            if made.id == self.by or not may_be_part(project, made, self.by):
                return made
            parts = tuple(
                replace(part, sound=self.by) if part.sound == self.sound else part
                for part in made.parts
            )
            return made if parts == made.parts else replace(made, parts=parts)

        return replace(
            project,
            blends=tuple(map(exchanged, project.blends)),
            pools=tuple(map(exchanged, project.pools)),
            playlists=tuple(map(exchanged, project.playlists)),
        )


class AddTake(Edit, frozen=True, kw_only=True, tag="add-take"):
    """Let a sound be another take from now on; the one in use until now joins its takes."""

    sound: str
    take: Take

    @property
    @override
    def title(self) -> str:
        return f"take in {self.take.name or 'another take'}"

    @override
    def apply(self, project: Project) -> Project:
        return with_sounds(project, (self.sound,), lambda sound: _taken(sound, self.take))


class UseTake(Edit, frozen=True, kw_only=True, tag="use-take"):
    """Use the take of a sound that stands at ``index`` of those not in use."""

    sound: str
    index: int

    @property
    @override
    def title(self) -> str:
        return "use another take"

    @override
    def apply(self, project: Project) -> Project:
        def change(sound: Sound) -> Sound:
            if not 0 <= self.index < len(sound.takes):
                raise BadEdit("there is no such take", remedy="choose one that is listed")
            return _taken(sound, sound.takes[self.index])

        return with_sounds(project, (self.sound,), change)


TAKEN = ("file", "kept", "hash", "pcm_hash", "frames", "rate", "channels", "encoding")


def _taken(sound: Sound, take: Take) -> Sound:
    """The sound with a take in use; the trims of its clips stay, for they are in seconds.

    One that was made here is that no more: what it was stays as a take.
    """
    if sound.making is not None and not sound.file:
        raise BadEdit(
            f"{sound.label} was made here and is no file yet", remedy="save the project first"
        )
    kept = tuple(x for x in sound.takes if x is not take)
    taken = {x.name for x in sound.takes}
    number = next(n for n in range(1, len(taken) + 2) if f"take {n}" not in taken)
    before = Take(name=f"take {number}", **{field: getattr(sound, field) for field in TAKEN})
    fields = {field: getattr(take, field) for field in TAKEN}
    return replace(sound, takes=(*kept, before), making=None, **fields)
