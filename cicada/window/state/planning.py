"""Keeps the plan of the document at hand, worked out beside the window so that it never waits."""

from collections.abc import Callable
from concurrent.futures import Future
from functools import partial
from threading import Event
from typing import NamedTuple

from PySide6.QtCore import QObject, Signal

from cicada.core.all_edits import applied
from cicada.core.answers import Input
from cicada.core.checks import Finding, check
from cicada.core.editing import Edit
from cicada.core.live import going_on, pressed_at_once, seen_from_start, up_to_frame
from cicada.core.model import Project, Run
from cicada.core.placed import Tables
from cicada.core.plan import Plan
from cicada.core.planner import plan
from cicada.core.silent import silent_when_listening
from cicada.core.steady import MOST_PASSES, may_settle, steady_pass
from cicada.errors import CicadaError
from cicada.window.state.beside import Beside, Post
from cicada.window.state.conditions import STEADY, Conditions, Played
from cicada.window.state.document import Document
from cicada.window.state.presence import Presence

# Seconds the window has to draw a new plan before it is checked.
BREATH = 0.06


class Trial:
    """Something tried out by one who may: only what it has tried out itself is ended by it.

    ``begun`` says that its project is the one that is planned, or soon will be.
    """

    def __init__(self, planning: "Planning") -> None:
        self._planning = planning

    @property
    def begun(self) -> bool:
        """Whether this is what is tried out."""
        return self._planning.tried_by is self

    @property
    def planned(self) -> bool:
        """Whether the plan is already that of this."""
        return self.begun and self._planning.trying

    @property
    def may_look(self) -> bool:
        """Whether nothing of somebody else's is heard, which only looking must not end."""
        other = self._planning.tried_by is not None and not self.begun
        return not (other and self._planning.heard)

    def of(self, edit: Edit, *, heard: bool = False) -> Project:
        """Try out the project with an edit; what is only looked at is not ``heard``.

        Raises ``CicadaError``, and nothing is tried out any more, if the edit does not fit.
        """
        try:
            made = self._planning.edited(edit)
        except CicadaError:
            self.end()
            raise
        self._planning.try_out(self, made, heard=heard)
        return made

    def attempt(self, make: Callable[[], Edit | None], *, heard: bool = False) -> bool:
        """Try out an edit that may turn out not to fit, which is said; whether it does.

        One that is None shows the film as it is.
        """
        try:
            edit = make()
            if edit is None:
                self.end()
            else:
                self.of(edit, heard=heard)
        except CicadaError as error:
            self.end()
            self._planning.refused.emit(str(error))
            return False
        return True

    def instead(self, project: Project) -> None:
        """Try out another project in place of the film, and hear it."""
        self._planning.try_out(self, project, heard=True)

    def end(self) -> None:
        """Go back to the film as it is."""
        if self.begun:
            self._planning.try_out(None, None, heard=True)


class _Made(NamedTuple):
    """What was worked out for a project: the drawn plan, and the played one if it is another."""

    project: Project
    run: Run
    plan: Plan
    inputs: tuple[Input, ...]
    number: int | None
    played: Played | None
    played_plan: Plan


class _Looked(NamedTuple):
    """What the checks found in a project."""

    project: Project
    findings: list[Finding]


class _Worker:
    """Works plans out in the thread beside the window, and keeps what they have in common."""

    def __init__(self) -> None:
        self._tables, self._played_tables = Tables(), Tables()
        # Set when another plan is wanted.
        self.asked = Event()

    def work(
        self,
        post: Post,
        project: Project,
        run: Run,
        played: Played | None,
        shown: int,
        missing: frozenset[str],
        *,
        whole: bool,
    ) -> None:
        self.asked.clear()
        drawn = run
        if run.presses or run.inputs:
            drawn = seen_from_start(project, run, self._tables) if whole else run
            if drawn.press_points == "wait":
                drawn = pressed_at_once(project, drawn, self._tables)
        made = plan(project, drawn, self._tables)
        played_plan = self._plan_played(project, played) if played is not None else made
        number: int | None = shown
        if shown == STEADY:
            number = steady_pass(made) if may_settle(project) else None
        post(_Made(project, run, made, drawn.inputs, number, played, played_plan))
        # Checks look at the film as its audience gets it, when the sheet has been drawn.
        if not self.asked.wait(BREATH):
            post(_Looked(project, check(project, missing, made if run == Run() else None)))

    def _plan_played(self, project: Project, played: Played) -> Plan:
        run, tables = played.run, self._played_tables
        if played.last is not None:
            return plan(project, up_to_frame(project, run, played.last, tables), tables)
        return plan(project, going_on(run, project.rate), tables)


