"""Edits of keyframes: placing, changing, moving, clearing, and hushing what sounds."""

from collections.abc import Collection
from functools import partial

from msgspec.structs import replace
from typing_extensions import override

from cicada.core.clip import clip_timing
from cicada.core.editing import (
    Cell,
    Changes,
    Edit,
    all_there,
    changed,
    existing,
    frame_of,
    must_be_inside,
    plainly,
    scene_of,
    with_cells,
    with_keyframe,
    with_layer,
    with_scene,
)
from cicada.core.lengths import length_of
from cicada.core.model import Clip, Hush, Keyframe, Layer, Mark, Project, Rest, Scene
from cicada.core.naming import free_id
from cicada.core.values import Seconds, Sync
from cicada.errors import BadEdit

# The layer that takes hushes which have no place on the layer they silence.
HUSHES = "Hushes"


class PlaceClip(Edit, frozen=True, kw_only=True, tag="place-clip"):
    """Put a sound on a keyframe, and make room for it.

    The span gets the frames the sound needs: a rest is put where it ends, unless another
    keyframe comes first. A keyframe already on the frame is replaced.
    """

    layer: str
    frame: int
    sound: str
    sound_name: str = ""
    sync: Sync = "free"
    delay: Seconds = 0.0

    @property
    @override
    def title(self) -> str:
        return f"place {self.sound_name or 'the sound'}"

    @override
    def apply(self, project: Project) -> Project:
        clip = Clip(frame=self.frame, sound=self.sound, sync=self.sync, delay=self.delay)
        return with_layer(
            project, self.layer, lambda scene, layer: self._in(project, scene, layer, clip)
        )

    def _in(self, project: Project, scene: Scene, layer: Layer, clip: Clip) -> Layer:
        all_there(project, {self.sound})
        must_be_inside(scene, self.frame)
        layer = without_own_rests(project, layer, frozenset({self.frame}))
        return with_room(project, scene, into_room(project, layer, clip.frame), clip)


# -- the room of a clip ----------------------------------------------------------------------------


def sound_ends(project: Project, clip: Clip) -> int | None:
    """The frame on which a clip's sound is over if nothing ends it sooner; None if never."""
    total = clip_timing(clip, length_of(project, clip.sound), project.rate).total
    if not total:
        return None
    base = project.timebase
    return base.frame_from(base.start(clip.frame) + total)


def own_rest(project: Project, layer: Layer, clip: Clip) -> Rest | None:
    """The rest that gives a clip just the room its sound needs: right behind it, at its end."""
    later = [k for k in layer.keyframes if k.frame > clip.frame]
    following = min(later, key=frame_of, default=None)
    if isinstance(following, Rest) and following.frame == sound_ends(project, clip):
        return following
    return None


def without_own_rests(project: Project, layer: Layer, frames: Collection[int]) -> Layer:
    """The layer without the rests that give the clips on these frames their room."""
    clips = [k for k in layer.keyframes if k.frame in frames and isinstance(k, Clip)]
    rests = [own_rest(project, layer, clip) for clip in clips]
    return replace(layer, keyframes=tuple(k for k in layer.keyframes if k not in rests))


def into_room(project: Project, layer: Layer, frame: int) -> Layer:
    """The layer ready for a clip on ``frame``: if that is inside another's room, it ends there.

    The rest that ended that room would cut what is placed inside it.
    """
    earlier = [k for k in layer.keyframes if k.frame < frame]
    before = max(earlier, key=frame_of, default=None)
    if not isinstance(before, Clip):
        return layer
    return without_own_rests(project, layer, frozenset({before.frame}))


def with_room(project: Project, scene: Scene, layer: Layer, clip: Clip) -> Layer:
    """The layer with a clip, and a rest where its sound is over if there is room for it."""
    layer = with_keyframe(layer, clip)
    end = sound_ends(project, clip)
    later = [k.frame for k in layer.keyframes if k.frame > clip.frame]
    if end is not None and end < scene.length and (not later or end < min(later)):
        layer = with_keyframe(layer, Rest(frame=end))
    return layer


