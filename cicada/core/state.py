"""Where a run is: everything the rules go by, apart from them.

It can be kept, compared and taken up again: what follows from it is nothing but the rules.
"""

from collections.abc import Sequence
from fractions import Fraction
from typing import Literal, NamedTuple

from cicada.core.answers import Input
from cicada.core.placed import LayerTable, PlacedClip, RowKey
from cicada.core.plan import Event, EventKind, Glide, Stretch, Visit, Why
from cicada.core.sounding import Copies, LayerRow, OpenLocked, OpenVoice, Waiting


class Next(NamedTuple):
    """What is entered next: a frame of a scene (by its index), in a pass."""

    number: int
    scene: int
    frame: int


class Given(NamedTuple):
    """An input, at its moment of the run."""

    at: int
    input: Input


class Gliding(NamedTuple):
    """The glide that was given last, exactly."""

    at: int
    start: Fraction
    to: Fraction | None
    over: int


class Standing(NamedTuple):
    """A standstill of the picture on ``frame``, which was entered at ``entered``.

    This hold or wait of it began at ``began``; ``place`` is that of its event. ``shown`` says
    whether the frame is shown, and ``holds`` are what it waits for.
    """

    kind: Literal["held", "waiting"]
    frame: int
    entered: int
    began: int
    shown: bool
    holds: Sequence[OpenVoice | Waiting] = ()
    place: int = 0


