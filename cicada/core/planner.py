"""The planner: Project and Run to Plan. A pure simulation of semantics.md, sections 3 to 7.

It takes a run through its passes and scenes, from frame to frame; what a frame does is in
``rules``, where the run is in ``state``.
"""

from bisect import bisect_left
from collections.abc import Generator, Iterator

from msgspec.structs import replace

from cicada.core.conditions import first_scene
from cicada.core.entering import Entering, Outcome
from cicada.core.model import Project, Run
from cicada.core.placed import LayerTable, SceneTable, Tables
from cicada.core.plain import Dependence, allows_plain
from cicada.core.plan import Event, Plan, Visit
from cicada.core.sounding import OpenVoice
from cicada.core.state import Next, State
from cicada.core.timebase import seconds_to_samples
from cicada.core.writing import written

ENDLESS_LIMIT = 3600.0


def plan(project: Project, run: Run | None = None, tables: Tables | None = None) -> Plan:
    """Everything that happens when ``project`` runs under ``run``.

    ``tables`` keeps what planning a project and planning it again after an edit have in common.
    Raises ``BadProject`` if the run starts at a scene or frame that is not there.
    """
    return Film(project, run or Run(), tables or Tables(), State()).play()


def states(project: Project, run: Run, tables: Tables) -> Iterator[State]:
    """The state before each frame that is entered; it goes on changing, so keep a copy of it."""
    return Film(project, run, tables, State()).walk()


def plan_on(project: Project, run: Run, state: State, tables: Tables) -> Plan:
    """The plan of a run of which ``state`` was kept: it is taken up there, and used up.

    ``tables`` are those it came from: what is open is known by what they are made of.
    """
    return Film(project, run, tables, state).play()


def _never(_: LayerTable) -> bool:
    return False


