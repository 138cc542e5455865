"""The cabinet in memory, as it is searched: names as text, what is measured as numbers.

Which sounds are asked for is read from what is typed: words that occur in name, folder, tags or
note, and conditions such as ``< 1 s``, ``mono``, ``-20 LUFS``, ``loops`` or ``starred``.
"""

import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from pathlib import Path, PurePosixPath

import numpy as np
from numpy.typing import NDArray

from cicada.cabinet.features import SIZE, Vector, nearest
from cicada.cabinet.index import MEASURED, Content, Filed, Folder, News, Own

# How near a loudness must be that is named without a sign of more or less, in LU; a length, as a
# share of it.
_NEAR_LUFS, _NEAR_LENGTH = 1.5, 0.15
_LENGTH = re.compile(r"^([<>]=?|)\s*(\d+(?:[.,]\d+)?)\s*(ms|s|sec|min|m)$")
_LUFS = re.compile(r"^([<>]=?|)\s*([-−+]?\d+(?:[.,]\d+)?)\s*(lufs|lu|db)$")
_UNITS = {"ms": 0.001, "s": 1.0, "sec": 1.0, "min": 60.0, "m": 60.0}
_SPLIT = re.compile(r"([<>]=?)\s+(?=\d|[-−])|(?<=\d)\s+(?=(?:ms|s|sec|min|lufs|lu|db)\b)")


@dataclass(slots=True)
class Row:
    """A sound of the cabinet: its file, and what is known of what it holds."""

    file: Filed
    name: str
    content: Content | None = None
    own: Own | None = None
    # Where it stands in the arrays; set when these are made.
    number: int = -1

    @property
    def measured(self) -> bool:
        """Whether what can be known of it is known."""
        return self.content is not None and self.content.state == MEASURED

    @property
    def star(self) -> bool:
        """Whether it has a star."""
        return self.own is not None and self.own.star


class Catalogue:
    """Everything the index has, kept up with its news."""

    def __init__(self) -> None:
        self.stamp = 0
        self.folders: dict[int, Folder] = {}
        self._rows: dict[int, Row] = {}
        self._contents: dict[str, Content] = {}
        self._own: dict[str, Own] = {}
        self._by_hash: dict[str, list[Row]] = {}
        self._arrays: _Arrays | None = None

    def __len__(self) -> int:
        return len(self._rows)

    def take(self, news: News) -> None:
        """Take in what is newer than what is known."""
        self.stamp = news.stamp
        self.folders = {folder.id: folder for folder in news.folders}
        touched: set[str] = set()
        for content in news.contents:
            self._contents[content.hash] = content
            touched.add(content.hash)
        for own in news.own:
            self._own[own.hash] = own
            touched.add(own.hash)
        for file in news.files:
            before = self._rows.pop(file.id, None)
            if before is not None:
                self._by_hash[before.file.hash].remove(before)
            if not file.gone:
                row = Row(file, PurePosixPath(file.place).stem)
                row.content, row.own = self._contents.get(file.hash), self._own.get(file.hash)
                self._rows[file.id] = row
                self._by_hash.setdefault(file.hash, []).append(row)
        for content_hash in touched:
            for row in self._by_hash.get(content_hash, ()):
                row.content = self._contents.get(content_hash)
                row.own = self._own.get(content_hash)
        if news.files or touched:
            self._arrays = None

    def known(self, content: str) -> Own | None:
        """What a person has said of what a file holds."""
        return self._own.get(content)

    def path(self, row: Row) -> Path | None:
        """Where a sound's file stands; None if its folder is watched no more."""
        folder = self.folders.get(row.file.folder)
        return None if folder is None else Path(folder.path) / row.file.place

    def away(self, row: Row) -> bool:
        """Whether its drive is away."""
        folder = self.folders.get(row.file.folder)
        return folder is None or folder.away

    def _made(self) -> "_Arrays":
        if self._arrays is None:
            self._arrays = _Arrays(list(self._rows.values()), self.folders)
        return self._arrays

    def find(self, text: str, folder: int | None = None) -> list[Row]:
        """The sounds that are asked for, by name."""
        arrays = self._made()
        words, conditions = understood(text)
        rows = arrays.rows
        keep = np.ones(len(rows), np.bool_)
        if folder is not None:
            keep &= arrays.folder == folder
        for condition in conditions:
            keep &= condition(arrays)
        found = np.flatnonzero(keep)
        texts = arrays.texts
        for word in words:
            found = np.array([n for n in found if word in texts[n]], np.intp)
        return [rows[n] for n in found]

    def like(self, row: Row, count: int = 200) -> list[Row]:
        """The sounds that are most like one, the most alike first, itself at the front."""
        arrays = self._made()
        if row.content is None or len(row.content.features or b"") != 4 * SIZE:
            return [row]
        wanted = np.frombuffer(row.content.features or b"", np.float32)
        near = nearest(arrays.features, wanted, count)
        found = [arrays.rows[arrays.with_features[n]] for n in near]
        return [row, *(each for each in found if each is not row)]


