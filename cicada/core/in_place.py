"""One sound heard in place of all others, while the picture goes as it does."""

from msgspec.structs import replace

from cicada.core.model import Clip, Layer, Project, Sound
from cicada.core.naming import all_ids, next_id


def in_place(project: Project, sound: Sound, scene: str, frame: int) -> Project:
    """The project in which nothing but a sound is heard, from a frame of a scene on.

    The others are muted, which changes nothing of what happens.
    """
    ids = all_ids(project)
    heard = Layer(
        id=next_id("l", ids | {sound.id}),
        name=sound.label,
        keyframes=(Clip(frame=frame, sound=sound.id),),
    )
    scenes = []
    for each in project.scenes:
        muted = tuple(replace(layer, mute=True, solo=False) for layer in each.layers)
        layers = (*muted, heard) if each.id == scene else muted
        scenes.append(replace(each, layers=layers, master=()))
    pads = tuple(replace(pad, mute=True, solo=False) for pad in project.pads)
    return replace(
        project, level=1.0, sounds=(*project.sounds, sound), scenes=tuple(scenes), pads=pads
    )
