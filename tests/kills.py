"""Windows and commands that are killed at work: what was finished comes back, nothing is half.

``python -m tests.kills --times 500 --seed 1`` (``make kills``) starts a real window again and
again, lets hands edit, drag, import and save in it, and kills it at a random moment. Each edit that
the window had reported finished must be there at the next start, and no process of it may stay.
Every other one kills a command that imports, renders or checks.
"""

import argparse
import json
import os
import shutil
import signal
import subprocess
import sys
import tempfile
import time
import uuid
from pathlib import Path
from random import Random

from tests import long_runs
from tests.kills_of_commands import kill_command_once

HERE = Path(__file__).parents[1]
MARK = "CICADA_KILLED_BY"


def main():
    parser = argparse.ArgumentParser(prog="kills", description=__doc__)
    parser.add_argument("--times", type=int, default=20)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--report", type=Path, help="a file that a line is added to")
    parser.add_argument("--child", type=Path)
    options = parser.parse_args()
    if options.child is not None:
        return work(options.child, options.seed)
    began, edits, lost = time.monotonic(), 0, []
    with tempfile.TemporaryDirectory() as name, screen() as display:
        folder = Path(name)
        for number in range(options.times):
            seed = f"{options.seed}-{number}"
            if number % 2:
                found = kill_command_once(folder, seed)
            else:
                found = kill_once(folder, seed, display)
            edits += found["edits"]
            if found["wrong"]:
                lost.append(found)
                print(json.dumps(found), flush=True)
    print(
        f"{options.times} kills, seed {options.seed}: {edits} edits and lines were reported, "
        f"{len(lost)} kills lost something ({time.monotonic() - began:.0f} s)", flush=True,
    )  # fmt: skip
    if options.report is not None:
        found = "; ".join(wrong for each in lost for wrong in each["wrong"]) or "nothing"
        long_runs.add(options.report, run="kills", seed=options.seed, count=options.times,
                      edits=edits, found=found)  # fmt: skip
    if not edits:
        print("nobody edited anything, so nothing was shown", flush=True)
    return int(bool(lost) or not edits)


class screen:  # noqa: N801 - used like a function
    """A screen of its own for real windows; without one to be had, none."""

    def __enter__(self):
        self.server = None
        if not shutil.which("Xvfb"):
            return ""
        read, write = os.pipe()
        self.server = subprocess.Popen(
            ["Xvfb", "-displayfd", str(write), "-screen", "0", "1280x800x24"],
            pass_fds=(write,), stderr=subprocess.DEVNULL,
        )  # fmt: skip
        os.close(write)
        with os.fdopen(read) as said:
            return f":{said.readline().strip()}"

    def __exit__(self, *_):
        if self.server is not None:
            self.server.terminate()
            self.server.wait(5)


def kill_once(folder, seed, display=""):
    """Let somebody work in a window, kill it, and see what comes back."""
    from cicada.core.digest import Digests
    from cicada.errors import CicadaError
    from cicada.store.projectfile import load
    from cicada.store.unfinished import is_open, read

    home = folder / seed
    home.mkdir()
    mark = uuid.uuid4().hex
    environment = {
        **os.environ, MARK: mark, "CICADA_DATA": str(home / "data"),
        "CICADA_CACHE": str(folder / "cache"),
    }  # fmt: skip
    if display:
        environment |= {"DISPLAY": display, "QT_QPA_PLATFORM": "xcb"}
    child = subprocess.Popen(
        [sys.executable, "-m", "tests.kills", "--child", str(home), "--seed", seed.split("-")[1]],
        cwd=HERE, env=environment, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL,
    )  # fmt: skip
    assert child.stdout is not None
    assert child.stdout.readline() == b"ready\n", "the window did not come up"
    time.sleep(Random(seed).uniform(0.0, 1.5))
    child.send_signal(signal.SIGKILL)
    said = [line.split() for line in child.stdout.read().decode().splitlines()]
    reported = [words for words in said if words[0] != "next"]
    child.wait()
    child.stdout.close()
    wrong = []
    digests = Digests()
    known = set()
    journals = home / "data" / "recovery" / "journals"
    # A process that was just being forked holds what the window held, for a moment yet.
    until = time.monotonic() + 5
    while any(map(is_open, journals.glob("*.journal"))) and time.monotonic() < until:
        time.sleep(0.02)
    # Also those that come to what is saved: what was reported last may just have been undone.
    for found in filter(None, map(read, journals.glob("*.journal"))):
        if found.differs:
            wrong.append("a journal comes to something else than was written")
        known |= {digests.of(project) for project in found.history.projects()}
    # A project dropped on the window is opened, so it may be any of those there are.
    for file in (*home.glob("*.cicada"), home / "files" / "other.cicada"):
        try:
            known.add(digests.of(load(file)))
        except CicadaError as error:
            wrong.append(str(error))
    # One that was being finished may have taken the place of the last: a redo after a save has.
    since = said[said.index(reported[-1]) :] if reported else []
    if reported and known.isdisjoint(words[-1] for words in since):
        left = [(path.name, is_open(path)) for path in journals.glob("*")]
        wrong.append(f"edit {reported[-1][0]} is lost; the journals are {left}")
    until = time.monotonic() + 10
    while (left := alive(mark)) and time.monotonic() < until:
        time.sleep(0.05)
    if left:
        wrong.append(f"{len(left)} processes stay")
    shutil.rmtree(home, ignore_errors=True)
    return {"seed": seed, "edits": len(reported), "wrong": wrong}


