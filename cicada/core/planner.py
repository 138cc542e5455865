"""The planner: Project and Run to Plan. A pure simulation of semantics.md, sections 3 to 7.

Time moves from one frame where something can happen to the next; the frames between them cost
nothing unless the machine is slow. Between two such frames only queued clips can start, and they
are started on the way (``_start_due``). Locked voices are not moved frame by frame either: each
knows where its open piece began, and whether it is over by then follows from that.

The order on entering a frame is the contract's: leave spans, hush, fire, show, hold, wait, move.
"""

from bisect import bisect_left
from collections.abc import Iterator

from msgspec.structs import replace

from cicada.core.conditions import draw_times, first_scene
from cicada.core.model import Project, Run
from cicada.core.placed import (
    LayerTable,
    PlacedClip,
    PlacedHush,
    RowKey,
    SceneTable,
    Tables,
    hush_hits,
)
from cicada.core.plain import Dependence, allows_plain
from cicada.core.plan import Event, EventKind, Plan, Stretch, Visit, Why
from cicada.core.sounding import OpenLocked, OpenVoice, Row, Waiting
from cicada.core.timebase import seconds_to_samples
from cicada.core.writing import written

ENDLESS_LIMIT = 3600.0


def plan(project: Project, run: Run | None = None, tables: Tables | None = None) -> Plan:
    """Everything that happens when ``project`` runs under ``run``.

    ``tables`` keeps what planning a project and planning it again after an edit have in common.
    Raises ``BadProject`` if the run starts at a scene or frame that is not there.
    """
    return _Film(project, run or Run(), tables or Tables()).play()


def _never(_: LayerTable) -> bool:
    return False