class PutKeyframes(Edit, frozen=True, kw_only=True, tag="put-keyframes"):
    """Put keyframes on their frames as they are, each with its layer, replacing those there."""

    keyframes: tuple[tuple[str, Keyframe], ...]
    named: str = ""

    @property
    @override
    def title(self) -> str:
        if self.named:
            return self.named
        kinds = {Clip: "a clip", Rest: "a rest", Hush: "a hush"}
        many = f"{len(self.keyframes)} keyframes"
        return f"put {kinds[type(self.keyframes[0][1])] if len(self.keyframes) == 1 else many}"

    @override
    def apply(self, project: Project) -> Project:
        new = {Cell(layer, keyframe.frame): keyframe for layer, keyframe in self.keyframes}
        known = {made.id for made in project.all_placeables()}

        def put(scene: Scene, layer: Layer, frames: frozenset[int]) -> Layer:
            for frame in frames:
                must_be_inside(scene, frame)
                sound = getattr(new[Cell(layer.id, frame)], "sound", None)
                if sound is not None and sound not in known:
                    raise BadEdit(f"there is no sound {sound!r}", remedy="import it first")
            kept = [k for k in layer.keyframes if k.frame not in frames]
            kept += [plainly(new[Cell(layer.id, frame)]) for frame in frames]
            return replace(layer, keyframes=tuple(sorted(kept, key=frame_of)))

        return with_cells(project, new, put)


class ChangeKeyframes(Edit, frozen=True, kw_only=True, tag="change-keyframes"):
    """Change fields of keyframes alike; ``what`` names them for the undo menu."""

    cells: tuple[Cell, ...]
    changes: Changes
    what: str = "the keyframe"

    @property
    @override
    def title(self) -> str:
        many = f" of {len(self.cells)} keyframes" if len(self.cells) > 1 else ""
        return f"change {self.what}{many}"

    @override
    def apply(self, project: Project) -> Project:
        def change(scene: Scene, layer: Layer, frames: frozenset[int]) -> Layer:
            for frame in frames:
                layer = with_keyframe(layer, changed(existing(layer, frame), self.changes))
            return layer

        return with_cells(project, self.cells, change)


class ClearKeyframes(Edit, frozen=True, kw_only=True, tag="clear-keyframes"):
    """Take keyframes away, with the rests that gave clips their room; spans before them run on."""

    cells: tuple[Cell, ...]
    verb: str = "clear"

    @property
    @override
    def title(self) -> str:
        many = len(self.cells) > 1
        return f"{self.verb} {f'{len(self.cells)} keyframes' if many else 'the keyframe'}"

    @override
    def apply(self, project: Project) -> Project:
        def clear(scene: Scene, layer: Layer, frames: frozenset[int]) -> Layer:
            layer = without_own_rests(project, layer, frames)
            kept = tuple(k for k in layer.keyframes if k.frame not in frames)
            return replace(layer, keyframes=kept)

        return with_cells(project, self.cells, clear)


class MoveKeyframes(Edit, frozen=True, kw_only=True, tag="move-keyframes"):
    """Move each keyframe from one cell to another; what they land on is replaced."""

    moves: tuple[tuple[Cell, Cell], ...]

    @property
    @override
    def title(self) -> str:
        many = len(self.moves) > 1
        return f"move {f'{len(self.moves)} keyframes' if many else 'the keyframe'}"

    @override
    def apply(self, project: Project) -> Project:
        layers = {cell.layer: scene_of(project, cell.layer)[1] for cell, _ in self.moves}
        put = []
        for cell, target in self.moves:
            keyframe = existing(layers[cell.layer], cell.frame)
            put.append((target.layer, replace(keyframe, frame=target.frame)))
        cleared = ClearKeyframes(cells=tuple(cell for cell, _ in self.moves)).apply(project)
        return PutKeyframes(keyframes=tuple(put)).apply(cleared)


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


