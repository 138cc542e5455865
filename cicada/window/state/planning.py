"""Keeps the plan of the document at hand, worked out beside the window so that it never waits."""

from concurrent.futures import Future
from functools import partial
from threading import Event
from typing import NamedTuple

from PySide6.QtCore import QObject, Signal

from cicada.core.checks import Finding, check
from cicada.core.live import awaiting, pressed_at_once, seen_from_start, up_to_frame
from cicada.core.model import Project, Run
from cicada.core.placed import Tables
from cicada.core.plan import Plan
from cicada.core.planner import plan
from cicada.core.steady import MOST_PASSES, steady_pass
from cicada.window.state.beside import Beside, Post
from cicada.window.state.conditions import STEADY, Conditions, Played
from cicada.window.state.document import Document
from cicada.window.state.presence import Presence

# Seconds the window has to draw a new plan before it is checked.
BREATH = 0.06


def silent_layers(project: Project) -> frozenset[str]:
    """Muted layers, and in a scene with soloed ones all the others."""
    silent = []
    for scene in project.scenes:
        some_solo = any(layer.solo for layer in scene.layers)
        silent += [x.id for x in scene.layers if x.mute or (some_solo and not x.solo)]
    return frozenset(silent)


class _Made(NamedTuple):
    """What was worked out for a project: the drawn plan, and the played one if it is another."""

    project: Project
    run: Run
    plan: Plan
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
        if run.presses:
            drawn = seen_from_start(project, run, self._tables) if whole else run
            drawn = pressed_at_once(project, drawn, self._tables)
        made = plan(project, drawn, self._tables)
        played_plan = self._plan_played(project, played) if played is not None else made
        number = steady_pass(made) if shown == STEADY else shown
        post(_Made(project, run, made, number, played, played_plan))
        # Checks look at the film as its audience gets it, when the sheet has been drawn.
        if not self.asked.wait(BREATH):
            post(_Looked(project, check(project, missing, made if run == Run() else None)))

    def _plan_played(self, project: Project, played: Played) -> Plan:
        run, tables = played.run, self._played_tables
        if played.last is not None:
            return plan(project, up_to_frame(project, run, played.last, tables), tables)
        return plan(project, awaiting(run, project.rate), tables)


class Planning(QObject):
    """The newest plan; views go on with the old one until ``planned`` says there is another.

    While something is tried out, the plan is that of the project as if it were placed. ``number``
    is the pass that is shown, and ``settles`` whether a steady one was found where it was asked.
    ``played_plan`` is the one that Space plays, which is another where ``played`` says so.
    """

    planned = Signal()
    checked = Signal()

    def __init__(self, document: Document, presence: Presence, conditions: Conditions) -> None:
        super().__init__()
        self._document, self._presence, self._conditions = document, presence, conditions
        self._worker = _Worker()
        self._beside = Beside("planning", self._arrived)
        self._newest: Future[None] | None = None
        self._trial: Project | None = None
        self.heard = True
        self.project, self.era = document.project, document.era
        self.plan: Plan = plan(document.project)
        # The last plan of the document itself, also while something else is tried out.
        self.settled_plan = self.plan
        self.silent: frozenset[str] = silent_layers(document.project)
        self.findings: list[Finding] = []
        self.run = Run()
        self.played: Played | None = None
        self.played_plan = self.plan
        self.number, self.settles = 1, True
        self._run = self.run
        self._checked: Project | None = None
        document.changed.connect(self._begin)
        presence.missing_changed.connect(self._begin)
        conditions.changed.connect(self._begin_again)

    def try_out(self, project: Project | None, *, heard: bool = True) -> None:
        """Plan another project for a while; None goes back to the document's.

        What is only looked at, as while something is dragged, is not ``heard``.
        """
        if project is not self._trial:
            self._trial = project
            self.heard = heard or project is None
            self._submit(project or self._document.project)

    @property
    def trying(self) -> bool:
        """Whether the plan is that of something tried out."""
        return self._trial is not None and self.project is self._trial

    def _begin(self) -> None:
        self._trial, self.heard = None, True
        self._submit(self._document.project)

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
            self.era = self._document.era
            self.played, self.played_plan = made.played, made.played_plan
            if project is self._document.project:
                self.settled_plan = made.plan
            self.silent = silent_layers(project)
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
