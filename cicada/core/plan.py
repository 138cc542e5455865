"""What a plan is: the exact list of what is shown and what sounds in one run.

All times are whole samples from the run's origin. The planner (``planner``) is the only maker
of plans; everything that draws, plays, renders, checks or exports reads one.
"""

from bisect import bisect_right
from collections.abc import Iterator
from typing import Literal, NamedTuple

from msgspec import Struct

from cicada.core.editing import Cell
from cicada.core.timebase import Timebase
from cicada.core.values import Sync

Why = Literal["fired", "queued", "joined"]
Ended = Literal["finished", "span", "hush", "restarted", "scene", "run"]
EventKind = Literal[
    "skipped",
    "queued",
    "unqueued",
    "nothing-open",
    "endless-hold",
    "blocked-hold",
    "held",
    "waiting",
    "limited",
]


class Piece(NamedTuple):
    """An unbroken stretch of a voice: run samples, half-open, and the clip time it begins at."""

    start: int
    end: int
    clip_start: int


class Anchor(NamedTuple):
    """The keyframe a thing belongs to."""

    scene: str
    layer: str
    frame: int


class VoiceKey(NamedTuple):
    """A sounding of a keyframe: in which visit of its scene it fired.

    What a pad fires has a moment and the number of its deed instead of a keyframe of its own.
    """

    layer: str
    frame: int
    visit: int
    fired: tuple[int, int] | None = None


class Voice(Struct, frozen=True, gc=False):
    """One sounding of a clip.

    ``fades`` are the releases and hushes that fade it, in run samples. ``length`` is the clip's
    own length (None: endless), ``fade_length`` the length its fade-out counts back from (None:
    it has none). ``visit`` is the index in ``Plan.visits`` of the stay in its scene that fired
    it, and ``ended_by`` the keyframe that ended it, where one did. ``picked`` is the sound of the
    part that was drawn from a pool. While what it takes the place of fades, it rises over ``rise``.
    ``fire`` is which deed of its pad it is; then ``layer`` is the pad.
    """

    scene: str
    layer: str
    frame: int
    sound: str
    sync: Sync
    why: Why
    ended: Ended
    pieces: tuple[Piece, ...]
    fades: tuple[tuple[int, int], ...]
    length: int | None
    fade_length: int | None
    visit: int
    ended_by: Anchor | None = None
    picked: str | None = None
    rise: tuple[int, int] | None = None
    fire: int | None = None

    @property
    def plays(self) -> str:
        """What is heard of it: its sound, or what was drawn from its pool."""
        return self.picked or self.sound

    @property
    def start(self) -> int:
        """The first sample it is audible at."""
        return self.pieces[0].start

    @property
    def end(self) -> int:
        """The sample after the last it is audible at."""
        return self.pieces[-1].end

    @property
    def told_to_end(self) -> int:
        """The sample at which what ends it happens: before its fade, if it has one."""
        if self.fades and self.fades[-1][1] == self.end:
            return self.fades[-1][0]
        return self.end

    @property
    def anchor(self) -> Anchor:
        """Its keyframe."""
        return Anchor(self.scene, self.layer, self.frame)

    @property
    def cell(self) -> Cell:
        """Where its keyframe stands on its layer."""
        return Cell(self.layer, self.frame)

    @property
    def key(self) -> VoiceKey:
        """What tells it from all others of its plan, and finds it again in the next one."""
        fired = None if self.fire is None else (self.start, self.fire)
        return VoiceKey(self.layer, self.frame, self.visit, fired)


class Event(Struct, frozen=True, omit_defaults=True, gc=False):
    """Something that happened at run sample ``at``; ``layer`` is empty for held and waiting."""

    at: int
    kind: EventKind
    scene: str
    frame: int
    layer: str = ""
    until: int | None = None
    visit: int = 0


class Stretch(NamedTuple):
    """Consecutive frames of one visit, entered one after the other, all shown or all dropped.

    The first is entered at ``at`` and stands still for ``stands`` samples; then every frame lasts
    its own duration, and the last one ``late`` samples more, on a slow machine.
    """

    at: int
    visit: int
    frame: int
    length: int
    shown: bool
    stands: int
    late: int


class Visit(NamedTuple):
    """One stay in a scene, from run sample ``start`` to ``end``; it leaves at frame ``last``.

    ``last`` may be inside a frame where the run was stopped there. A visit that was over before
    the run's origin has ``end`` 0 or less.
    """

    scene: str
    number: int
    start: int
    end: int
    last: float


class Glide(Struct, frozen=True, gc=False):
    """A value was moved at run sample ``at``: from where it was, to a number or its line (None).

    ``start`` is where it was, a whole number of 2^-32; ``over`` is in samples.
    """

    at: int
    value: str
    start: float
    to: float | None
    over: int


class Picture(NamedTuple):
    """A shown picture."""

    at: int
    scene: str
    frame: int


