"""The rules of a run: what entering a frame does, step by step (semantics.md, sections 3 to 6).

They read and change a ``State`` and know nothing of what comes before or after. Time moves from
one frame where something can happen to the next: the frames between them cost nothing unless the
machine is slow. Only queued clips can start in between, and they are started on the way.
"""

from typing import Literal

from cicada.core.conditions import draw_times
from cicada.core.model import Project, Run
from cicada.core.placed import PlacedClip, PlacedHush, SceneTable, hush_hits
from cicada.core.plan import Event, EventKind
from cicada.core.sounding import LayerRow, OpenVoice, Waiting
from cicada.core.state import State
from cicada.core.timebase import seconds_to_samples

Outcome = Literal["on", "stands for good", "stopped", "stopped at a press point"]
"""What comes of a frame: the next one, a wait without an end, or the limit."""


class Rules:
    """What happens to a state as a film runs under a run's conditions."""

    def __init__(self, project: Project, run: Run, state: State) -> None:
        self.run, self.state, self.rate = run, state, project.rate
        self.base = project.timebase
        self.draw_times = draw_times(project, run)

    def enter(self, table: SceneTable, frame: int, following: int) -> Outcome:
        """Enter ``frame`` at the state's time, and move on to the frame ``following``."""
        s = self.state
        entered = s.time
        s.last_entered = (table.scene.id, frame)
        holds: list[OpenVoice | Waiting] = []
        work = table.work.get(frame)
        if work is not None:
            # 1: what was due before.
            self.start_due(entered, inclusive=False)
            # 2: spans are left.
            for placed in work.left:
                self.leave(placed)
            self.start_due(entered)
            # 3: hushes.
            for hush in work.hushes:
                self.hush(hush)
            self.start_due(entered)
            # 4: clips.
            for placed in work.clips:
                self.fire(placed, holds)
            self.start_due(entered)
        # 5: the picture is shown, or dropped.
        shown = not s.began or s.drawn_by <= entered
        if shown and s.began and self.draw_times:
            s.drawn_by = entered + self.draw_time(table.scene.id, frame)
        # 6: holds.
        if holds:
            self.hold(holds, frame)
        # 7: a press point.
        press = table.presses.get(frame)
        waits = press is not None and s.began and self.run.press_points == "wait"
        if waits and self.wait(table, frame) is None:
            s.add_stretch(entered, frame, 1, shown=shown, stands=s.time - entered)
            s.leave_at(float(frame))
            return "stands for good"
        stands = s.time - entered
        if s.past_limit(s.time):
            assert s.limit is not None
            s.add_stretch(entered, frame, 1, shown=shown, stands=s.limit - entered)
            return "stopped at a press point" if self.stands_for_good(table, frame) else "stopped"
        # 8: the frame lasts.
        for voice in s.locked:
            voice.move(s.time)
        if s.began and self.draw_times:
            return self.move_slowly(entered, frame, following, shown=shown, stands=stands)
        return self.move(entered, frame, following, shown=shown, stands=stands)

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
        s = self.state
        row = s.row(placed.row)
        if placed.clip.sync == "locked":
            for locked in list(row.locked):
                if locked.placed is placed and not placed.hushed_at_end:
                    s.close_locked(locked, s.time, "span")
            return
        for waiting in [w for w in row.waiting if w.placed is placed]:
            self.unqueue(row, waiting)
        for voice in row.voices:
            if voice.placed is placed and not voice.over(s.time):
                row.stale |= voice.release(s.time, placed.release, "span", None)

    def unqueue(self, row: LayerRow, waiting: Waiting) -> None:
        """A clip leaves the queue before its turn."""
        s = self.state
        s.say("unqueued", waiting.placed, waiting.visit)
        s.take(row, waiting)

    # -- 3: hushes -----------------------------------------------------------------------------

    def hush(self, placed: PlacedHush) -> None:
        """A hush silences what it hits, and sends it out of its queue."""
        s = self.state
        hush, key = placed.hush, placed.row
        rows = [s.row(key)] if hush.target == "layer" else list(s.rows.values())
        for row in rows:
            here = row.key == key
            for waiting in list(row.waiting):
                if hush_hits(hush, waiting.placed.clip, same_layer=here):
                    self.unqueue(row, waiting)
            for locked in row.locked:
                hit = hush_hits(hush, locked.placed.clip, same_layer=here)
                if hit and not locked.over(s.time):
                    locked.hush(s.time, placed.fade, placed.anchor)
            for voice in row.voices:
                hit = hush_hits(hush, voice.placed.clip, same_layer=here)
                if hit and not voice.over(s.time):
                    row.stale |= voice.release(s.time, placed.fade, "hush", placed.anchor)

    # -- 4: clips ------------------------------------------------------------------------------

    def fire(self, placed: PlacedClip, holds: list[OpenVoice | Waiting]) -> None:
        """A clip starts, or does not, by what it does if it is already sounding."""
        s = self.state
        clip = placed.clip
        if clip.sync == "locked":
            s.start_locked(placed, 0, joined=False)
            return
        row = s.row(placed.row)
        if clip.if_sounding == "skip":
            if any(not v.released and not v.over(s.time) for v in s.busy(placed, row)):
                s.say("skipped", placed)
                return
        elif clip.if_sounding == "restart":
            for voice in s.busy(placed, row):
                if isinstance(voice, OpenVoice) and voice.cut(s.time, "restarted", placed.anchor):
                    s.row(voice.placed.row).stale = True
        elif clip.if_sounding == "queue":
            if any(waiting.placed is placed for waiting in row.waiting):
                s.say("skipped", placed)
                return
            if row.waiting or row.busy(s.time):
                self.join_queue(placed, row, holds)
                return
        voice = s.start(placed, row, s.time, "fired", s.visit)
        if clip.sync == "hold":
            if voice.placed.total is None:
                s.say("endless-hold", placed)
            else:
                holds.append(voice)

    def join_queue(
        self, placed: PlacedClip, row: LayerRow, holds: list[OpenVoice | Waiting]
    ) -> None:
        """A clip waits for its layer to be quiet."""
        s = self.state
        s.say("queued", placed)
        waiting = Waiting(placed, s.visit)
        s.wait(row, waiting)
        if placed.clip.sync == "hold":
            if placed.total is None:
                s.say("endless-hold", placed)
            else:
                holds.append(waiting)

    # -- 5: the picture is shown, or dropped ---------------------------------------------------

    def draw_time(self, scene: str, frame: int) -> int:
        """How many samples drawing a frame takes."""
        times = self.draw_times[scene]
        return times[frame % len(times)]

    # -- 6: holds ------------------------------------------------------------------------------

    def hold(self, holds: list[OpenVoice | Waiting], frame: int) -> None:
        """Stand still until the holds that began on this frame are over."""
        s = self.state
        until = s.time
        for hold in holds:
            voice = hold.voice if isinstance(hold, Waiting) else hold
            over: int | None
            if voice is not None:
                over = voice.end
            else:
                assert isinstance(hold, Waiting)
                over = s.row(hold.placed.row).turn_over(hold, s.time)
                if over is None:
                    s.say("blocked-hold", hold.placed)
            if over is not None:
                until = max(until, over)
        self.stand("held", frame, until)

    # -- 7: press points -----------------------------------------------------------------------

    def wait(self, table: SceneTable, frame: int) -> int | None:
        """Stand at a press point; until when, or None if it is for good."""
        s = self.state
        after = table.presses[frame].after
        ends = [press for press in s.presses if press > s.time][:1]
        if after is not None:
            ends.append(s.time + seconds_to_samples(after, self.rate))
        if ends:
            self.stand("waiting", frame, min(ends))
            return min(ends)
        if s.past_limit(s.time):
            return s.time
        visit = s.visit
        s.events.append(Event(s.time, "waiting", table.scene.id, frame, "", None, visit))
        for voice in list(s.locked):
            s.close_locked(voice, s.time, "run")
        return None

    def stands_for_good(self, table: SceneTable, frame: int) -> bool:
        """Whether the picture, on that frame now, waits for a press that does not come."""
        s = self.state
        point = table.presses.get(frame)
        if point is None or point.after is not None or self.run.press_points != "wait":
            return False
        return s.began and not any(press > s.time for press in s.presses)

    def stand(self, kind: EventKind, frame: int, until: int) -> None:
        """The picture stands still on a frame, and locked voices with it."""
        s = self.state
        if s.past_limit(s.time) or (until == s.time and kind == "held"):
            return
        visit = s.visit
        shown = until if s.limit is None else min(until, s.limit)
        scene = s.visits[-1].scene
        s.events.append(Event(s.time, kind, scene, frame, "", shown, visit))
        if until > s.time:
            for voice in list(s.locked):
                if not voice.pause(s.time):
                    s.drop_locked(voice)
            for voice in list(s.locked):
                if voice.over(until):
                    s.close_locked(voice, until, "run")
        s.time = until

    # -- 8: the frame lasts --------------------------------------------------------------------

    def move(
        self, entered: int, frame: int, following: int, *, shown: bool, stands: int
    ) -> Outcome:
        """Let the frames up to ``following`` last as long as they do."""
        s = self.state
        moved_from = s.time - self.base.start(frame)
        arrives = moved_from + self.base.start(following)
        if s.limit is not None and arrives > s.limit:
            last = self.base.frame_from(s.limit - moved_from) - 1
            s.last_entered = (s.visits[-1].scene, last)
            s.add_stretch(entered, frame, last - frame + 1, shown=shown, stands=stands)
            s.time = s.limit
            return "stopped"
        s.add_stretch(entered, frame, following - frame, shown=shown, stands=stands)
        s.time = arrives
        if following - 1 > frame:
            s.last_entered = (s.visits[-1].scene, following - 1)
        return "on"

    def move_slowly(
        self, entered: int, frame: int, following: int, *, shown: bool, stands: int
    ) -> Outcome:
        """The same where drawing takes time: frame by frame, some dropped, some late."""
        s = self.state
        scene = s.visits[-1].scene
        while True:
            moves = s.time
            s.time += self.base.duration(frame)
            late = 0
            if shown and s.drawn_by > s.time and not self.sound_leads(moves):
                late = s.drawn_by - s.time
                s.time = s.drawn_by
            s.add_stretch(entered, frame, 1, shown=shown, stands=stands, late=late)
            frame += 1
            if s.limit is not None and s.time > s.limit:
                s.time = s.limit
                return "stopped"
            if frame == following or s.past_limit(s.time):
                return "stopped" if frame < following else "on"
            entered, stands = s.time, 0
            s.last_entered = (scene, frame)
            shown = s.drawn_by <= entered
            if shown:
                s.drawn_by = entered + self.draw_time(scene, frame)

    def sound_leads(self, moment: int) -> bool:
        """Whether some locked voice sounds from that moment on."""
        s = self.state
        for voice in [v for v in s.locked if v.over(moment)]:
            s.close_locked(voice, moment, "run")
        return bool(s.locked)

    # -- where scenes and runs begin and end ---------------------------------------------------

    def join_locked(self, table: SceneTable, frame: int) -> None:
        """Pick up, in their middle, the locked clips whose span covers ``frame`` from before."""
        s = self.state
        for earlier in sorted(table.work):
            if earlier >= frame:
                break
            for placed in table.work[earlier].clips:
                position = self.base.start(frame) - self.base.start(earlier)
                over = placed.total is not None and position >= placed.total
                if placed.clip.sync == "locked" and placed.span_end > frame and not over:
                    s.start_locked(placed, position, joined=True)

    def end_scene(self, table: SceneTable) -> None:
        """The picture leaves a scene, after its last frame."""
        s = self.state
        s.leave_at(float(table.scene.length))
        self.start_due(s.time, inclusive=False)
        for placed in table.left_at_end:
            self.leave(placed)
        for voice in list(s.locked):
            s.close_locked(voice, s.time, "span")
        for key in table.cut_rows:
            row = s.row(key)
            for waiting in list(row.waiting):
                self.unqueue(row, waiting)
            for sounding in row.voices:
                row.stale |= sounding.cut(s.time, "scene")
        self.start_due(s.time)

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
