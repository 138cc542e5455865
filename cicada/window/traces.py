"""What the sheet draws of a plan, as geometry: frames on the axis, no pixels and no Qt.

Nothing here decides when anything sounds; all places come from the plan by way of the axis.
"""

from dataclasses import dataclass, field

from cicada.core.clip import ClipTiming, clip_timing
from cicada.core.model import Clip, Hush, Keyframe, Layer, Project, Scene
from cicada.core.placed import live_keyframes
from cicada.core.plan import Event, Place, Plan, Voice
from cicada.window.axis import Axis, visits_of

# Loops are divided by lines only while there are few enough to tell apart.
MOST_DIVISIONS = 400


@dataclass(frozen=True, slots=True)
class Trace:
    """One voice on the axis: from ``start`` to ``end``, its span up to ``span_end``.

    ``cut`` says that it ends before its own end; ``come_from`` names the scene it rings on from.
    ``held`` is how many samples it keeps the picture standing.
    """

    voice: Voice
    clip: Clip
    timing: ClipTiming
    name: str
    start: float
    end: float
    span_end: float
    cut: bool
    goes_on: bool
    divisions: tuple[float, ...] = ()
    waits_from: float | None = None
    come_from: str = ""
    held: int = 0


@dataclass(frozen=True, slots=True)
class Strike:
    """A keyframe that placed a sound which did not start, and why."""

    frame: int
    reason: str
    name: str


@dataclass(frozen=True, slots=True)
class Bar:
    """A rest or hush keyframe; a hush that ends nothing is ``idle``."""

    frame: int
    hush: bool
    idle: bool
    off: bool


@dataclass(slots=True)
class RowTraces:
    """All that stands on one row. A thin row, of what rings on, has no layer."""

    name: str
    layer: Layer | None
    traces: list[Trace] = field(default_factory=list)
    strikes: list[Strike] = field(default_factory=list)
    bars: list[Bar] = field(default_factory=list)
    off: list[tuple[int, int, str]] = field(default_factory=list)


@dataclass(slots=True)
class SceneTraces:
    """A scene of a plan as the sheet draws it."""

    scene: Scene
    axis: Axis | None
    rows: list[RowTraces]


def scene_traces(project: Project, plan: Plan, scene: Scene, number: int = 1) -> SceneTraces:
    """The traces of one scene in one pass."""
    rows = [RowTraces(layer.name or layer.id, layer) for layer in scene.layers]
    names = {sound.id: sound.name or sound.id for sound in project.sounds}
    for row in rows:
        _bars(row, scene, plan, names)
    visit = visits_of(plan, scene.id, number)
    if visit is None:
        return SceneTraces(scene, None, rows)
    axis = Axis(plan, visit, scene.length)
    drawing = _Drawing(project, plan, scene, axis, visit, names)
    by_layer = {layer.id: row for layer, row in zip(scene.layers, rows, strict=True)}
    for voice in plan.voices:
        if voice.visit == visit:
            by_layer[voice.layer].traces.append(drawing.trace(voice))
        elif voice.visit < visit and voice.start < axis.stay.end and voice.end > axis.stay.start:
            _ringing_row(project, rows, voice).traces.append(drawing.trace(voice))
    for event in plan.events:
        if event.visit == visit and event.layer in by_layer:
            drawing.strike(by_layer[event.layer], event)
    return SceneTraces(scene, axis, rows)


def _ringing_row(project: Project, rows: list[RowTraces], voice: Voice) -> RowTraces:
    """The row of the same name as the voice's layer, or a thin one of its own."""
    scene, layer = project.layer(voice.layer)
    name = layer.name or layer.id
    for row in rows:
        if row.name == name and row.layer is not None:
            return row
    own = f"{name}, {scene.name or scene.id}"
    for row in rows:
        if row.name == own and row.layer is None:
            return row
    rows.append(RowTraces(own, None))
    return rows[-1]


def _bars(row: RowTraces, scene: Scene, plan: Plan, names: dict[str, str]) -> None:
    assert row.layer is not None
    ended_by = {voice.ended_by for voice in plan.voices if voice.ended == "hush"}
    live = {keyframe.frame for keyframe in live_keyframes(scene, row.layer)}
    ordered = sorted(row.layer.keyframes, key=lambda keyframe: keyframe.frame)
    for position, keyframe in enumerate(ordered):
        if keyframe.frame >= scene.length:
            continue
        off = keyframe.frame not in live
        if isinstance(keyframe, Clip):
            if off:
                end = _next_frame(ordered, position, scene.length)
                row.off.append((keyframe.frame, end, names.get(keyframe.sound, "")))
            continue
        place = Place(scene.id, row.layer.id, keyframe.frame)
        hush = isinstance(keyframe, Hush)
        row.bars.append(Bar(keyframe.frame, hush, hush and place not in ended_by, off))


