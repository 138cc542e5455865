"""What is not heard: muted layers and pads, and those beside soloed ones (semantics.md, 7)."""

from cicada.core.model import Project


def muted(project: Project) -> frozenset[str]:
    """The ids of all layers and pads that are muted: what a mixdown leaves out."""
    layers = [layer.id for _, layer in project.all_layers() if layer.mute]
    return frozenset(layers) | {pad.id for pad in project.pads if pad.mute}


def silent_when_listening(project: Project) -> frozenset[str]:
    """The ids of the layers and pads that are not heard in the window, by mute and solo.

    A soloed pad silences what is not soloed everywhere, a soloed layer the layers of its scene.
    The id of a scene among them says that pads that are not soloed are not heard while it runs.
    """
    pad_solo = any(pad.solo for pad in project.pads)
    silent = {pad.id for pad in project.pads if pad.mute or (pad_solo and not pad.solo)}
    for scene in project.scenes:
        some = pad_solo or any(layer.solo for layer in scene.layers)
        silent |= {x.id for x in scene.layers if x.mute or (some and not x.solo)}
        if some and not pad_solo:
            silent.add(scene.id)
    return frozenset(silent)
