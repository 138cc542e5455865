"""What can be undone and done again: values, like the project itself.

A history is never changed, so keeping one is keeping the project with all its undo steps.
"""

from collections.abc import Callable, Iterator
from typing import NamedTuple

from cicada.core.model import Project


class Step(NamedTuple):
    """What an edit did, the project on its other side, and the steps beyond it."""

    title: str
    project: Project
    further: "Step | None"


class History(NamedTuple):
    """A project with what led to it and what was taken back."""

    project: Project
    undo: Step | None = None
    redo: Step | None = None

    def done(self, title: str, project: Project, *, joined: bool = False) -> "History":
        """An edit was made; one that is ``joined`` is undone together with the one before it."""
        if joined and self.undo is not None:
            return History(project, self.undo._replace(title=title))
        return History(project, Step(title, self.project, self.undo))

    def undone(self) -> "History":
        """The last edit is taken back, if there is one."""
        if self.undo is None:
            return self
        title, project, further = self.undo
        return History(project, further, Step(title, self.project, self.redo))

    def redone(self) -> "History":
        """The edit taken back last is made again, if there is one."""
        if self.redo is None:
            return self
        title, project, further = self.redo
        return History(project, Step(title, self.project, self.undo), further)

    def titles(self) -> tuple[list[str], int]:
        """What each step did, the first first, and how many of them are done."""
        done = [step.title for step in _all(self.undo)][::-1]
        return [*done, *(step.title for step in _all(self.redo))], len(done)

    def projects(self) -> list[Project]:
        """The project as it is and as every undo and redo would make it."""
        steps = (*_all(self.undo), *_all(self.redo))
        return [self.project, *(step.project for step in steps)]

    def changed(self, change: Callable[[Project], Project]) -> "History":
        """The same history of projects that were all changed alike."""
        return History(
            change(self.project), _changed(self.undo, change), _changed(self.redo, change)
        )


def _all(step: Step | None) -> Iterator[Step]:
    while step is not None:
        yield step
        step = step.further


def _changed(step: Step | None, change: Callable[[Project], Project]) -> Step | None:
    made: Step | None = None
    for title, project, _ in reversed(list(_all(step))):
        made = Step(title, change(project), made)
    return made
