"""Sound and picture together: the real window plays through a sound server that is recorded."""

import os
import subprocess
import sys
import tempfile
import threading
import time
from pathlib import Path

import numpy as np

from benchmarks.runner import absolute, percentile

SECONDS = 60
# Servers, frames per second, and per cent of the frames that are painted at least.
RUNS = (("PulseAudio", 24, 99.0), ("PulseAudio", 60, 90.0), ("PipeWire", 24, 99.0))
EATERS = 8
RATE = 48000
# Seconds until the server knows how late its sink is.
SETTLES = 15


def figures():
    """Each rate in a process of its own, with its own server."""
    yield from reactions()
    from tests.playback.sound_server import SoundServer

    for kind, fps, most in RUNS:
        if not SoundServer.there(kind):
            print(f"no {kind} is installed here: sound and picture are not measured with it")
            continue
        with tempfile.TemporaryDirectory(prefix="cicada-") as name:
            result = Path(name) / "measured.npz"
            subprocess.run(
                [sys.executable, "-m", "benchmarks.playing", kind, str(fps), str(result)],
                check=True, stderr=subprocess.DEVNULL,
            )  # fmt: skip
            yield from said(f"{kind}, {fps} fps", fps, most, dict(np.load(result)))


def said(what, fps, most, found):
    """What was measured of one run, as figures."""
    half = 500 / fps
    shown = f"{what}, window repainting"
    inside = 100 * float(np.mean(np.abs(found["errors"]) < half))
    # One that was due as it began may have been painted before.
    painted = min(100.0, 100 * len(found["errors"]) / float(found["entered"]))
    yield absolute(f"frames first painted outside half a frame, {shown}", 100 - inside, "%", 1.0)
    yield absolute(f"frames never painted, {shown}", 100 - painted, "%", 100 - most)
    yield absolute(
        f"audible time against the recording, p99, {shown}",
        percentile(np.abs(found["clock"]).tolist()), "ms", 3.0,
    )  # fmt: skip
    yield absolute(f"blocks missed in {SECONDS} s, {shown}", float(found["calm"]), "", 0.0)
    yield absolute(
        f"blocks missed in {SECONDS} s, {what}, zoomed, beside a busy thread",
        float(found["missed"]), "", 0.0,
    )  # fmt: skip
    yield absolute(
        f"blocks missed in {SECONDS} s, {what}, beside {EATERS} busy processes",
        float(found["starved"]), "", 0.0,
    )  # fmt: skip
    yield absolute(f"drift of the frame clock in {SECONDS} s, {shown}", float(found["drift"]),
                   "f", 0.0)  # fmt: skip


def run(kind, fps, target):
    """Play for a while in a window under a server, and write down what was seen and heard."""
    from tests.playback.realtime_kit import realtime_kit
    from tests.playback.sound_server import SoundServer

    with tempfile.TemporaryDirectory(prefix="cicada-") as name:
        folder = Path(name)
        os.environ["QT_QPA_PLATFORM"] = "offscreen"
        os.environ["CICADA_CACHE"] = str(folder / "cache")
        os.environ["CICADA_DATA"] = str(folder / "data")
        server = SoundServer(folder, kind)
        os.environ.update(server.environment)
        # As on a desktop, where there is a RealtimeKit; who may not give priority goes without.
        with realtime_kit(folder) as (address, _):
            os.environ["DBUS_SYSTEM_BUS_ADDRESS"] = address
            try:
                measured = Measured(folder, fps)
                server.record(folder / "heard.raw")
                # A recorder changes how late the sink is, and the server takes a while to tell.
                measured.let_be(SETTLES)
                measured.play()
                heard = server.recorded()
                np.savez(target, **measured.found(heard, server))
            finally:
                server.close()


