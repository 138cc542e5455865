"""Brings a take into the project: decoded, kept inside, placed on a layer, all in one step."""

from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple

from msgspec.structs import replace

from cicada.core.editing import Cell, Edit
from cicada.core.model import Take
from cicada.core.recorded import Stood, recording
from cicada.core.shelf_edits import AddSounds
from cicada.errors import CicadaError
from cicada.jobs.files import keep_file, take_in
from cicada.jobs.measuring import take_measures
from cicada.media.ingest import Ingested
from cicada.media.measures import Measures
from cicada.store.importing import Shelf, new_take
from cicada.store.recordings import UnderWay
from cicada.window.state.document import Document
from cicada.window.state.work import Work

# Seconds of silence at an end from which on it is proposed to trim it, and that are left.
QUIET, LEFT = 0.2, 0.05


class Landed(NamedTuple):
    """A take that is in the project: its sound, where it stands, silence at its ends (seconds)."""

    sound: str
    cell: Cell | None
    head: float = 0.0
    tail: float = 0.0


class Landing:
    """One recording on its way in; ``done`` is called with what came of it, or None."""

    def __init__(
        self,
        document: Document,
        work: Work,
        say: Callable[[str], object],
        done: Callable[[Landed | None], None],
    ) -> None:
        self._document, self._work, self._say, self._done = document, work, say, done
        self._era = document.era

    def bring(
        self, files: list[Path], name: str, note: str, under_way: UnderWay,
        layer: str, where: Callable[[int], Stood | None],
    ) -> None:  # fmt: skip
        """Bring files in: the first is the sound, the others its takes.

        ``where`` says where one of so many samples stands; on the shelf alone if that is None.
        """
        self._name, self._note, self._under_way = name, note, under_way
        self._layer, self._where = layer, where
        self._kept: list[tuple[Path, Ingested, str]] = []
        self._file = self._document.file
        self._next(list(files))

    def _next(self, files: list[Path]) -> None:
        if not files:
            self._put()
            return
        path, *rest = files

        def decoded(taken: Ingested) -> None:
            def kept(file: str) -> None:
                self._kept.append((path, taken, file))
                self._next(rest)

            self._work.jobs.run(
                keep_file, path, taken.hash, self._file, done=kept, failed=self._failed
            )

        rate = self._document.project.rate
        self._work.jobs.run(
            take_in, path, rate, self._work.cache.folder, done=decoded, failed=self._failed
        )

    def _failed(self, why: str) -> None:
        self._under_way.leave()
        self._say(f"It is recorded and safe, and offered at the next start, but: {why}.")
        self._done(None)

    def _put(self) -> None:
        document = self._document
        if document.era != self._era or document.file != self._file:
            self._failed("another project was opened meanwhile")
            return
        path, taken, file = self._kept[0]
        project = document.project
        try:
            sound = Shelf(project).new(path, taken, document.file, file=file, name=self._name)
        except CicadaError as error:
            self._failed(str(error))
            return
        takes: tuple[Take, ...] = tuple(
            new_take(f"take {number}", other, kept)
            for number, (_, other, kept) in enumerate(self._kept[1:], start=2)
        )
        sound = replace(sound, origin="", note=self._note, takes=takes)
        stood = self._where(round(sound.frames * project.rate / sound.rate))
        edit: Edit = AddSounds(sounds=(sound,))
        cell: Cell | None = None
        if stood is not None:
            edit, cell = recording(project, self._layer, stood, sound)
        if not document.do(edit):
            self._failed("it does not fit the project any more")
            return
        self._under_way.forget()
        landed = Landed(sound.id, cell)
        self._measure(landed, taken)
        self._done(landed)

    def _measure(self, landed: Landed, taken: Ingested) -> None:
        """See how much silence there is at its ends."""

        def measured(found: Measures | None) -> None:
            if found is not None and (found.head > QUIET or found.tail > QUIET):
                head, tail = (max(0.0, end - LEFT) if end > QUIET else 0.0
                              for end in (found.head, found.tail))  # fmt: skip
                self._done(landed._replace(head=head, tail=tail))

        rate = self._document.project.rate
        self._work.jobs.run(
            take_measures, None, taken.hash, rate, self._work.cache.folder,
            done=measured, failed=lambda _: None,
        )  # fmt: skip
