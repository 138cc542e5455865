"""Keeps the plan of the document at hand, worked out beside the window so that it never waits."""

from concurrent.futures import Future, ThreadPoolExecutor

from PySide6.QtCore import QObject, Signal

from cicada.core.checks import Finding, check
from cicada.core.model import Project, Run
from cicada.core.plan import Plan
from cicada.core.planner import plan
from cicada.window.document import Document
from cicada.window.presence import Presence


class Planning(QObject):
    """The newest plan; views go on with the old one until ``planned`` says there is another.

    While something is tried out, the plan is that of the project as if it were placed.
    """

    planned = Signal()
    _done = Signal(object)

    def __init__(self, document: Document, presence: Presence) -> None:
        super().__init__()
        self._document, self._presence = document, presence
        self._pool = ThreadPoolExecutor(1, "cicada-planning")
        self._newest: Future[None] | None = None
        self._trial: Project | None = None
        self.project = document.project
        self.plan: Plan = plan(document.project)
        self.findings: list[Finding] = []
        self._done.connect(self._take)
        document.changed.connect(self._begin)
        presence.missing_changed.connect(self._begin)

    def try_out(self, project: Project | None) -> None:
        """Plan another project for a while; None goes back to the document's."""
        if project is not self._trial:
            self._trial = project
            self._submit(project or self._document.project)

    @property
    def trying(self) -> bool:
        """Whether the plan is that of something tried out."""
        return self._trial is not None and self.project is self._trial

    def _begin(self) -> None:
        self._trial = None
        self._submit(self._document.project)

    def _submit(self, project: Project) -> None:
        if self._newest is not None:
            self._newest.cancel()
        self._newest = self._pool.submit(self._work, project, self._presence.missing)

    def _work(self, project: Project, missing: frozenset[str]) -> None:
        made = plan(project, Run())
        self._done.emit((project, made, check(project, missing)))

    def _take(self, made: tuple[Project, Plan, list[Finding]]) -> None:
        if made[0] is (self._trial or self._document.project):
            self.project, self.plan, self.findings = made
            self.planned.emit()

    @property
    def up_to_date(self) -> bool:
        """Whether the plan is that of the project as it is."""
        return self.project is self._document.project

    def close(self) -> None:
        """Wait for the work under way and take no more."""
        self._pool.shutdown(cancel_futures=True)
