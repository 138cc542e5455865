"""The mixer: a plan and the opened sounds to samples, block by block (semantics.md, section 8).

The same code plays and renders. Cutting the run into other blocks never changes a sample: every
voice's run is divided at fixed places into stretches of constant gain and stretches that are
shaped, and both are computed from absolute times alone. Buffers are planar float32, (2, n).
"""

from bisect import bisect_left
from collections.abc import Collection

import numpy as np
from numpy.typing import NDArray

from cicada.core.following import together
from cicada.core.layer_meter import LayerMeter
from cicada.core.model import Project
from cicada.core.motion import MasterLine, Motion
from cicada.core.placements import Placements
from cicada.core.plan import Plan, Voice
from cicada.core.tone import NEVER, Sources, Tone, Tones


class Mixer:
    """Mixes one plan. ``mix`` may be called for any block in any order; in order is fastest."""

    def __init__(
        self,
        plan: Plan,
        project: Project,
        sources: Sources,
        silent: Collection[str] = (),
        muted: Collection[tuple[str, int]] = (),
        since: int = 0,
        placements: Placements | None = None,
    ) -> None:
        """``silent`` are the ids of layers and pads that are planned but not heard.

        Those of scenes among them say that pads that are not soloed are not heard there.

        ``muted`` are single clips, by layer and frame, that are not heard either.
        Nothing before run sample ``since`` is asked for, and the plan need not know it.
        ``placements`` are the project's, from one of its mixers to the next.
        """
        self.plan = plan
        self.motion = Motion(plan)
        self.master = MasterLine(self.motion, project.scenes)
        self.placements = placements or Placements(project)
        self._voices = [v for v in plan.voices if v.layer not in silent and v.cell not in muted]
        self._tones = Tones(
            self._voices, project, self.motion, self.placements, sources, since, silent
        )
        self._ends = np.array([voice.end for voice in self._voices], np.int64)
        self._sounding: list[Tone] = []
        self._soonest_end = NEVER
        self._next = 0
        self._expected = 0
        self._scratch = np.empty((2, 0), np.float32)
        # What measures each layer, where somebody wants to know.
        self.meter: LayerMeter | None = None

    @property
    def length(self) -> int:
        """The run's length in samples."""
        return self.plan.length

    def mix(self, start: int, count: int) -> NDArray[np.float32]:
        """Samples ``start..start+count`` of the run, shape (2, count); a new array."""
        out = np.zeros((2, count), np.float32)
        if not count:
            return out
        end = start + count
        if start != self._expected:
            self._locate(start)
        self._expected = end
        waiting = self._voices
        while self._next < len(waiting) and waiting[self._next].start < end:
            self._begin(waiting[self._next])
            self._next += 1
        if self._scratch.shape[1] != count:
            self._scratch = np.empty((2, count), np.float32)
        if self.meter is None:
            self._add(out, start, end)
        else:
            self._add_metered(out, start, end, self.meter)
        if self.master.active:
            out *= self.master.gains(start, end).astype(np.float32)
        return out

    def _add(self, out: NDArray[np.float32], start: int, end: int) -> None:
        scratch, mono = self._scratch, self._scratch[:1]
        multiply, add = np.multiply, np.add
        for tone in self._sounding:
            low, high, samples, shift, gain, wide, follows = tone.plain
            if low <= start and end <= high:
                if gain is None:
                    continue
                followed = together(follows, start, end) if follows else None
                if follows and followed is None:
                    continue
                into = scratch if wide else mono
                # Both gains first: they most often have one row, and samples two.
                factor = gain if followed is None else followed * gain
                multiply(samples[:, start - shift : end - shift], factor, into)
                add(out, into, out)
            else:
                tone.add_to((out,), start, end, scratch)
        self._forget_ended(end)

    def _add_metered(
        self, out: NDArray[np.float32], start: int, end: int, meter: LayerMeter
    ) -> None:
        """The same in the same order, and each voice to its layer's sum, too."""
        scratch, mono = self._scratch, self._scratch[:1]
        meter.begin(end - start)
        for tone in self._sounding:
            layer = meter.of(meter.numbers[tone.voice.layer])
            low, high, samples, shift, gain, wide, follows = tone.plain
            if low <= start and end <= high:
                if gain is None:
                    continue
                followed = together(follows, start, end) if follows else None
                if follows and followed is None:
                    continue
                into = scratch if wide else mono
                factor = gain if followed is None else followed * gain
                np.multiply(samples[:, start - shift : end - shift], factor, into)
                np.add(out, into, out)
                np.add(layer, into, layer)
            else:
                tone.add_to((out, layer), start, end, scratch)
        meter.end()
        self._forget_ended(end)

    def _forget_ended(self, end: int) -> None:
        if end >= self._soonest_end:
            self._sounding = [tone for tone in self._sounding if tone.end > end]
            self._soonest_end = min((tone.end for tone in self._sounding), default=NEVER)

    def _locate(self, start: int) -> None:
        self._sounding = []
        self._soonest_end = NEVER
        self._next = bisect_left(self._voices, start, key=lambda voice: voice.start)
        for number in np.flatnonzero(self._ends[: self._next] > start):
            self._begin(self._voices[number])

    def _begin(self, voice: Voice) -> None:
        self._sounding += self._tones.of(voice)
        self._soonest_end = min(self._soonest_end, voice.end)
