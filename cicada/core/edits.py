"""Every change to a project, as data: frozen, with a title in plain words and ``apply``.

An edit never changes the project it is given; undo is keeping that one. An edit that does not
fit raises ``BadEdit`` and changes nothing.
"""

from collections.abc import Callable, Collection
from typing import Any, TypeVar

import msgspec
from msgspec import Struct
from msgspec.structs import replace
from typing_extensions import override

from cicada.core.clip import clip_timing
from cicada.core.model import (
    Clip,
    Hush,
    Keyframe,
    Layer,
    Project,
    Rest,
    Scene,
    Sound,
    Take,
    keyframe_at,
)
from cicada.core.timebase import Timebase
from cicada.errors import BadEdit


class Edit(Struct, frozen=True, kw_only=True, tag_field="edit"):
    """A change to a project."""

    @property
    def title(self) -> str:
        """What it does, for the undo menu."""
        raise NotImplementedError

    def apply(self, project: Project) -> Project:
        """The project with the change made; raises ``BadEdit``."""
        raise NotImplementedError


class Several(Edit, frozen=True, kw_only=True, tag="several"):
    """Edits that belong together and are undone together."""

    named: str
    edits: tuple[Edit, ...]

    @property
    @override
    def title(self) -> str:
        return self.named

    @override
    def apply(self, project: Project) -> Project:
        for edit in self.edits:
            project = edit.apply(project)
        return project


# -- the shelf --------------------------------------------------------------------------------


class AddSounds(Edit, frozen=True, kw_only=True, tag="add-sounds"):
    """Put sounds on the shelf."""

    sounds: tuple[Sound, ...]

    @property
    @override
    def title(self) -> str:
        if len(self.sounds) == 1:
            return f"import {self.sounds[0].name}"
        return f"import {len(self.sounds)} sounds"

    @override
    def apply(self, project: Project) -> Project:
        return replace(project, sounds=project.sounds + self.sounds)


class ChangeSounds(Edit, frozen=True, kw_only=True, tag="change-sounds"):
    """Change what is known of sounds: name, note, tags, folder ..."""

    sounds: tuple[str, ...]
    changes: dict[str, Any]

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
        return _with_sounds(project, self.sounds, lambda sound: _changed(sound, self.changes))


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
        def change(sound: Sound) -> Sound:
            kept = tuple(tag for tag in sound.tags if tag != self.tagged)
            return replace(sound, tags=kept if self.off else (*kept, self.tagged))

        return _with_sounds(project, self.sounds, change)


class RemoveSounds(Edit, frozen=True, kw_only=True, tag="remove-sounds"):
    """Take sounds off the shelf; their clips, and hushes of them, become rests."""

    sounds: tuple[str, ...]

    @property
    @override
    def title(self) -> str:
        return "remove the sound" if len(self.sounds) == 1 else f"remove {len(self.sounds)} sounds"

    @override
    def apply(self, project: Project) -> Project:
        gone = frozenset(self.sounds)
        _all_there(project, gone)
        kept = tuple(sound for sound in project.sounds if sound.id not in gone)

        def without(keyframe: Keyframe) -> Keyframe:
            if isinstance(keyframe, (Clip, Hush)) and keyframe.sound in gone:
                return Rest(frame=keyframe.frame, off=keyframe.off)
            return keyframe

        return replace(_with_keyframes(project, without), sounds=kept)


class ReplaceSound(Edit, frozen=True, kw_only=True, tag="replace-sound"):
    """Let every clip and hush of one sound be of another; their settings stay."""

    sound: str
    by: str

    @property
    @override
    def title(self) -> str:
        return "replace the sound everywhere"

    @override
    def apply(self, project: Project) -> Project:
        _all_there(project, {self.sound, self.by})

        def change(keyframe: Keyframe) -> Keyframe:
            if isinstance(keyframe, (Clip, Hush)) and keyframe.sound == self.sound:
                return replace(keyframe, sound=self.by)
            return keyframe

        return _with_keyframes(project, change)


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
        return _with_sounds(project, (self.sound,), lambda sound: _taken(sound, self.take))


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

        return _with_sounds(project, (self.sound,), change)


# -- keyframes --------------------------------------------------------------------------------


