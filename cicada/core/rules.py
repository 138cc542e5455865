"""The rules of clips, hushes and queues (semantics.md, sections 3 and 4; live.md, L3 and L4).

They read and change a ``State`` and know nothing of what comes before or after.
"""

from operator import attrgetter

from cicada.core.model import Project, Run
from cicada.core.picking import drawn_at, picked
from cicada.core.placed import Choice, PlacedClip, PlacedHush, SceneTable
from cicada.core.plan import Anchor
from cicada.core.readings import Readings
from cicada.core.sounding import LayerRow, OpenVoice, Waiting
from cicada.core.state import State

NO_PARTS: list[int] = []


class Rules:
    """What clips and hushes do to a run's state."""

    def __init__(self, project: Project, run: Run, state: State) -> None:
        self.state = state
        self.base = project.timebase
        self.readings = Readings(project, self.base, state)
        self._seed = project.seed if run.seed is None else run.seed
        self._pools = {pool.id: pool for pool in project.pools}

    # -- 1: queues -----------------------------------------------------------------------------

    def start_due(self, moment: int | None, *, inclusive: bool = True) -> None:
        """Start the queued clips whose turn comes up to ``moment`` (None: as long as any do)."""
        s = self.state
        while s.waiting_rows:
            chosen: LayerRow | None = None
            soonest = 0
            for row in s.waiting_rows:
                due = row.due(s.started_to)
                if due is None:
                    continue
                due = max(due, s.started_to)
                if chosen is None or (due, row.key) < (soonest, chosen.key):
                    chosen, soonest = row, due
            if chosen is None or s.past_limit(soonest):
                break
            if moment is not None and (soonest > moment or (soonest == moment and not inclusive)):
                break
            s.started_to = soonest
            waiting = chosen.waiting[0]
            s.take(chosen, waiting)
            waiting.voice = s.start(waiting.placed, chosen, soonest, "queued", waiting.visit)
        if moment is not None:
            s.started_to = max(s.started_to, moment)

    # -- 2: spans are left ---------------------------------------------------------------------

    def leave(self, placed: PlacedClip) -> None:
        """The picture leaves the clip's span."""
        s, clip = self.state, placed.clip
        row = s.row(placed.row)
        if clip.sync == "locked":
            for locked in list(row.locked):
                if locked.placed.clip is clip and not locked.placed.hushed_at_end:
                    s.close_locked(locked, s.time, "span")
            return
        for waiting in [w for w in row.waiting if w.placed.clip is clip]:
            self.unqueue(row, waiting)
        for voice in row.voices:
            if voice.placed.clip is clip and not voice.over(s.time):
                row.stale |= voice.release(s.time, placed.release, "span", None)

    def unqueue(self, row: LayerRow, waiting: Waiting) -> None:
        """A clip leaves the queue before its turn."""
        s = self.state
        s.say("unqueued", waiting.placed, waiting.visit)
        s.take(row, waiting)

    # -- 3: hushes -----------------------------------------------------------------------------

    def hush(self, placed: PlacedHush, by: Anchor) -> None:
        """A hush silences what it hits, and sends it out of its queue; ``by`` is what ends it."""
        s = self.state
        if placed.target == "layer":
            rows = [s.row(placed.row)]
        else:
            rows = sorted(s.rows.values(), key=attrgetter("key"))
        for row in rows:
            for waiting in list(row.waiting):
                if placed.hits(waiting.placed):
                    self.unqueue(row, waiting)
            for locked in row.locked:
                if placed.hits(locked.placed) and not locked.over(s.time):
                    locked.hush(s.time, placed.fade, by)
            for voice in row.voices:
                if placed.hits(voice.placed) and not voice.over(s.time):
                    row.stale |= voice.release(s.time, placed.fade, "hush", by)

    # -- 4: clips ------------------------------------------------------------------------------

    def fire(self, placed: PlacedClip, holds: list[OpenVoice | Waiting]) -> None:
        """A clip starts, or does not, by what it does if it is already sounding."""
        s, clip = self.state, placed.clip
        open_parts = NO_PARTS
        if placed.choices:
            open_parts = self._open_parts(placed)
            if not open_parts:
                s.say("nothing-open", placed)
                return
        if clip.sync == "locked":
            drawn = self._drawn(placed, open_parts) if open_parts else placed
            s.start_locked(drawn, 0, joined=False)
            return
        row = s.row(placed.row)
        restarted = False
        if clip.if_sounding == "skip":
            if any(not v.released and not v.over(s.time) for v in s.busy(placed, row)):
                s.say("skipped", placed)
                return
        elif clip.if_sounding == "restart":
            restarted = self._restart(placed, row)
        elif clip.if_sounding == "queue":
            if any(waiting.placed.clip is clip for waiting in row.waiting):
                s.say("skipped", placed)
                return
            if row.waiting or row.busy(s.time):
                drawn = self._drawn(placed, open_parts) if open_parts else placed
                self.join_queue(drawn, row, holds)
                return
        drawn = self._drawn(placed, open_parts) if open_parts else placed
        voice = s.start(drawn, row, s.time, "fired", s.visit)
        if restarted and placed.hand_over:
            first_loop = s.time + voice.placed.timing.delay
            voice.rise = first_loop, first_loop + placed.hand_over
        if clip.sync == "hold":
            self._hold(voice, holds)

    def _hold(self, voice: OpenVoice | Waiting, holds: list[OpenVoice | Waiting]) -> None:
        """Something that holds the picture starts or waits; what never ends does not hold it."""
        if voice.placed.total is None:
            self.state.say("endless-hold", voice.placed)
        else:
            holds.append(voice)

    def _restart(self, placed: PlacedClip, row: LayerRow) -> bool:
        """End what sounds, or hand over from it; whether there was anything."""
        s, found = self.state, False
        for voice in s.busy(placed, row):
            if not isinstance(voice, OpenVoice) or voice.over(s.time):
                continue
            found = True
            if placed.hand_over:
                ends = voice.release(s.time, placed.hand_over, "restarted", placed.anchor)
            else:
                ends = voice.cut(s.time, "restarted", placed.anchor)
            if ends:
                s.row(voice.placed.row).stale = True
        return found

    def _open_parts(self, placed: PlacedClip) -> list[int]:
        """The places of the parts of a pool that may be drawn now."""
        return [place for place, part in enumerate(placed.choices) if self._is_open(part)]

    def _is_open(self, part: Choice) -> bool:
        if part.placed is None:
            return False
        if part.value is None or part.range is None:
            return True
        return self.readings.inside(part.value, part.range)

    def _drawn(self, placed: PlacedClip, open_parts: list[int]) -> PlacedClip:
        """What a clip that places a pool plays: the part drawn for it."""
        s, pool = self.state, self._pools[placed.clip.sound]
        anchor, number = placed.anchor, placed.fire
        who = f"{anchor.layer}/{anchor.frame if number is None else number}"
        at = drawn_at(self._seed, pool.id, who, s.count_draw(who))
        before = s.drawn.get(pool.id)
        if pool.again == "other" and before in open_parts and len(open_parts) > 1:
            open_parts = [place for place in open_parts if place != before]
        choices = placed.choices
        place = open_parts[picked([choices[each].weight for each in open_parts], at)]
        s.drawn[pool.id] = place
        drawn = choices[place].placed
        assert drawn is not None
        return drawn if number is None else drawn.fired_at(anchor)

    def join_queue(
        self, placed: PlacedClip, row: LayerRow, holds: list[OpenVoice | Waiting]
    ) -> None:
        """A clip waits for its layer to be quiet."""
        s = self.state
        s.say("queued", placed)
        waiting = Waiting(placed, s.visit)
        s.wait(row, waiting)
        if placed.clip.sync == "hold":
            self._hold(waiting, holds)

    # -- where scenes and runs begin and end ---------------------------------------------------

    def join_locked(self, table: SceneTable, frame: int) -> None:
        """Pick up, in their middle, the locked clips whose span covers ``frame`` from before."""
        for earlier in sorted(table.work):
            if earlier >= frame:
                break
            for placed in table.work[earlier].clips:
                if placed.clip.sync == "locked" and placed.span_end > frame:
                    self._join(placed, self.base.start(frame) - self.base.start(earlier))

    def _join(self, placed: PlacedClip, position: int) -> None:
        """Pick a locked clip up in its middle; what was over by then stays silent."""
        s = self.state
        open_parts = self._open_parts(placed)
        if placed.choices and not open_parts:
            s.say("nothing-open", placed)
            return
        drawn = self._drawn(placed, open_parts) if open_parts else placed
        if drawn.total is None or position < drawn.total:
            s.start_locked(drawn, position, joined=True)

    def ring_out(self, end: int) -> None:
        """After the film endless voices are over, and nothing starts behind one."""
        s = self.state
        for row in s.rows.values():
            if any(voice.end is None for voice in row.voices):
                row.waiting.clear()
                s.waiting_rows.pop(row, None)
            for position, waiting in enumerate(row.waiting):
                if waiting.placed.total is None:
                    del row.waiting[position:]
                    break
            if not row.waiting:
                s.waiting_rows.pop(row, None)
            for voice in row.voices:
                if voice.end is None:
                    voice.cut(end, "run")
            row.stale = True
        self.start_due(None)
