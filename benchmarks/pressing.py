"""From a press on a pad to its first sample being handed over, and to its being audible."""

import os
import tempfile
import time
from contextlib import contextmanager
from pathlib import Path
from random import Random

import numpy as np
from msgspec.structs import replace

from benchmarks.films import TAP, many_keyframes
from benchmarks.runner import absolute, percentile
from cicada.core.answers import Fire, Input, Pad
from cicada.core.live import awaiting
from cicada.core.model import Run
from cicada.core.planner import plan
from cicada.media.cache import SoundCache
from cicada.playback.messages import FILM, Buffered, Give, Given, Load, Play, Quick
from cicada.playback.player import QUICK_BLOCK
from cicada.playback.process import PlayerProcess

PADS, PRESSES = 20, 150
# Samples of the films' only sound at their rate.
LENGTH = 32653
# Keyframes, inputs before the first that is measured, and milliseconds that it may take.
RUNS = ((1000, 0, 30.0), (10_000, 10_000, 40.0))


def figures():
    """The silent output, then each server there is."""
    from tests.playback.sound_server import SoundServer

    for kind in ("silent", "PulseAudio", "PipeWire"):
        if kind != "silent" and not SoundServer.there(kind):
            print(f"no {kind} is installed here: presses are not measured with it")
            continue
        with tempfile.TemporaryDirectory(prefix="cicada-") as name, output(kind, Path(name)):
            for keyframes, before, most in RUNS:
                yield from pressed(kind, keyframes, before, most, Path(name) / "cache")


@contextmanager
def output(kind, folder):
    """What the player finds to play to."""
    from tests.playback.sound_server import SoundServer

    kept, server = dict(os.environ), None
    if kind == "silent":
        os.environ["PULSE_SERVER"] = f"unix:{folder}/nobody"
    else:
        server = SoundServer(folder, kind)
        os.environ.update(server.environment)
    try:
        yield
    finally:
        os.environ.clear()
        os.environ.update(kept)
        if server is not None:
            server.close()


def pressed(kind, keyframes, before, most, cache):
    """Press pads at random, and hear from the player when each counts."""
    made = many_keyframes(keyframes, layers=20)
    pads = tuple(
        Pad(id=f"pad{n}", does=(Fire(sound=made.sounds[n % len(made.sounds)].id),))
        for n in range(PADS)
    )
    made = replace(made, version=2, pads=pads)
    random, step = Random(1), made.rate // 50
    inputs = tuple(Input(at=n * step, pad=f"pad{n % PADS}") for n in range(before))
    # However slow the machine is, the film does not end before the presses do.
    live = Run(press_points="wait", inputs=inputs, passes=20)
    begins = before * step
    sounds = SoundCache(cache)
    noise = np.random.default_rng(1).uniform(-0.1, 0.1, (1, LENGTH)).astype(np.float32)
    sounds.put(sounds.sound_key(TAP, made.rate), noise)
    player = PlayerProcess(made.rate, sounds)
    try:
        said, holes = [], 0
        player.send(Quick(on=True))
        played = plan(made, awaiting(live, made.rate))
        player.send(Load(made, plan(made, Run()), {}, played=played, live=live))
        until(lambda: player.status().rate)
        player.send(Play(begins))
        until(lambda: player.status().doing == FILM and player.status().sample > begins)
        # The first waits for all that was given before to be planned once.
        press(player, 0, random, said)
        handed, audible, disturbed, number = [], [], 0, 0
        while len(handed) < PRESSES and disturbed < 2 * PRESSES:
            number += 1
            before_it = lost()
            time.sleep(random.uniform(0.02, 0.2))
            took, heard = press(player, number, random, said)
            if lost() > before_it:
                disturbed += 1
            else:
                handed.append(took)
                audible.append(heard)
        holes = sum(isinstance(each, Buffered) and each.missed for each in said)
    finally:
        player.close()
    what = f"{kind}, {keyframes:,} keyframes, {before:,} inputs before"
    if disturbed:
        print(f"left out, for the machine was taken away meanwhile: {disturbed} presses")
    yield absolute(f"from a press to its samples, p99, {what}", percentile(handed), "ms", most)
    yield absolute(f"from a press to hearing it, p99, {what}", percentile(audible), "ms", 150.0)
    yield absolute(f"times that too little was handed over, {what}", holes, "", 0)


def press(player, number, random, said):
    """Press any pad; milliseconds until its first sample is handed over, and until it is heard."""
    asked = time.monotonic()
    player.send(Give(Input(at=0, pad=f"pad{random.randrange(PADS)}"), number))
    at = until(lambda: next(answers(player, said), None)).input.at
    until(lambda: any(row.sample + QUICK_BLOCK > at for row in player.readings()))
    handed = time.monotonic()
    status = player.status()
    here = status.sample + (time.monotonic() - status.clock) * status.rate
    heard = time.monotonic() + max(0.0, (at - here) / status.rate)
    return 1000 * (handed - asked), 1000 * (heard - asked)


def lost():
    """Hundredths of a second that the machine's processors were taken away so far."""
    return int(Path("/proc/stat").read_text().split()[8])


def answers(player, said):
    """What was given and counts now; all reports are kept in ``said``."""
    for report in player.reports():
        said.append(report)
        if isinstance(report, Given):
            yield report


def until(found, seconds=30):
    """What comes of asking again and again."""
    late = time.monotonic() + seconds
    while not (answer := found()):
        assert time.monotonic() < late
        time.sleep(0.0005)
    return answer
