"""Taking sound files in from the window, several at a time, beside it."""

import time
from collections.abc import Callable, Sequence
from pathlib import Path

from msgspec.structs import replace
from PySide6.QtCore import QObject, QTimer, Signal

from cicada.core.editing import Cell
from cicada.core.model import Sound
from cicada.core.naming import all_ids, next_id
from cicada.core.shelf_edits import AddSounds, AddTake
from cicada.disk.paths import is_there
from cicada.disk.writing import sweep
from cicada.errors import CicadaError
from cicada.jobs.files import Found, find_sounds, keep_file, take_in
from cicada.media.ingest import Ingested
from cicada.store.importing import (
    INSIDE_UP_TO,
    Shelf,
    conversions,
    new_take,
)
from cicada.store.sounds_folder import moved_sound, sounds_folder
from cicada.window.shelf.entry import Answer, Entry, Kept, State
from cicada.window.state.arranging import Arranging
from cicada.window.state.decoding import Decoding
from cicada.window.state.jobs import STOPPED, Job
from cicada.window.state.session import Session
from cicada.window.state.work import Work
from cicada.window.words.quantities import count

# New sounds are put on the shelf together after so many milliseconds, so that the sheet is not
# planned anew for each; where that takes long, so many times as long, but never longer than LATEST.
TOGETHER, TIMES, LATEST = 200, 20, 4000
# After so many decoded bytes the cache is brought down to its limit.
CACHE_EVERY = 500_000_000


