"""What is played in a voice, and where: its clip, its layer and its lengths."""

from cicada.core.answers import Fire, Pad
from cicada.core.clip import ClipTiming, clip_timing
from cicada.core.lengths import Lengths
from cicada.core.model import Clip, Layer, Project, clip_of
from cicada.core.plan import Voice


def as_layer(pad: Pad) -> Layer:
    """A pad as the layer it is: what sounds on it goes through its level and pan."""
    return Layer(
        id=pad.id,
        name=pad.name,
        off=pad.off,
        mute=pad.mute,
        solo=pad.solo,
        level=pad.level,
        pan=pad.pan,
        past_scene=pad.past_scene,
        follows=pad.follows,
        keyframes=(),
    )


def heard_on(project: Project) -> dict[str, Layer]:
    """Everything voices sound on, by id: the layers of all scenes, then the pads."""
    found = {layer.id: layer for _, layer in project.all_layers()}
    return found | {pad.id: as_layer(pad) for pad in project.pads}


class Placements:
    """Finds what the voices of a project's plans play."""

    def __init__(self, project: Project) -> None:
        self.layers = heard_on(project)
        self.lengths = Lengths(project)
        self._rate = project.rate
        self._pads = {pad.id: pad for pad in project.pads}
        self._clips: dict[str, dict[int, Clip]] = {}
        self._timings: dict[tuple[str, int, int | None, str], ClipTiming] = {}

    def layer(self, voice: Voice) -> Layer:
        """The layer a voice sounds on; its pad as a layer, if it has one."""
        return self.layers[voice.layer]

    def clip(self, voice: Voice) -> Clip:
        """The clip it is a sounding of; ``KeyError`` if that is not there."""
        if voice.fire is not None:
            deeds = self._pads[voice.layer].does
            deed = deeds[voice.fire] if voice.fire < len(deeds) else None
            if not isinstance(deed, Fire):
                raise KeyError(voice.fire)
            return clip_of(deed, voice.frame)
        clips = self._clips.get(voice.layer)
        if clips is None:
            keyframes = self.layers[voice.layer].keyframes
            clips = {k.frame: k for k in keyframes if isinstance(k, Clip)}
            self._clips[voice.layer] = clips
        return clips[voice.frame]

    def timing(self, voice: Voice) -> ClipTiming:
        """Its lengths, those of what was drawn if it was."""
        key = voice.layer, voice.frame, voice.fire, voice.plays
        timing = self._timings.get(key)
        if timing is None:
            timing = clip_timing(self.clip(voice), self.lengths[voice.plays], self._rate)
            self._timings[key] = timing
        return timing