class State:
    """The state of one run. Times are absolute; ``origin`` is taken off when a plan is written.

    ``started_to`` is the moment up to which queued clips have been started, ``drawn_by`` the one
    at which the picture shown last is drawn. ``limit`` and ``presses`` hold from the origin on.
    The picture is on ``frame`` of scene number ``scene``; if it moves, it has since
    ``moves_from``, and goes as far as the frame ``frames_to``.
    """

    def __init__(self) -> None:
        self.next: Next | None = None
        self.time = 0
        self.started_to = 0
        self.origin = 0
        self.began = False
        self.limit: int | None = None
        self.presses: list[int] = []
        self.drawn_by = 0
        self.scene = 0
        self.frame = 0
        self.moves_from: int | None = None
        self.frames_to = 0
        self.last_entered: tuple[str, int] | None = None
        # The standstill it is in, where it was kept while the picture stands.
        self.standing: Standing | None = None
        self.rows: dict[RowKey, LayerRow] = {}
        self.waiting_rows: dict[LayerRow, None] = {}
        self.by_sound: dict[str, list[OpenVoice | OpenLocked]] = {}
        self.locked: dict[OpenLocked, None] = {}
        # The index of the visit the run is in.
        self.visit = -1
        # What was given so far, and where each value moves to.
        self.inputs: list[Given] = []
        self.taken = 0
        self.gliding: dict[str, Gliding] = {}
        self.glides: list[Glide] = []
        # How often each keyframe or deed has drawn, and which part was drawn last, by pool.
        self.draws: dict[str, int] = {}
        self.drawn: dict[str, int] = {}
        # The pads whose value was inside at their last look, when that was, and those that hold
        # the way.
        self.inside: set[RowKey] = set()
        self.holding: dict[RowKey, None] = {}
        self.let_go = False
        self.looked = 0
        # Everything that has happened so far, in order.
        self.fired = 0
        self.voices: list[OpenVoice | OpenLocked] = []
        self.events: list[Event] = []
        self.visits: list[Visit] = []
        self.stretches: list[Stretch] = []
        self.plain: list[tuple[int, LayerTable]] = []

    # -- asking --------------------------------------------------------------------------------

    def row(self, key: RowKey) -> LayerRow:
        """What a layer has sounding and waiting."""
        row = self.rows.get(key)
        if row is None:
            row = self.rows[key] = LayerRow(key)
        return row

    def past_limit(self, moment: int) -> bool:
        """Whether the run is stopped by then."""
        return self.limit is not None and moment >= self.limit

    def busy(self, placed: PlacedClip, row: LayerRow) -> list[OpenVoice | OpenLocked]:
        """The voices that count as "it" for skip and restart; some may be over."""
        if placed.clip.busy == "layer":
            return [*row.voices, *row.locked]
        sounding = self.by_sound.get(placed.clip.sound)
        if not sounding:
            return []
        kept = [voice for voice in sounding if not voice.over(self.time)]
        self.by_sound[placed.clip.sound] = kept
        return kept

    # -- voices and queues ---------------------------------------------------------------------

    def count_draw(self, who: str) -> int:
        """One more draw; how many there were before."""
        before = self.draws.get(who, 0)
        self.draws[who] = before + 1
        return before

    def start(self, placed: PlacedClip, row: LayerRow, at: int, why: Why, visit: int) -> OpenVoice:
        """A free or hold voice starts."""
        voice = OpenVoice(placed, at, why, visit)
        if placed.fire is not None:
            # A pad may fire several at one moment.
            self.fired += 1
            voice.number = self.fired
        row.voices.append(voice)
        row.stale = True
        self.by_sound.setdefault(placed.clip.sound, []).append(voice)
        self.voices.append(voice)
        return voice

    def start_locked(self, placed: PlacedClip, position: int, *, joined: bool) -> None:
        """A locked voice starts, ``position`` samples into its clip."""
        voice = OpenLocked(placed, position, self.visit, joined=joined)
        self.row(placed.row).locked.append(voice)
        self.by_sound.setdefault(placed.clip.sound, []).append(voice)
        self.locked[voice] = None
        self.voices.append(voice)

    def close_locked(self, voice: OpenLocked, moment: int, ended: str) -> None:
        """A locked voice ends, by its span or with the run."""
        voice.close(moment, "span" if ended == "span" else "run")
        self.drop_locked(voice)

    def drop_locked(self, voice: OpenLocked) -> None:
        """A locked voice that is closed is open no more."""
        del self.locked[voice]
        self.row(voice.placed.row).locked.remove(voice)
        self.by_sound[voice.placed.clip.sound] = [
            other for other in self.by_sound[voice.placed.clip.sound] if other is not voice
        ]

    def wait(self, row: LayerRow, waiting: Waiting) -> None:
        """A clip joins its layer's queue."""
        if not row.waiting:
            row.stale = True
            self.waiting_rows[row] = None
        row.waiting.append(waiting)

    def take(self, row: LayerRow, waiting: Waiting) -> None:
        """A clip leaves its layer's queue."""
        row.waiting.remove(waiting)
        row.stale = True
        if not row.waiting:
            del self.waiting_rows[row]

    # -- what has happened ---------------------------------------------------------------------

    def say(self, kind: EventKind, placed: PlacedClip, visit: int | None = None) -> None:
        """Something has happened to a clip."""
        scene, layer, frame = placed.anchor
        shown = self.visit if visit is None else visit
        self.events.append(Event(self.time, kind, scene, frame, layer, None, shown))

    def add_stretch(
        self, at: int, frame: int, count: int, *, shown: bool, stands: int, late: int = 0
    ) -> None:
        """So many frames from ``frame`` on, entered at ``at``, have gone by."""
        visit = self.visit
        if self.stretches and not stands:
            before = self.stretches[-1]
            if before.visit == visit and before.shown == shown and not before.late:
                self.stretches[-1] = before._replace(length=before.length + count, late=late)
                return
        self.stretches.append(Stretch(at, visit, frame, count, shown, stands, late))

    def leave_at(self, last: float) -> None:
        """The picture leaves the scene, at that frame."""
        self.visits[-1] = self.visits[-1]._replace(end=self.time, last=last)

    # -- what is over is forgotten -------------------------------------------------------------

    def is_over(self, voice: OpenVoice | OpenLocked) -> bool:
        """Whether nothing can change a voice any more."""
        if isinstance(voice, OpenLocked):
            return voice not in self.locked
        return voice.over(self.started_to)

    def forget_voices(self) -> None:
        """Let go of those that are over."""
        self.voices = [voice for voice in self.voices if not self.is_over(voice)]
        self.by_sound = {
            sound: left
            for sound, voices in self.by_sound.items()
            if (left := [voice for voice in voices if not self.is_over(voice)])
        }
        for row in self.rows.values():
            row.latest_end(self.started_to)

    # -- kept and compared ---------------------------------------------------------------------

    def kept(self) -> "State":
        """The state as it is now, whatever becomes of this one; frames are not half entered."""
        made = State()
        made.__dict__.update(self.__dict__)
        # What is over changes no more, and is shared.
        new = Copies()
        made.rows = {key: row.copy(new) for key, row in self.rows.items()}
        made.waiting_rows = {made.rows[row.key]: None for row in self.waiting_rows}
        made.locked = {new.locked[voice]: None for voice in self.locked}
        made.by_sound = {
            sound: [new.of(voice) for voice in voices] for sound, voices in self.by_sound.items()
        }
        made.voices = [new.of(voice) for voice in self.voices]
        if self.standing is not None:
            holds = [new.hold(each) for each in self.standing.holds]
            made.standing = self.standing._replace(holds=holds)
        for name in ("presses", "events", "visits", "stretches", "plain", "glides"):
            setattr(made, name, list(getattr(self, name)))
        for name in ("gliding", "draws", "drawn", "holding"):
            setattr(made, name, dict(getattr(self, name)))
        made.inside = set(self.inside)
        return made

    def key(self) -> tuple[object, ...]:
        """What makes two states of one film the same: all that follows is the same then."""
        return (
            self.next, self.time, self.started_to, self.origin, self.began, self.limit,
            tuple(self.presses), self.drawn_by, self.last_entered,
            tuple(sorted((key, row.values(self.time)) for key, row in self.rows.items())),
            tuple(self.inputs[self.taken :]), tuple(sorted(self.gliding.items())),
            tuple(sorted(self.draws.items())), tuple(sorted(self.drawn.items())),
            tuple(sorted(self.inside)), tuple(sorted(self.holding)), self.let_go, self.looked,
        )  # fmt: skip
