"""Keeps the plan of the document at hand, worked out beside the window so that it never waits."""

from concurrent.futures import Future, ThreadPoolExecutor

from PySide6.QtCore import QObject, Signal

from cicada.core.checks import Finding, check
from cicada.core.model import Project, Run
from cicada.core.plan import Plan
from cicada.core.planner import plan
from cicada.window.document import Document


class Planning(QObject):
    """The newest plan; views go on with the old one until ``planned`` says there is another."""

    planned = Signal()
    _done = Signal(object)

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document
        self._pool = ThreadPoolExecutor(1, "cicada-planning")
        self._newest: Future[None] | None = None
        self.project = document.project
        self.plan: Plan = plan(document.project)
        self.findings: list[Finding] = []
        self._done.connect(self._take)
        document.changed.connect(self._begin)

    def _begin(self) -> None:
        if self._newest is not None:
            self._newest.cancel()
        project, missing = self._document.project, self._document.missing()
        self._newest = self._pool.submit(self._work, project, missing)

    def _work(self, project: Project, missing: set[str]) -> None:
        made = plan(project, Run())
        self._done.emit((project, made, check(project, missing)))

    def _take(self, made: tuple[Project, Plan, list[Finding]]) -> None:
        if made[0] is self._document.project:
            self.project, self.plan, self.findings = made
            self.planned.emit()

    @property
    def up_to_date(self) -> bool:
        """Whether the plan is that of the project as it is."""
        return self.project is self._document.project

    def close(self) -> None:
        """Wait for the work under way and take no more."""
        self._pool.shutdown(cancel_futures=True)
