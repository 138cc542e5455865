"""The index of the cabinet: which files there are in which folders, and what is known of them.

A file is known by its place; what it holds by the hash of its bytes, so that a copy, or a file that
was moved, is known already. Tags, notes, terms and stars are of what it holds. Only the keeper
writes; others read what is newer than what they have, by the stamp of each row.
"""

import os
from collections.abc import Iterable
from contextlib import closing, suppress
from itertools import count
from pathlib import Path
from typing import Any, NamedTuple, TypeVar

import msgspec

from cicada.disk.paths import is_file
from cicada.errors import CicadaError

_SCHEMA = """
create table if not exists folders (
  id integer primary key, path text unique not null, device integer not null default 0,
  away integer not null default 0);
create table if not exists files (
  id integer primary key, folder integer not null, place text not null,
  size integer not null, modified integer not null, changed integer not null,
  inode integer not null, hash text not null default '', stamp integer not null,
  gone integer not null default 0, unique (folder, place));
create index if not exists files_by_hash on files (hash);
create index if not exists files_by_stamp on files (stamp);
create table if not exists contents (
  hash text primary key, state integer not null default 0, why text not null default '',
  seconds real, rate integer, channels integer, encoding text not null default '',
  loudness real, peak real, brightness real, loops integer, picture blob, features blob,
  stamp integer not null);
create index if not exists contents_by_stamp on contents (stamp);
create index if not exists contents_by_state on contents (state);
create table if not exists own (
  hash text primary key, tags text not null default '', note text not null default '',
  terms text not null default '', star integer not null default 0, stamp integer not null);
create table if not exists stamps (latest integer not null);
insert into stamps select 0 where not exists (select 1 from stamps);
"""
# Another number where what is measured is another; then all is measured anew.
_MEASURED_BY = 1
NEW, MEASURED, BROKEN = 0, 1, 2


class Seen(NamedTuple):
    """A file as it was found: its place in its folder, and by what a change of it is noticed."""

    place: str
    size: int
    modified: int
    changed: int
    inode: int


class Filed(NamedTuple):
    """A file as the index has it; ``gone`` ones are told to readers and then forgotten."""

    id: int
    folder: int
    place: str
    hash: str
    gone: bool


class Content(NamedTuple):
    """What is known of what files hold; ``state`` says whether it was measured, or is broken."""

    hash: str
    state: int = NEW
    why: str = ""
    seconds: float | None = None
    rate: int | None = None
    channels: int | None = None
    encoding: str = ""
    loudness: float | None = None
    peak: float | None = None
    brightness: float | None = None
    loops: bool | None = None
    picture: bytes | None = None
    features: bytes | None = None


class Own(NamedTuple):
    """What a person has said of what files hold; tags are parted by line breaks."""

    hash: str
    tags: str = ""
    note: str = ""
    terms: str = ""
    star: bool = False


class Folder(NamedTuple):
    """A folder of the collection; ``away`` where its drive is."""

    id: int
    path: str
    away: bool


T = TypeVar("T")


class News(NamedTuple):
    """What is newer than a stamp."""

    stamp: int
    files: list[Filed]
    contents: list[Content]
    own: list[Own]
    folders: list[Folder]


class BadIndex(CicadaError):
    """The cabinet's index cannot be read."""


class DamagedIndex(BadIndex):
    """It can be read, and is none that was written here."""


# What a database says of its disk and of others at it, by its numbers (sqlite.org/rescode.html).
_ELSEWHERE = frozenset((3, 5, 6, 7, 8, 10, 13, 14, 15))


