"""What the window knows of the cabinet: asked for in a thread, kept by a process of its own.

Nothing of it is begun before somebody looks at it.
"""

from collections.abc import Callable
from concurrent.futures import Future
from pathlib import Path
from typing import Protocol

from msgspec.structs import replace
from PySide6.QtCore import QObject, QTimer, Signal

from cicada.cabinet.catalogue import Catalogue, Row
from cicada.cabinet.index import BadIndex, Own, news_of
from cicada.cabinet.messages import AddFolder, Pause, Progress, RemoveFolder, Say, Told
from cicada.core.model import Sound
from cicada.window.playing.transport import Transport
from cicada.window.state.beside import Beside, Post
from cicada.window.state.jobs import Jobs

# Milliseconds between two looks at the keeper.
LOOK = 150


class KeeperLink(Protocol):
    """The window's end of a keeper."""

    @property
    def alive(self) -> bool:
        """Whether the keeper is there."""

    def send(self, message: Told) -> None:
        """Tell it something."""

    def progress(self) -> Progress | None:
        """The newest it has said; None if nothing since it was asked last."""

    def close(self) -> None:
        """End it."""


def _read(post: Post, catalogue: Catalogue, file: Path) -> None:
    try:
        catalogue.take(news_of(file, catalogue.stamp))
    except BadIndex as error:
        post("trouble", str(error))
        return
    post("news", None)


def _find(post: Post, catalogue: Catalogue, text: str, folder: int | None, number: int) -> None:
    post("found", (number, catalogue.find(text, folder)))


def _like(post: Post, catalogue: Catalogue, row: Row, number: int) -> None:
    post("found", (number, catalogue.like(row)))


class Cabinet(QObject):
    """``found`` comes with the rows that were asked for last, ``progressed`` with how far it is."""

    found = Signal(list)
    progressed = Signal()
    told = Signal(str)

    def __init__(
        self,
        transport: Transport,
        jobs: Jobs,
        folder: Path,
        make: Callable[[Path, Path], KeeperLink],
    ) -> None:
        """Index and starter collection stand in ``folder``."""
        super().__init__()
        self._transport, self._jobs, self._make = transport, jobs, make
        self.file, self.starter = folder / "cabinet.sqlite", folder / "Starter collection"
        self.catalogue = Catalogue()
        self.progress: Progress | None = None
        self._link: KeeperLink | None = None
        self._beside = Beside("cabinet", self._take)
        self._asked: Future[None] | None = None
        self._number = 0
        self._text, self._folder, self._like_one = "", -1, False
        self._reading = self._paused = False
        self._timer = QTimer(self)
        self._timer.setInterval(LOOK)
        self._timer.timeout.connect(self._look)

    @property
    def begun(self) -> bool:
        """Whether anybody has looked at it yet."""
        return self._link is not None

    def look_at_it(self) -> None:
        """Begin to keep it, where it is not kept yet."""
        if self._link is None:
            self._link = self._make(self.file, self.starter)
            self._timer.start()

    def _look(self) -> None:
        link = self._link
        if link is None:
            return
        if not link.alive:
            self._timer.stop()
            self.told.emit("The cabinet is kept no more; open the window anew to have it again.")
            return
        busy = self._transport.sounding or self._jobs.running > 0
        if busy != self._paused:
            self._paused = busy
            link.send(Pause(busy))
        progress = link.progress()
        if progress is not None:
            if progress.said and self.progress is None:
                self.told.emit(progress.said)
            self.progress = progress
            self.progressed.emit()
        newest = 0 if self.progress is None else self.progress.stamp
        if newest > self.catalogue.stamp and not self._reading:
            self._reading = True
            self._beside.do(_read, self.catalogue, self.file)

    def _take(self, what: str, value: object) -> None:
        match what, value:
            case "news", _:
                self._reading = False
                if not self._like_one:
                    self.ask(self._text, None if self._folder < 0 else self._folder)
            case "found", (int() as number, list() as rows) if number == self._number:
                self.found.emit(rows)
            case "trouble", str() as why:
                self._reading = False
                self.told.emit(why)

    # -- asking --------------------------------------------------------------------------------

    def ask(self, text: str, folder: int | None = None) -> None:
        """Find what is typed, in one folder or in all; ``found`` follows."""
        self._text, self._folder, self._like_one = text, -1 if folder is None else folder, False
        self._next()
        self._asked = self._beside.do(_find, self.catalogue, text, folder, self._number)

    def like(self, row: Row) -> None:
        """Find what is like a sound; ``found`` follows."""
        self._like_one = True
        self._next()
        self._asked = self._beside.do(_like, self.catalogue, row, self._number)

    def _next(self) -> None:
        # What was asked for and nobody waits for any more is not looked for.
        if self._asked is not None:
            self._asked.cancel()
        self._number += 1

    # -- changing ------------------------------------------------------------------------------

    def add_folder(self, path: Path) -> None:
        """Watch a folder from now on."""
        self._send(AddFolder(str(path.absolute())))

    def remove_folder(self, folder: int) -> None:
        """Watch a folder no more; nothing in it is touched."""
        self._send(RemoveFolder(folder))

    def say(self, rows: list[Row], **said: str | bool) -> None:
        """Say something of what sounds hold: tags, note, terms or star."""
        own = {}
        for row in rows:
            if row.file.hash:
                own[row.file.hash] = (row.own or Own(row.file.hash))._replace(**said)  # type: ignore[arg-type]
        if own:
            self._send(Say(tuple(own.values())))

    def _send(self, message: Told) -> None:
        if self._link is not None:
            self._link.send(message)

    def with_what_is_known(self, sound: Sound) -> Sound:
        """A sound that comes onto the shelf, with what was said of what it holds."""
        own = self.catalogue.known(sound.hash)
        if own is None:
            return sound
        tags = tuple(dict.fromkeys((*sound.tags, *filter(None, own.tags.split("\n")))))
        notes = "; ".join(part for part in (own.note, sound.note) if part)
        return replace(sound, tags=tags, note=notes, terms=sound.terms or own.terms)

    def close(self) -> None:
        """End the keeper."""
        self._timer.stop()
        if self._link is not None:
            self._link.close()
            self._link = None
        self._beside.close()