class Measured:
    """A window that plays 64 voices while it is scrolled and zoomed, and a thread keeps busy."""

    def __init__(self, folder, fps):
        from msgspec.structs import replace

        from cicada.demo.harbour import make_demo
        from cicada.media.cache import user_cache
        from cicada.store.projectfile import load, save
        from cicada.window.app import make_application, make_window

        self.app = make_application()
        self.window = make_window(user_cache())
        file = make_demo(folder / "demo")
        save(many_voices(replace(load(file), fps=(fps, 1), plays=0)), file)
        self.window.document.open(file)
        self.window.resize(1280, 800)
        self.window.show()
        window = self.window
        window.transport.start()
        window.decoding.look()
        self.settle(lambda: window.planning.at_rest and not window.jobs.running)
        window.conditions.play_what("scene")
        window.conditions.wait_at_points(on=False)
        window.session.show_scene("sc2")
        window.session.move_playhead(0)
        self.settle(lambda: window.planning.at_rest and not window.mix_row.busy)
        # Their pictures are decoded once: what is measured is when they are shown.
        self.paints, self.guesses = [], []
        window.picture.painted.connect(self.note)

    def settle(self, ready, seconds=90):
        until = time.monotonic() + seconds
        calm = 0
        while calm < 50:
            self.app.processEvents()
            time.sleep(0.005)
            calm = calm + 1 if ready() else 0
            assert time.monotonic() < until

    def note(self, frame):
        now, transport = time.monotonic(), self.window.transport
        if transport.playing:
            status = transport._link._player.status()
            self.paints.append((now, frame, transport._audible(status), status.plays))

    def play(self):
        """First as one watches, then while the window is kept as busy as it can be."""
        from PySide6.QtCore import QTimer

        window, self.busy = self.window, True
        window.transport.toggle()
        self.settle(lambda: window.transport.playing, 10)
        before = window.transport._link._player.status().missed
        self.let_be(SECONDS)
        self.calm = window.transport._link._player.status().missed - before
        self.watched = len(self.paints)
        thread = threading.Thread(target=self.work, daemon=True)
        moves = [lambda: window.sheet.zoom(1.1, 700), lambda: window.sheet.zoom(1 / 1.1, 700)]
        mover = QTimer()
        mover.timeout.connect(lambda: (moves.reverse(), moves[0]()))
        thread.start()
        mover.start(250)
        self.let_be(SECONDS)
        self.busy = False
        mover.stop()
        self.missed = window.transport._link._player.status().missed - before - self.calm
        thread.join()
        before = window.transport._link._player.status().missed
        eaters = [
            subprocess.Popen([sys.executable, "-c", "while True: pass"]) for _ in range(EATERS)
        ]
        try:
            self.let_be(SECONDS)
        finally:
            for eater in eaters:
                eater.kill()
                eater.wait()
        self.starved = window.transport._link._player.status().missed - before
        self.remember()
        window.transport.stop()
        time.sleep(0.3)
        window.shut_down()

    def let_be(self, seconds):
        """Let the application run by itself."""
        from PySide6.QtCore import QTimer

        QTimer.singleShot(seconds * 1000, lambda: self.app.exit(0))
        self.app.exec()

    def remember(self):
        """Keep what is needed to look at the recording."""
        from cicada.core.mix import Mixer
        from cicada.media.cache import user_cache
        from cicada.media.sources import SoundSources

        window = self.window
        self.plan, project = window.transport.plan, window.planning.project
        sources = SoundSources(project, window.presence.standing.files, user_cache())
        self.mixer = Mixer(self.plan, project, sources)

    def work(self):
        """A thread of Python in the window's process that is never done."""
        number = 0
        while self.busy:
            number = (number * 3 + 1) % 1000003

    def placed(self, heard, about, start):
        """How far the run's samples from ``start`` on are from there in the recording."""
        low = max(0, about + start - RATE // 4)
        there = heard[low : low + 5 * RATE // 2, 0]
        return low + found_in(there, self.mixer.mix(start, 2 * RATE)[0]) - start

    def found(self, heard, server):
        paints = [p for p in self.paints[: self.watched] if p[2] > RATE]
        # Passes are alike, so what is looked for is looked for where it must be about.
        grid = np.arange(0, len(heard), RATE // 4)
        passed = np.interp([p[0] for p in paints], server.heard_at(grid), grid)
        about = int(np.median(passed - [p[2] for p in paints]))
        # Near the beginning and near the end: has the sound kept its place?
        at = self.placed(heard, about, int(paints[0][2]))
        later = self.placed(heard, about, int(paints[-1][2]) - 3 * RATE)
        moments = np.array([p[0] for p in paints])
        estimated = np.array([p[2] for p in paints])
        # The sample that goes through the sink at each paint.
        true = np.interp(moments, server.heard_at(grid), grid - at)
        first, entered = {}, 0
        for (_, frame, estimate, _), sample in zip(paints, true, strict=True):
            visit = next(
                (i for i, v in enumerate(self.plan.visits) if v.start <= estimate < v.end), None
            )
            begins = None if visit is None else self.plan.entered(frame, visit)
            if begins is not None and (visit, frame) not in first:
                first[visit, frame] = (sample - begins) / RATE * 1000
        low, high = paints[0][2], paints[-1][2]
        entered = sum(low <= picture.at < high for picture in self.plan.picture())
        _, last, _ = self.plan.frame_at(int(true[-1]))
        _, shown, _ = self.plan.frame_at(int(estimated[-1]))
        return {
            "errors": np.array(list(first.values())),
            "entered": entered,
            "clock": (estimated - true) / RATE * 1000,
            "calm": self.calm,
            "missed": self.missed,
            "starved": self.starved,
            "drift": abs(last - shown) if abs(later - at) == 0 else abs(later - at),
        }


def found_in(long, short):
    """Where ``short`` stands in ``long``, by correlation, loud places counting no more."""
    size = 1 << int(np.ceil(np.log2(len(long) + len(short))))
    spectrum = np.fft.rfft(long, size) * np.conj(np.fft.rfft(short, size))
    alike = np.fft.irfft(spectrum, size)[: len(long) - len(short) + 1]
    power = np.concatenate(([0.0], np.cumsum(long.astype(np.float64) ** 2)))
    power = power[len(short) :] - power[: -len(short)]
    return int(np.argmax(alike / np.sqrt(power + 1e-9)))


def many_voices(project):
    """The project with 64 endless voices more in its longest scene, each hardly to be heard."""
    from msgspec.structs import replace

    from cicada.core.model import Clip, Layer

    layers = tuple(
        Layer(
            id=f"many{number}",
            name=f"Many {number}",
            level=0.01,
            past_scene=False,
            keyframes=(Clip(frame=0, sound="s7", loops=0, offset=number * 0.01),),
        )
        for number in range(64)
    )
    scenes = tuple(
        replace(scene, layers=scene.layers + layers) if scene.id == "sc2" else scene
        for scene in project.scenes
    )
    return replace(project, scenes=scenes)


def reactions():
    """From a key to the samples it asked for being handed over, and from a hand's movement."""
    with tempfile.TemporaryDirectory(prefix="cicada-") as name:
        result = Path(name) / "reactions.npz"
        subprocess.run(
            [sys.executable, "-m", "benchmarks.playing", "reactions", str(result)],
            check=True, stderr=subprocess.DEVNULL,
        )  # fmt: skip
        found = dict(np.load(result))
    yield absolute(
        "from Space to its samples handed over, 1,000 keyframes",
        percentile(found["play"].tolist()), "ms", 30.0,
    )  # fmt: skip
    yield absolute(
        "from a movement of the playhead to its slice handed over",
        percentile(found["scrub"].tolist()), "ms", 20.0,
    )  # fmt: skip


def react(target):
    """Play and scrub some times, to the silent output, whose delay is known."""
    from PySide6.QtWidgets import QApplication

    from benchmarks.films import many_keyframes
    from cicada.media.cache import user_cache
    from cicada.playback.messages import FILM, SCRUBBING
    from cicada.playback.output import LATENCY
    from cicada.window.app import make_application, make_window

    with tempfile.TemporaryDirectory(prefix="cicada-") as name:
        os.environ["QT_QPA_PLATFORM"] = "offscreen"
        os.environ["CICADA_CACHE"] = f"{name}/cache"
        os.environ["CICADA_DATA"] = f"{name}/data"
        os.environ["PULSE_SERVER"] = f"unix:{name}/nobody"
        make_application()
        window = make_window(user_cache())
        window.document.new(many_keyframes(1000, layers=8))
        window.show()
        transport = window.transport
        transport.start()

        def wait(ready):
            until = time.monotonic() + 30
            while not ready():
                QApplication.processEvents()
                assert time.monotonic() < until

        def doing():
            return transport._link._player.status().doing

        wait(
            lambda: (
                window.planning.at_rest
                and not window.jobs.running
                and transport._link._player.status().rate
            )
        )
        found = {"play": [], "scrub": []}
        for number in range(40):
            began = time.monotonic()
            transport.toggle()
            start = transport.sample_of(window.session.playhead, transport.plan)
            wanted = transport._wanted_plays
            wait(lambda wanted=wanted: transport._link._player.status().plays >= wanted)
            wait(lambda: doing() == FILM)
            status = transport._link._player.status()
            audible = status.clock - (status.sample - start) / status.rate
            found["play"].append(1000 * (audible - LATENCY - began))
            transport.stop()
            wait(lambda: not doing())
            began = time.monotonic()
            window.scrubbing.step(number)
            wait(lambda: doing() == SCRUBBING)
            status = transport._link._player.status()
            start = window.scrubbing._slice(number)[0]
            audible = status.clock - (status.sample - start) / status.rate
            found["scrub"].append(1000 * (audible - LATENCY - began))
            wait(lambda: not doing())
        np.savez(target, **{key: np.array(each) for key, each in found.items()})
        window.shut_down()


if __name__ == "__main__":
    if sys.argv[1] == "reactions":
        react(Path(sys.argv[2]))
    else:
        run(sys.argv[1], int(sys.argv[2]), Path(sys.argv[3]))
