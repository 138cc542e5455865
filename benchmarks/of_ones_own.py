"""The cabinet, patterns and recording: listed, searched, made, and kept in level memory."""

import os
import tempfile
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from types import SimpleNamespace
from typing import Any

import numpy as np
import soundfile

from benchmarks.runner import ROUNDS, Figure, absolute, compare, percentile
from cicada.cabinet.catalogue import Catalogue, Row
from cicada.cabinet.features import likeness
from cicada.cabinet.index import Content, Index, news_of
from cicada.cabinet.keeper import Keeper
from cicada.cabinet.measuring import measured
from cicada.cabinet.messages import AddFolder, Pause
from cicada.core.loudness import Loudness
from cicada.core.patterns import Note, Pattern, PatternPart
from cicada.media.decode import opened
from cicada.media.ingest import content_hash
from cicada.media.measures import seam
from cicada.playback.input import Attached
from cicada.playback.recorder import Begin, End, Recorder
from cicada.synth.made import made_blocks

# Files of the collection, sounds that are measured, keystrokes.
FILES, MEASURED = 50_000, 60
TYPED = ("r", "ra", "rai", "rain", "rain 1", "rain 12", "water", "< 1 s", "mono", "bell 7 -20 lufs")
RATE = 48_000


def figures() -> Iterator[Figure]:
    """All figures of it."""
    with tempfile.TemporaryDirectory(prefix="cicada-") as name:
        folder = Path(name)
        yield from _cabinet(folder)
        yield from _measuring(folder)
    yield from _pattern()
    with tempfile.TemporaryDirectory(prefix="cicada-") as name:
        yield from _recording(Path(name))


def _collection(folder: Path) -> None:
    words = ("rain", "bell", "wind", "step", "door", "gull")
    for number in range(FILES):
        below = folder / f"{number // 500:03}"
        below.mkdir(parents=True, exist_ok=True)
        path = below / f"{words[number % 6]} {number}.wav"
        path.write_bytes(b"RIFF" + number.to_bytes(4) + os.urandom(600))


def _cabinet(folder: Path) -> Iterator[Figure]:
    sounds = folder / "sounds"
    _collection(sounds)
    rounds = [0]

    def begun() -> tuple[Index, Keeper]:
        rounds[0] += 1
        index = Index(folder / f"{rounds[0]}.sqlite")
        keeper = Keeper(index, lambda _: None, time.monotonic)
        keeper.do(Pause(on=True))
        keeper.do(AddFolder(str(sounds)))
        return index, keeper

    def listed() -> None:
        index, keeper = begun()
        keeper.step()
        index.close()
        catalogue = Catalogue()
        catalogue.take(news_of(folder / f"{rounds[0]}.sqlite", 0))
        assert len(catalogue.find("rain")) > FILES // 7

    def listed_and_read() -> None:
        index, keeper = begun()
        while keeper.step():
            pass
        index.close()

    def read() -> None:
        left = [sounds]
        while left:
            for entry in os.scandir(left.pop()):
                if entry.is_dir():
                    left.append(Path(entry.path))
                else:
                    content_hash(Path(entry.path))

    name = "the cabinet: 50,000 files listed and found by words, to reading and hashing alone"
    yield compare(name, listed, read, 1.3, rounds=2)
    name = "the cabinet: 50,000 files listed, read and hashed, to reading and hashing alone"
    yield compare(name, listed_and_read, read, 2.6, rounds=2)
    catalogue, file = Catalogue(), folder / f"{rounds[0]}.sqlite"
    index = Index(file)
    random = np.random.default_rng(1)
    index.begin()
    index.set_contents(
        content._replace(state=1, seconds=float(s), channels=int(c), loudness=float(u),
                         features=random.standard_normal(103).astype(np.float32).tobytes())
        for content, s, c, u in zip(
            index.news(0).contents, random.exponential(3, FILES), random.integers(1, 3, FILES),
            random.normal(-22, 6, FILES), strict=False)
    )  # fmt: skip
    index.end()
    index.close()
    catalogue.take(news_of(file, 0))
    catalogue.find("")
    took = []
    shown = _list_of(catalogue)
    for _ in range(20):
        for text in TYPED:
            began = time.perf_counter()
            shown(catalogue.find(text))
            took.append((time.perf_counter() - began) * 1000)
    name = "the cabinet: what is typed is found among 50,000 and painted, p99"
    yield absolute(name, percentile(took), "ms", 50)
    row = catalogue.find("")[7]
    began = time.perf_counter()
    catalogue.like(row)
    took_like = (time.perf_counter() - began) * 1000
    yield absolute("the cabinet: what is like a sound among 50,000", took_like, "ms", 50)


