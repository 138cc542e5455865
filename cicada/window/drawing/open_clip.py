"""A clip opened on the sheet: where its lanes, handles and hits are, in pixels.

Moments are those of the clip's own clock (``core.shaping``): run samples of a clip with a clock of
its own, the scene's of a locked one.
"""

from dataclasses import replace as replaced
from functools import cached_property
from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF

from cicada.core.editing import Cell, Edit
from cicada.core.keyframe_edits import ChangeKeyframes
from cicada.core.layer_edits import ChangeLayer
from cicada.core.model import Clip, Layer, Placeable
from cicada.core.reshaping import shaping_of
from cicada.core.scene_edits import ChangeScene
from cicada.core.shaping import Shaping
from cicada.core.timebase import seconds_to_samples
from cicada.core.values import Line
from cicada.media.moments import Moments
from cicada.window.drawing.lanes import Lane
from cicada.window.drawing.layout import HEAD, SheetLayout
from cicada.window.drawing.traced import Trace
from cicada.window.drawing.traces import SceneTraces
from cicada.window.words.numbers import fixed
from cicada.window.words.numbers import shown as number

GripKind = Literal["head", "tail", "fade_in", "fade_out", "slip", "hit", "peak", "overlap"]
# From the top of the row: the strip of name and hits, the waveform, the band to slip by, the
# pan lane.
STRIP, SLIP, PAN = 20, 13, 40
# How near, in pixels, a handle is taken hold of.
GRIP = 5.0


class Grip(NamedTuple):
    """Something to take hold of. ``sample`` is of the sound, for hits; ``own`` a set one."""

    kind: GripKind
    at: QPointF
    sample: int = 0
    own: bool = False