class Index:
    """The database; one writes, any number read."""

    def __init__(self, file: Path) -> None:
        """Raises ``BadIndex`` where there is none and none can be made, or ``DamagedIndex``."""
        # Loaded by whoever looks at the cabinet, and not as a window begins.
        import sqlite3

        self._base: Any = None
        try:
            file.parent.mkdir(parents=True, exist_ok=True)
            self._base = sqlite3.connect(file, timeout=10.0, isolation_level=None)
            self._begin()
        except (sqlite3.Error, OSError) as error:
            if self._base is not None:
                self._base.close()
            code = getattr(error, "sqlite_errorcode", 14)
            raise (BadIndex if code & 255 in _ELSEWHERE else DamagedIndex)(
                f"is no index of the cabinet that can be read ({error})", file=str(file),
                remedy="move it away, and it is made anew",
            ) from None  # fmt: skip

    def _begin(self) -> None:
        self._base.execute("pragma journal_mode = wal")
        self._base.execute("pragma synchronous = normal")
        self._base.executescript(_SCHEMA)
        (version,) = self._base.execute("pragma user_version").fetchone()
        if version != _MEASURED_BY:
            self._base.execute(f"update contents set state = {NEW} where state = {MEASURED}")
            self._base.execute(f"pragma user_version = {_MEASURED_BY}")

    def close(self) -> None:
        """Let it go."""
        self._base.close()

    def begin(self) -> None:
        """What follows is written together."""
        self._base.execute("begin immediate")

    def end(self) -> None:
        """It is written."""
        self._base.execute("commit")

    def _stamp(self) -> int:
        """The next stamp: whoever has read up to the last one reads this."""
        self._base.execute("update stamps set latest = latest + 1")
        return int(self._base.execute("select latest from stamps").fetchone()[0])

    # -- folders -------------------------------------------------------------------------------

    def folders(self) -> list[Folder]:
        """All folders of the collection, in the order they were added."""
        rows = self._base.execute("select id, path, away from folders order by id")
        return [Folder(number, path, bool(away)) for number, path, away in rows]

    def add_folder(self, path: str) -> None:
        """Watch a folder from now on."""
        self._base.execute("insert or ignore into folders (path) values (?)", (path,))

    def remove_folder(self, folder: int) -> None:
        """Watch a folder no more; what a person has said of its sounds stays."""
        stamp = self._stamp()
        self._base.execute("update files set gone = 1, stamp = ? where folder = ?", (stamp, folder))
        self._base.execute("delete from folders where id = ?", (folder,))

    def device(self, folder: int) -> int:
        """The device a folder was on when it was last there."""
        row = self._base.execute("select device from folders where id = ?", (folder,)).fetchone()
        return int(row[0]) if row else 0

    def set_away(self, folder: int, *, away: bool, device: int = 0) -> None:
        """Its drive is away, or it is there, on a device."""
        row = self._base.execute("select away from folders where id = ?", (folder,)).fetchone()
        if row and bool(row[0]) != away:
            # Whoever reads has to hear of it, though no file is another.
            self._stamp()
        if away:
            self._base.execute("update folders set away = 1 where id = ?", (folder,))
        else:
            self._base.execute(
                "update folders set away = 0, device = ? where id = ?", (device, folder)
            )

    # -- files ---------------------------------------------------------------------------------

    def seen(self, folder: int) -> dict[str, tuple[int, Seen]]:
        """The files of a folder as they were seen last, by place, each with its id."""
        rows = self._base.execute(
            "select id, place, size, modified, changed, inode from files"
            " where folder = ? and not gone",
            (folder,),
        )
        return {row[1]: (row[0], Seen(*row[1:6])) for row in rows}

    def put(self, folder: int, found: Iterable[Seen]) -> None:
        """Files that are new, or other than they were: what they hold is not known yet."""
        stamp = self._stamp()
        self._base.executemany(
            "insert into files (folder, place, size, modified, changed, inode, stamp)"
            " values (?, ?, ?, ?, ?, ?, ?) on conflict (folder, place) do update set"
            " size = excluded.size, modified = excluded.modified, changed = excluded.changed,"
            " inode = excluded.inode, hash = '', stamp = excluded.stamp, gone = 0",
            [(folder, *seen, stamp) for seen in found],
        )

    def drop(self, files: Iterable[int]) -> None:
        """Files that are there no more."""
        stamp = self._stamp()
        self._base.executemany(
            "update files set gone = 1, stamp = ? where id = ?", [(stamp, each) for each in files]
        )

    def unhashed(self, most: int) -> list[tuple[int, int, str]]:
        """Files whose content is not known yet: id, folder, place."""
        rows = self._base.execute(
            "select id, folder, place from files indexed by files_by_hash where hash = ''"
            " and not gone and folder in (select id from folders where not away) limit ?",
            (most,),
        )
        return [tuple(row) for row in rows]

    def set_hashes(self, found: Iterable[tuple[int, str]]) -> None:
        """What files hold is known by these."""
        pairs, stamp = list(found), self._stamp()
        self._base.executemany(
            "update files set hash = ?, stamp = ? where id = ?",
            [(content, stamp, file) for file, content in pairs],
        )
        self._base.executemany(
            "insert or ignore into contents (hash, stamp) values (?, ?)",
            [(content, stamp) for _, content in pairs if content],
        )

    # -- contents ------------------------------------------------------------------------------

    def unmeasured(self, most: int) -> list[tuple[str, int, str]]:
        """What is not measured yet, each with a file that holds it: hash, folder, place."""
        rows = self._base.execute(
            "select contents.hash, folder, place"
            " from contents indexed by contents_by_state cross join files indexed by files_by_hash"
            " on files.hash = contents.hash where state = ?"
            " and not gone and folder in (select id from folders where not away) limit ?",
            (NEW, most),
        )
        # What several files hold is measured once.
        return list({row[0]: tuple(row) for row in rows}.values())

    def set_contents(self, found: Iterable[Content]) -> None:
        """What was measured."""
        stamp = self._stamp()
        self._base.executemany(
            f"insert or replace into contents values ({','.join('?' * 14)})",
            [(*content, stamp) for content in found],
        )

    def say(self, own: Own) -> None:
        """What a person says of what a file holds."""
        self._base.execute(
            "insert or replace into own values (?, ?, ?, ?, ?, ?)", (*own, self._stamp())
        )

    # -- reading -------------------------------------------------------------------------------

    def counts(self) -> tuple[int, int, int]:
        """How many files there are, how many without a hash, how many contents not measured."""
        ask = self._base.execute
        (files,) = ask("select count(*) from files where not gone").fetchone()
        (unread,) = ask("select count(*) from files where hash = '' and not gone").fetchone()
        (new,) = ask("select count(*) from contents where state = ?", (NEW,)).fetchone()
        return int(files), int(unread), int(new)

    def stamp(self) -> int:
        """The newest stamp."""
        return int(self._base.execute("select latest from stamps").fetchone()[0])

    def news(self, stamp: int) -> News:
        """What is newer than a stamp."""
        ask = self._base.execute
        (latest,) = ask("select latest from stamps").fetchone()
        files = ask("select id, folder, place, hash, gone from files where stamp > ?", (stamp,))
        contents = ask(
            f"select {', '.join(Content._fields)} from contents where stamp > ?", (stamp,)
        )
        own = ask(f"select {', '.join(Own._fields)} from own where stamp > ?", (stamp,))
        return News(
            int(latest),
            _checked(files, list[Filed]),
            _checked(contents, list[Content]),
            _checked(own, list[Own]),
            _checked(ask("select id, path, away from folders order by id"), list[Folder]),
        )

    def is_sound(self) -> bool:
        """Whether all of it can be read as what was written."""
        import sqlite3

        try:
            (said,) = self._base.execute("pragma quick_check(1)").fetchone()
            self.news(-1)
            self.counts()
        except (sqlite3.Error, DamagedIndex, TypeError, ValueError):
            return False
        return bool(said == "ok")