class PlaceClip(Edit, frozen=True, kw_only=True, tag="place-clip"):
    """Put a sound on a keyframe, and make room for it.

    The span gets the frames the sound needs: a rest is put where it ends, unless another
    keyframe comes first. A keyframe already on the frame is replaced.
    """

    layer: str
    frame: int
    sound: str
    sound_name: str = ""

    @property
    @override
    def title(self) -> str:
        return f"place {self.sound_name or 'the sound'}"

    @override
    def apply(self, project: Project) -> Project:
        clip = Clip(frame=self.frame, sound=self.sound)
        return _with_layer(
            project, self.layer, lambda scene, layer: self._in(project, scene, layer, clip)
        )

    def _in(self, project: Project, scene: Scene, layer: Layer, clip: Clip) -> Layer:
        try:
            sound = project.sound(self.sound)
        except KeyError:
            raise BadEdit(
                f"there is no sound {self.sound!r}", remedy="choose one from the shelf"
            ) from None
        if not 0 <= self.frame < scene.length:
            raise BadEdit("that frame is past the end of the scene", remedy="choose an earlier one")
        layer = _put(layer, clip)
        total = clip_timing(clip, sound, project.rate).total
        if not total:
            return layer
        base = Timebase(project.fps[0], project.fps[1], project.rate)
        end = base.frame_from(base.start(self.frame) + total)
        later = [k.frame for k in layer.keyframes if k.frame > self.frame]
        if end < scene.length and (not later or end < min(later)):
            layer = _put(layer, Rest(frame=end))
        return layer


class PutKeyframe(Edit, frozen=True, kw_only=True, tag="put-keyframe"):
    """Put a keyframe on its frame as it is, in place of one already there."""

    layer: str
    keyframe: Keyframe

    @property
    @override
    def title(self) -> str:
        kinds = {Clip: "put a clip", Rest: "put a rest", Hush: "put a hush"}
        return kinds[type(self.keyframe)]

    @override
    def apply(self, project: Project) -> Project:
        def put(scene: Scene, layer: Layer) -> Layer:
            if self.keyframe.frame >= scene.length:
                raise BadEdit(
                    "that frame is past the end of the scene", remedy="choose an earlier one"
                )
            return _put(layer, self.keyframe)

        return _with_layer(project, self.layer, put)


class ChangeKeyframe(Edit, frozen=True, kw_only=True, tag="change-keyframe"):
    """Change fields of a keyframe; ``what`` names them for the undo menu."""

    layer: str
    frame: int
    changes: dict[str, Any]
    what: str = "the keyframe"

    @property
    @override
    def title(self) -> str:
        return f"change {self.what}"

    @override
    def apply(self, project: Project) -> Project:
        def change(scene: Scene, layer: Layer) -> Layer:
            return _put(layer, _changed(_existing(layer, self.frame), self.changes))

        return _with_layer(project, self.layer, change)


class ClearKeyframes(Edit, frozen=True, kw_only=True, tag="clear-keyframes"):
    """Take keyframes away; the span before each runs on."""

    layer: str
    frames: tuple[int, ...]

    @property
    @override
    def title(self) -> str:
        return "clear the keyframe" if len(self.frames) == 1 else "clear the keyframes"

    @override
    def apply(self, project: Project) -> Project:
        def clear(scene: Scene, layer: Layer) -> Layer:
            kept = tuple(k for k in layer.keyframes if k.frame not in self.frames)
            return replace(layer, keyframes=kept)

        return _with_layer(project, self.layer, clear)


class MoveKeyframes(Edit, frozen=True, kw_only=True, tag="move-keyframes"):
    """Move keyframes by some frames, maybe to another layer; what they land on is replaced."""

    layer: str
    frames: tuple[int, ...]
    by: int
    to_layer: str | None = None

    @property
    @override
    def title(self) -> str:
        return "move the keyframe" if len(self.frames) == 1 else "move the keyframes"

    @override
    def apply(self, project: Project) -> Project:
        target = self.to_layer or self.layer
        try:
            _, source = project.layer(self.layer)
            target_scene, _ = project.layer(target)
        except KeyError:
            raise BadEdit("that layer is gone", remedy="choose another") from None
        moving = [_existing(source, frame) for frame in self.frames]
        moved = [replace(k, frame=k.frame + self.by) for k in moving]
        if any(not 0 <= k.frame < target_scene.length for k in moved):
            raise BadEdit("that is outside the scene", remedy="move by fewer frames")
        cleared = ClearKeyframes(layer=self.layer, frames=self.frames).apply(project)

        def put(scene: Scene, layer: Layer) -> Layer:
            for keyframe in moved:
                layer = _put(layer, keyframe)
            return layer

        return _with_layer(cleared, target, put)