def _next_frame(ordered: list[Keyframe], position: int, length: int) -> int:
    following = ordered[position + 1 : position + 2]
    return min(length, following[0].frame) if following else length


class _Drawing:
    """What the traces of one scene have in common."""

    def __init__(
        self,
        project: Project,
        plan: Plan,
        scene: Scene,
        axis: Axis,
        visit: int,
        names: dict[str, str],
    ) -> None:
        self.project, self.plan, self.scene, self.axis = project, plan, scene, axis
        self.visit, self.names = visit, names
        self.sounds = {sound.id: sound for sound in project.sounds}
        self.keyframes = {
            (layer.id, keyframe.frame): keyframe
            for _, layer in project.all_layers()
            for keyframe in layer.keyframes
        }
        self.span_ends = {
            (layer.id, keyframe.frame): end
            for layer in scene.layers
            for keyframe, end in spans(scene, layer)
        }
        self.queued = {
            (event.layer, event.frame, event.visit): event.at
            for event in plan.events
            if event.kind == "queued"
        }
        self.holds = {
            event.frame: (event.until or event.at) - event.at
            for event in plan.events
            if event.kind == "held" and event.visit == visit
        }

    def trace(self, voice: Voice) -> Trace:
        """One voice of this scene, or ringing on into it."""
        clip = self.keyframes[voice.layer, voice.frame]
        assert isinstance(clip, Clip)
        timing = clip_timing(clip, self.sounds[clip.sound], self.plan.rate)
        own = voice.visit == self.visit
        start, end = self.axis.place(voice.start), self.axis.place(voice.end)
        span_end = self.span_ends.get((voice.layer, voice.frame), 0) if own else start
        queued = self.queued.get((voice.layer, voice.frame, voice.visit))
        come_from = ""
        if not own:
            scene, _ = self.project.layer(voice.layer)
            come_from = scene.name or scene.id
        held = self.holds.get(voice.frame, 0) if own and voice.sync == "hold" else 0
        return Trace(
            voice,
            clip,
            timing,
            self.names.get(voice.sound, voice.sound),
            start,
            end,
            float(span_end),
            voice.ended != "finished",
            voice.end > self.axis.stay.end,
            self._divisions(voice, timing),
            self.axis.place(queued) if queued is not None and own else None,
            come_from,
            held,
        )

    def _divisions(self, voice: Voice, timing: ClipTiming) -> tuple[float, ...]:
        if timing.loops == 1 or (voice.sync == "locked" and len(voice.pieces) > 1):
            return ()
        piece = voice.pieces[0]
        zero = piece.start - piece.clip_start
        first = max(1, (piece.clip_start - timing.loop_begins(0)) // timing.step + 1)
        last = (piece.clip_start + piece.end - piece.start - timing.loop_begins(0)) // timing.step
        if timing.loops:
            last = min(last, timing.loops - 1)
        moments = [
            zero + timing.loop_begins(loop)
            for loop in range(first, min(last, first + MOST_DIVISIONS) + 1)
        ]
        stay = self.axis.stay
        return tuple(self.axis.place(at) for at in moments if stay.start < at < stay.end)

    def strike(self, row: RowTraces, event: Event) -> None:
        """A clip that was left out, or left the queue before its turn."""
        if event.kind not in ("skipped", "unqueued"):
            return
        clip = self.keyframes[event.layer, event.frame]
        assert isinstance(clip, Clip)
        name = self.names.get(clip.sound, clip.sound)
        if event.kind == "unqueued":
            reason = f"never started: {name} was still waiting"
        elif clip.if_sounding == "queue":
            reason = f"left out: {name} still waits from before"
        else:
            what = name if clip.busy == "sound" else f"the layer {row.name}"
            reason = f"left out: {what} is still sounding"
        row.strikes.append(Strike(event.frame, reason, name))


def spans(scene: Scene, layer: Layer) -> list[tuple[Keyframe, int]]:
    """The keyframes of a layer that count, each with the frame its span runs up to."""
    live = live_keyframes(scene, layer)
    ends = [keyframe.frame for keyframe in live[1:]] + [scene.length]
    return list(zip(live, ends, strict=False))
