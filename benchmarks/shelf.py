"""The shelf at its limits: importing 200 files, searching 2,000 sounds, ten hours of audio."""

import os
import tempfile
import time
from pathlib import Path

import numpy as np
import soundfile

from benchmarks.runner import absolute, percentile
from cicada.core.model import Sound, empty_project
from cicada.core.shelf_edits import AddSounds

KINDS = (
    ("wav", "PCM_16", 44100), ("wav", "PCM_24", 96000), ("flac", "PCM_16", 48000),
    ("ogg", "VORBIS", 44100), ("mp3", "MPEG_LAYER_III", 44100), ("aiff", "PCM_16", 32000),
)  # fmt: skip
HOURS = 10
LIMIT = 1_000_000_000


def figures():
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        os.environ["CICADA_CACHE"] = str(folder / "cache")
        os.environ["CICADA_DATA"] = str(folder / "data")
        yield from searching(folder)
        yield from importing(folder)
        yield from hours(folder)


class Desk:
    """A window without a player, and the time it takes to answer."""

    def __init__(self, folder):
        from PySide6.QtCore import QSettings, QTimer

        from cicada.media.cache import user_cache
        from cicada.window.app import make_application
        from cicada.window.frame.main_window import MainWindow

        def no_player(rate):
            raise RuntimeError(f"nothing plays at {rate} here")

        self.app = make_application()
        settings = QSettings(str(folder / "desk.ini"), QSettings.Format.IniFormat)
        user_cache().set_limit(LIMIT)
        self.window = MainWindow(user_cache(), folder / "recovery", no_player, settings)
        self.window.files.may_leave = lambda: True
        self.window.show()
        self.answers = []
        self._asked = time.perf_counter()
        self._timer = QTimer()
        self._timer.setInterval(0)
        self._timer.timeout.connect(self._answer)

    def _answer(self):
        now = time.perf_counter()
        self.answers.append(1000 * (now - self._asked))
        self._asked = now

    def run_until(self, over, seconds=900):
        """Let the window work, noting how long each turn of its events takes."""
        self.answers.clear()
        self._asked = time.perf_counter()
        self._timer.start()
        end = time.monotonic() + seconds
        while not over() and time.monotonic() < end:
            self.app.processEvents()
            # As an idle window would, rather than keeping a core to itself.
            time.sleep(0.001)
        self._timer.stop()

    def close(self):
        self.window.close()
        self.window.deleteLater()
        self.app.processEvents()


def searching(folder):
    desk = Desk(folder)
    window = desk.window
    words = ("rain", "bell", "rope", "pier", "gull", "lamp", "hum", "wave")
    sounds = tuple(
        Sound(
            id=f"s{i}", hash=f"blake2b:{i:040x}",
            name=f"{words[i % 8]} {words[i // 8 % 8]} {i}", frames=48000, rate=48000,
            channels=1, note=f"found by the {words[i % 7]}", tags=(words[i % 5], words[i % 3]),
        )
        for i in range(2000)
    )  # fmt: skip
    window.document.new(AddSounds(sounds=sounds).apply(empty_project("Many")))
    desk.run_until(lambda: window.planning.up_to_date and window.presence.up_to_date)
    desk.run_until(lambda: False, seconds=2)
    search, times = window.shelf.search, []
    for _ in range(12):
        for text in ("g", "gu", "gul", "gull", "gull 1", "gull", "gul", "gu", "g", ""):
            began = time.perf_counter()
            search.setText(text)
            desk.app.processEvents()
            times.append(1000 * (time.perf_counter() - began))
    yield absolute("search over 2,000 sounds, a keystroke with its repaint", percentile(times),
                   "ms", 16)  # fmt: skip
    desk.close()


def importing(folder):
    source = folder / "source"
    source.mkdir()
    generator = np.random.default_rng(4)
    for i in range(200):
        suffix, subtype, rate = KINDS[i % len(KINDS)]
        noise = 0.1 * generator.standard_normal((int(rate * (1 + 4 * generator.random())), 2))
        soundfile.write(source / f"sound {i:03}.{suffix}", noise, rate, subtype=subtype)
    desk = Desk(folder)
    shelf = desk.window.imports
    shelf.import_files([source])
    desk.run_until(lambda: len(shelf.importing.of("in")) >= 60)
    shelf.importing.cancel()
    began = time.perf_counter()
    desk.run_until(lambda: shelf.importing.done)
    yield absolute("stopping an import of 200 files", time.perf_counter() - began, "s", 1)
    halves = [*(folder / "cache").glob("**/*.part"), *folder.glob("recovery/**/*.part")]
    yield absolute("half files left by it", len(halves), "files", 0)
    shelf.import_files([source])
    desk.run_until(lambda: shelf.importing.done)
    assert not shelf.importing.of("refused", "left")
    yield absolute("the window's answer during an import of 200 files", percentile(desk.answers),
                   "ms", 100)  # fmt: skip
    yield absolute("the longest of them", max(desk.answers), "ms", 100)
    desk.close()


def hours(folder):
    """Ten hours in 30 files; the window's and the workers' own memory, and the cache."""
    source = folder / "hours"
    source.mkdir()
    noise = 0.1 * np.random.default_rng(5).standard_normal(48000 * 20)
    minutes = HOURS * 60 // 30
    for i in range(30):
        with soundfile.SoundFile(source / f"long {i:02}.wav", "w", 48000, 1, "PCM_16") as file:
            for _ in range(minutes * 3):
                file.write(np.roll(noise, i))
    desk = Desk(folder)
    shelf = desk.window.imports
    most = {"window": 0, "workers": 0}

    def over():
        most["window"] = max(most["window"], own_memory(os.getpid()))
        for process in workers():
            most["workers"] = max(most["workers"], own_memory(process))
        return shelf.importing.done and not desk.window.jobs.running

    shelf.import_files([source], kept="linked")
    before = own_memory(os.getpid())
    desk.run_until(over)
    assert len(shelf.importing.of("in")) == 30
    desk.window.decoding.keep_to_limit()
    desk.run_until(lambda: not desk.window.jobs.running)
    held = sum(path.stat().st_size for path in (folder / "cache").glob("*/*"))
    yield absolute("the window's own memory with ten hours on the shelf", most["window"] / 1e6,
                   "MB", 400)  # fmt: skip
    yield absolute("of which before the import", before / 1e6, "MB", 400)
    yield absolute("a worker's own memory meanwhile", most["workers"] / 1e6, "MB", 400)
    yield absolute("the cache, limited to 1 GB", held / 1e6, "MB", LIMIT / 1e6)
    desk.close()


def own_memory(process):
    """The bytes of memory that are a process's own and no mapped file."""
    try:
        text = Path(f"/proc/{process}/smaps_rollup").read_text()
    except OSError:
        return 0
    line = next(line for line in text.splitlines() if line.startswith("Anonymous:"))
    return 1024 * int(line.split()[1])


def workers():
    return [
        int(line) for line in Path(f"/proc/{os.getpid()}/task/{os.getpid()}/children")
        .read_text().split()
    ]  # fmt: skip
