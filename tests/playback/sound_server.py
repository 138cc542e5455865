"""A private sound server with a sink that goes nowhere, and a recording of what reaches it."""

import os
import shutil
import subprocess
import sys
import time
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
# So many chunks about one are looked at for those that came in time.
AROUND = 500
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


class SoundServer:
    """Runs until ``close``; ``environment`` leads programs to it."""

    def __init__(self, folder: Path) -> None:
        if not self.there():
            word = "no sound server is installed here (packages pulseaudio, pulseaudio-utils)"
            if os.environ.get("CI"):
                pytest.fail(word)
            pytest.skip(word)
        # A socket's path may not be long, and the tests' own folders are.
        socket = folder / "server"
        (folder / "setup.pa").write_text(SETUP.format(socket=socket, rate=RATE))
        self.environment = {
            "HOME": str(folder),
            "XDG_RUNTIME_DIR": str(folder),
            "PULSE_SERVER": f"unix:{socket}",
        }
        self._running = [self._start("pulseaudio", *OPTIONS, "-F", str(folder / "setup.pa"))]
        until = time.monotonic() + 10
        while not socket.exists():
            assert time.monotonic() < until, "the sound server did not start"
            time.sleep(0.02)

    @staticmethod
    def there() -> bool:
        """Whether a server is installed."""
        return bool(shutil.which("pulseaudio") and shutil.which("parec"))

    def _start(self, *command: str, **more: object) -> subprocess.Popen[bytes]:
        environment = {**os.environ, **self.environment}
        quiet = {"stderr": subprocess.DEVNULL, "stdin": subprocess.DEVNULL}
        return subprocess.Popen(command, env=environment, **{**quiet, **more})

    def control(self, *words: str) -> str:
        """Tell the server something; what it answers."""
        environment = {**os.environ, **self.environment}
        done = subprocess.run(["pactl", *words], env=environment, check=True, capture_output=True)
        return done.stdout.decode().strip()

    def record(self, path: Path) -> None:
        """Begin to record what reaches the sink."""
        self._path = path
        self._running.append(self._start(sys.executable, "-c", RECORDER, str(path), *PAREC))
        # A sink that nobody has listened to yet renders ahead and loses the beginning.
        time.sleep(2)

    def recorded(self) -> np.ndarray:
        """All that was recorded, shape (n, 2)."""
        self._end(self._running.pop())
        return np.fromfile(self._path, np.float32).reshape(-1, 2)

    def heard_at(self, samples: np.ndarray) -> np.ndarray:
        """When (by the monotonic clock) recorded samples went through the sink."""
        arrivals = np.loadtxt(f"{self._path}.times")
        # A chunk arrives when its first sample goes through, or later if the machine is busy.
        firsts = np.concatenate(([0.0], arrivals[:-1, 0]))
        late = arrivals[:, 1] - firsts / RATE
        about = np.searchsorted(firsts, samples)
        return (
            np.array([late[max(0, i - AROUND) : i + AROUND].min() for i in about])
            + np.asarray(samples) / RATE
        )

    def _end(self, process: subprocess.Popen[bytes]) -> None:
        process.terminate()
        process.wait(5)

    def close(self) -> None:
        """End the server and the recording."""
        for process in reversed(self._running):
            self._end(process)
