"""Commands that are killed: what they had said was done is there, and nothing is half or wrong."""

import hashlib
import os
import shutil
import signal
import subprocess
import sys
import time
from pathlib import Path
from random import Random

import soundfile

HERE = Path(__file__).parents[1]
SECONDS = 30
LABELS = ("Tap", "Bell", "Rain", "Gull", "Keel", "Moth")


def environment(folder, home):
    return {
        **os.environ,
        "CICADA_DATA": str(home / "data"),
        "CICADA_CACHE": str(folder / "cache"),
    }


def run(folder, home, *words):
    return subprocess.run(
        [sys.executable, "-m", "cicada", *map(str, words)], check=False, cwd=HERE,
        env=environment(folder, home), capture_output=True, timeout=120,
    )  # fmt: skip


def reference(folder):
    """A film with its sounds, and its render: made once."""
    from msgspec.structs import replace

    from cicada.core.keyframe_edits import PlaceClip
    from cicada.store.projectfile import load, save
    from tests.sound_files import ring, write_sound

    made = folder / "reference"
    if not made.exists():
        made.mkdir()
        for number, label in enumerate(LABELS):
            seconds = SECONDS if number == 2 else 0.5
            write_sound(
                made / f"{label}.wav", ring(seconds=seconds, seed=number, rate=44100), 44100
            )
        film = made / "film.cicada"
        run(folder, made, "new", film)
        run(folder, made, "import", film, *(made / f"{label}.wav" for label in LABELS[:3]))
        project = load(film)
        for number, sound in enumerate(project.sounds):
            project = PlaceClip(layer="l1", frame=30 * number, sound=sound.id).apply(project)
        save(replace(project, name="film"), film)
        run(folder, made, "render", film, "-o", made / "whole.wav")
        shutil.rmtree(folder / "cache")
    return made


def kill_command_once(folder, seed):
    """Begin a command, kill it, and look at all it may have touched."""
    dice = Random(seed)
    good, home = reference(folder), folder / f"{seed}-command"
    shutil.copytree(good, home, ignore=shutil.ignore_patterns("whole.wav", "data"))
    film, out = home / "film.cicada", home / "mix.wav"
    if dice.random() < 0.3:
        # Much is in the cache already most often.
        shutil.rmtree(folder / "cache", ignore_errors=True)
    if dice.random() < 0.5:
        shutil.copy(good / "whole.wav", out)
    command = dice.choice(("import", "import", "render", "render", "check"))
    words = {
        "import": ["import", film, *(home / f"{label}.wav" for label in LABELS)],
        "render": ["render", film, "-o", out],
        "check": ["check", film],
    }[command]
    child = subprocess.Popen(
        [sys.executable, "-m", "cicada", *map(str, words)], cwd=HERE,
        env=environment(folder, home), stdout=subprocess.PIPE, stderr=subprocess.DEVNULL,
    )  # fmt: skip
    time.sleep(dice.uniform(0.2, 1.6))
    child.send_signal(signal.SIGKILL)
    said = child.stdout.read().decode().splitlines()
    child.stdout.close()
    child.wait()
    wrong = [f"{command}: {fault}" for fault in faults(folder, home, said)]
    shutil.rmtree(home)
    return {"seed": f"{seed} {command}", "edits": len(said), "wrong": wrong}


def faults(folder, home, said):
    from cicada.errors import CicadaError
    from cicada.media.cache import SoundCache
    from cicada.store.projectfile import load

    film, out, good = home / "film.cicada", home / "mix.wav", folder / "reference"
    try:
        project = load(film)
    except CicadaError as error:
        yield str(error)
        return
    ids = {sound.id for sound in project.sounds}
    told = {line.partition(":")[0] for line in said if line.startswith("s")}
    if not told <= ids or len(ids) < 3:
        yield f"{sorted(told - ids)} were said to be in"
    for sound in project.sounds:
        kept = home / sound.file
        if not kept.is_file() or f"blake2b:{digest(kept)}" != sound.hash:
            yield f"{sound.id} is not kept as it came"
    if out.exists() and out.read_bytes() != (good / "whole.wav").read_bytes():
        yield f"a mix of {soundfile.info(out).frames} frames"
    # The next command finds all as it should be, and takes away what was left.
    again = run(folder, home, "render", home / "film.cicada", "-o", home / "again.wav")
    if again.returncode:
        yield again.stderr.decode()
    elif not project.scenes[0].layers or sound_of(home / "again.wav") != sound_of(
        good / "whole.wav"
    ):
        yield "another sound than before"
    for path in (*home.rglob("*"), *(folder / "cache").rglob("*")):
        if ".part" in path.name or path.name.startswith("."):
            yield f"{path.name} is left"
    cache = SoundCache(folder / "cache")
    for path in (folder / "cache").rglob("*.npy"):
        stored = cache.reading(path.stem)
        if stored is None or not stored.right():
            yield f"{path.name} in the cache is damaged"


def digest(path):
    return hashlib.blake2b(path.read_bytes(), digest_size=20).hexdigest()


def sound_of(path):
    return soundfile.read(path, dtype="float32")[0].tobytes()