def alive(mark):
    """The processes that a killed window has started and left behind."""
    found = []
    for entry in Path("/proc").iterdir():
        try:
            if entry.name.isdigit() and mark.encode() in (entry / "environ").read_bytes():
                found.append(entry.name)
        except OSError:
            continue
    return found


def work(home, seed):
    """What goes on in the window: hands that edit, drag, import and save as fast as they can."""
    from PySide6.QtCore import QSettings, QTimer

    from cicada.core.digest import Digests
    from cicada.core.editing import Cell
    from cicada.media.cache import user_cache
    from cicada.window.app import make_application
    from cicada.window.frame.main_window import MainWindow
    from tests.hands.starts import make_files, random_project
    from tests.hands.steps import Hands
    from tests.memory_player import MemoryPlayer

    app = make_application()
    settings = QSettings(str(home / "window.ini"), QSettings.Format.IniFormat)
    recovery = Path(os.environ["CICADA_DATA"]) / "recovery"
    window = MainWindow(user_cache(), recovery, MemoryPlayer, settings)
    window.show()
    rng, digests = Random(seed), Digests()
    if rng.random() < 0.5:
        window.document.new(random_project(rng))
    hands = Hands(window, "kills", seed, make_files(home / "files"), home)
    out = sys.stdout.fileno()
    number = 0

    def report(*_):
        # As a window would say it: when all that is done for an edit has been done.
        nonlocal number
        number += 1
        digest = digests.of(window.document.project)
        os.write(out, f"{number} {time.monotonic():.6f} {digest}\n".encode())

    def announced(write):
        def announce(*given, **named):
            os.write(out, f"next {digests.of(given[-1])}\n".encode())
            write(*given, **named)

        return announce

    window.document.changed.connect(report)
    journal = window.document.journal
    for name in ("edited", "undone", "redone", "is_now"):
        setattr(journal, name, announced(getattr(journal, name)))

    def edit():
        """Something that mostly changes the project."""
        session, rng = window.session, hands.rng
        layers = session.scene.layers
        if layers:
            cell = Cell(rng.choice(layers).id, rng.randrange(session.scene.length))
            session.choose(cell)
            session.move_playhead(cell.frame)
        if window.document.project.sounds:
            session.choose_sound(rng.choice(window.document.project.sounds).id)
        names = ("mark", "rest", "hush", "place", "place", "nudge_on", "insert", "undo", "redo",
                 "add_layer", "press", "mute")  # fmt: skip
        window.menus.actions[rng.choice(names)].trigger()

    kinds = (edit, edit, edit, hands.drag, hands.drag, hands.drop_sound, hands.drop_files)
    step = 0

    def go_on():
        nonlocal step
        step += 1
        hands.rng = Random(f"{seed}-{step}")
        hands._pokes = 0
        if step == 3 or hands.rng.random() < 0.1:
            target = home / "work.cicada"
            window.document.save(target)
        else:
            hands.rng.choice(kinds)()
        QTimer.singleShot(0, go_on)

    os.write(out, b"ready\n")
    QTimer.singleShot(0, go_on)
    return app.exec()


if __name__ == "__main__":
    sys.exit(main())