class _Arrays:
    """The rows in the order of their names, and of each what can be asked for."""

    def __init__(self, rows: list[Row], folders: dict[int, Folder]) -> None:
        self.rows = rows = sorted(rows, key=_by_name)
        names = {number: PurePosixPath(f.path).name.casefold() for number, f in folders.items()}
        self.texts = [_text(row, names) for row in rows]
        self.folder = np.array([row.file.folder for row in rows], np.int64)
        contents = [row.content for row in rows]
        self.seconds = _numbers(c.seconds if c else None for c in contents)
        self.loudness = _numbers(c.loudness if c else None for c in contents)
        self.channels = _numbers(c.channels if c else None for c in contents)
        self.brightness = _numbers(c.brightness if c else None for c in contents)
        self.loops = np.array([bool(c and c.loops) for c in contents], np.bool_)
        self.star = np.array([row.star for row in rows], np.bool_)
        self.measured = np.array([row.measured for row in rows], np.bool_)
        self.with_features = [
            n for n, c in enumerate(contents) if c and c.features and len(c.features) == 4 * SIZE
        ]
        self.features: Vector = np.zeros((len(self.with_features), SIZE), np.float32)
        for place, n in enumerate(self.with_features):
            content = contents[n]
            if content is not None and content.features is not None:
                self.features[place] = np.frombuffer(content.features, np.float32)


def _numbers(values: Iterable[float | None]) -> NDArray[np.float64]:
    return np.array([np.nan if value is None else value for value in values], np.float64)


def _by_name(row: Row) -> tuple[str, str]:
    return row.name.casefold(), row.file.place


def _text(row: Row, folders: dict[int, str]) -> str:
    own = row.own
    said = f"\n{own.tags}\n{own.note}" if own is not None else ""
    return f"{folders.get(row.file.folder, '')}/{row.file.place}{said}".casefold()


Condition = Callable[[_Arrays], NDArray[np.bool_]]
_PLAIN: dict[str, Condition] = {
    "mono": lambda a: a.channels == 1,
    "stereo": lambda a: a.channels == 2,
    "loops": lambda a: a.loops & a.measured,
    "starred": lambda a: a.star,
    "bright": lambda a: a.brightness > 2500,
    "dark": lambda a: a.brightness < 500,
    "unmeasured": lambda a: ~a.measured,
}
WORDS = tuple(_PLAIN)


def understood(text: str) -> tuple[list[str], list[Condition]]:
    """What is typed as words to be found, and conditions to be met."""
    joined = _SPLIT.sub(lambda found: found[1] or "", text.casefold())
    words, conditions = [], []
    for word in joined.split():
        condition = _condition(word)
        if condition is None:
            words.append(word)
        else:
            conditions.append(condition)
    return words, conditions


def _condition(word: str) -> Condition | None:
    if word in _PLAIN:
        return _PLAIN[word]
    length, level = _LENGTH.match(word), _LUFS.match(word)
    if length:
        seconds = _number(length[2]) * _UNITS[length[3]]
        return _compared(length[1], seconds, _NEAR_LENGTH * seconds, lambda a: a.seconds)
    if level:
        return _compared(level[1], _number(level[2]), _NEAR_LUFS, lambda a: a.loudness)
    return None


def _number(text: str) -> float:
    return float(text.replace(",", ".").replace("−", "-"))


def _compared(
    sign: str, wanted: float, near: float, of: Callable[[_Arrays], NDArray[np.float64]]
) -> Condition:
    match sign:
        case "<" | "<=":
            return lambda a: of(a) <= wanted if sign == "<=" else of(a) < wanted
        case ">" | ">=":
            return lambda a: of(a) >= wanted if sign == ">=" else of(a) > wanted
        case _:
            return lambda a: np.abs(of(a) - wanted) <= near
