"""Placing a sound and hushing what sounds, as whole edits: with the layers they need."""

from collections.abc import Sequence

from msgspec.structs import replace

from cicada.core.editing import Cell, Edit, Several
from cicada.core.keyframe_edits import HushSound, PlaceClip
from cicada.core.layer_edits import AddLayer
from cicada.core.model import Hush, Layer, Project, Scene
from cicada.core.naming import free_id, free_name
from cicada.core.plan import Voice

# Seconds over which what is hushed fades.
FADE = 0.2


def placing(project: Project, scene: Scene, sound: str, cell: Cell) -> tuple[Edit, Cell]:
    """The edit that puts a sound on a cell, and that cell; without a layer, on a new one.

    The new layer is named after the sound.
    """
    name = project.placeable(sound).label
    if cell.layer:
        put = PlaceClip(layer=cell.layer, frame=cell.frame, sound=sound, sound_name=name)
        return put, cell
    free = free_name(name, {layer.name for layer in scene.layers})
    layer = Layer(id=free_id("l", project), name=free, keyframes=())
    put = PlaceClip(layer=layer.id, frame=cell.frame, sound=sound, sound_name=name)
    edits = (AddLayer(scene=scene.id, layer=layer), put)
    return Several(named=put.title, edits=edits), Cell(layer.id, cell.frame)


def row_of(project: Project, scene: Scene, layer_id: str) -> str:
    """The layer of a scene on whose row a layer's voices stand: itself, or one of its name.

    Empty if there is none: what rings in from another scene then has a row of its own.
    """
    if any(layer.id == layer_id for layer in scene.layers):
        return layer_id
    label = project.layer(layer_id)[1].label
    return next((layer.id for layer in scene.layers if layer.label == label), "")


def hush_on(cell: Cell, sounding: Sequence[Voice]) -> Hush:
    """The hush for a cell, from what sounds on that layer's row while its frame is shown.

    What rings in from another scene is not placed on the layer; it is hushed by its sound.
    """
    hush = Hush(frame=cell.frame, fade=FADE)
    if sounding and all(voice.layer != cell.layer for voice in sounding):
        return replace(hush, target="sound", sound=sounding[0].sound)
    return hush


def hushing(project: Project, scene: Scene, frame: int, voices: Sequence[Voice]) -> Edit:
    """The edit that silences voices on a frame; one hush of a sound ends all its soundings."""
    own = {layer.id for layer in scene.layers}
    first = {voice.sound: voice for voice in reversed(voices)}
    edits = tuple(
        HushSound(
            scene=scene.id,
            layer=voice.layer,
            clip_frame=voice.frame if voice.layer in own else None,
            sound=sound,
            frame=frame,
            fade=FADE,
            sound_name=project.placeable(sound).name,
        )
        for sound, voice in first.items()
    )
    return edits[0] if len(edits) == 1 else Several(named=f"hush {len(edits)} sounds", edits=edits)
