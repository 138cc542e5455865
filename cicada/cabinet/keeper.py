"""Keeps the index of the cabinet in step with its folders.

Told by messages like the player, it does a little at each ``step``: first whatever may have changed
is looked through, then what is new is hashed, then measured; so everything can be found by its name
before anything of it is known. Nothing in the folders is ever written.
"""

import os
import stat
from collections.abc import Callable, Iterator
from contextlib import suppress
from pathlib import Path

from cicada.cabinet.index import Folder, Index, Own, Seen
from cicada.cabinet.measuring import measured
from cicada.cabinet.messages import (
    AddFolder,
    Leave,
    Pause,
    Progress,
    RemoveFolder,
    Say,
    Told,
)
from cicada.errors import BadSound
from cicada.media.ingest import content_hash
from cicada.store.importing import is_sound_name

# Files that are hashed, and sounds that are measured, in a step; seconds after which no more are
# hashed in it, for who tells it something waits for its end.
HASHES, MEASURES, LONG = 2048, 8, 0.2
# Seconds between two times that it is said how far it is.
SAID = 0.4
# Seconds of quiet after which what has changed is looked through, and the longest it waits.
QUIET, LATEST = 0.4, 1.5
# Seconds between two looks at folders of which nobody tells what changes there.
LOOK = 30.0


Watch = Callable[[str], None]


class Keeper:
    """``tell`` is called with how far it is, ``watch`` with each folder whose changes count."""

    def __init__(
        self,
        index: Index,
        tell: Callable[[Progress], object],
        clock: Callable[[], float],
        watch: Watch = lambda _: None,
    ) -> None:
        self._index, self._tell, self._clock, self._watch = index, tell, clock, watch
        self.running, self._paused = True, False
        # Folders to be looked through, since when, and when the last change was heard of.
        self._dirty: dict[int, float] = {}
        self._heard = 0.0
        self._looked = self._said = clock()
        self._told: Progress | None = None
        for folder in index.folders():
            self._dirty[folder.id] = 0.0
            watch(folder.path)

    # -- what it is told -----------------------------------------------------------------------

    def do(self, message: Told) -> None:
        """Do as told."""
        match message:
            case AddFolder(path):
                self._index.add_folder(path)
                for folder in self._index.folders():
                    if folder.path == path:
                        self._dirty[folder.id] = 0.0
                self._watch(path)
            case RemoveFolder(folder_id):
                self._index.remove_folder(folder_id)
                self._dirty.pop(folder_id, None)
            case Say(own):
                self._index.begin()
                for each in own:
                    self._index.say(Own(*each))
                self._index.end()
            case Pause(on):
                self._paused = on
            case Leave():
                self.running = False

    def changed(self, path: str) -> None:
        """Something has changed at a place below a folder."""
        now = self._heard = self._clock()
        for folder in self._index.folders():
            if path == folder.path or path.startswith(folder.path.rstrip("/") + "/"):
                self._dirty.setdefault(folder.id, now)

    # -- a little at a time --------------------------------------------------------------------

    def step(self) -> bool:
        """Do a little; whether there is more to do."""
        now = self._clock()
        if now - self._looked > LOOK:
            self._looked = now
            for folder in self._index.folders():
                self._dirty.setdefault(folder.id, 0.0)
        due = [f for f, since in self._dirty.items()
               if not since or now - self._heard > QUIET or now - since > LATEST]  # fmt: skip
        if due:
            folders = {folder.id: folder for folder in self._index.folders()}
            for number in due:
                del self._dirty[number]
                if number in folders:
                    self._look_through(folders[number])
            self._say()
            return True
        busy = self._hash_some() or (not self._paused and self._measure_some())
        if not busy or now - self._said > SAID:
            self._say()
        return busy or bool(self._dirty)

    def _say(self) -> None:
        """Say how far it is: now and then, for to count takes longer than to read some files."""
        self._said = self._clock()
        said = Progress(*self._index.counts(), self._index.stamp())
        if said != self._told:
            self._told = said
            self._tell(said)

    def _look_through(self, folder: Folder) -> None:
        """See which files of a folder are new, other than they were, or gone."""
        index, root = self._index, Path(folder.path)
        known = index.seen(folder.id)
        try:
            device = root.stat().st_dev
        except OSError:
            index.set_away(folder.id, away=True)
            return
        found = {seen.place: seen for seen in _files(root)}
        before = index.device(folder.id)
        if not found and known and device != before:
            # A mount point without its drive is empty, and is on another device.
            index.set_away(folder.id, away=True)
            return
        index.begin()
        try:
            index.set_away(folder.id, away=False, device=device)
            # A file that was moved is read again: whether it was changed as well nobody can tell.
            news = [seen for place, seen in found.items()
                    if place not in known or known[place][1] != seen]  # fmt: skip
            index.put(folder.id, news)
            index.drop(each[0] for place, each in known.items() if place not in found)
        finally:
            index.end()

    def _hash_some(self) -> bool:
        wanted = self._index.unhashed(HASHES)
        folders = {folder.id: folder.path for folder in self._index.folders()}
        found, began = [], self._clock()
        for file, folder, place in wanted:
            if self._clock() - began > LONG:
                break
            try:
                found.append((file, content_hash(Path(f"{folders[folder]}/{place}"))))
            except (BadSound, KeyError, OSError):
                # It is gone, or may not be read: as far as anybody can tell it is not there.
                self._index.drop([file])
        if found:
            self._index.begin()
            self._index.set_hashes(found)
            self._index.end()
        return bool(wanted)

    def _measure_some(self) -> bool:
        wanted = self._index.unmeasured(MEASURES)
        folders = {folder.id: folder.path for folder in self._index.folders()}
        found = [
            measured(Path(folders[folder]) / place, content)
            for content, folder, place in wanted
            if folder in folders
        ]
        if found:
            self._index.begin()
            self._index.set_contents(found)
            self._index.end()
        return bool(wanted)


def _files(root: Path) -> Iterator[Seen]:
    """All files below a folder whose names are those of sounds; links are not followed."""
    left = [""]
    while left:
        below = left.pop()
        with suppress(OSError), os.scandir(root / below) as entries:
            for entry in entries:
                place = f"{below}/{entry.name}" if below else entry.name
                if entry.name.startswith(".") or not _is_text(place):
                    continue
                with suppress(OSError):
                    state = entry.stat(follow_symlinks=False)
                    if stat.S_ISDIR(state.st_mode):
                        left.append(place)
                    elif stat.S_ISREG(state.st_mode) and is_sound_name(entry.name):
                        yield Seen(place, state.st_size, state.st_mtime_ns,
                                   state.st_ctime_ns, state.st_ino)  # fmt: skip


def _is_text(name: str) -> bool:
    """Whether a name is text, and no bytes that are none."""
    try:
        name.encode()
    except UnicodeEncodeError:
        return False
    return True
