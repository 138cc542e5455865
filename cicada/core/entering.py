"""Going through a film's frames: entering one, standing still on it, moving on.

semantics.md, sections 4 and 6; live.md, section L6. Time moves from one frame where something can
happen to the next, or at which a watch may see something: the frames between them cost nothing
unless the machine is slow. Queued clips that start in between are started on the way, and inputs
are taken there.
"""

from collections.abc import Callable, Sequence
from typing import Literal

from msgspec.structs import replace

from cicada.core.acting import Acting
from cicada.core.conditions import draw_times
from cicada.core.model import Project, Run
from cicada.core.placed import FrameWork, SceneTable, Tables
from cicada.core.placed_pads import placed_pads
from cicada.core.plan import Event
from cicada.core.rules import Rules
from cicada.core.sounding import OpenVoice, Waiting
from cicada.core.state import Standing, State
from cicada.core.timebase import seconds_to_samples

Outcome = Literal["on", "stands for good", "stopped", "stopped at a press point"]
"""What comes of a frame: the next one, a wait without an end, or the limit."""


class Entering:
    """What happens to a state as the picture goes from frame to frame under a run's conditions."""

    def __init__(self, project: Project, run: Run, tables: Tables, state: State) -> None:
        self.run, self.state, self.rate = run, state, project.rate
        self.rules = Rules(project, run, state)
        self.base = self.rules.base
        self.draw_times = draw_times(project, run)
        # Whether anybody asks where the picture is.
        self.read = bool(project.values or project.pads)
        # Told while the picture stands, before it goes on to the next moment; None: for good.
        self.before_moment: Callable[[int | None], None] | None = None
        self.acting: Acting | None = None
        # The frame that was gone on to last.
        self.went_to = 0
        if project.pads or run.inputs:
            self.acting = Acting(project, run, placed_pads(project, tables), self.rules)

    def enter(self, table: SceneTable, frame: int, following: int) -> Outcome:
        """Enter ``frame`` at the state's time, and move on to the frame ``following``.

        It may be an earlier one that is gone on to, where a watch may see something: ``went_to``.
        """
        s = self.state
        entered = s.time
        s.last_entered = (table.scene.id, frame)
        if self.read:
            s.scene, s.frame, s.moves_from, s.frames_to = table.index, frame, None, frame + 1
        holds: list[OpenVoice | Waiting] = []
        work = table.work.get(frame)
        # 1: what was due before.
        if work is not None:
            self.rules.start_due(entered, inclusive=False)
        # What its audience does comes when the picture is on the frame.
        if self.acting is not None:
            self.answer_entry(self.acting)
        if work is not None:
            self.do(work, holds)
        # 5: the picture is shown, or dropped.
        shown = not s.began or s.drawn_by <= entered
        if shown and s.began and self.draw_times:
            s.drawn_by = entered + self.draw_time(table.scene.id, frame)
        # 6: holds.
        if holds:
            self.hold(holds, frame, entered, shown=shown)
        return self._at_press_point(table, frame, following, entered, shown=shown)

    def take_up(self, table: SceneTable, following: int) -> Outcome:
        """Go on with the standstill that the state was kept in."""
        here = self.state.standing
        assert here is not None
        frame, entered, shown = here.frame, here.entered, here.shown
        if here.kind == "held":
            self._stand_on(here, lambda: self._held_until(here.holds))
            return self._at_press_point(table, frame, following, entered, shown=shown)
        goes_on = self._stand_on(here, self._pressed_by(table, frame, here.began))
        return self._leave(table, frame, following, entered, shown=shown, goes_on=goes_on)

    def _at_press_point(
        self, table: SceneTable, frame: int, following: int, entered: int, *, shown: bool
    ) -> Outcome:
        # 7: a press point.
        press, goes_on = table.presses.get(frame), True
        if press is not None and self.state.began and self.run.press_points == "wait":
            goes_on = self.wait(table, frame, entered, shown=shown)
        return self._leave(table, frame, following, entered, shown=shown, goes_on=goes_on)

    def _leave(
        self,
        table: SceneTable,
        frame: int,
        following: int,
        entered: int,
        *,
        shown: bool,
        goes_on: bool,
    ) -> Outcome:
        s = self.state
        stands = s.time - entered
        if not goes_on:
            s.add_stretch(entered, frame, 1, shown=shown, stands=stands)
            s.leave_at(float(frame))
            return "stands for good"
        if s.past_limit(s.time):
            assert s.limit is not None
            s.add_stretch(entered, frame, 1, shown=shown, stands=s.limit - entered)
            return "stopped at a press point" if self.stands_for_good(table, frame) else "stopped"
        # 8: the frame lasts.
        for voice in s.locked:
            voice.move(s.time)
        following = self.went_to = self._as_far_as_is_watched(frame, following)
        if s.began and self.draw_times:
            return self.move_slowly(entered, frame, following, shown=shown, stands=stands)
        return self.move(entered, frame, following, shown=shown, stands=stands)

    def _as_far_as_is_watched(self, frame: int, following: int) -> int:
        """The next frame at which a watch may see something, or that follows an input."""
        acting, s = self.acting, self.state
        if acting is None or not acting.watches:
            return following
        if s.began and self.draw_times:
            return frame + 1
        following = acting.next_look(frame, following)
        given = acting.next_input()
        moved_from = s.time - self.base.start(frame)
        if given is not None and given < moved_from + self.base.start(following):
            following = min(following, self.base.frame_at(given - moved_from) + 1)
        return following

    def do(self, work: FrameWork, holds: list[OpenVoice | Waiting]) -> None:
        """What stands on a frame: steps 2 to 4; ``holds`` takes in what holds the picture."""
        rules, moment = self.rules, self.state.time
        # 2: spans are left.
        for placed in work.left:
            rules.leave(placed)
        rules.start_due(moment)
        # 3: hushes.
        for hush in work.hushes:
            rules.hush(hush, hush.anchor)
        rules.start_due(moment)
        # 4: clips.
        for placed in work.clips:
            rules.fire(placed, holds)
        rules.start_due(moment)

    def answer_entry(self, acting: Acting) -> None:
        """The inputs of the moment a frame is entered, and the look of the watches."""
        s = self.state
        acting.settle()
        if acting.watches or acting.next_input() == s.time:
            self.rules.start_due(s.time, inclusive=False)
            acting.take()
            acting.look()

    # -- 5: the picture is shown, or dropped ---------------------------------------------------

    def draw_time(self, scene: str, frame: int) -> int:
        """How many samples drawing a frame takes."""
        times = self.draw_times[scene]
        return times[frame % len(times)]

    # -- 6: holds ------------------------------------------------------------------------------

    def hold(
        self, holds: list[OpenVoice | Waiting], frame: int, entered: int, *, shown: bool
    ) -> None:
        """Stand still until the holds that began on this frame are over."""
        s, kept = self.state, []
        for hold in holds:
            if isinstance(hold, Waiting) and hold.voice is None:
                row = s.row(hold.placed.row)
                if row.turn_over(hold, s.time) is None:
                    s.say("blocked-hold", hold.placed)
                    continue
            kept.append(hold)
        here = Standing("held", frame, entered, s.time, shown, kept)
        self._stand(here, lambda: self._held_until(kept))

    def _held_until(self, holds: Sequence[OpenVoice | Waiting]) -> int:
        """When the last of the holds is over, as things stand."""
        s = self.state
        until = s.time
        for hold in holds:
            voice = hold.voice if isinstance(hold, Waiting) else hold
            over: int | None = None
            if voice is not None:
                over = voice.end
            elif isinstance(hold, Waiting):
                row = s.row(hold.placed.row)
                # One that was thrown out of its queue holds no more.
                over = row.turn_over(hold, s.time) if hold in row.waiting else None
            until = max(until, over or 0)
        return until

    # -- 7: press points -----------------------------------------------------------------------

    def wait(self, table: SceneTable, frame: int, entered: int, *, shown: bool) -> bool:
        """Stand at a press point; False if it is for good."""
        if self.acting is not None:
            self.acting.arrive()
        here = Standing("waiting", frame, entered, self.state.time, shown)
        return self._stand(here, self._pressed_by(table, frame, here.began))

    def _pressed_by(self, table: SceneTable, frame: int, began: int) -> Callable[[], int | None]:
        """Until when, as things stand, the picture waits at a press point."""
        after, acting = table.presses[frame].after, self.acting
        ends = [press for press in self.state.presses if press > began][:1]
        if after is not None:
            ends.append(began + seconds_to_samples(after, self.rate))

        def over() -> int | None:
            lets_go = acting.lets_go_at() if acting is not None else None
            return min(ends if lets_go is None else [*ends, lets_go], default=None)

        return over

    def stands_for_good(self, table: SceneTable, frame: int) -> bool:
        """Whether the picture, on that frame now, waits for a press that does not come."""
        s = self.state
        point = table.presses.get(frame)
        if point is None or point.after is not None or self.run.press_points != "wait":
            return False
        return s.began and not s.holding and not any(press > s.time for press in s.presses)

    # -- standing still ------------------------------------------------------------------------

    def _stand(self, here: Standing, over: Callable[[], int | None]) -> bool:
        """The picture stands still, and locked voices with it; False if it is for good.

        ``over`` says until when it will, as things stand.
        """
        s, began, until = self.state, here.began, over()
        if s.past_limit(began) or (until == began and here.kind == "held"):
            return True
        place, scene = len(s.events), s.visits[-1].scene
        s.events.append(Event(began, here.kind, scene, here.frame, "", None, s.visit))
        if until is None or until > began:
            for voice in list(s.locked):
                if not voice.pause(began):
                    s.drop_locked(voice)
        s.standing = here._replace(place=place)
        return self._stand_on(s.standing, over)

    def _stand_on(self, here: Standing, over: Callable[[], int | None]) -> bool:
        s, acting, every = self.state, self.acting, self.base.duration(here.frame)
        while (until := over()) is None or until > s.time:
            moment = until
            if acting is not None:
                moment = acting.next_moment(until, here.entered, every)
            if self.before_moment is not None:
                self.before_moment(moment)
            if moment is None:
                for voice in list(s.locked):
                    s.close_locked(voice, s.time, "run")
                s.standing = None
                return False
            if acting is None or s.past_limit(moment):
                assert until is not None
                s.time = until
                break
            s.time = moment
            # Watches look as often as a frame would have gone by.
            acting.answer(looks=(moment - here.entered) % every == 0)
        for voice in list(s.locked):
            if voice.over(s.time):
                s.close_locked(voice, s.time, "run")
        shown = s.time if s.limit is None else min(s.time, s.limit)
        s.events[here.place] = replace(s.events[here.place], until=shown)
        s.standing = None
        return True

    # -- 8: the frame lasts --------------------------------------------------------------------

    def move(
        self, entered: int, frame: int, following: int, *, shown: bool, stands: int
    ) -> Outcome:
        """Let the frames up to ``following`` last as long as they do."""
        s = self.state
        moved_from = s.time - self.base.start(frame)
        arrives = moved_from + self.base.start(following)
        if self.acting is not None:
            self.answer_on_the_way(self.acting, arrives, frame, following)
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
            over, late = moves + self.base.duration(frame), 0
            if shown and s.drawn_by > over and not self.sound_leads(moves):
                late = s.drawn_by - over
                over = s.drawn_by
            if self.acting is not None:
                self.answer_on_the_way(self.acting, over, frame, frame + 1)
            s.time = over
            s.add_stretch(entered, frame, 1, shown=shown, stands=stands, late=late)
            frame += 1
            if s.limit is not None and s.time > s.limit:
                s.time = s.limit
                return "stopped"
            if frame == following or s.past_limit(s.time):
                return "stopped" if frame < following else "on"
            entered, stands = s.time, 0
            s.last_entered = (scene, frame)
            s.frame, s.moves_from, s.frames_to = frame, None, frame + 1
            if self.acting is not None:
                self.answer_entry(self.acting)
            shown = s.drawn_by <= entered
            if shown:
                s.drawn_by = entered + self.draw_time(scene, frame)

    def sound_leads(self, moment: int) -> bool:
        """Whether some locked voice sounds from that moment on."""
        s = self.state
        for voice in [v for v in s.locked if v.over(moment)]:
            s.close_locked(voice, moment, "run")
        return bool(s.locked)

    def answer_on_the_way(self, acting: Acting, arrives: int, frame: int, following: int) -> None:
        """The inputs while the picture moves from ``frame`` on, up to ``following``."""
        s = self.state
        s.moves_from, s.frame, s.frames_to = s.time, frame, following
        while (moment := acting.next_input()) is not None and moment < arrives:
            s.time = moment
            acting.answer(looks=False)

    # -- where a scene ends

    def end_scene(self, table: SceneTable) -> None:
        """The picture leaves a scene, after its last frame."""
        s = self.state
        s.leave_at(float(table.scene.length))
        if self.acting is not None:
            self.acting.settle()
        self.rules.start_due(s.time, inclusive=False)
        for placed in table.left_at_end:
            self.rules.leave(placed)
        for voice in list(s.locked):
            s.close_locked(voice, s.time, "span")
        for key in table.cut_rows:
            row = s.row(key)
            for waiting in list(row.waiting):
                self.rules.unqueue(row, waiting)
            for sounding in row.voices:
                row.stale |= sounding.cut(s.time, "scene")
        self.rules.start_due(s.time)
