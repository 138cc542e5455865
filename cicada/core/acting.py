"""What a film's audience does in a run: inputs, pads that act, watches (live.md, L5 and L6)."""

from collections.abc import Iterable, Sequence

from cicada.core.answers import Input
from cicada.core.model import Project, Run
from cicada.core.placed import PlacedClip, PlacedHush
from cicada.core.placed_pads import PlacedGlide, PlacedPad
from cicada.core.plan import Anchor
from cicada.core.rules import Rules
from cicada.core.state import Given, State
from cicada.core.timebase import seconds_to_samples


def taken_in(project: Project, inputs: Iterable[Input], state: State) -> list[Given]:
    """What counts of some inputs, at its moments.

    Those of pads that are off do not, nor those of what is not there any more.
    """
    pads = {pad.id for pad in project.pads if not pad.off}
    values = {value.id for value in project.values}
    given = [
        Given(state.origin + each.at, each)
        for each in inputs
        if (each.pad is None or each.pad in pads) and (each.value is None or each.value in values)
    ]
    given.sort(key=lambda each: each.at)
    return [each for each in given if not state.past_limit(each.at)]


class Acting:
    """Takes the inputs of a run and has its pads act, upon the rules and their state."""

    def __init__(self, project: Project, run: Run, pads: Sequence[PlacedPad], rules: Rules) -> None:
        self._project, self._rules, self._run, self._rate = project, rules, run, project.rate
        self._scenes = [scene.id for scene in project.scenes]
        self._pads = pads
        self._by_id = {placed.pad.id: placed for placed in self._pads}
        self._watching = [placed for placed in self._pads if placed.watch is not None]

    @property
    def watches(self) -> bool:
        """Whether any pad watches a value."""
        return bool(self._watching)

    # -- inputs --------------------------------------------------------------------------------

    def begin(self) -> None:
        """The origin is here: inputs count from now on."""
        s = self._rules.state
        s.inputs = taken_in(self._project, self._run.inputs, s)
        s.taken = 0

    def next_input(self) -> int | None:
        """When the next input comes; None if there is none."""
        s = self._rules.state
        return s.inputs[s.taken].at if s.taken < len(s.inputs) else None

    def take(self) -> None:
        """The inputs of this moment, in order, the watches looking after each."""
        s = self._rules.state
        while s.taken < len(s.inputs) and s.inputs[s.taken].at <= s.time:
            given = s.inputs[s.taken].input
            s.taken += 1
            self._do(given)
            self.look()

    def _do(self, given: Input) -> None:
        if given.value is not None:
            over = seconds_to_samples(given.over, self._rate)
            self._rules.readings.give(given.value, given.to, over)
        elif given.pad is not None:
            self._act(self._by_id[given.pad])

    # -- what makes pads act -------------------------------------------------------------------

    def start(self) -> None:
        """Those act that do so once a run, before anything else."""
        for placed in self._pads:
            if placed.pad.at_start:
                self._act(placed)

    def look(self) -> None:
        """All watches look, then those act whose value has come into its range."""
        s, due = self._rules.state, []
        s.looked = s.time
        for placed in self._watching:
            watch = placed.pad.watch
            assert watch is not None
            assert placed.watch is not None
            inside = self._rules.readings.inside(watch.value, placed.watch)
            if inside and placed.row not in s.inside:
                due.append(placed)
            if inside:
                s.inside.add(placed.row)
            else:
                s.inside.discard(placed.row)
        for placed in due:
            self._act(placed)

    def next_look(self, frame: int, following: int) -> int:
        """The next frame at which a watch may see something, or ``following`` if none comes before.

        ``frame`` is the one the picture is on, and is about to move on from.
        """
        s = self._rules.state
        for placed in self._watching:
            if following <= frame + 1:
                break
            watch = placed.pad.watch
            assert watch is not None
            assert placed.watch is not None
            found = self._rules.readings.next_crossing(
                watch.value, placed.watch, frame + 1, following - 1, inside=placed.row in s.inside
            )
            following = following if found is None else found
        return following

    def _act(self, acting: PlacedPad) -> None:
        rules, s = self._rules, self._rules.state
        here = Anchor(self._scenes[s.scene], acting.pad.id, rules.readings.frame())
        for deed in acting.deeds:
            if isinstance(deed, PlacedClip):
                rules.fire(deed.fired_at(here), [])
            elif isinstance(deed, PlacedHush):
                rules.hush(deed, here)
            elif isinstance(deed, PlacedGlide):
                rules.readings.give(*deed)
            elif deed.when == "over" and s.row(acting.row).over_at(s.time) > s.time:
                s.holding[acting.row] = None
            else:
                s.let_go = True

    # -- pads that hold the way ----------------------------------------------------------------

    def settle(self) -> None:
        """What was over before this moment holds the way no more; to be asked before it happens."""
        s = self._rules.state
        for row in [key for key in s.holding if s.row(key).over_at(s.time) < s.time]:
            del s.holding[row]

    def arrive(self) -> None:
        """A wait begins: what is over by now holds the way no more, and what was said is lost."""
        s = self._rules.state
        for row in [key for key in s.holding if s.row(key).over_at(s.time) <= s.time]:
            del s.holding[row]
        s.let_go = False

    def lets_go_at(self) -> int | None:
        """When the picture that waits at a press point goes on by what pads do; None: not yet."""
        s = self._rules.state
        if s.let_go:
            return s.time
        return min((max(s.time, s.row(key).over_at(s.time)) for key in s.holding), default=None)

    # -- while the picture stands --------------------------------------------------------------

    def next_moment(self, until: int | None, entered: int, every: int) -> int | None:
        """The next moment of a standstill that began at ``entered``: its end or what comes before.

        Watches look ``every`` so many samples. None if nothing will let it go on.
        """
        moments = [moment for moment in (until, self.next_input()) if moment is not None]
        if not moments:
            return None
        if self._watching and self._may_see_more():
            since = self._rules.state.time - entered
            moments.append(entered + (since // every + 1) * every)
        return min(moments)

    def _may_see_more(self) -> bool:
        """Whether a value may be another one than at the last look, while the picture stands."""
        s = self._rules.state
        return any(glide.at + glide.over >= s.looked for glide in s.gliding.values())

    def answer(self, *, looks: bool) -> None:
        """What happens at a moment of a standstill, or within a frame."""
        rules, moment = self._rules, self._rules.state.time
        self.settle()
        rules.start_due(moment, inclusive=False)
        self.take()
        if looks:
            self.look()
        rules.start_due(moment)
