"""What the sheet draws of a plan, as geometry: places on the axis, no pixels and no Qt.

Nothing here decides when anything sounds; all places come from the plan by way of the axis. What
stands on a row is worked out when the row is first looked at, so that an edit costs what is in
sight and not what is in the film.
"""

from collections.abc import Sequence
from functools import cached_property

import numpy as np
from msgspec.structs import replace
from numpy.typing import NDArray

from cicada.core.answers import Input, Pad
from cicada.core.arrays import Numbers
from cicada.core.clip import ClipTiming
from cicada.core.following import Following
from cicada.core.model import Clip, Hush, Keyframe, Layer, Project, Scene
from cicada.core.motion import Motion
from cicada.core.placed import live_keyframes, span_ends
from cicada.core.placements import Placements
from cicada.core.placing import row_of
from cicada.core.plan import Anchor, Event, Plan, Voice, VoiceKey
from cicada.core.reasons import why_left_out
from cicada.window.drawing.axis import Axis
from cicada.window.drawing.traced import Bar, Off, Strike, Tie, Trace
from cicada.window.words.silences import on_sheet

# Loops are divided by lines only while there are few enough to tell apart.
MOST_DIVISIONS = 400
# What a voice looks like: its sync, or that it had to wait for its turn.
KINDS = ("locked", "free", "hold", "queued")


# The places between which something is drawn.
Extent = tuple[float, float]
EVERYWHERE: Extent = (float("-inf"), float("inf"))


