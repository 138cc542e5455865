"""Delivering some recipes one after the other in a worker, with progress and cancel."""

import time
from pathlib import Path

from PySide6.QtCore import QObject, QTimer, Signal

from cicada.core.model import Project
from cicada.core.recipes import AnyRecipe
from cicada.deliver.delivery import Delivery
from cicada.disk.writing import sweep
from cicada.jobs.delivering import Ahead, deliver_recipe, look_ahead
from cicada.window.state.document import Document
from cicada.window.state.jobs import Job
from cicada.window.state.work import Work
from cicada.window.widgets.asking import Asking
from cicada.window.words.quantities import count

LOOK = 100
# Names listed in a question at most.
SHOWN = 8


class Deliveries(QObject):
    """``changed`` comes with each step of the progress, ``over`` when nothing is left to do."""

    changed = Signal()
    over = Signal()

    def __init__(self, document: Document, work: Work, asking: Asking) -> None:
        super().__init__()
        self._document, self._work, self._asking = document, work, asking
        self._waiting: list[tuple[AnyRecipe, tuple[str, ...]]] = []
        self._project: Project | None = None
        self._folder = Path()
        self._job: Job | None = None
        self._all, self._begun, self._stopped = 1, 0.0, False
        self.under_way = ""
        self.done: list[Delivery] = []
        # Recipes that were not delivered, each with why.
        self.failed: list[tuple[str, str]] = []
        self._timer = QTimer(self)
        self._timer.setInterval(LOOK)
        self._timer.timeout.connect(self.changed)

    @property
    def busy(self) -> bool:
        """Whether something is being delivered."""
        return self._job is not None

    @property
    def share(self) -> float:
        """How much of all of it is done."""
        finished = self._all - len(self._waiting) - (1 if self.busy else 0)
        return (finished + (0.0 if self._job is None else self._job.share)) / self._all

    @property
    def left(self) -> float | None:
        """About how many seconds it still takes; None while that is not known."""
        share, spent = self.share, time.monotonic() - self._begun
        return spent * (1 - share) / share if share > 0.02 and spent > 1 else None

    def deliver(self, recipes: list[AnyRecipe], folder: Path) -> None:
        """Look what stands in the way, ask about it, and deliver; ``over`` follows."""
        if self.busy or not recipes:
            return
        self._project, self._folder = self._document.project, folder
        self.done, self.failed, self._waiting = [], [], []
        self._all, self._begun, self._stopped = len(recipes), time.monotonic(), False
        self.under_way = "Looking what is there already"
        self._job = self._work.with_sounds(
            look_ahead, self._document.file, tuple(recipes), folder,
            done=lambda ahead: self._ask(recipes, ahead),
            failed=lambda why: self._give_up("", why),
        )  # fmt: skip
        self._timer.start()
        self.changed.emit()

    def _ask(self, recipes: list[AnyRecipe], ahead: list[Ahead]) -> None:
        self._job = None
        if self._stopped:
            self._end()
            return
        blocked = [name for each in ahead for name in each.in_the_way]
        missing = list(dict.fromkeys(label for each in ahead for label in each.missing))
        if missing and not self._agreed(
            f"{count(len(missing), 'sound')} cannot be had, and would be silent.", missing,
            "Deliver without",
        ):  # fmt: skip
            self._end()
            return
        if blocked and not self._agreed(
            f"{count(len(blocked), 'file')} there already, not made by these recipes as they are.",
            blocked, "Replace them",
        ):  # fmt: skip
            self._end()
            return
        for recipe, each in zip(recipes, ahead, strict=True):
            if each.refused:
                self.failed.append((recipe.label, each.refused))
            else:
                self._waiting.append((recipe, each.in_the_way))
        self._all = max(1, len(self._waiting))
        self._next()

    def _agreed(self, text: str, names: list[str], verb: str) -> bool:
        detail = ", ".join(names[:SHOWN]) + (" …" if len(names) > SHOWN else "")
        return self._asking.choose(text, [verb, "Stay here"], safe=1, detail=detail) == 0

    def _next(self) -> None:
        if self._stopped or not self._waiting or self._project is None:
            self._end()
            return
        recipe, over = self._waiting.pop(0)
        self.under_way = recipe.label
        self._job = self._work.with_sounds(
            deliver_recipe, self._document.file, recipe, self._folder, over,
            done=self._delivered, failed=lambda why: self._give_up(recipe.label, why),
            project=self._project,
        )  # fmt: skip
        self.changed.emit()

    def _delivered(self, delivery: Delivery) -> None:
        self._job = None
        self.done.append(delivery)
        self._next()

    def _give_up(self, recipe: str, why: str) -> None:
        self._job = None
        if self._stopped:
            why = "Stopped; nothing of it was written."
            # A worker that had to be ended has left what it was writing.
            sweep(self._folder)
        self.failed.append((recipe, why))
        self._next()

    def cancel(self) -> None:
        """Stop it; what is finished stays."""
        self._stopped = True
        if self._job is not None:
            self._job.cancel()

    def _end(self) -> None:
        self._timer.stop()
        self._job, self._waiting, self.under_way = None, [], ""
        self.over.emit()
