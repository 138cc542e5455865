"""Slow work on the sounds of the project as it is now."""

from collections.abc import Callable
from pathlib import Path
from typing import TypeVar, TypeVarTuple, Unpack

from cicada.core.model import Project
from cicada.media.cache import SoundCache
from cicada.window.state.document import Document
from cicada.window.state.jobs import Job, Jobs
from cicada.window.state.notices import Notices
from cicada.window.state.presence import Presence

R = TypeVar("R")
Ts = TypeVarTuple("Ts")


class Work:
    """Hands the project, its sounds' files and the cache to a worker; what is refused is said."""

    def __init__(
        self,
        document: Document,
        presence: Presence,
        cache: SoundCache,
        jobs: Jobs,
        notices: Notices,
    ) -> None:
        self._document, self._presence, self._notices = document, presence, notices
        self.cache, self.jobs = cache, jobs

    def with_sounds(
        self,
        work: Callable[[Project, dict[str, Path], Path, Unpack[Ts]], R],
        *arguments: *Ts,
        done: Callable[[R], None],
        failed: Callable[[str], None] | None = None,
        project: Project | None = None,
    ) -> Job:
        """Have ``work`` done with project, files, the cache's folder and ``arguments``.

        ``project`` is what the document was, where it is not to be what it is now.
        """
        return self.jobs.run(
            work,
            project or self._document.project,
            self._presence.standing.files,
            self.cache.folder,
            *arguments,
            done=done,
            failed=failed or self._notices.say,
        )

    def file_of(self, sound: str) -> Path | None:
        """Where the file of a sound should stand."""
        return self._presence.standing.files.get(sound)