class Plan(Struct, frozen=True, gc=False):
    """Everything that happens in one run."""

    rate: int
    fps: tuple[int, int]
    end: int
    length: int
    voices: tuple[Voice, ...]
    events: tuple[Event, ...]
    visits: tuple[Visit, ...]
    stretches: tuple[Stretch, ...]
    glides: tuple[Glide, ...] = ()

    @property
    def timebase(self) -> Timebase:
        """Its frames against its samples."""
        return Timebase(self.fps[0], self.fps[1], self.rate)

    def visit_of(self, scene: str, number: int = 1) -> int | None:
        """The index of a scene's visit in one pass; None if the run does not come there."""
        for index, visit in enumerate(self.visits):
            if visit.scene == scene and visit.number == number:
                return index
        return None

    def entries(self, stretch: Stretch) -> Iterator[tuple[int, int]]:
        """When each frame of a stretch is entered, as ``(at, frame)``."""
        return entries(stretch, self.timebase)

    def picture(self) -> Iterator[Picture]:
        """The shown pictures, in order."""
        for stretch in self.stretches:
            if stretch.shown:
                scene = self.visits[stretch.visit].scene
                for at, frame in self.entries(stretch):
                    yield Picture(at, scene, frame)

    def during(self, frame: int, visit: int) -> tuple[int, int] | None:
        """From when to when a frame of that visit is shown, waits on it included; None: never."""
        start = self.entered(frame, visit)
        if start is None:
            return None
        end = self.entered(frame + 1, visit)
        return start, self.visits[visit].end if end is None else end

    def sounding_on(self, frame: int, visit: int) -> list[Voice]:
        """The voices that sound while a frame of that visit is shown, in order."""
        during = self.during(frame, visit)
        if during is None:
            return []
        start, end = during
        return [v for v in self.voices if max(v.start, start) < min(v.end, end)]

    def stretch_at(self, sample: int) -> Stretch:
        """The stretch of frames the run is in at ``sample`` (the nearest, outside the film)."""
        index = bisect_right(self.stretches, sample, key=_entered)
        return self.stretches[max(0, index - 1)]

    def frame_at(self, sample: int) -> tuple[Visit, int, float]:
        """The visit, the frame and the share of it that is over at run ``sample``."""
        stretch = self.stretch_at(sample)
        base = self.timebase
        moved = max(0, sample - stretch.at - stretch.stands) + base.start(stretch.frame)
        last = stretch.frame + stretch.length - 1
        frame = min(base.frame_at(moved), last)
        share = min(1.0, (moved - base.start(frame)) / base.duration(frame))
        return self.visits[stretch.visit], frame, share

    def shown_at(self, sample: int) -> tuple[Visit, int]:
        """The picture that is shown at run ``sample``: that of the frame, or one before it."""
        here = max(0, bisect_right(self.stretches, sample, key=_entered) - 1)
        index = here
        while index and not self.stretches[index].shown:
            index -= 1
        if index == here:
            visit, frame, _ = self.frame_at(sample)
            return visit, frame
        before = self.stretches[index]
        return self.visits[before.visit], before.frame + before.length - 1

    def entered(self, frame: int, visit: int) -> int | None:
        """When ``frame`` of that visit is entered, or None if the run never does."""
        index = bisect_right(self.stretches, (visit, frame), key=_visit_and_frame) - 1
        if index < 0:
            return None
        stretch = self.stretches[index]
        if stretch.visit != visit or frame >= stretch.frame + stretch.length:
            return None
        if frame == stretch.frame:
            return stretch.at
        base = self.timebase
        return stretch.at + stretch.stands + base.start(frame) - base.start(stretch.frame)


def entries(stretch: Stretch, base: Timebase) -> Iterator[tuple[int, int]]:
    """When each frame of a stretch is entered, as ``(at, frame)``."""
    yield stretch.at, stretch.frame
    moved = stretch.at + stretch.stands - base.start(stretch.frame)
    for frame in range(stretch.frame + 1, stretch.frame + stretch.length):
        yield moved + base.start(frame), frame


def _entered(stretch: Stretch) -> int:
    return stretch.at


def _visit_and_frame(stretch: Stretch) -> tuple[int, int]:
    return stretch.visit, stretch.frame


def plan_to_builtins(plan: Plan) -> dict[str, object]:
    """The plan as ``cicada plan`` prints it (format.md), with the further fields."""
    shown: dict[str, object] = {
        "rate": plan.rate,
        "fps": plan.fps,
        "end": plan.end,
        "length": plan.length,
        "picture": [picture._asdict() for picture in plan.picture()],
        "voices": [voice_to_builtins(voice) for voice in plan.voices],
        "events": [event_to_builtins(event) for event in plan.events],
    }
    if plan.glides:
        shown["glides"] = [glide_to_builtins(glide) for glide in plan.glides]
    return shown


def voice_to_builtins(voice: Voice) -> dict[str, object]:
    """A voice as ``cicada plan`` prints it."""
    shown: dict[str, object] = {
        "scene": voice.scene,
        "layer": voice.layer,
        "frame": voice.frame,
        "sound": voice.sound,
        "sync": voice.sync,
        "why": voice.why,
        "ended": voice.ended,
        "pieces": [list(piece) for piece in voice.pieces],
        "fades": [list(fade) for fade in voice.fades],
    }
    if voice.picked is not None:
        shown["picked"] = voice.picked
    if voice.rise is not None:
        shown["rise"] = list(voice.rise)
    return shown


def glide_to_builtins(glide: Glide) -> dict[str, object]:
    """A glide as ``cicada plan`` prints it."""
    return {
        "at": glide.at,
        "value": glide.value,
        "from": glide.start,
        "to": glide.to,
        "over": glide.over,
    }


def event_to_builtins(event: Event) -> dict[str, object]:
    """An event as ``cicada plan`` prints it."""
    shown: dict[str, object] = {
        "at": event.at,
        "kind": event.kind,
        "scene": event.scene,
        "frame": event.frame,
    }
    if event.layer:
        shown["layer"] = event.layer
    if event.kind in ("held", "waiting"):
        shown["until"] = event.until
    return shown