class Planning(QObject):
    """The newest plan; views go on with the old one until ``planned`` says there is another.

    While something is tried out, the plan is that of the project as if it were placed. ``number``
    is the pass that is shown, and ``settles`` whether a steady one was found where it was asked.
    ``played_plan`` is the one that Space plays, which is another where ``played`` says so.
    ``trial_changed`` comes when somebody else tries something out, or nobody does any more.
    """

    planned = Signal()
    checked = Signal()
    trial_changed = Signal()
    refused = Signal(str)

    def __init__(self, document: Document, presence: Presence, conditions: Conditions) -> None:
        super().__init__()
        self._document, self._presence, self._conditions = document, presence, conditions
        self._worker = _Worker()
        self._beside = Beside("planning", self._arrived)
        self._newest: Future[None] | None = None
        self._trial: Project | None = None
        # Whose trial it is, and whether it is to be heard.
        self.tried_by: Trial | None = None
        self.heard = True
        self.project, self.era = document.project, document.era
        self.plan: Plan = plan(document.project)
        # The document's own project and plan, also while something else is tried out.
        self.settled_plan = self.plan
        self.settled = document.project
        self.silent: frozenset[str] = silent_when_listening(document.project)
        self.findings: list[Finding] = []
        self.run = Run()
        # What was given in the run that is drawn, at samples of its plan.
        self.inputs: tuple[Input, ...] = ()
        self.played: Played | None = None
        self.played_plan = self.plan
        self.number, self.settles = 1, True
        self._run = self.run
        self._checked: Project | None = None
        document.changed.connect(self._begin)
        presence.missing_changed.connect(self._begin)
        conditions.changed.connect(self._begin_again)

    def trial(self) -> Trial:
        """A way to try something out, for one owner."""
        return Trial(self)

    def edited(self, edit: Edit) -> Project:
        """The document's project with an edit that is not done; raises ``BadEdit``."""
        return applied(edit, self._document.project)

    def try_out(self, trial: Trial | None, project: Project | None, *, heard: bool) -> None:
        """Plan another project for a while in place of the document's; see ``Trial``."""
        another, self.tried_by = trial is not self.tried_by, trial
        if project is not self._trial:
            self._trial, self.heard = project, heard
            self._submit(project or self._document.project)
        if another:
            self.trial_changed.emit()

    def end_trials(self) -> None:
        """Whatever is tried out, go back to the film as it is."""
        self.try_out(None, None, heard=True)

    @property
    def trying(self) -> bool:
        """Whether the plan is that of something tried out."""
        return self._trial is not None and self.project is self._trial

    def _begin(self) -> None:
        was, self.tried_by = self.tried_by, None
        self._trial, self.heard = None, True
        self._submit(self._document.project)
        if was is not None:
            self.trial_changed.emit()

    def _begin_again(self) -> None:
        self._submit(self._trial or self._document.project)

    def _submit(self, project: Project) -> None:
        if self._newest is not None:
            self._newest.cancel()
        self._worker.asked.set()
        self._run, played = self._conditions.run(), self._conditions.played()
        shown = self._conditions.shown_pass
        self._newest = self._beside.do(
            partial(self._worker.work, whole=not self._conditions.from_playhead),
            project, self._run, played, shown, self._presence.missing,
        )  # fmt: skip

    def _arrived(self, what: _Made | _Looked) -> None:
        if isinstance(what, _Made):
            self._take(what)
        else:
            self._take_findings(what)

    def _take(self, made: _Made) -> None:
        project = made.project
        if project is (self._trial or self._document.project) and made.run is self._run:
            self.project, self.run, self.plan = project, made.run, made.plan
            self.inputs = made.inputs
            self.era = self._document.era
            self.played, self.played_plan = made.played, made.played_plan
            if project is self._document.project:
                self.settled, self.settled_plan = project, made.plan
            self.silent = silent_when_listening(project)
            self.number, self.settles = made.number or MOST_PASSES, made.number is not None
            self.planned.emit()

    def _take_findings(self, looked: _Looked) -> None:
        if looked.project is self.project:
            self.findings, self._checked = looked.findings, looked.project
            self.checked.emit()

    @property
    def up_to_date(self) -> bool:
        """Whether the plan is that of the project as it is and of the run asked for."""
        return self.project is self._document.project and self.run is self._run

    @property
    def at_rest(self) -> bool:
        """Whether the plan is up to date and was checked."""
        return self.up_to_date and self._checked is self.project

    def wait(self) -> None:
        """Wait until all that was begun is done."""
        self._beside.wait()

    def close(self) -> None:
        """Wait for the work under way and take no more."""
        self._worker.asked.set()
        self._beside.close()
