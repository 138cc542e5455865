"""What every change to a project is, and how a part of a frozen project is changed.

An edit never changes the project it is given; undo is keeping that one. An edit that does not
fit raises ``BadEdit`` and changes nothing.
"""

from collections.abc import Callable, Collection, Iterable, Mapping
from functools import cache, partial
from typing import Any, NamedTuple, TypeVar

import msgspec
from msgspec import NODEFAULT, Struct
from msgspec.structs import replace
from typing_extensions import override

from cicada.core.kept_runs import that_fit
from cicada.core.model import Keyframe, Layer, Project, Scene, Sound, keyframe_at
from cicada.core.naming import all_ids
from cicada.core.parts import Named
from cicada.errors import BadEdit


class Cell(NamedTuple):
    """A frame of a layer, with or without a keyframe."""

    layer: str
    frame: int


Inner = bool | int | float | str | tuple[float | str | None, ...] | None
Value = bool | int | float | str | tuple[Inner, ...] | None
"""What a field can be changed to: nothing that could not be read back."""
Changes = Mapping[str, Value]


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


# -- changing a part ----------------------------------------------------------------------------


Part = TypeVar("Part", bound=Struct)
N = TypeVar("N", bound=Named)
# The lists of a project whose parts stand on the shelf.
SHELF = ("sounds", "blends", "pools", "playlists")


def all_there(project: Project, sounds: Collection[str]) -> None:
    """Raise ``BadEdit`` unless the project has all these sounds."""
    known = {made.id for made in project.all_placeables()}
    for sound in sounds:
        if sound not in known:
            raise BadEdit(f"there is no sound {sound!r}", remedy="choose one from the shelf")


def with_sounds(
    project: Project, sounds: Collection[str], change: Callable[[Sound], Sound]
) -> Project:
    """The project with these sounds changed; raises ``BadEdit`` if one is not there."""
    all_there(project, sounds)
    changed = tuple(change(x) if x.id in sounds else x for x in project.sounds)
    return replace(project, sounds=changed)


def with_shelf(project: Project, chosen: Collection[str], change: Callable[[Any], Any]) -> Project:
    """The project with what has these ids on the shelf changed, be it sounds or made of them."""
    all_there(project, chosen)
    for name in SHELF:
        group = getattr(project, name)
        if any(each.id in chosen for each in group):
            changed = tuple(change(each) if each.id in chosen else each for each in group)
            project = replace(project, **{name: changed})
    return project


def with_keyframes(project: Project, change: Callable[[Keyframe], Keyframe]) -> Project:
    """The project with every keyframe changed; layers without a change stay the same object."""

    def in_layer(layer: Layer) -> Layer:
        keyframes = tuple(change(keyframe) for keyframe in layer.keyframes)
        if keyframes == layer.keyframes:
            return layer
        must_be_free(layer)
        return replace(layer, keyframes=keyframes)

    scenes = tuple(
        replace(scene, layers=tuple(in_layer(layer) for layer in scene.layers))
        for scene in project.scenes
    )
    return replace(project, scenes=scenes)


def frame_of(keyframe: Keyframe) -> int:
    """The frame a keyframe stands on."""
    return keyframe.frame


def existing(layer: Layer, frame: int) -> Keyframe:
    """The keyframe on a frame; raises ``BadEdit`` if there is none."""
    found = keyframe_at(layer, frame)
    if found is None:
        raise BadEdit("there is no keyframe on that frame", remedy="choose one that is there")
    return found


def changed(part: Part, changes: Mapping[str, object]) -> Part:
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
    return plainly(replace(part, **checked))


def plainly(part: Part) -> Part:
    """``part`` with a field's default itself wherever it has a value equal to that.

    The writer leaves out what *is* the default.
    """
    equal = {
        name: default
        for name, default in _defaults(type(part)).items()
        if (value := getattr(part, name)) is not default and value == default
    }
    return replace(part, **equal) if equal else part


@cache
def _defaults(kind: type[Struct]) -> dict[str, Any]:
    fields = msgspec.structs.fields(kind)
    return {field.name: field.default for field in fields if field.default is not NODEFAULT}


def put(group: tuple[N, ...], part: N, project: Project) -> tuple[N, ...]:
    """A list with a part in the place of the one of its id, or at the end."""
    if any(other.id == part.id for other in group):
        return tuple(part if other.id == part.id else other for other in group)
    if part.id in all_ids(project):
        raise BadEdit(f"the id {part.id} is in use", remedy="give it another")
    return (*group, part)


def with_keyframe(layer: Layer, keyframe: Keyframe) -> Layer:
    """The layer with the keyframe on its frame, in order."""
    kept = [k for k in layer.keyframes if k.frame != keyframe.frame]
    kept.append(plainly(keyframe))
    kept.sort(key=frame_of)
    return replace(layer, keyframes=tuple(kept))


def with_scene(project: Project, scene_id: str, change: Callable[[Scene], Scene]) -> Project:
    """The project with a scene changed; raises ``BadEdit`` if it is gone."""
    scenes = list(project.scenes)
    for index, scene in enumerate(scenes):
        if scene.id == scene_id:
            scenes[index] = change(scene)
            return that_fit(replace(project, scenes=tuple(scenes)))
    raise BadEdit("that scene is gone", remedy="choose another")


def must_be_free(layer: Layer) -> None:
    """Raise ``BadEdit`` if the layer is guarded."""
    if layer.guarded:
        raise BadEdit(f"the layer {layer.name} is guarded", remedy="lift its guard to change it")


def with_layer(
    project: Project,
    layer_id: str,
    change: Callable[[Scene, Layer], Layer],
    *,
    guarded_too: bool = False,
) -> Project:
    """The project with a layer changed; raises ``BadEdit`` if it is gone or guarded."""
    scene, layer = scene_of(project, layer_id)
    if not guarded_too:
        must_be_free(layer)
    changed = change(scene, layer)
    layers = tuple(changed if other is layer else other for other in scene.layers)
    return with_scene(project, scene.id, lambda scene: replace(scene, layers=layers))


def with_cells(
    project: Project,
    cells: Iterable[Cell],
    change: Callable[[Scene, Layer, frozenset[int]], Layer],
) -> Project:
    """The project with the layers of these cells changed, each told which frames are meant."""
    by_layer: dict[str, set[int]] = {}
    for cell in cells:
        by_layer.setdefault(cell.layer, set()).add(cell.frame)
    for layer_id, frames in by_layer.items():
        project = with_layer(project, layer_id, partial(_on, change, frozenset(frames)))
    return project


def _on(
    change: Callable[[Scene, Layer, frozenset[int]], Layer],
    frames: frozenset[int],
    scene: Scene,
    layer: Layer,
) -> Layer:
    return change(scene, layer, frames)


def scene_of(project: Project, layer_id: str) -> tuple[Scene, Layer]:
    """A layer with its scene; raises ``BadEdit`` if it is gone."""
    try:
        return project.layer(layer_id)
    except KeyError:
        raise BadEdit("that layer is gone", remedy="choose another") from None


def must_be_inside(scene: Scene, frame: int) -> None:
    """Raise ``BadEdit`` unless the scene has that frame."""
    if not 0 <= frame < scene.length:
        raise BadEdit("that frame is outside the scene", remedy="choose one inside it")