class MoveSpanEnd(Edit, frozen=True, kw_only=True, tag="move-span-end"):
    """Let the span of the keyframe on ``frame`` end at ``to``.

    A rest that ends it moves along; before any other keyframe a rest is put. The end stops at
    the next keyframe that is no rest.
    """

    layer: str
    frame: int
    to: int

    @property
    @override
    def title(self) -> str:
        return "move the span's end"

    @override
    def apply(self, project: Project) -> Project:
        return _with_layer(project, self.layer, self._in)

    def _in(self, scene: Scene, layer: Layer) -> Layer:
        _existing(layer, self.frame)
        to = max(self.frame + 1, self.to)
        later = sorted((k for k in layer.keyframes if k.frame > self.frame), key=_frame)
        if later and isinstance(later[0], Rest):
            gone = later.pop(0)
            layer = replace(layer, keyframes=tuple(k for k in layer.keyframes if k is not gone))
        stop = later[0].frame if later else scene.length
        return layer if to >= stop else _put(layer, Rest(frame=to))


# -- layers, scenes, project ------------------------------------------------------------------


class AddLayer(Edit, frozen=True, kw_only=True, tag="add-layer"):
    """Add a layer at the bottom of a scene, or at ``index``."""

    scene: str
    layer: Layer
    index: int | None = None

    @property
    @override
    def title(self) -> str:
        return f"add the layer {self.layer.name}"

    @override
    def apply(self, project: Project) -> Project:
        def add(scene: Scene) -> Scene:
            layers = list(scene.layers)
            layers.insert(len(layers) if self.index is None else self.index, self.layer)
            return replace(scene, layers=tuple(layers))

        return _with_scene(project, self.scene, add)


class RemoveLayer(Edit, frozen=True, kw_only=True, tag="remove-layer"):
    """Remove a layer with its keyframes."""

    layer: str

    @property
    @override
    def title(self) -> str:
        return "remove the layer"

    @override
    def apply(self, project: Project) -> Project:
        try:
            scene, _ = project.layer(self.layer)
        except KeyError:
            raise BadEdit("that layer is gone", remedy="choose another") from None
        kept = tuple(layer for layer in scene.layers if layer.id != self.layer)
        return _with_scene(project, scene.id, lambda scene: replace(scene, layers=kept))


class ChangeLayer(Edit, frozen=True, kw_only=True, tag="change-layer"):
    """Change fields of a layer: name, mute, solo, guarded, level, pan ..."""

    layer: str
    changes: dict[str, Any]

    @property
    @override
    def title(self) -> str:
        if "name" in self.changes:
            return "rename the layer"
        return f"change the layer's {' and '.join(self.changes)}".replace("_", " ")

    @override
    def apply(self, project: Project) -> Project:
        def change(scene: Scene, layer: Layer) -> Layer:
            return _changed(layer, self.changes)

        return _with_layer(project, self.layer, change, guarded_too=True)


class ChangeScene(Edit, frozen=True, kw_only=True, tag="change-scene"):
    """Change fields of a scene: name, length, picture, marks ..."""

    scene: str
    changes: dict[str, Any]

    @property
    @override
    def title(self) -> str:
        words = {"picture": "choose the picture", "length": "change the scene's length"}
        named = [words[field] for field in self.changes if field in words]
        return named[0] if named else "change the scene"

    @override
    def apply(self, project: Project) -> Project:
        return _with_scene(project, self.scene, lambda scene: _changed(scene, self.changes))


class ChangeProject(Edit, frozen=True, kw_only=True, tag="change-project"):
    """Change the project's name, frame rate, sample rate, first frame, level or plays.

    Keyframes stay on their frames.
    """

    changes: dict[str, Any]

    @property
    @override
    def title(self) -> str:
        return "change the project's settings"

    @override
    def apply(self, project: Project) -> Project:
        return _changed(project, self.changes)