class Film:
    """One run being worked out, from a state on.

    With ``plainly`` layers that follow from the pictures alone are worked out when all is over.
    ``closely`` it stops at every frame, and what the run's limit cuts is not asked to be over.
    ``in_one_piece`` says in the end that its plan is of the whole run, whatever the state held.
    """

    def __init__(
        self,
        project: Project,
        run: Run,
        made: Tables,
        state: State,
        *,
        plainly: bool = True,
        closely: bool = False,
    ) -> None:
        self.project, self.run, self.made, self.state = project, run, made, state
        self.tables: dict[int, SceneTable] = {}
        self.layers = made.layer_tables(project)
        self.entering = Entering(project, run, made, state)
        self.rules = self.entering.rules
        self.first_scene = first_scene(project, run)
        # With chase a run that begins later is planned from the film's start, and not by parts.
        whole = self.first_scene == 0 or run.only_scene or not run.chase
        depends = Dependence(self.layers.values(), project.pads)
        slow = bool(self.entering.draw_times)
        plain = plainly and whole and allows_plain(run, slow=slow)
        self.is_plain = depends.plain if plain else _never
        self.closely = closely
        self.in_one_piece = False

    # -- from frame to frame -------------------------------------------------------------------

    def play(self) -> Plan:
        """The plan."""
        walk = self.walk()
        while True:
            try:
                next(walk)
            except StopIteration as over:
                made: Plan = over.value
                return made

    def walk(self) -> Generator[State, None, Plan]:
        """Every frame that is entered, and in the end the plan."""
        run, s = self.run, self.state
        fresh = s.next is None
        if fresh and (
            not run.chase or ((self.first_scene == 0 or run.only_scene) and run.frame == 0)
        ):
            self._begin()
        for number, index, last in self._itinerary():
            over = yield from self._visit(number, index, last=last)
            if over is not None:
                return over
        return self._finish(s.time, stopped=False)

    def _itinerary(self) -> Iterator[tuple[int, int, bool]]:
        """Pass, scene index and whether it is the run's last, of every scene still to be gone on.

        The first is the one the state is in, if it is in one.
        """
        run, first, here = self.run, self.first_scene, self.state.next
        scenes = [first] if run.only_scene else list(range(len(self.project.scenes)))
        number = 1 if here is None else here.number
        while run.passes == 0 or number <= run.passes:
            skip = first if number == 1 and not run.only_scene and not run.chase else 0
            for index in scenes[skip:]:
                if here is not None and number == here.number and index < here.scene:
                    continue
                last = number == run.passes and index == scenes[-1]
                yield number, index, last
            number += 1

    def _visit(self, number: int, index: int, *, last: bool) -> Generator[State, None, Plan | None]:
        """Play a scene through; the finished plan if the run is over inside it."""
        s, table = self.state, self._table(index)
        length = table.scene.length
        starts_here = number == 1 and index == self.first_scene
        origin = self.run.frame if starts_here and not (s.began and self.run.chase) else None
        if s.next is not None and (s.next.number, s.next.scene) == (number, index):
            frame = s.next.frame
        else:
            frame = self._arrive(table, number, origin)
        position = bisect_left(table.frames, frame)
        while frame < length:
            s.next = Next(number, index, frame)
            yield s
            if frame == origin and not s.began:
                self._begin()
            if s.past_limit(s.time):
                for_good = self.entering.stands_for_good(table, frame)
                return self._stop(maybe_over=for_good)
            following = length
            if position < len(table.frames) and table.frames[position] == frame:
                position += 1
            if position < len(table.frames):
                following = table.frames[position]
            if self.closely:
                following = frame + 1
            if origin is not None and frame < origin < following:
                following = origin
            if s.standing is not None:
                outcome = self.entering.take_up(table, following)
            else:
                outcome = self.entering.enter(table, frame, following)
            if outcome != "on":
                return self._over(outcome)
            frame = self.entering.went_to
        if s.limit is not None and s.time >= s.limit:
            following = index if self.run.only_scene else (index + 1) % len(self.project.scenes)
            for_good = self.entering.stands_for_good(self._table(following), 0)
            return self._stop(maybe_over=last or for_good)
        self.entering.end_scene(table)
        return None

    def _arrive(self, table: SceneTable, number: int, origin: int | None) -> int:
        """A scene begins; the frame it begins on."""
        s, scene = self.state, table.scene
        s.visit += 1
        s.visits.append(Visit(scene.id, number, s.time, s.time, float(scene.length)))
        s.plain += [(s.visit, each) for each in table.plain]
        acting = self.entering.acting
        if acting is not None and s.visit == 0:
            s.scene, s.frame = table.index, origin or 0 if s.began else 0
            acting.start()
        if origin is None or not s.began:
            return 0
        if origin:
            self.rules.join_locked(table, origin)
        return origin

    def _table(self, index: int) -> SceneTable:
        table = self.tables.get(index)
        if table is None:
            table = self.made.scene_table(self.project, index, self.layers, self.is_plain)
            self.tables[index] = table
        return table

    # -- where the run begins and ends ---------------------------------------------------------

    def _begin(self) -> None:
        """The origin is here: from now on the run's own conditions hold."""
        s, rate = self.state, self.project.rate
        s.began = True
        s.origin = s.drawn_by = s.time
        limit = self.run.limit
        if limit is None and self.run.passes == 0:
            limit = ENDLESS_LIMIT
        if limit is not None:
            s.limit = s.origin + seconds_to_samples(limit, rate)
        s.presses = sorted(s.origin + press for press in self.run.presses)
        s.last_entered = None
        s.events.clear()
        s.stretches.clear()
        if self.entering.acting is not None:
            self.entering.acting.begin()

    def _over(self, outcome: Outcome) -> Plan:
        if outcome == "stands for good":
            return self._finish(self.state.time, stopped=False)
        return self._stop(maybe_over=outcome == "stopped at a press point")

    def _stop(self, *, maybe_over: bool = False) -> Plan:
        """The limit is reached; ``maybe_over`` says that the run may be over by itself by then."""
        s = self.state
        assert s.limit is not None
        if maybe_over and s.time == s.limit and not self.closely:
            later = 2 * (ENDLESS_LIMIT if self.run.limit is None else self.run.limit) + 1
            # What comes after the limit would come without it.
            last = max((given.at for given in self.run.inputs), default=0)
            later = max(later, last / self.project.rate + 1)
            whole = plan(self.project, replace(self.run, limit=later))
            if whole.length <= s.limit - s.origin:
                self.in_one_piece = True
                return whole
        s.time = s.limit
        return self._finish(s.limit, stopped=True)

    def _finish(self, end: int, *, stopped: bool) -> Plan:
        """Let the tail play out and write the plan down."""
        s, limit = self.state, self.state.limit
        self.rules.start_due(end, inclusive=not stopped)
        if stopped:
            self._stop_visit(end)
        for locked in list(s.locked):
            s.close_locked(locked, end, "run")
        sounding = [voice for voice in s.voices if isinstance(voice, OpenVoice)]
        if not stopped and self.run.tail == "ring":
            self.rules.ring_out(end)
            sounding = [voice for voice in s.voices if isinstance(voice, OpenVoice)]
            if limit is not None:
                over = any(not voice.over(limit) for voice in sounding) or s.waiting_rows
                stopped = bool(over)
                for voice in sounding:
                    voice.cut(limit, "run")
        else:
            for voice in sounding:
                voice.cut(end, "run")
        if stopped:
            assert limit is not None
            run_scene = self.project.scenes[self.first_scene].id
            scene, frame = s.last_entered or (run_scene, self.run.frame)
            s.events.append(Event(limit, "limited", scene, frame, visit=s.visit))
        return written(
            self.entering.base, s.voices, s.events, s.visits, s.stretches, s.plain, s.glides,
            origin=s.origin, end=end,
        )  # fmt: skip

    def _stop_visit(self, end: int) -> None:
        s, base = self.state, self.entering.base
        if not s.stretches:
            return
        stretch = s.stretches[-1]
        moved = max(0, end - stretch.at - stretch.stands) + base.start(stretch.frame)
        last = stretch.frame + stretch.length
        s.leave_at(min(float(last), base.position(moved)))
