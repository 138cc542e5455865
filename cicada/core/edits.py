"""Edits of the film: its keyframes, layers and scenes, and the project's own settings."""

from typing import Any

from msgspec.structs import replace
from typing_extensions import override

from cicada.core.clip import clip_timing
from cicada.core.editing import (
    Edit,
    changed,
    existing,
    frame_of,
    with_keyframe,
    with_layer,
    with_scene,
)
from cicada.core.model import Clip, Hush, Keyframe, Layer, Project, Rest, Scene
from cicada.core.timebase import Timebase
from cicada.errors import BadEdit

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
        return with_layer(
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
        layer = with_keyframe(layer, clip)
        total = clip_timing(clip, sound, project.rate).total
        if not total:
            return layer
        base = Timebase(project.fps[0], project.fps[1], project.rate)
        end = base.frame_from(base.start(self.frame) + total)
        later = [k.frame for k in layer.keyframes if k.frame > self.frame]
        if end < scene.length and (not later or end < min(later)):
            layer = with_keyframe(layer, Rest(frame=end))
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
            return with_keyframe(layer, self.keyframe)

        return with_layer(project, self.layer, put)


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
            return with_keyframe(layer, changed(existing(layer, self.frame), self.changes))

        return with_layer(project, self.layer, change)


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

        return with_layer(project, self.layer, clear)


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
        moving = [existing(source, frame) for frame in self.frames]
        moved = [replace(k, frame=k.frame + self.by) for k in moving]
        if any(not 0 <= k.frame < target_scene.length for k in moved):
            raise BadEdit("that is outside the scene", remedy="move by fewer frames")
        cleared = ClearKeyframes(layer=self.layer, frames=self.frames).apply(project)

        def put(scene: Scene, layer: Layer) -> Layer:
            for keyframe in moved:
                layer = with_keyframe(layer, keyframe)
            return layer

        return with_layer(cleared, target, put)


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
        return with_layer(project, self.layer, self._in)

    def _in(self, scene: Scene, layer: Layer) -> Layer:
        existing(layer, self.frame)
        to = max(self.frame + 1, self.to)
        later = sorted((k for k in layer.keyframes if k.frame > self.frame), key=frame_of)
        if later and isinstance(later[0], Rest):
            gone = later.pop(0)
            layer = replace(layer, keyframes=tuple(k for k in layer.keyframes if k is not gone))
        stop = later[0].frame if later else scene.length
        return layer if to >= stop else with_keyframe(layer, Rest(frame=to))


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

        return with_scene(project, self.scene, add)


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
        return with_scene(project, scene.id, lambda scene: replace(scene, layers=kept))


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
            return changed(layer, self.changes)

        return with_layer(project, self.layer, change, guarded_too=True)


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
        return with_scene(project, self.scene, lambda scene: changed(scene, self.changes))


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
        return changed(project, self.changes)