# -- how they do it ---------------------------------------------------------------------------


Part = TypeVar("Part", bound=Struct)


TAKEN = ("file", "kept", "hash", "pcm_hash", "frames", "rate", "channels", "encoding")


def _taken(sound: Sound, take: Take) -> Sound:
    """The sound with a take in use; the trims of its clips stay, for they are in seconds."""
    kept = tuple(x for x in sound.takes if x is not take)
    taken = {x.name for x in sound.takes}
    number = next(n for n in range(1, len(taken) + 2) if f"take {n}" not in taken)
    before = Take(name=f"take {number}", **{field: getattr(sound, field) for field in TAKEN})
    fields = {field: getattr(take, field) for field in TAKEN}
    return replace(sound, takes=(*kept, before), **fields)


def _all_there(project: Project, sounds: Collection[str]) -> None:
    known = {sound.id for sound in project.sounds}
    for sound in sounds:
        if sound not in known:
            raise BadEdit(f"there is no sound {sound!r}", remedy="choose one from the shelf")


def _with_sounds(
    project: Project, sounds: Collection[str], change: Callable[[Sound], Sound]
) -> Project:
    _all_there(project, sounds)
    changed = tuple(change(x) if x.id in sounds else x for x in project.sounds)
    return replace(project, sounds=changed)


def _with_keyframes(project: Project, change: Callable[[Keyframe], Keyframe]) -> Project:
    """The project with every keyframe changed; layers without a change stay the same object."""

    def in_layer(layer: Layer) -> Layer:
        keyframes = tuple(change(keyframe) for keyframe in layer.keyframes)
        if keyframes == layer.keyframes:
            return layer
        _free(layer)
        return replace(layer, keyframes=keyframes)

    scenes = tuple(
        replace(scene, layers=tuple(in_layer(layer) for layer in scene.layers))
        for scene in project.scenes
    )
    return replace(project, scenes=scenes)


def _frame(keyframe: Keyframe) -> int:
    return keyframe.frame


def _existing(layer: Layer, frame: int) -> Keyframe:
    found = keyframe_at(layer, frame)
    if found is None:
        raise BadEdit("there is no keyframe on that frame", remedy="choose one that is there")
    return found


def _changed(part: Part, changes: dict[str, Any]) -> Part:
    """``part`` with fields changed, checked as if read from a file."""
    types = {field.name: field.type for field in msgspec.structs.fields(part)}
    checked = {}
    for name, value in changes.items():
        if name not in types:
            raise BadEdit(f"there is no {name!r} to change", remedy="name a field that is there")
        try:
            checked[name] = msgspec.convert(msgspec.to_builtins(value), types[name])
        except msgspec.ValidationError as error:
            text = str(error).replace("`", "'").split(" - at ")[0]
            raise BadEdit(
                text[0].lower() + text[1:], place=name, remedy="choose another value"
            ) from None
    return replace(part, **checked)


def _put(layer: Layer, keyframe: Keyframe) -> Layer:
    """The layer with the keyframe on its frame, in order."""
    kept = [k for k in layer.keyframes if k.frame != keyframe.frame]
    kept.append(keyframe)
    kept.sort(key=_frame)
    return replace(layer, keyframes=tuple(kept))


def _with_scene(project: Project, scene_id: str, change: Callable[[Scene], Scene]) -> Project:
    scenes = list(project.scenes)
    for index, scene in enumerate(scenes):
        if scene.id == scene_id:
            scenes[index] = change(scene)
            return replace(project, scenes=tuple(scenes))
    raise BadEdit("that scene is gone", remedy="choose another")


def _free(layer: Layer) -> None:
    if layer.guarded:
        raise BadEdit(f"the layer {layer.name} is guarded", remedy="lift its guard to change it")


def _with_layer(
    project: Project,
    layer_id: str,
    change: Callable[[Scene, Layer], Layer],
    *,
    guarded_too: bool = False,
) -> Project:
    try:
        scene, layer = project.layer(layer_id)
    except KeyError:
        raise BadEdit("that layer is gone", remedy="choose another") from None
    if not guarded_too:
        _free(layer)
    changed = change(scene, layer)
    layers = tuple(changed if other is layer else other for other in scene.layers)
    return _with_scene(project, scene.id, lambda scene: replace(scene, layers=layers))
