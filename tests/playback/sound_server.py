"""A private sound server with a sink that goes nowhere, and a recording of what reaches it."""

import os
import shutil
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest

RATE = 48000
SETUP = """load-module module-native-protocol-unix auth-anonymous=1 socket={socket}
load-module module-null-sink sink_name=out rate={rate} format=float32le channels=2
set-default-sink out
"""
# Small chunks, so that each arrives when it is heard.
PAREC = (
    "parec", "--format=float32le", f"--rate={RATE}", "--channels=2", "--raw", "--latency-msec=2",
    "-d", "out.monitor",
)  # fmt: skip
# So many chunks from one on are looked at for those that came in time.
FOLLOWING = 500
RECORDER = """
import os, signal, subprocess, sys, time
parec = subprocess.Popen(sys.argv[2:], stdout=subprocess.PIPE)
signal.signal(signal.SIGTERM, lambda *_: parec.terminate())
done = 0
with open(sys.argv[1], "wb") as heard, open(sys.argv[1] + ".times", "w") as times:
    while block := os.read(parec.stdout.fileno(), 65536):
        done += len(block) // 8
        times.write(f"{done} {time.monotonic():.6f}\\n")
        heard.write(block)
"""
OPTIONS = (
    "-n", "--daemonize=no", "--exit-idle-time=-1", "--use-pid-file=no", "--disallow-exit=yes",
    "--disable-shm=yes",
)  # fmt: skip


PACKAGES = {
    "PulseAudio": ("pulseaudio", "pactl", "parec"),
    "PipeWire": ("pipewire", "wireplumber", "pipewire-pulse", "dbus-daemon", "pactl", "parec"),
}


class SoundServer:
    """One of ``kind`` that runs until ``close``; ``environment`` leads programs to it."""

    def __init__(self, folder: Path, kind: str = "PulseAudio") -> None:
        if not self.there(kind):
            word = f"no {kind} is installed here ({', '.join(PACKAGES[kind])})"
            if os.environ.get("CI"):
                pytest.fail(word)
            pytest.skip(word)
        self._folder, self._kind = folder, kind
        # A socket's path may not be long, and the tests' own folders are.
        self._socket = folder / "pulse" / "native"
        self.environment = {
            "HOME": str(folder),
            "XDG_RUNTIME_DIR": str(folder),
            "PULSE_SERVER": f"unix:{self._socket}",
        }
        self._recorder: subprocess.Popen[bytes] | None = None
        self._running: list[subprocess.Popen[bytes]] = []
        self.start()

    def start(self) -> None:
        """Have it run, with its sink."""
        if self._kind == "PulseAudio":
            self._socket.parent.mkdir(exist_ok=True)
            setup = self._folder / "setup.pa"
            setup.write_text(SETUP.format(socket=self._socket, rate=RATE))
            self._run("pulseaudio", *OPTIONS, "-F", str(setup))
            self._until(self._socket.exists)
            return
        bus = f"unix:path={self._folder}/session"
        self.environment["DBUS_SESSION_BUS_ADDRESS"] = bus
        self._run("dbus-daemon", "--session", "--nofork", f"--address={bus}")
        self._until((self._folder / "session").exists)
        self._run("pipewire")
        self._until((self._folder / "pipewire-0").exists)
        self._run("wireplumber")
        self._run("pipewire-pulse")
        self._until(self._socket.exists)
        self.control("load-module", "module-null-sink", "sink_name=out", f"rate={RATE}")
        self._until(lambda: "out" in self.control("list", "short", "sinks"))
        self.control("set-default-sink", "out")

    def kill(self) -> None:
        """Have it gone at once."""
        for process in reversed(self._running):
            process.kill()
            process.wait(5)
        self._running.clear()
        for name in ("pulse/native", "pipewire-0", "session"):
            (self._folder / name).unlink(missing_ok=True)

    @staticmethod
    def _until(there: Callable[[], object]) -> None:
        until = time.monotonic() + 10
        while not there():
            assert time.monotonic() < until, "the sound server did not start"
            time.sleep(0.02)

    @staticmethod
    def there(kind: str) -> bool:
        """Whether a server of that kind is installed."""
        return all(map(shutil.which, PACKAGES[kind]))

    def _run(self, *command: str) -> None:
        self._running.append(self._start(*command))

    def _start(self, *command: str) -> subprocess.Popen[bytes]:
        environment, quiet = {**os.environ, **self.environment}, subprocess.DEVNULL
        return subprocess.Popen(command, env=environment, stdin=quiet, stdout=quiet, stderr=quiet)

    def control(self, *words: str) -> str:
        """Tell the server something; what it answers."""
        environment = {**os.environ, **self.environment}
        done = subprocess.run(["pactl", *words], env=environment, check=True, capture_output=True)
        return done.stdout.decode().strip()

    def record(self, path: Path) -> None:
        """Begin to record what reaches the sink."""
        self._path = path
        self._recorder = self._start(sys.executable, "-c", RECORDER, str(path), *PAREC)
        # A sink that nobody has listened to yet renders ahead and loses the beginning.
        time.sleep(2)

    def seconds_recorded(self) -> float:
        """How much has been recorded so far."""
        return self._path.stat().st_size / (8 * RATE)

    def recorded(self) -> np.ndarray:
        """All that was recorded, shape (n, 2)."""
        assert self._recorder is not None
        self._end(self._recorder)
        return np.fromfile(self._path, np.float32).reshape(-1, 2)

    def heard_at(self, samples: np.ndarray) -> np.ndarray:
        """When (by the monotonic clock) recorded samples went through the sink."""
        arrivals = np.loadtxt(f"{self._path}.times")
        # A chunk arrives when its first sample goes through, or later if the machine is busy;
        # what was lost before it shifts it and all that follow, and no chunk before.
        firsts = np.concatenate(([0.0], arrivals[:-1, 0]))
        late = arrivals[:, 1] - firsts / RATE
        about = np.searchsorted(firsts, samples, side="right") - 1
        return np.array([late[i : i + FOLLOWING].min() for i in about]) + np.asarray(samples) / RATE

    def _end(self, process: subprocess.Popen[bytes]) -> None:
        process.terminate()
        process.wait(5)

    def close(self) -> None:
        """End the server and the recording."""
        for process in filter(None, (self._recorder, *reversed(self._running))):
            self._end(process)