class OpenClip:
    """One clip, opened in its row."""

    def __init__(
        self,
        traces: SceneTraces,
        layout: SheetLayout,
        row: int,
        cell: Cell,
        moments: Moments | None,
        width: int,
    ) -> None:
        self.traces, self.layout, self.cell, self.width = traces, layout, cell, width
        self.moments = moments
        self.top, self.height = layout.row_top(row), layout.rows[row]
        self.shaping: Shaping = shaping_of(traces.project, cell, traces.plan, traces.visit)
        self.trace = self._trace(row)

    def _trace(self, number: int) -> Trace | None:
        row = self.traces.rows[number]
        for index, voice in enumerate(row.voices):
            if row.own[index] and voice.cell == self.cell:
                return row.trace(index)
        return None

    @property
    def clip(self) -> Clip:
        """The clip as it is."""
        return self.shaping.clip

    @property
    def layer(self) -> Layer | None:
        """The layer it is on."""
        number = self.traces.row_of(self.cell.layer)
        return None if number is None else self.traces.rows[number].layer

    @property
    def sound(self) -> Placeable:
        """What it places."""
        return self.shaping.sound

    @property
    def rate(self) -> int:
        """Samples a second."""
        return self.shaping.rate

    # -- where things are ----------------------------------------------------------------------

    @cached_property
    def wave(self) -> QRectF:
        """The box of the waveform and the level line."""
        upper = self.top + STRIP
        lower = self.top + self.height - SLIP - PAN - 8
        return QRectF(HEAD, upper, self.width - HEAD, lower - upper)

    @cached_property
    def slip_band(self) -> QRectF:
        """The band by which the sound is slipped."""
        left, right = max(HEAD, self.x_of(self.begins)), min(self.width, self.x_of(self.ends))
        return QRectF(left, self.wave.bottom() + 1, max(0.0, right - left), SLIP - 2)

    @cached_property
    def shift(self) -> int:
        """How much later than its keyframe it starts, where it has to wait for its turn."""
        if self.trace is None or self.clip.sync == "locked":
            return 0
        voice = self.trace.voice
        first = voice.pieces[0].start - voice.pieces[0].clip_start
        return first - self.shaping.clock.enters(self.clip.frame)

    @cached_property
    def begins(self) -> int:
        """The moment its first loop starts, had it not to wait."""
        return self.shaping.begins

    @cached_property
    def ends(self) -> int:
        """The moment its last loop is over, had it not to wait; of an endless one the end drawn."""
        timing = self.shaping.timing
        if timing.total is not None:
            return self.begins - timing.delay + timing.total
        if self.trace is not None and self.clip.sync != "locked":
            return self.trace.voice.end - self.shift
        return self.shaping.clock.enters(self.traces.scene.length)

    @property
    def fade_ends(self) -> int:
        """The moment its fade-out is over: a locked clip's, where its span may cut it."""
        length = None if self.trace is None else self.trace.voice.fade_length
        return self.ends if length is None else self.begins - self.shaping.timing.delay + length

    @cached_property
    def first_loop_ends(self) -> int:
        """The moment its first loop is over."""
        timing = self.shaping.timing
        return self.begins - timing.offset + timing.loop

    def x_of(self, moment: float) -> float:
        """The pixel column of a moment."""
        if self.clip.sync == "locked" or self.traces.axis is None:
            position = self.traces.plan.timebase.position(max(0.0, moment))
            return self.layout.frame_x(position)
        axis, at = self.traces.axis, moment + self.shift
        # Outside the scene's frames the axis has no places; they go on as its frames would.
        stay, base = axis.stay, self.traces.plan.timebase
        if at < stay.start:
            return self.layout.x(base.fps * (at - stay.start) / base.rate)
        if at > stay.end:
            return self.layout.x(axis.end + base.fps * (at - stay.end) / base.rate)
        whole = int(at // 1)
        return self.layout.x(axis.place(whole) + (at - whole) * base.fps / base.rate)

    def moment_at(self, x: float) -> int:
        """The moment at a pixel column."""
        base = self.traces.plan.timebase
        if self.clip.sync == "locked" or self.traces.axis is None:
            frame = max(0.0, self.layout.frame(x))
            whole = int(frame)
            return base.start(whole) + round((frame - whole) * base.duration(whole))
        axis, place = self.traces.axis, self.layout.place(x)
        if place > axis.end:
            at = axis.stay.end + round((place - axis.end) * base.rate / base.fps)
        elif place < 0:
            at = axis.stay.start + round(place * base.rate / base.fps)
        else:
            at = axis.sample(place)
        return at - self.shift

    def moments_at(self, xs: NDArray[np.float64]) -> NDArray[np.float64]:
        """The moments at pixel columns (ascending), within the scene; for drawing."""
        base, axis = self.traces.plan.timebase, self.traces.axis
        places = self.layout.left + (xs - HEAD) / self.layout.scale
        if self.clip.sync == "locked" or axis is None:
            frames = np.array([self.traces.frame_at(place) for place in places.tolist()])
            return frames * (base.rate / base.fps)
        return axis.samples(np.clip(places, 0, axis.end)).astype(np.float64) - self.shift

    # -- grips ---------------------------------------------------------------------------------

    @cached_property
    def fades(self) -> tuple[float, float]:
        """The pixel columns where the fade in is over and the fade out begins."""
        rate, clip = self.rate, self.clip
        into = self.begins + seconds_to_samples(clip.fade_in, rate)
        out = self.fade_ends - seconds_to_samples(clip.fade_out, rate)
        return self.x_of(into), self.x_of(out)

    @cached_property
    def hits(self) -> list[Grip]:
        """The hits set by hand and those found, with their peaks, where they are heard first."""
        own = [seconds_to_samples(hit, self.rate) for hit in self.shaping.hits]
        found = [] if self.moments is None else list(self.moments.hits)
        onsets = [one.onset for one in found if one.onset not in own]
        marks: list[tuple[GripKind, int]] = [("hit", sample) for sample in (*own, *onsets)]
        marks += [("peak", sample) for sample in (self.moments.peaks if self.moments else ())]
        timing = self.shaping.timing
        grips = []
        for kind, sample in marks:
            into = self.shaping.playing(sample - timing.first) - timing.offset
            if into >= 0 and sample < timing.last:
                x = self.x_of(self.shaping.moment_of(sample))
                y = self.top + STRIP - 5 if kind == "hit" else self.wave.top() + 12
                grips.append(Grip(kind, QPointF(x, y), sample, kind == "hit" and sample in own))
        return grips

    @cached_property
    def grips(self) -> list[Grip]:
        """All that can be taken hold of, the smaller first."""
        wave, timing = self.wave, self.shaping.timing
        into, out = self.fades
        middle = wave.center().y()
        grips = [*self.hits, Grip("fade_in", QPointF(into, wave.top() + 3))]
        if timing.total is not None:
            grips.append(Grip("fade_out", QPointF(out, wave.top() + 3)))
        if timing.loops != 1:
            second = self.begins - timing.offset + timing.step
            grips.append(Grip("overlap", QPointF(self.x_of(second), wave.bottom() - 4)))
        grips.append(Grip("head", QPointF(self.x_of(self.begins), middle)))
        grips.append(Grip("tail", QPointF(self.x_of(self.first_loop_ends), middle)))
        return grips

    def grip_at(self, at: QPointF) -> Grip | None:
        """What can be taken hold of at a place of the sheet."""
        wave = self.wave
        for grip in self.grips:
            near_x = abs(grip.at.x() - at.x()) <= GRIP
            tall = grip.kind in ("head", "tail") and wave.top() <= at.y() <= wave.bottom()
            if near_x and (tall or abs(grip.at.y() - at.y()) <= GRIP + 2):
                return grip
        if self.slip_band.contains(at):
            return Grip("slip", at)
        return None

    # -- lanes ---------------------------------------------------------------------------------

    @cached_property
    def lanes(self) -> list[Lane]:
        """Its level line, over the waveform, and its pan line below it."""
        wave = self.wave
        timing, rate = self.shaping.timing, self.rate
        zero = self.begins - (timing.offset if self.clip.line_over == "loop" else 0)
        over = timing.loop if self.clip.line_over == "loop" else self.ends - self.begins
        left, right = (
            max(float(HEAD), self.x_of(self.begins)),
            min(self.width, self.x_of(self.ends)),
        )
        level = Lane(
            "level",
            self.clip.level_line,
            wave.top() + 2,
            wave.bottom() - 2,
            left,
            max(left, right),
            over / rate,
            lambda seconds: self.x_of(zero + seconds * rate),
            lambda xs: np.maximum(0.0, (self.moments_at(xs) - zero) / rate),
            lambda line: self._change("level_line", line),
            self._said,
            "level line",
        )
        upper = wave.bottom() + SLIP + 2
        pan = replaced(
            level,
            kind="pan",
            line=self.clip.pan_line,
            upper=upper,
            lower=upper + PAN,
            put=lambda line: self._change("pan_line", line),
            name="pan line",
        )
        return [level, pan]

    def _change(self, field: str, line: Line) -> Edit:
        name = "the level line" if field == "level_line" else "the pan line"
        return ChangeKeyframes(cells=(self.cell,), changes={field: line}, what=name)

    def _said(self, seconds: float) -> str:
        base = self.traces.plan.timebase
        return f"{fixed(seconds, 3)} s, {fixed(seconds * base.fps, 1)} f into the clip"


class OpenLine:
    """A layer's line or the master line, opened: by frames, over the whole scene."""

    def __init__(
        self, traces: SceneTraces, layout: SheetLayout, layer: Layer | None, width: int
    ) -> None:
        self.layer = layer
        self.traces, self.layout = traces, layout
        scene = traces.scene
        if layer is None:
            top, height = layout.foot, layout.mix
            line, name = scene.master, "master line"
        else:
            row = traces.row_of(layer.id)
            assert row is not None
            top, height = layout.row_top(row), layout.rows[row]
            line, name = layer.line, f"line of {layer.label}"
        right = min(float(width), layout.frame_x(scene.length))
        self.lanes = [
            Lane(
                "level",
                line,
                top + 8.0,
                top + height - 8.0,
                float(HEAD),
                max(float(HEAD), right),
                float(scene.length),
                layout.frame_x,
                lambda xs: np.array([max(0.0, layout.frame(x)) for x in xs.tolist()]),
                self._put,
                self._said,
                name,
            )
        ]

    def _put(self, line: Line) -> Edit:
        if self.layer is None:
            return ChangeScene(scene=self.traces.scene.id, changes={"master": line})
        return ChangeLayer(layer=self.layer.id, changes={"line": line})

    def _said(self, frame: float) -> str:
        base = self.traces.plan.timebase
        shown = frame + self.traces.project.first_frame
        return f"frame {number(shown)}, {fixed(frame / base.fps, 3)} s"


Openable = OpenClip | OpenLine