class Row:
    """All that stands on one row. A thin row, of what rings on or of a pad, has no layer."""

    def __init__(
        self, scene: "SceneTraces", name: str, layer: Layer | None, pad: Pad | None = None
    ) -> None:
        self._scene = scene
        self.name, self.layer, self.pad = name, layer, pad
        # The places at which its pad was pressed.
        self.presses: list[float] = []
        self.voices: list[Voice] = []
        self.events: list[Event] = []
        self._made: dict[int, Trace] = {}

    @cached_property
    def starts(self) -> Numbers:
        """The place each voice starts at."""
        return self._places([voice.pieces[0].start for voice in self.voices])

    @cached_property
    def ends(self) -> Numbers:
        """The place each voice ends at."""
        return self._places([voice.pieces[-1].end for voice in self.voices])

    @cached_property
    def own(self) -> NDArray[np.bool_]:
        """Whether each voice began in this visit."""
        return np.array([voice.visit == self._scene.visit for voice in self.voices], bool)

    @cached_property
    def kinds(self) -> NDArray[np.int64]:
        """What each voice is, as an index of ``KINDS``."""
        queued = KINDS.index("queued")
        return np.array(
            [queued if v.why == "queued" else KINDS.index(v.sync) for v in self.voices], np.int64
        )

    @cached_property
    def held(self) -> NDArray[np.bool_]:
        """Whether each voice keeps the picture standing."""
        holds = self._scene.holds
        held = [v.sync == "hold" and v.frame in holds for v in self.voices]
        return np.asarray(np.logical_and(self.own, np.array(held, bool)), bool)

    @cached_property
    def span_ends(self) -> Numbers:
        """The place each voice's span ends at; of one from elsewhere, where it starts."""
        scene = self._scene
        if scene.axis is None or not self.voices:
            return np.zeros(0)
        ends = scene.span_ends(self.layer) if self.layer is not None else {}
        frames = [ends.get(voice.frame, 0) for voice in self.voices]
        return np.where(self.own, scene.axis.of_frames(np.array(frames, np.float64)), self.starts)

    def _places(self, samples: list[int]) -> Numbers:
        axis = self._scene.axis
        if axis is None or not samples:
            return np.zeros(0)
        return axis.places(np.array(samples))

    def trace(self, index: int) -> Trace:
        """The voice of that index, drawn."""
        if index not in self._made:
            self._made[index] = self._scene.trace(self, index)
        return self._made[index]

    def changed_from(self, other: "Row") -> Extent | None:
        """The places between which it looks other than ``other``, on an axis that is the same.

        ``EVERYWHERE`` if it may differ at any place, None if it looks the same.
        """
        if not self._alike(other):
            return EVERYWHERE
        places = []
        if self.bars != other.bars or self.off != other.off:
            frames = [bar.frame for bar in set(self.bars) ^ set(other.bars)]
            for off in set(self.off) ^ set(other.off):
                frames += [off.frame, off.end]
            places += [self._scene.of_frame(frame) for frame in frames]
        if self.voices != other.voices or not np.array_equal(self.span_ends, other.span_ends):
            mine, theirs = self.by_keyframe(), other.by_keyframe()
            for key in mine.keys() | theirs.keys():
                one, two = mine.get(key), theirs.get(key)
                if one == two:
                    continue
                for _, start, end, _ in (each for each in (one, two) if each is not None):
                    places += [start, end]
        return (min(places), max(places)) if places else None

    def _alike(self, other: "Row") -> bool:
        """Whether it differs in keyframes and soundings at most, and those draw only in place."""
        mine, theirs = self.layer, other.layer
        if (mine is None) != (theirs is None) or self.name != other.name:
            return False
        if mine is not None and theirs is not None:
            bare = [mine] if mine is theirs else [replace(x, keyframes=()) for x in (mine, theirs)]
            if bare[0] != bare[-1]:
                return False
        if self.events != other.events or self.presses != other.presses:
            return False
        axis = self._scene.axis
        if axis is not None and axis.waits and self.voices != other.voices:
            return False
        # What holds or waits its turn is drawn, and written about, beside where it sounds.
        mark = {
            v for row in (self, other) for v in row.voices if v.sync == "hold" or v.why == "queued"
        }
        return not mark or self.voices == other.voices

    def by_keyframe(self) -> dict[object, tuple[Voice, float, float, float]]:
        """Each voice with its places, by what fires it and when."""
        places = zip(self.starts.tolist(), self.ends.tolist(), self.span_ends.tolist(), strict=True)
        return {
            voice.key: (voice, *place) for voice, place in zip(self.voices, places, strict=True)
        }

    def take_over(self, other: "Row") -> None:
        """Keep what was worked out for a row that looks the same."""
        for name in ("starts", "ends", "span_ends", "own", "kinds", "held"):
            if name in other.__dict__:
                self.__dict__[name] = other.__dict__[name]

    @property
    def traces(self) -> list[Trace]:
        """All voices, drawn."""
        return [self.trace(index) for index in range(len(self.voices))]

    @cached_property
    def bars(self) -> list[Bar]:
        """Rests and hushes."""
        return self._standing[0]

    @cached_property
    def off(self) -> list[Off]:
        """Clips that are switched off."""
        return self._standing[1]

    @cached_property
    def strikes(self) -> list[Strike]:
        """Clips that were left out, or left the queue before their turn."""
        return [self._scene.strike(self, event) for event in self.events]

    @cached_property
    def _standing(self) -> tuple[list[Bar], list[Off]]:
        bars: list[Bar] = []
        off: list[Off] = []
        if self.layer is None:
            return bars, off
        scene, layer = self._scene, self.layer
        length = scene.scene.length
        live = {keyframe.frame for keyframe in live_keyframes(scene.scene, layer)}
        ordered = sorted(layer.keyframes, key=lambda keyframe: keyframe.frame)
        for position, keyframe in enumerate(ordered):
            frame = keyframe.frame
            if frame >= length:
                break
            if isinstance(keyframe, Clip):
                if frame not in live:
                    following = ordered[position + 1 : position + 2]
                    end = min(length, following[0].frame) if following else length
                    off.append(Off(frame, end, scene.names.get(keyframe.sound, "")))
                continue
            place = Anchor(scene.scene.id, layer.id, frame)
            hush = isinstance(keyframe, Hush)
            idle = hush and place not in scene.ended_by
            bars.append(Bar(frame, hush, idle, frame not in live))
        return bars, off


# The events that keep a clip from starting.
NOT_STARTED = ("skipped", "unqueued", "nothing-open")