def news_of(file: Path, stamp: int) -> News:
    """What an index holds that is newer than a stamp; raises ``BadIndex``."""
    import sqlite3

    index = Index(file)
    try:
        return index.news(stamp)
    except (sqlite3.Error, TypeError, ValueError) as error:
        raise BadIndex(f"cannot be read ({error})", file=str(file)) from None
    finally:
        index.close()


def opened(file: Path) -> tuple[Index, str]:
    """The index, and what there is to be said of it; raises ``BadIndex``.

    A damaged one is set aside and begun anew, with its folders and what a person has said of
    sounds, as far as that can be read.
    """
    try:
        index = Index(file)
    except DamagedIndex:
        pass
    else:
        if index.is_sound():
            return index, ""
        index.close()
    folders, own = _left_of(file)
    aside = _set_aside(file)
    index = Index(file)
    index.begin()
    for folder in folders:
        index.add_folder(folder.path)
    for each in own:
        index.say(each)
    index.end()
    return index, (
        f"The cabinet's index was damaged and is made anew. Found in the old one, which is kept as "
        f"{aside.name}: {len(folders)} folders, and what was said of {len(own)} sounds."
    )


def _left_of(file: Path) -> tuple[list[Folder], list[Own]]:
    """What can still be read of the folders, and of what a person has said."""
    import sqlite3

    try:
        base = sqlite3.connect(file, isolation_level=None)
    except sqlite3.Error:
        return [], []
    with closing(base):
        folders = _readable(base, "select id, path, away from folders order by id", Folder)
        return folders, _readable(base, f"select {', '.join(Own._fields)} from own", Own)


def _readable(base: Any, asked: str, kind: type[T]) -> list[T]:  # noqa: ANN401 - a database
    import sqlite3

    found: list[T] = []
    with suppress(sqlite3.Error, ValueError):
        for row in base.execute(asked):
            with suppress(DamagedIndex):
                found.append(_checked(row, kind))
    return found


def _set_aside(file: Path) -> Path:
    names = (file.with_name(f"{file.stem} damaged {n}{file.suffix}") for n in count(1))
    aside = next(name for name in names if not os.path.lexists(name))
    try:
        file.rename(aside)
        for more in ("-wal", "-shm"):
            beside = file.with_name(file.name + more)
            if is_file(beside):
                beside.rename(aside.with_name(aside.name + more))
    except OSError as error:
        raise BadIndex(f"is damaged, and cannot be moved away ({error})", file=str(file)) from None
    return aside


def _checked(rows: Iterable[object], kind: type[T]) -> T:
    """A row, or rows, as what they should be; raises ``DamagedIndex``."""
    try:
        # A database has no truth values of its own, only 0 and 1.
        return msgspec.convert(list(rows), kind, strict=False)
    except msgspec.ValidationError as error:
        raise DamagedIndex(f"holds what was not written here ({error})") from None