class Importing(QObject):
    """Files being taken in; each sound can be used as soon as it is in.

    ``changed`` comes with every step, ``over`` at the end, ``shelved`` when more is on the shelf.
    """

    changed = Signal()
    over = Signal()
    shelved = Signal()

    def __init__(
        self,
        session: Session,
        arranging: Arranging,
        decoding: Decoding,
        work: Work,
        paths: Sequence[Path],
        place_at: Cell | None = None,
        kept: Kept = "size",
        with_what_is_known: Callable[[Sound], Sound] = lambda sound: sound,
    ) -> None:
        """The first of the files that comes in is put on ``place_at``, if given."""
        super().__init__()
        self._with_what_is_known = with_what_is_known
        self._session, self.document, self._arranging = session, session.document, arranging
        self._decoding, self._jobs, self._cache = decoding, work.jobs, work.cache.folder
        self.place_at, self.kept = place_at, kept
        self.entries: list[Entry] = []
        self.others = 0
        self.began = time.monotonic()
        self.done = self.cancelled = False
        # About to be put on the shelf, each with the project file its own file stands beside.
        self._ready: list[tuple[Sound, Path]] = []
        # How many were begun, and are at it now.
        self._begun = self._at_it = 0
        # What was decoded since the cache was last brought down to its limit.
        self._bytes = 0
        self._shown = False
        # What is on the shelf or about to be, and the project that is reckoned from.
        self._shelf, self._shelf_of = Shelf(self.document.project), self.document.project
        # The sounds on the shelf that have come in by this.
        self._mine: set[str] = set()
        self._era = self.document.era
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(TOGETHER)
        self._timer.timeout.connect(self._put_on_shelf)
        self._looking: Job | None = self._jobs.run(
            find_sounds, list(paths), done=self._found, failed=self._not_found
        )

    # -- what to say ---------------------------------------------------------------------------

    @property
    def title(self) -> str:
        """What undo calls it."""
        names = [entry for entry in self.entries if entry.state == "in"]
        return f"import {count(len(names), 'sound')}"

    def of(self, *states: State) -> list[Entry]:
        """The files in one of these states."""
        return [entry for entry in self.entries if entry.state in states]

    @property
    def share(self) -> float:
        """How much of all is done."""
        return sum(entry.share for entry in self.entries) / max(1, len(self.entries))

    @property
    def seconds_left(self) -> float | None:
        """How long it should still take; None while that cannot be told."""
        gone, share = time.monotonic() - self.began, self.share
        return gone * (1 - share) / share if share > 0.02 and gone > 0.5 else None

    def sentence(self) -> str:
        """How it stands, or how it ended, in one sentence."""
        if not self.done:
            if self._looking is not None:
                return "Looking for sounds…"
            busy = self.of("at it")
            at = f": {busy[0].path.name} {busy[0].share * 100:.0f} %" if busy else ""
            finished = len(self.entries) - len(busy) - len(self.of("waiting"))
            return f"{finished} of {count(len(self.entries), 'file')}{at}{self._left()}"
        taken = self.of("in")
        words = [f"{len(taken)} in"] if taken else []
        converted = sum(bool(entry.changes) for entry in taken)
        for number, what in (
            (converted, "converted"),
            (len(self.of("here")), "already here"),
            (len(self.of("refused")), "refused"),
            (len(self.of("left")), "left when it was stopped"),
        ):
            if number:
                words.append(f"{number} {what}")
        if not self.entries:
            return "There is no sound in it." if self.others else "Nothing to import."
        if len(self.entries) == 1 and self.of("refused"):
            return self.entries[0].why
        return ", ".join(words) + "."

    def _left(self) -> str:
        left = self.seconds_left
        if left is None:
            return ""
        if left < 1:
            return ", nearly done"
        text = f"{left:.0f} s" if left < 100 else f"{left / 60:.0f} min"
        return f", about {text} left"

    # -- doing it ------------------------------------------------------------------------------

    def _found(self, found: Found) -> None:
        self._looking = None
        self.entries = [Entry(path) for path in found.sounds]
        self.others = found.others
        self.began = time.monotonic()
        self._next()

    def _not_found(self, _: str) -> None:
        self._looking = None
        self._next()

    def _next(self) -> None:
        """Begin with as many more as there are workers."""
        while self._begun < len(self.entries):
            entry, left = self.entries[self._begun], self.cancelled or not self._still_here()
            if not left and self._at_it >= self._jobs.workers:
                break
            self._begun += 1
            if left:
                entry.state = "left"
            else:
                self._begin(entry)
        self.changed.emit()
        if not self._at_it and self._looking is None and not self.done:
            self._end()

    def _begin(self, entry: Entry) -> None:
        entry.state = "at it"
        self._at_it += 1
        entry.job = self._jobs.run(
            take_in,
            entry.path,
            self.document.project.rate,
            self._cache,
            done=lambda taken: self._decoded(entry, taken),
            failed=lambda why: self._refuse(entry, why),
            watched=True,
        )

    def _refuse(self, entry: Entry, why: str) -> None:
        self._at_it -= 1
        if why == STOPPED or (self.cancelled and why.endswith("stopped")):
            entry.state = "left"
        else:
            entry.state = "refused"
            entry.why = why if entry.path.name in why else f"{entry.path}: {why}"
        self._next()

    def _decoded(self, entry: Entry, taken: Ingested) -> None:
        if not self._still_here():
            entry.state = "left"
            self._at_it -= 1
            self._next()
            return
        entry.taken = taken
        entry.changes = conversions(taken, self.document.project.rate)
        here = self._shelf_now().here(taken)
        if here is not None:
            entry.state, entry.sound, entry.bytes_too = "here", here.sound.id, here.bytes_too
            self._at_it -= 1
            self._put_on_shelf()
            self._place(here.sound)
            self._next()
            return
        self._keep(entry)

    def _keep(self, entry: Entry) -> None:
        """Have the file copied into the project, unless it is linked, and put it on the shelf."""
        assert entry.taken is not None
        try:
            linked = self.kept == "linked" or (
                self.kept == "size" and entry.path.stat().st_size > INSIDE_UP_TO
            )
        except OSError as error:
            self._refuse(entry, f"{entry.path}: cannot be read ({error.strerror})")
            return
        if linked:
            self._shelve(entry, None)
            return
        entry.kept_for = self.document.file
        entry.job = self._jobs.run(
            keep_file,
            entry.path,
            entry.taken.hash,
            entry.kept_for,
            done=lambda file: self._shelve(entry, file),
            failed=lambda why: self._refuse(entry, why),
        )

    def _shelf_now(self) -> Shelf:
        """What is on the shelf, or about to be put there."""
        project = self.document.project
        if self._shelf_of is not project:
            self._renumber()
            ready = AddSounds(sounds=tuple(sound for sound, _ in self._ready))
            self._shelf, self._shelf_of = Shelf(ready.apply(project)), project
        return self._shelf

    def _renumber(self) -> None:
        """Give those that are ready other ids than what has come onto the shelf meanwhile."""
        taken = all_ids(self.document.project)
        for number, (sound, file) in enumerate(self._ready):
            if sound.id in taken:
                other = next_id("s", taken | {each.id for each, _ in self._ready})
                for entry in self.entries:
                    if entry.sound == sound.id and entry.taken and entry.taken.hash == sound.hash:
                        entry.sound = other
                self._ready[number] = replace(sound, id=other), file

    def _shelve(self, entry: Entry, file: str | None) -> None:
        self._at_it -= 1
        if not self._still_here():
            entry.state = "left"
            self._next()
            return
        assert entry.taken is not None
        if file is not None and entry.kept_for != self.document.file:
            # The project has been saved under another name in between.
            self._at_it += 1
            self._keep(entry)
            return
        shelf = self._shelf_now()
        here = shelf.here(entry.taken)
        if here is not None and entry.answer == "here":
            # Its twin has come in while this one was being copied.
            entry.state, entry.sound, entry.bytes_too = "here", here.sound.id, here.bytes_too
            self._next()
            return
        alike = shelf.alike(entry.path.stem)
        try:
            sound = shelf.new(
                entry.path, entry.taken, self.document.file, file=file, linked=file is None
            )
        except CicadaError as error:
            self._at_it += 1
            self._refuse(entry, str(error))
            return
        entry.alike = alike
        entry.state, entry.sound = "in", sound.id
        self._ready.append((self._with_what_is_known(sound), self.document.file))
        if not self._timer.isActive():
            self._timer.start()
        self._bytes += 4 * sound.channels * sound.frames
        if self._bytes > CACHE_EVERY:
            self._bytes = 0
            self._decoding.keep_to_limit()
        self._next()

    def _still_here(self) -> bool:
        """Whether the project they are meant for is still the one in the window."""
        return self.document.era == self._era

    def _put_on_shelf(self) -> None:
        began = time.monotonic()
        if self._shelf_of is not self.document.project:
            self._renumber()
        ready, self._ready = self._ready, []
        if not ready or not self._still_here():
            return
        # The project may have been saved under another name since.
        sounds = tuple(moved_sound(sound, file, self.document.file) for sound, file in ready)
        edit, known = AddSounds(sounds=sounds, before=self._before(sounds)), self._shelf_of
        expected = known is self.document.project
        if self.document.do(edit, joins=self):
            if expected:
                self._shelf_of = self.document.project
            if not self._shown:
                # Once, or what somebody is working with would slip away from under them.
                self._shown = True
                self._session.choose_sound(sounds[0].id)
            self.shelved.emit()
            self._place(sounds[0])
        took = round(1000 * TIMES * (time.monotonic() - began))
        self._timer.setInterval(min(max(TOGETHER, took), LATEST))

    def _before(self, sounds: tuple[Sound, ...]) -> tuple[str, ...]:
        """Before which of the sounds already in each belongs, by the order of their files."""
        order = {entry.sound: place for place, entry in enumerate(self.entries) if entry.sound}
        shelf = [s.id for s in self.document.project.sounds if s.id in self._mine]
        before = []
        for sound in sounds:
            later = [other for other in shelf if order[other] > order[sound.id]]
            before.append(min(later, key=order.__getitem__, default=""))
            shelf.append(sound.id)
        self._mine.update(sound.id for sound in sounds)
        return tuple(before)

    def _place(self, sound: Sound) -> None:
        if self.place_at is None:
            return
        cell, self.place_at = self.place_at, None
        self._arranging.place(sound.id, cell)

    def cancel(self) -> None:
        """Stop; what is in stays, and can be undone."""
        self.cancelled = True
        if self._looking is not None:
            self._looking.cancel()
        for entry in self.of("at it"):
            if entry.job is not None:
                entry.job.cancel()
        self._next()

    def close(self) -> None:
        """The window is closing: nothing more is put on its shelf."""
        self._ready.clear()
        self._timer.stop()

    def _end(self) -> None:
        self._timer.stop()
        self._put_on_shelf()
        self.done = True
        folder = sounds_folder(self.document.file)
        if is_there(folder):
            sweep(folder)
        self._decoding.keep_to_limit()
        self.changed.emit()
        self.over.emit()

    # -- what is already here ------------------------------------------------------------------

    def answer(self, entry: Entry, answer: Answer) -> None:
        """Do something else with a file that is already here."""
        if entry.state != "here" or entry.taken is None or answer == "here":
            return
        entry.answer = answer
        if answer == "both":
            self.done = False
            self._at_it += 1
            entry.state = "at it"
            self._keep(entry)
        else:
            self._replace(entry)

    def _replace(self, entry: Entry) -> None:
        """Let the sound that is here be kept as this file from now on."""
        taken, sound = entry.taken, entry.sound
        assert taken is not None
        self._at_it += 1

        def done(file: str) -> None:
            self._at_it -= 1
            take = new_take(entry.path.name, taken, file)
            if self.document.do(AddTake(sound=sound, take=take)):
                entry.state = "in"
            self.changed.emit()

        self._jobs.run(
            keep_file,
            entry.path,
            taken.hash,
            self.document.file,
            done=done,
            failed=lambda why: self._refuse(entry, why),
        )
