"""What sounds at one moment of a plan: how loud, in which loop, for how long still."""

from typing import NamedTuple

import numpy as np

from cicada.core.clip import ClipTiming
from cicada.core.following import FollowedGain, ValueTrack, layer_gain
from cicada.core.model import Clip, Project
from cicada.core.motion import MasterLine, Motion, PictureLine
from cicada.core.placements import Placements
from cicada.core.plan import Plan, Voice
from cicada.core.shape import VoiceShape


class Heard(NamedTuple):
    """A voice at a moment.

    ``gain`` is the amplitude all levels, lines and fades give it there, on its louder side;
    ``loop`` counts from 1, ``loops`` is 0 for endless; ``left`` is in samples. One that ``stands``
    is locked to a picture that waits.
    """

    voice: Voice
    clip: Clip
    gain: float
    loop: int
    loops: int
    left: int
    stands: bool


class Hearing:
    """A plan, made ready to be asked what sounds at a moment."""

    def __init__(self, plan: Plan, project: Project) -> None:
        self.plan, self.project = plan, project
        self._starts = np.array([voice.start for voice in plan.voices], np.int64)
        self._ends = np.array([voice.end for voice in plan.voices], np.int64)
        self._placements = Placements(project)
        self._motion = Motion(plan)
        self._master = MasterLine(self._motion, project.scenes)

    def at(self, sample: int) -> list[Heard]:
        """All voices that sound at a run sample, those that began last first."""
        found = np.flatnonzero((self._starts <= sample) & (self._ends > sample)).tolist()
        return [self._heard(self.plan.voices[index], sample) for index in reversed(found)]

    def _heard(self, voice: Voice, sample: int) -> Heard:
        layer, project = self._placements.layer(voice), self.project
        clip, timing = self._placements.clip(voice), self._placements.timing(voice)
        number = max(i for i, piece in enumerate(voice.pieces) if piece.start <= sample)
        piece = voice.pieces[number]
        stands = sample >= piece.end
        inside = min(sample, piece.end - 1)
        along = inside - piece.start + piece.clip_start
        level = clip.level * layer.level * project.level
        shape = VoiceShape(voice, clip, timing, level, clip.pan + layer.pan, self.plan.rate)
        gain = float(np.max(shape.gains(np.array([inside]), number)))
        loop = _loop(timing, along)
        if shape.per_loop:
            since = along - timing.loop_begins(loop)
            gain *= float(np.max(shape.line_gains(np.array([since]))))
        if layer.line:
            line = PictureLine(self._motion, layer.line, voice.visit)
            gain *= float(line.gains(inside, inside + 1)[0])
        if layer.follows is not None:
            track = ValueTrack(self._motion, project, layer.follows.value)
            followed = FollowedGain(track, layer_gain(layer.follows), self._motion.ramp)
            gain *= float(followed.gains(inside, inside + 1)[0])
        if self._master.active:
            gain *= float(self._master.gains(inside, inside + 1)[0])
        if stands:
            gain = 0.0
        return Heard(voice, clip, gain, loop + 1, clip.loops, voice.end - sample, stands)


def _loop(timing: ClipTiming, along: int) -> int:
    """The number of the loop that began last at a clip time, counted from 0."""
    loop = max(0, along - timing.loop_begins(0)) // max(1, timing.step)
    return min(loop, timing.loops - 1) if timing.loops else loop