class TakeSoundsOff(Edit, frozen=True, kw_only=True, tag="take-sounds-off"):
    """Take the sounds off clips: a rest stays on each frame, or a mark with the sound's name."""

    cells: tuple[Cell, ...]
    leave: str = "rests"

    @property
    @override
    def title(self) -> str:
        many = "the sounds" if len(self.cells) > 1 else "the sound"
        return f"take {many} off, leaving {self.leave}"

    @override
    def apply(self, project: Project) -> Project:
        if self.leave == "marks":
            return self._with_marks(project)

        def rest(scene: Scene, layer: Layer, frames: frozenset[int]) -> Layer:
            for frame in frames:
                existing(layer, frame)
                layer = with_keyframe(layer, Rest(frame=frame))
            return layer

        return with_cells(project, self.cells, rest)

    def _with_marks(self, project: Project) -> Project:
        names = {made.id: made.label for made in project.all_placeables()}
        for cell in sorted(self.cells, key=lambda cell: cell.frame):
            scene, layer = scene_of(project, cell.layer)
            keyframe = existing(layer, cell.frame)
            text = names.get(getattr(keyframe, "sound", None) or "", "")
            project = with_scene(project, scene.id, partial(marked, frame=cell.frame, text=text))
        return ClearKeyframes(cells=self.cells).apply(project)


def marked(scene: Scene, frame: int, text: str) -> Scene:
    """The scene with a mark on a frame; one already there takes the text on."""
    must_be_inside(scene, frame)
    there = [mark.text for mark in scene.marks if mark.frame == frame]
    texts = [part for part in (*there, text) if part]
    marks = [mark for mark in scene.marks if mark.frame != frame]
    marks.append(Mark(frame=frame, text=", ".join(dict.fromkeys(texts))))
    return replace(scene, marks=tuple(sorted(marks, key=lambda mark: mark.frame)))


class HushSound(Edit, frozen=True, kw_only=True, tag="hush-sound"):
    """Silence one sound on a frame of a scene.

    The hush stands on the sound's own layer if its frame is free there and no other clip's span
    would end, else on a layer named Hushes, which is added at the bottom if need be.
    """

    scene: str
    layer: str
    clip_frame: int | None
    sound: str
    frame: int
    fade: float = 0.2
    sound_name: str = ""

    @property
    @override
    def title(self) -> str:
        return f"hush {self.sound_name or 'the sound'}"

    @override
    def apply(self, project: Project) -> Project:
        hush = Hush(frame=self.frame, target="sound", sound=self.sound, fade=self.fade)
        scene = next((scene for scene in project.scenes if scene.id == self.scene), None)
        if scene is None:
            raise BadEdit("that scene is gone", remedy="choose another")
        for layer in scene.layers:
            if layer.id == self.layer and self._has_room(layer):
                return PutKeyframes(keyframes=((layer.id, hush),)).apply(project)
        for layer in scene.layers:
            free = all(keyframe.frame != self.frame for keyframe in layer.keyframes)
            if layer.name == HUSHES and free and not layer.guarded:
                return PutKeyframes(keyframes=((layer.id, hush),)).apply(project)
        must_be_inside(scene, self.frame)
        own = Layer(id=free_id("l", project), name=HUSHES, keyframes=(hush,))
        return with_scene(project, scene.id, lambda s: replace(s, layers=(*s.layers, own)))

    def _has_room(self, layer: Layer) -> bool:
        if layer.guarded or layer.off:
            return False
        before = None
        for keyframe in sorted(layer.keyframes, key=frame_of):
            if keyframe.frame == self.frame:
                return False
            if keyframe.frame < self.frame and not keyframe.off:
                before = keyframe
        return not isinstance(before, Clip) or before.frame == self.clip_frame