class SceneTraces:
    """A scene of a plan as the sheet draws it, in the pass of that number."""

    def __init__(
        self,
        project: Project,
        plan: Plan,
        scene: Scene,
        number: int = 1,
        *,
        opened: bool = False,
        inputs: Sequence[Input] = (),
    ) -> None:
        """``inputs`` are what was given in the run of the plan."""
        self.project, self.plan, self.scene, self.number = project, plan, scene, number
        self.made = {made.id: made for made in project.all_placeables()}
        self.names = {placed: made.label for placed, made in self.made.items()}
        self.placements = Placements(project)
        self._pads = {pad.id: pad for pad in project.pads}
        self.rows = [Row(self, layer.label, layer) for layer in scene.layers]
        self.visit = plan.visit_of(scene.id, number)
        self.axis = None if self.visit is None else Axis(plan, self.visit, opened=opened)
        self.ended_by: dict[Anchor, list[Voice]] = {}
        self._by_layer = {layer.id: row for layer, row in zip(scene.layers, self.rows, strict=True)}
        self._keyframes: dict[str, dict[int, Keyframe]] = {}
        self._spans: dict[str, dict[int, int]] = {}
        self.queued: dict[VoiceKey, int] = {}
        self.holds: dict[int, int] = {}
        if self.axis is not None:
            self._share_out(self.axis)
            self._share_presses(self.axis, inputs)

    def _share_out(self, axis: Axis) -> None:
        """Give every voice and event of this visit to its row."""
        visit, start, end = self.visit, axis.stay.start, axis.stay.end
        assert visit is not None
        by_layer = {layer: row.voices for layer, row in self._by_layer.items()}
        for voice in self.plan.voices:
            if voice.layer in self._pads:
                if voice.start < end and voice.end > start:
                    self._pad_row(self._pads[voice.layer]).voices.append(voice)
                continue
            if voice.visit == visit:
                by_layer[voice.layer].append(voice)
            elif voice.visit < visit and voice.start < end and voice.end > start:
                self._ringing_row(voice).voices.append(voice)
            else:
                continue
            if voice.ended_by is not None and start <= voice.told_to_end <= end:
                self.ended_by.setdefault(voice.ended_by, []).append(voice)
        for event in self.plan.events:
            if event.kind == "queued":
                self.queued[VoiceKey(event.layer, event.frame, event.visit)] = event.at
            elif event.visit != visit:
                continue
            elif event.kind == "held":
                self.holds[event.frame] = (event.until or event.at) - event.at
            elif (
                event.kind in ("skipped", "unqueued", "nothing-open")
                and event.layer in self._by_layer
            ):
                self._by_layer[event.layer].events.append(event)

    def _share_presses(self, axis: Axis, inputs: Sequence[Input]) -> None:
        """Give the presses of this visit to the rows of their pads."""
        stay = axis.stay
        for given in inputs:
            pad = self._pads.get(given.pad or "")
            if pad is not None and not pad.off and stay.start <= given.at < stay.end:
                self._pad_row(pad).presses.append(axis.place(given.at))

    def _pad_row(self, pad: Pad) -> Row:
        """A thin row for what a pad does."""
        for row in self.rows:
            if row.pad is pad:
                return row
        self.rows.append(Row(self, pad.label, None, pad))
        return self.rows[-1]

    def _thin_row(self, name: str) -> Row:
        for row in self.rows:
            if row.name == name and row.layer is None and row.pad is None:
                return row
        self.rows.append(Row(self, name, None))
        return self.rows[-1]

    def _ringing_row(self, voice: Voice) -> Row:
        """The row of the same name as the voice's layer, or a thin one of its own."""
        here = row_of(self.project, self.scene, voice.layer)
        if here:
            return self._by_layer[here]
        scene, layer = self.project.layer(voice.layer)
        return self._thin_row(f"{layer.label}, {scene.label}")

    @cached_property
    def following(self) -> Following:
        """What follows a value in this plan."""
        return Following(self.project, Motion(self.plan))

    # -- lookups -------------------------------------------------------------------------------

    def row_of(self, layer: str) -> int | None:
        """The number of a layer's row."""
        for index, row in enumerate(self.rows):
            if row.layer is not None and row.layer.id == layer:
                return index
        return None

    def of_frame(self, frame: float) -> float:
        """The place where a frame begins."""
        return frame if self.axis is None else self.axis.of_frame(frame)

    def frame_at(self, place: float) -> float:
        """The frame at a place."""
        return place if self.axis is None else self.axis.frame_at(place)

    def keyframe(self, layer_id: str, frame: int) -> Keyframe:
        """A keyframe of any layer of the project the plan is of."""
        found = self._keyframes.get(layer_id)
        if found is None:
            _, layer = self.project.layer(layer_id)
            found = self._keyframes[layer_id] = {k.frame: k for k in layer.keyframes}
        return found[frame]

    def span_ends(self, layer: Layer) -> dict[int, int]:
        """The frame each live keyframe's span runs up to."""
        if layer.id not in self._spans:
            self._spans[layer.id] = span_ends(self.scene, layer)
        return self._spans[layer.id]

    # -- drawing one ---------------------------------------------------------------------------

    def trace(self, row: Row, index: int) -> Trace:
        """One voice of this scene, or ringing on into it."""
        axis, voice = self.axis, row.voices[index]
        assert axis is not None
        clip, timing = self.placements.clip(voice), self.placements.timing(voice)
        own = voice.visit == self.visit
        queued = self.queued.get(voice.key)
        return Trace(
            voice,
            clip,
            timing,
            self.names[voice.sound],
            float(row.starts[index]),
            float(row.ends[index]),
            float(row.span_ends[index]),
            voice.ended != "finished",
            voice.end > axis.stay.end,
            self._divisions(voice, timing, axis),
            axis.place(queued) if queued is not None and own else None,
            "" if own else self._come_from(voice),
            self.holds.get(voice.frame, 0) if own and voice.sync == "hold" else 0,
            axis.into_wait(voice.start),
            axis.into_wait(voice.end),
        )

    def _come_from(self, voice: Voice) -> str:
        visit = self.plan.visits[voice.visit]
        scene = self.project.scene(visit.scene)
        earlier = f"pass {visit.number}"
        if visit.scene == self.scene.id:
            return earlier
        name = scene.label
        return name if visit.number == self.number else f"{name}, {earlier}"

    def _divisions(self, voice: Voice, timing: ClipTiming, axis: Axis) -> tuple[float, ...]:
        if timing.loops == 1 or (voice.sync == "locked" and len(voice.pieces) > 1):
            return ()
        piece = voice.pieces[0]
        zero = piece.start - piece.clip_start
        first = max(1, (piece.clip_start - timing.loop_begins(0)) // timing.step + 1)
        last = (piece.clip_start + piece.end - piece.start - timing.loop_begins(0)) // timing.step
        if timing.loops:
            last = min(last, timing.loops - 1)
        stay = axis.stay
        moments = [
            zero + timing.loop_begins(loop)
            for loop in range(first, min(last, first + MOST_DIVISIONS) + 1)
        ]
        inside = [at for at in moments if stay.start < at < stay.end]
        return tuple(axis.places(np.array(inside)).tolist()) if inside else ()

    def strike(self, row: Row, event: Event) -> Strike:
        """A clip that was left out, or left the queue before its turn."""
        clip = self.keyframe(event.layer, event.frame)
        assert isinstance(clip, Clip)
        name, why = self.names[clip.sound], why_left_out(event, clip)
        assert why is not None
        return Strike(event.frame, on_sheet(why, clip, name, row.name), name)

    @cached_property
    def ties(self) -> list[Tie]:
        """What ends voices on other rows than its own, hushes and clips that start over."""
        result: dict[Tie, None] = {}
        if not self.ended_by:
            return []
        rows = {id(v): index for index, row in enumerate(self.rows) for v in row.voices}
        for place, ended in self.ended_by.items():
            row = self.row_of(place.layer)
            if row is None or place.scene != self.scene.id:
                continue
            for voice in ended:
                to = rows[id(voice)]
                if to != row:
                    at = self.of_frame(place.frame)
                    result[Tie(row, to, at, voice.ended == "hush")] = None
        return list(result)
