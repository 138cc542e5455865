"""A long evening: the film plays while it is edited, for an hour.

``python -m tests.soak --minutes 60`` (``make soak``) plays the demo in a real window with a player
process of its own, and every second edits, seeks or changes the scene. No block may be missed, and
memory and threads must stay level.
"""

import argparse
import os
import sys
import tempfile
import threading
import time
from pathlib import Path
from random import Random

from tests import long_runs

# Memory may grow by so much after the first minutes, in MB.
LEVEL = 60


def rss(pid="self"):
    """The resident memory of a process, in MB."""
    pages = int(Path(f"/proc/{pid}/statm").read_text().split()[1])
    return pages * os.sysconf("SC_PAGE_SIZE") / 1e6


def main():
    parser = argparse.ArgumentParser(prog="soak", description=__doc__)
    parser.add_argument("--minutes", type=float, default=60)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--report", type=Path, help="a file that a line is added to")
    options = parser.parse_args()
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    with tempfile.TemporaryDirectory() as name:
        os.environ |= {"CICADA_DATA": f"{name}/data", "CICADA_CACHE": f"{name}/cache"}
        said = soak(Path(name), options.minutes, options.seed)
    print(said["words"], flush=True)
    if options.report is not None:
        long_runs.add(options.report, run="soak", seed=options.seed, count=options.minutes,
                      found="; ".join(said["wrong"]) or "nothing")  # fmt: skip
    return int(bool(said["wrong"]))


def soak(folder, minutes, seed):  # noqa: PLR0915 - one evening from its beginning to its end
    """Play and work for some minutes; what was seen, and what of it is wrong."""
    from PySide6.QtCore import QSettings

    from cicada.core.editing import Cell
    from cicada.core.keyframe_edits import ChangeKeyframes
    from cicada.core.model import Clip
    from cicada.demo.harbour import make_demo
    from cicada.media.cache import user_cache
    from cicada.playback.process import PlayerProcess
    from cicada.window.app import make_application
    from cicada.window.frame.main_window import MainWindow
    from cicada.window.state.guard import guard, watch

    app = make_application()
    cache, players = user_cache(), []

    def make_player(rate):
        players.append(PlayerProcess(rate, cache))
        return players[-1]

    settings = QSettings(str(folder / "window.ini"), QSettings.Format.IniFormat)
    window = MainWindow(cache, folder / "recovery", make_player, settings)
    watch()
    window.document.open(make_demo(folder / "demo"))
    window.conditions.waits = False
    window.show()
    window.transport.start()
    window.transport.play_again_and_again(on=True)
    rng = Random(seed)
    began = last = time.monotonic()
    samples, wrong, acts = [], [], 0
    settled = False

    def act():
        project = window.document.project
        what = rng.choice(("edit", "edit", "undo", "seek", "scene"))
        if what == "edit":
            clips = [
                Cell(layer.id, k.frame)
                for _, layer in project.all_layers()
                for k in layer.keyframes
                if isinstance(k, Clip) and not layer.guarded
            ]
            changes = {"level": rng.choice((0.4, 0.7, 1.0))}
            window.document.do(ChangeKeyframes(cells=(rng.choice(clips),), changes=changes))
        elif what == "undo":
            window.document.undo()
        elif what == "seek":
            window.session.move_playhead(rng.randrange(window.session.scene.length))
            window.scrubbing.step(window.session.playhead)
        else:
            window.session.show_scene(rng.choice(project.scenes).id)
        if not window.transport.playing:
            window.transport.toggle()

    while time.monotonic() - began < minutes * 60:
        app.processEvents()
        time.sleep(0.001)
        now = time.monotonic()
        if now - last < 1.0:
            continue
        last = now
        acts += 1
        act()
        if guard.caught:
            wrong.append(f"{guard.caught[0].kind} in {guard.caught[0].what}")
            break
        if not settled and now - began > min(120, minutes * 20):
            # What is loaded by then stays.
            settled, missed = True, players[-1].status().missed
        if settled and acts % 15 == 0:
            player = players[-1]._process.pid
            samples.append((rss(), rss(player), threading.active_count()))
    missed = players[-1].status().missed - (missed if settled else 0)
    window.files.may_leave = lambda: True
    window.close()
    app.processEvents()
    if missed:
        wrong.append(f"{missed} blocks were missed")
    words = f"{minutes:g} minutes, {acts} edits, seeks and scenes, {missed} blocks missed"
    if len(samples) > 1:
        third = max(1, len(samples) // 3)
        first, end = samples[:third], samples[-third:]
        for place, what in enumerate(("window", "player")):
            was, now = (sorted(s[place] for s in part)[len(part) // 2] for part in (first, end))
            words += f"; {what} {was:.0f} to {now:.0f} MB"
            if now - was > LEVEL:
                wrong.append(f"the {what} grew by {now - was:.0f} MB")
        was, now = max(s[2] for s in first), max(s[2] for s in end)
        words += f"; threads {was} to {now}"
        if now > was + 2:
            wrong.append(f"threads went from {was} to {now}")
    return {"words": words + (f": {'; '.join(wrong)}" if wrong else ""), "wrong": wrong}


if __name__ == "__main__":
    sys.exit(main())