def _list_of(catalogue: Catalogue) -> "Callable[[list[Row]], None]":
    """What shows rows in a real list and paints it."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from PySide6.QtWidgets import QApplication

    from cicada.window.cabinet.row_list import CabinetList, CabinetModel, RowPainter

    app = QApplication.instance() or QApplication([])
    around: Any = SimpleNamespace(catalogue=catalogue)
    model = CabinetModel(around)
    shown = CabinetList(model, RowPainter(around, SimpleNamespace(what=None)))  # type: ignore[arg-type]
    shown.resize(390, 460)
    shown.show()

    def show(rows: list[Row]) -> None:
        model.show_rows(rows)
        app.processEvents()

    return show


def _measuring(folder: Path) -> Iterator[Figure]:
    paths = []
    for number in range(MEASURED):
        path = folder / f"m{number}.wav"
        sound = 0.2 * np.random.default_rng(number).standard_normal((RATE * 2, 2))
        soundfile.write(path, sound, RATE, subtype="PCM_16")
        paths.append(path)

    def bare() -> None:
        for path in paths:
            with opened(path) as file:
                blocks = list(file.blocks())
            samples = np.ascontiguousarray(np.concatenate(blocks).T)
            meter = Loudness(RATE, len(samples))
            meter.add(samples)
            _ = meter.integrated, np.abs(samples).max(), samples.min(), seam(samples, RATE)
            likeness(samples, RATE)

    def ours() -> list[Content]:
        return [measured(path, "blake2b:" + 40 * "0") for path in paths]

    name = "the cabinet: sounds measured, to the bare measures"
    yield compare(name, ours, bare, 1.3, rounds=ROUNDS // 2)


def _pattern() -> Iterator[Figure]:
    def part(voice: str, *pitches: int) -> PatternPart:
        notes = tuple(Note(240 * n, 240, float(pitches[n % len(pitches)]), 0.7) for n in range(16))
        return PatternPart(voice=voice, notes=notes)  # type: ignore[arg-type]

    pattern = Pattern(
        bpm=120.0, repeats=150,
        parts=(part("drums", 36, 42, 38, 42), part("plucked", 60, 64, 67),
               part("bowed", 48, 55), part("struck", 72, 79, 84)),
    )  # fmt: skip
    began = time.perf_counter()
    for _ in made_blocks(pattern, RATE, lambda _: None):
        pass
    took = time.perf_counter() - began
    yield absolute("a pattern: five minutes of four parts made", took, "s", 2.0)


class _Fast:
    """An input that gives noise as fast as it is read."""

    rate, channels = RATE, 2

    def __init__(self) -> None:
        self.block = np.random.default_rng(1).uniform(-0.5, 0.5, (480, 2)).astype(np.float32)
        self.at = 0

    def read(self) -> "np.typing.NDArray[np.float32]":
        self.at += 480
        return self.block

    def delay(self) -> float:
        return 0.0

    def attached(self) -> Attached:
        return Attached(there=True, sure=self.at)

    def close(self) -> None:
        pass


def _resident() -> float:
    pages = int(Path("/proc/self/statm").read_text("ascii").split()[1])
    return pages * os.sysconf("SC_PAGE_SIZE") / 1e6


def _recording(folder: Path) -> Iterator[Figure]:
    source = _Fast()
    recorder = Recorder(source, (0, 1), lambda _: None, lambda: source.at / RATE)
    recorder.begin(Begin(str(folder / "hour.wav")))
    for _ in range(6000):
        recorder.step()
    before = _resident()
    began = time.perf_counter()
    while source.at < 3600 * RATE:
        recorder.step()
    took = time.perf_counter() - began
    grown = _resident() - before
    recorder.end(End())
    recorder.close()
    yield absolute("recording: memory an hour adds", max(0.0, grown), "MB", 10.0)
    yield absolute("recording: an hour's samples at full speed", took, "s", 120.0)
