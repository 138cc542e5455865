"""Which sounds' files are there and which are decoded, looked up beside the window."""

import time
from concurrent.futures import Future
from pathlib import Path
from typing import NamedTuple

from PySide6.QtCore import QObject, QTimer, Signal

from cicada.core.model import Project
from cicada.disk.paths import is_file
from cicada.jobs.mixing import unready
from cicada.media.cache import SoundCache
from cicada.store.allowed import permits
from cicada.store.sounds_folder import sound_files
from cicada.window.state.beside import Beside, Post
from cicada.window.state.document import Document
from cicada.window.state.permission import Permission

# Milliseconds between two looks, and how much longer at least than a look takes.
EVERY, TIMES = 2000, 50


class Standing(NamedTuple):
    """Where the sounds' files that may be read stand, which are not there, which to decode."""

    files: dict[str, Path]
    missing: frozenset[str]
    unready: frozenset[str]


def look(project: Project, file: Path, cache: SoundCache, folders: frozenset[str]) -> Standing:
    """See how the sounds of a project at ``file`` stand, which may read ``folders`` besides."""
    files = {
        sound: path
        for sound, path in sound_files(project, file).items()
        if permits(folders, file, path)
    }
    missing = frozenset(
        sound.id
        for sound in project.sounds
        # What is made here can be made again.
        if sound.making is None and (sound.id not in files or not is_file(files[sound.id]))
    )
    return Standing(files, missing, frozenset(unready(project, files, cache)))


def _look(
    post: Post, project: Project, file: Path, cache: SoundCache, folders: frozenset[str]
) -> None:
    began = time.monotonic()
    standing = look(project, file, cache, folders)
    post(project, standing, time.monotonic() - began)


class Presence(QObject):
    """The newest ``standing``; ``changed`` comes when another one is known."""

    changed = Signal()
    missing_changed = Signal()

    def __init__(self, document: Document, cache: SoundCache, permission: Permission) -> None:
        super().__init__()
        self._document, self._cache, self._permission = document, cache, permission
        self._beside = Beside("presence", self._take)
        self._newest: Future[None] | None = None
        self.standing = Standing({}, frozenset(), frozenset())
        self._known_for: Project | None = None
        self._timer = QTimer(self)
        self._timer.setInterval(EVERY)
        self._timer.timeout.connect(self._look_again)
        self._timer.start()
        document.changed.connect(self.look)
        permission.changed.connect(self.look)

    @property
    def missing(self) -> frozenset[str]:
        """The sounds whose files are not there."""
        return self.standing.missing

    @property
    def up_to_date(self) -> bool:
        """Whether what is known is of the project as it is."""
        return self._known_for is self._document.project

    def look(self) -> None:
        """See again how the sounds stand."""
        if self._newest is not None:
            self._newest.cancel()
        document = self._document
        self._newest = self._beside.do(
            _look, document.project, document.file, self._cache, self._permission.folders
        )

    def _look_again(self) -> None:
        """Files come and go, and so does what is decoded of them."""
        if self._newest is None or self._newest.done():
            self.look()

    def _take(self, project: Project, standing: Standing, took: float) -> None:
        self._timer.setInterval(max(EVERY, round(1000 * TIMES * took)))
        if project is not self._document.project:
            return
        self._known_for = project
        others = standing.missing != self.standing.missing
        if standing != self.standing:
            self.standing = standing
            self.changed.emit()
        if others:
            self.missing_changed.emit()

    def close(self) -> None:
        """Wait for the look under way and take no more."""
        self._timer.stop()
        self._beside.close()