class _Film:
    """One run being worked out. Times are absolute; ``origin`` is taken off at the end."""

    def __init__(self, project: Project, run: Run, made: Tables) -> None:
        self.project = project
        self.made = made
        self.run = run
        self.base = project.timebase
        self.sounds = {sound.id: sound for sound in project.sounds}
        self.tables: dict[int, SceneTable] = {}
        self.layers = made.layer_tables(project, self.sounds)
        self.plain: list[tuple[int, LayerTable]] = []
        self.rows: dict[RowKey, Row] = {}
        self.waiting_rows: dict[Row, None] = {}
        self.by_sound: dict[str, list[OpenVoice | OpenLocked]] = {}
        self.locked: dict[OpenLocked, None] = {}
        self.voices: list[OpenVoice | OpenLocked] = []
        self.events: list[Event] = []
        self.visits: list[Visit] = []
        self.stretches: list[Stretch] = []
        self.time = 0
        self.started_to = 0
        self.origin = 0
        self.began = False
        self.limit: int | None = None
        self.presses: list[int] = []
        self.drawn_by = 0
        self.draw_times = draw_times(project, run)
        self.last_entered: tuple[str, int] | None = None
        self.first_scene = first_scene(project, run)
        # With chase a run that begins later is planned from the film's start, and not by parts.
        whole = self.first_scene == 0 or run.only_scene or not run.chase
        depends = Dependence(self.layers.values())
        self.is_plain = (
            depends.plain if whole and allows_plain(run, slow=bool(self.draw_times)) else _never
        )

    # -- the whole run ------------------------------------------------------------------------

    def play(self) -> Plan:
        run = self.run
        if not run.chase or ((self.first_scene == 0 or run.only_scene) and run.frame == 0):
            self._begin()
        for number, index, last in self._itinerary():
            over = self._visit(number, index, last=last)
            if over is not None:
                return over
        return self._finish(self.time, stopped=False)

    def _itinerary(self) -> Iterator[tuple[int, int, bool]]:
        """Pass, scene index and whether it is the run's last, of every scene to be visited."""
        run, first = self.run, self.first_scene
        scenes = [first] if run.only_scene else list(range(len(self.project.scenes)))
        number = 1
        while run.passes == 0 or number <= run.passes:
            skip = first if number == 1 and not run.only_scene and not run.chase else 0
            for index in scenes[skip:]:
                last = number == run.passes and index == scenes[-1]
                yield number, index, last
            number += 1

    def _begin(self) -> None:
        """The origin is here: from now on the run's own conditions hold."""
        self.began = True
        self.origin = self.time
        rate = self.project.rate
        limit = self.run.limit
        if limit is None and self.run.passes == 0:
            limit = ENDLESS_LIMIT
        if limit is not None:
            self.limit = self.origin + seconds_to_samples(limit, rate)
        self.presses = sorted(self.origin + press for press in self.run.presses)
        self.drawn_by = self.origin
        self.last_entered = None
        self.events.clear()
        self.stretches.clear()

    def _past_limit(self, moment: int) -> bool:
        return self.limit is not None and moment >= self.limit

    def _table(self, index: int) -> SceneTable:
        table = self.tables.get(index)
        if table is None:
            table = self.made.scene_table(self.project, index, self.layers, self.is_plain)
            self.tables[index] = table
        return table

    # -- one scene ----------------------------------------------------------------------------

    def _visit(self, number: int, index: int, *, last: bool) -> Plan | None:
        """Play a scene through; the finished plan if the run is over inside it."""
        table = self._table(index)
        scene = table.scene
        self.visits.append(Visit(scene.id, number, self.time, self.time, float(scene.length)))
        self.plain += [(len(self.visits) - 1, each) for each in table.plain]
        frame = 0
        starts_here = number == 1 and index == self.first_scene
        origin = self.run.frame if starts_here and not (self.began and self.run.chase) else None
        if origin is not None and self.began:
            frame = origin
            if frame:
                self._join_locked(table, frame)
        position = bisect_left(table.frames, frame)
        while frame < scene.length:
            if frame == origin and not self.began:
                self._begin()
            if self._past_limit(self.time):
                return self._stop(maybe_over=self._stands_for_good(table, frame))
            following = scene.length
            if position < len(table.frames) and table.frames[position] == frame:
                position += 1
            if position < len(table.frames):
                following = table.frames[position]
            if origin is not None and frame < origin < following:
                following = origin
            over = self._frame(table, frame, following)
            if over is not None:
                return over
            frame = following
        if self.limit is not None and self.time >= self.limit:
            return self._stop(maybe_over=last)
        self._end_scene(table)
        return None

    def _join_locked(self, table: SceneTable, frame: int) -> None:
        """Pick up, in their middle, the locked clips whose span covers ``frame`` from before."""
        for earlier in sorted(table.work):
            if earlier >= frame:
                break
            for placed in table.work[earlier].clips:
                position = self.base.start(frame) - self.base.start(earlier)
                over = placed.total is not None and position >= placed.total
                if placed.clip.sync == "locked" and placed.span_end > frame and not over:
                    self._start_locked(placed, position, joined=True)

    def _frame(self, table: SceneTable, frame: int, following: int) -> Plan | None:
        """Enter ``frame`` at ``self.time``, and move on to the frame ``following``."""
        entered = self.time
        self.last_entered = (table.scene.id, frame)
        holds: list[OpenVoice | Waiting] = []
        work = table.work.get(frame)
        if work is not None:
            self._start_due(entered, inclusive=False)
            for placed in work.left:
                self._leave(placed)
            self._start_due(entered)
            for hush in work.hushes:
                self._hush(hush)
            self._start_due(entered)
            for placed in work.clips:
                self._fire(placed, holds)
            self._start_due(entered)
        shown = not self.began or self.drawn_by <= entered
        if shown and self.began and self.draw_times:
            self.drawn_by = entered + self._draw_time(frame)
        if holds:
            self._hold(holds, frame)
        press = table.presses.get(frame)
        if press is not None and self.began and self.run.press_points == "wait":
            until = self._wait(table, frame)
            if until is None:
                self._add_stretch(entered, frame, 1, shown=shown, stands=self.time - entered)
                self._leave_at(float(frame))
                return self._finish(self.time, stopped=False)
        stands = self.time - entered
        if self._past_limit(self.time):
            assert self.limit is not None
            self._add_stretch(entered, frame, 1, shown=shown, stands=self.limit - entered)
            return self._stop(maybe_over=self._stands_for_good(table, frame))
        for voice in self.locked:
            voice.move(self.time)
        if self.began and self.draw_times:
            return self._move_slowly(entered, frame, following, shown=shown, stands=stands)
        return self._move(entered, frame, following, shown=shown, stands=stands)

    def _move(
        self, entered: int, frame: int, following: int, *, shown: bool, stands: int
    ) -> Plan | None:
        """Let the frames up to ``following`` last as long as they do."""
        moved_from = self.time - self.base.start(frame)
        arrives = moved_from + self.base.start(following)
        if self.limit is not None and arrives > self.limit:
            last = self.base.frame_from(self.limit - moved_from) - 1
            self.last_entered = (self.visits[-1].scene, last)
            self._add_stretch(entered, frame, last - frame + 1, shown=shown, stands=stands)
            self.time = self.limit
            return self._stop()
        self._add_stretch(entered, frame, following - frame, shown=shown, stands=stands)
        self.time = arrives
        if following - 1 > frame:
            self.last_entered = (self.visits[-1].scene, following - 1)
        return None

    def _move_slowly(
        self, entered: int, frame: int, following: int, *, shown: bool, stands: int
    ) -> Plan | None:
        """The same where drawing takes time: frame by frame, some dropped, some late."""
        while True:
            moves = self.time
            self.time += self.base.duration(frame)
            late = 0
            if shown and self.drawn_by > self.time and not self._sound_leads(moves):
                late = self.drawn_by - self.time
                self.time = self.drawn_by
            self._add_stretch(entered, frame, 1, shown=shown, stands=stands, late=late)
            frame += 1
            if self.limit is not None and self.time > self.limit:
                self.time = self.limit
                return self._stop()
            if frame == following or self._past_limit(self.time):
                return self._stop() if frame < following else None
            entered, stands = self.time, 0
            self.last_entered = (self.visits[-1].scene, frame)
            shown = self.drawn_by <= entered
            if shown:
                self.drawn_by = entered + self._draw_time(frame)

    def _sound_leads(self, moment: int) -> bool:
        for voice in [v for v in self.locked if v.over(moment)]:
            self._close_locked(voice, moment, "run")
        return bool(self.locked)

    def _draw_time(self, frame: int) -> int:
        return self.draw_times[frame % len(self.draw_times)]

    def _add_stretch(
        self, at: int, frame: int, count: int, *, shown: bool, stands: int, late: int = 0
    ) -> None:
        visit = len(self.visits) - 1
        if self.stretches and not stands:
            before = self.stretches[-1]
            if before.visit == visit and before.shown == shown and not before.late:
                self.stretches[-1] = before._replace(length=before.length + count, late=late)
                return
        self.stretches.append(Stretch(at, visit, frame, count, shown, stands, late))

    # -- entering a frame ---------------------------------------------------------------------

    def _row(self, key: RowKey) -> Row:
        row = self.rows.get(key)
        if row is None:
            row = self.rows[key] = Row(key)
        return row

    def _say(
        self,
        kind: EventKind,
        placed: PlacedClip,
        visit: int | None = None,
    ) -> None:
        scene, layer, frame = placed.place
        shown = len(self.visits) - 1 if visit is None else visit
        self.events.append(Event(self.time, kind, scene, frame, layer, None, shown))

    def _leave(self, placed: PlacedClip) -> None:
        """The picture leaves the clip's span."""
        row = self._row(placed.row)
        if placed.clip.sync == "locked":
            for locked in list(row.locked):
                if locked.placed is placed and not placed.hushed_at_end:
                    self._close_locked(locked, self.time, "span")
            return
        for waiting in [w for w in row.waiting if w.placed is placed]:
            self._unqueue(row, waiting)
        for voice in row.voices:
            if voice.placed is placed and not voice.over(self.time):
                row.stale |= voice.release(self.time, placed.release, "span", None)

    def _hush(self, placed: PlacedHush) -> None:
        hush, key = placed.hush, placed.row
        rows = [self._row(key)] if hush.target == "layer" else list(self.rows.values())
        for row in rows:
            here = row.key == key
            for waiting in list(row.waiting):
                if hush_hits(hush, waiting.placed.clip, same_layer=here):
                    self._unqueue(row, waiting)
            for locked in row.locked:
                hit = hush_hits(hush, locked.placed.clip, same_layer=here)
                if hit and not locked.over(self.time):
                    locked.hush(self.time, placed.fade, placed.place)
            for voice in row.voices:
                hit = hush_hits(hush, voice.placed.clip, same_layer=here)
                if hit and not voice.over(self.time):
                    row.stale |= voice.release(self.time, placed.fade, "hush", placed.place)

    def _fire(self, placed: PlacedClip, holds: list[OpenVoice | Waiting]) -> None:
        clip = placed.clip
        if clip.sync == "locked":
            self._start_locked(placed, 0, joined=False)
            return
        row = self._row(placed.row)
        if clip.if_sounding == "skip":
            if any(not v.released and not v.over(self.time) for v in self._busy(placed, row)):
                self._say("skipped", placed)
                return
        elif clip.if_sounding == "restart":
            for voice in self._busy(placed, row):
                if isinstance(voice, OpenVoice) and voice.cut(self.time, "restarted", placed.place):
                    self._row(voice.placed.row).stale = True
        elif clip.if_sounding == "queue":
            if any(waiting.placed is placed for waiting in row.waiting):
                self._say("skipped", placed)
                return
            if row.waiting or row.busy(self.time):
                self._join_queue(placed, row, holds)
                return
        voice = self._start(placed, row, self.time, "fired", len(self.visits) - 1)
        if clip.sync == "hold":
            if voice.placed.total is None:
                self._say("endless-hold", placed)
            else:
                holds.append(voice)

    def _join_queue(self, placed: PlacedClip, row: Row, holds: list[OpenVoice | Waiting]) -> None:
        self._say("queued", placed)
        waiting = Waiting(placed, len(self.visits) - 1)
        if not row.waiting:
            row.stale = True
            self.waiting_rows[row] = None
        row.waiting.append(waiting)
        if placed.clip.sync == "hold":
            if placed.total is None:
                self._say("endless-hold", placed)
            else:
                holds.append(waiting)

    def _busy(self, placed: PlacedClip, row: Row) -> list[OpenVoice | OpenLocked]:
        """The voices that count as "it" for skip and restart; some may be over."""
        if placed.clip.busy == "layer":
            return [*row.voices, *row.locked]
        sounding = self.by_sound.get(placed.clip.sound)
        if not sounding:
            return []
        kept = [voice for voice in sounding if not voice.over(self.time)]
        self.by_sound[placed.clip.sound] = kept
        return kept

    def _start(self, placed: PlacedClip, row: Row, at: int, why: Why, visit: int) -> OpenVoice:
        voice = OpenVoice(placed, at, why, visit)
        row.voices.append(voice)
        row.stale = True
        self.by_sound.setdefault(placed.clip.sound, []).append(voice)
        self.voices.append(voice)
        return voice

    def _start_locked(self, placed: PlacedClip, position: int, *, joined: bool) -> None:
        voice = OpenLocked(placed, position, len(self.visits) - 1, joined=joined)
        self._row(placed.row).locked.append(voice)
        self.by_sound.setdefault(placed.clip.sound, []).append(voice)
        self.locked[voice] = None
        self.voices.append(voice)

    def _close_locked(self, voice: OpenLocked, moment: int, ended: str) -> None:
        voice.close(moment, "span" if ended == "span" else "run")
        self._drop_locked(voice)

    def _drop_locked(self, voice: OpenLocked) -> None:
        del self.locked[voice]
        self._row(voice.placed.row).locked.remove(voice)
        self.by_sound[voice.placed.clip.sound] = [
            other for other in self.by_sound[voice.placed.clip.sound] if other is not voice
        ]

    # -- queues -------------------------------------------------------------------------------

    def _unqueue(self, row: Row, waiting: Waiting) -> None:
        self._say("unqueued", waiting.placed, waiting.visit)
        self._take(row, waiting)

    def _take(self, row: Row, waiting: Waiting) -> None:
        row.waiting.remove(waiting)
        row.stale = True
        if not row.waiting:
            del self.waiting_rows[row]

    def _start_due(self, moment: int | None, *, inclusive: bool = True) -> None:
        """Start the queued clips whose turn comes up to ``moment`` (None: as long as any do)."""
        while self.waiting_rows:
            chosen: Row | None = None
            soonest = 0
            for row in self.waiting_rows:
                due = row.due(self.started_to)
                if due is None:
                    continue
                due = max(due, self.started_to)
                if chosen is None or (due, row.key) < (soonest, chosen.key):
                    chosen, soonest = row, due
            if chosen is None or self._past_limit(soonest):
                break
            if moment is not None and (soonest > moment or (soonest == moment and not inclusive)):
                break
            self.started_to = soonest
            waiting = chosen.waiting[0]
            self._take(chosen, waiting)
            waiting.voice = self._start(waiting.placed, chosen, soonest, "queued", waiting.visit)
        if moment is not None:
            self.started_to = max(self.started_to, moment)

    # -- standing still -----------------------------------------------------------------------

    def _hold(self, holds: list[OpenVoice | Waiting], frame: int) -> None:
        """Stand still until the holds that began on this frame are over."""
        until = self.time
        for hold in holds:
            voice = hold.voice if isinstance(hold, Waiting) else hold
            over: int | None
            if voice is not None:
                over = voice.end
            else:
                assert isinstance(hold, Waiting)
                over = self._row(hold.placed.row).turn_over(hold, self.time)
                if over is None:
                    self._say("blocked-hold", hold.placed)
            if over is not None:
                until = max(until, over)
        self._stand("held", frame, until)

    def _wait(self, table: SceneTable, frame: int) -> int | None:
        """Stand at a press point; until when, or None if it is for good."""
        after = table.presses[frame].after
        ends = [press for press in self.presses if press > self.time][:1]
        if after is not None:
            ends.append(self.time + seconds_to_samples(after, self.project.rate))
        if ends:
            self._stand("waiting", frame, min(ends))
            return min(ends)
        if self._past_limit(self.time):
            return self.time
        visit = len(self.visits) - 1
        self.events.append(Event(self.time, "waiting", table.scene.id, frame, "", None, visit))
        for voice in list(self.locked):
            self._close_locked(voice, self.time, "run")
        return None

    def _stands_for_good(self, table: SceneTable, frame: int) -> bool:
        """Whether the picture, on that frame now, waits for a press that does not come."""
        point = table.presses.get(frame)
        if point is None or point.after is not None or self.run.press_points != "wait":
            return False
        return self.began and not any(press > self.time for press in self.presses)

    def _stand(self, kind: EventKind, frame: int, until: int) -> None:
        if self._past_limit(self.time) or (until == self.time and kind == "held"):
            return
        visit = len(self.visits) - 1
        shown = until if self.limit is None else min(until, self.limit)
        scene = self.visits[-1].scene
        self.events.append(Event(self.time, kind, scene, frame, "", shown, visit))
        if until > self.time:
            for voice in list(self.locked):
                if not voice.pause(self.time):
                    self._drop_locked(voice)
            for voice in list(self.locked):
                if voice.over(until):
                    self._close_locked(voice, until, "run")
        self.time = until

    # -- the end ------------------------------------------------------------------------------

    def _leave_at(self, last: float) -> None:
        self.visits[-1] = self.visits[-1]._replace(end=self.time, last=last)

    def _end_scene(self, table: SceneTable) -> None:
        self._leave_at(float(table.scene.length))
        self._start_due(self.time, inclusive=False)
        for placed in table.left_at_end:
            self._leave(placed)
        for voice in list(self.locked):
            self._close_locked(voice, self.time, "span")
        for key in table.cut_rows:
            row = self._row(key)
            for waiting in list(row.waiting):
                self._unqueue(row, waiting)
            for sounding in row.voices:
                row.stale |= sounding.cut(self.time, "scene")
        self._start_due(self.time)

    def _stop(self, *, maybe_over: bool = False) -> Plan:
        """The limit is reached; ``maybe_over`` says that the run may be over by itself by then."""
        assert self.limit is not None
        if maybe_over and self.time == self.limit:
            later = 2 * (ENDLESS_LIMIT if self.run.limit is None else self.run.limit) + 1
            whole = plan(self.project, replace(self.run, limit=later))
            if whole.length <= self.limit - self.origin:
                return whole
        self.time = self.limit
        return self._finish(self.limit, stopped=True)

    def _finish(self, end: int, *, stopped: bool) -> Plan:
        """Let the tail play out and write the plan down."""
        limit = self.limit
        self._start_due(end, inclusive=not stopped)
        if stopped:
            self._stop_visit(end)
        for locked in list(self.locked):
            self._close_locked(locked, end, "run")
        sounding = [voice for voice in self.voices if isinstance(voice, OpenVoice)]
        if not stopped and self.run.tail == "ring":
            self._ring_out(end)
            sounding = [voice for voice in self.voices if isinstance(voice, OpenVoice)]
            if limit is not None:
                over = any(not voice.over(limit) for voice in sounding) or self.waiting_rows
                stopped = bool(over)
                for voice in sounding:
                    voice.cut(limit, "run")
        else:
            for voice in sounding:
                voice.cut(end, "run")
        if stopped:
            assert limit is not None
            run_scene = self.project.scenes[self.first_scene].id
            scene, frame = self.last_entered or (run_scene, self.run.frame)
            self.events.append(Event(limit, "limited", scene, frame, visit=len(self.visits) - 1))
        return written(
            self.base,
            self.voices,
            self.events,
            self.visits,
            self.stretches,
            self.plain,
            origin=self.origin,
            end=end,
        )

    def _stop_visit(self, end: int) -> None:
        if not self.stretches:
            return
        stretch = self.stretches[-1]
        base = self.base
        moved = max(0, end - stretch.at - stretch.stands) + base.start(stretch.frame)
        last = stretch.frame + stretch.length
        self._leave_at(min(float(last), base.position(moved)))

    def _ring_out(self, end: int) -> None:
        """After the film endless voices are over, and nothing starts behind one."""
        for row in self.rows.values():
            if any(voice.end is None for voice in row.voices):
                row.waiting.clear()
                self.waiting_rows.pop(row, None)
            for position, waiting in enumerate(row.waiting):
                if waiting.placed.total is None:
                    del row.waiting[position:]
                    break
            if not row.waiting:
                self.waiting_rows.pop(row, None)
            for voice in row.voices:
                if voice.end is None:
                    voice.cut(end, "run")
            row.stale = True
        self._start_due(None)
