"""Edits of layers: adding, ordering, copying, removing, and their settings."""

from msgspec.structs import replace
from typing_extensions import override

from cicada.core.editing import (
    Changes,
    Edit,
    changed,
    must_be_free,
    scene_of,
    with_layer,
    with_scene,
)
from cicada.core.model import Layer, Project, Scene
from cicada.core.naming import all_ids, free_id, free_name
from cicada.errors import BadEdit


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
        if self.layer.id in all_ids(project):
            raise BadEdit(f"the id {self.layer.id} is in use", remedy="give the layer another")

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
        scene, layer = scene_of(project, self.layer)
        must_be_free(layer)
        kept = tuple(layer for layer in scene.layers if layer.id != self.layer)
        return with_scene(project, scene.id, lambda scene: replace(scene, layers=kept))


class MoveLayer(Edit, frozen=True, kw_only=True, tag="move-layer"):
    """Move a layer to another place, counted from the top, in its scene."""

    layer: str
    to: int

    @property
    @override
    def title(self) -> str:
        return "move the layer"

    @override
    def apply(self, project: Project) -> Project:
        scene, layer = scene_of(project, self.layer)
        layers = [other for other in scene.layers if other is not layer]
        layers.insert(max(0, min(self.to, len(layers))), layer)
        return with_scene(project, scene.id, lambda scene: replace(scene, layers=tuple(layers)))


class DuplicateLayer(Edit, frozen=True, kw_only=True, tag="duplicate-layer"):
    """Put a copy of a layer below it, under a name of its own."""

    layer: str

    @property
    @override
    def title(self) -> str:
        return "duplicate the layer"

    @override
    def apply(self, project: Project) -> Project:
        scene, layer = scene_of(project, self.layer)
        taken = {other.name for other in scene.layers}
        name = free_name(layer.label, taken)
        copy = replace(layer, id=free_id("l", project), name=name, guarded=False)
        index = scene.layers.index(layer) + 1
        return AddLayer(scene=scene.id, layer=copy, index=index).apply(project)


class ChangeLayer(Edit, frozen=True, kw_only=True, tag="change-layer"):
    """Change fields of a layer: name, mute, solo, guarded, level, pan ..."""

    layer: str
    changes: Changes

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
