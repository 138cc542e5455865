"""Damaged and wicked files of every kind: each is taken, or refused in a sentence.

``python -m tests.fuzz --count 20000 --seed 1`` (``make fuzz``) changes good files, by their
structure and by their bytes, and reads each as Cicada does. What may not happen: a traceback, more
than 5 seconds, more than a gigabyte, anything written outside the folder of the project.
"""

import argparse
import json
import os
import resource
import subprocess
import sys
import tempfile
import time
from contextlib import redirect_stderr, redirect_stdout, suppress
from copy import deepcopy
from io import StringIO
from pathlib import Path
from random import Random
from selectors import EVENT_READ, DefaultSelector

from tests import long_runs

HERE = Path(__file__).parents[1]
SECONDS, BYTES = 5.0, 1_000_000_000
# A process that has read so many is replaced, so that what one leaves behind is not another's.
TURNS = 400
SOUNDS = ("wav", "flac", "ogg", "opus", "mp3", "aiff", "caf", "m4a", "mkv")
MOVING = ("mp4", "mov", "mkv", "webm", "gif", "apng", "webp")
STILL = ("png", "jpg", "bmp", "svg")
ODD = (
    None, True, 0, -1, 1, 2**31, 2**53, 2**63, 10**30, 1e9, 1e308, -0.0, 0.1, "", "x", "é\u202e",
    "\x00", "../../../outside/diary.wav", "/etc/passwd", "..", ".", "~", "a" * 5000,
    "https://example.invalid/a.wav", "file:///etc/passwd", "/dev/zero", "pipe.wav",
    "blake2b:" + "0" * 40, "blake2b:../../outside/diary",
    [], [[]], {}, [1, 2, 3], {"frame": 0}, [[0, 1, "smooth"]], [[0.5]] * 300,
)  # fmt: skip
DRAWING = (
    '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="64"'
    ' height="36" viewBox="0 0 64 36"><defs><linearGradient id="g"><stop offset="0"/>'
    '</linearGradient></defs><rect width="64" height="36" fill="url(#g)"/><g transform="scale(2)">'
    '<circle cx="9" cy="9" r="5"/><use xlink:href="#g"/><image href="x.png" width="9" height="9"/>'
    "</g></svg>"
)


# -- what good files there are -----------------------------------------------------------------


def make_good(folder):
    """One file of each kind that is read, and a project with its sounds."""
    import numpy as np
    from PySide6.QtGui import QImage

    from cicada.cli.main import main
    from cicada.demo.harbour import make_demo
    from cicada.media.cache import user_cache
    from tests.picture_files import write_moving
    from tests.sound_files import ring, write_container, write_sound

    make_demo(folder / "demo")
    for kind in SOUNDS:
        path = folder / f"sound.{kind}"
        if kind in ("m4a", "mkv"):
            write_container(path, ring(seconds=0.2))
        else:
            write_sound(path, ring(seconds=0.2))
    for kind in MOVING:
        write_moving(folder / f"moving.{kind}", count=4, size=(32, 18))
    image = QImage(np.full((18, 32, 4), 90, np.uint8).data, 32, 18, QImage.Format.Format_RGB32)
    for kind in STILL[:-1]:
        assert image.save(str(folder / f"still.{kind}"))
    (folder / "still.svg").write_text(DRAWING)
    (folder / "run.json").write_text(
        '{"scene": "sc2", "frame": 3, "passes": 2, "presses": [5, 900], "draw_time": [0.01, 0.2],'
        ' "press_points": "wait", "tail": "cut", "limit": 3.5}'
    )
    (folder / "slow.json").write_text(
        '{"passes": 2, "draw_time": {"sc1": 0.1, "sc2": [0.01, 0.2], "sc3": []}, "limit": 9.5}'
    )
    (folder / "drawing.log").write_text("scene,frame,ms\nsc1,0,125\nNight,3,40.5\nsc1,0,90\n")
    assert main(["new", str(folder / "small.cicada")]) == 0
    assert main(["import", str(folder / "small.cicada"), str(folder / "sound.wav")]) == 0
    make_journal(folder)
    make_own(folder)
    # A header that says one sample a second makes hours of a short file, which may come in.
    user_cache().set_limit(200_000_000)


def make_journal(folder):
    """What a window that was killed leaves behind."""
    from cicada.core.scene_edits import ChangeProject, PutMark
    from cicada.store.journal import Journal
    from cicada.store.projectfile import load

    journal, file = Journal(folder / "journals"), folder / "demo" / "harbour.cicada"
    project = load(file)
    journal.become(project, file, "saved")
    for edit in (PutMark(scene="sc1", frame=3), ChangeProject(changes={"name": "x"})):
        project = edit.apply(project)
        journal.edited(edit, edit.title, project, joined=False)
    journal.undone(project)
    journal.close()
    (written,) = (folder / "journals").iterdir()
    written.rename(folder / "window.journal")


def make_own(folder):
    """A pattern, a recording whose recorder was killed, and an index of the cabinet."""
    import numpy as np

    from cicada.cabinet.index import Index, Own
    from cicada.cabinet.keeper import Keeper
    from cicada.cabinet.messages import AddFolder
    from cicada.core.patterns import Note, Pattern, PatternPart
    from cicada.media.take_file import Shape, TakeFile
    from cicada.store.midi_file import written
    from cicada.store.recordings import About, begin

    notes = tuple(Note(240 * n, 120, 60.0 + n) for n in range(8))
    parts = (PatternPart(name="Bells", notes=notes), PatternPart(voice="drums", notes=notes))
    (folder / "beat.mid").write_bytes(written(Pattern(bpm=96.0, parts=parts)))
    under_way = begin(folder / "recordings", About(1.8e9, "Harbour", "Take"))
    take = TakeFile(under_way.path, Shape(48000, 1))
    take.write(np.full((4800, 1), 0.25, np.float32))
    under_way.path.rename(folder / "take.wav")
    under_way.note.rename(folder / "take.recording")
    under_way.leave()
    index = Index(folder / "cabinet.sqlite")
    keeper = Keeper(index, lambda _: None, time.monotonic)
    keeper.do(AddFolder(str(folder)))
    while keeper.step():
        pass
    index.begin()
    for content in index.news(0).contents[::2]:
        index.say(Own(content.hash, "bell\nsea", "a note", "ours", star=True))
    index.end()
    index.close()


# -- how they are changed ----------------------------------------------------------------------


def bytes_changed(data, dice):
    """A few bytes flipped, cut out, doubled, put in, or numbers made extreme."""
    data = bytearray(data)
    for _ in range(dice.choice((1, 1, 2, 5, 40))):
        if not data:
            break
        at = dice.randrange(min(len(data), dice.choice((64, 400, len(data)))))
        match dice.randrange(6):
            case 0:
                data[at] = dice.randrange(256)
            case 1:
                del data[at : at + dice.choice((1, 4, 100, len(data)))]
            case 2:
                data[at:at] = data[at : at + dice.choice((1, 16, 500))]
            case 3:
                data[at:at] = dice.randbytes(dice.choice((1, 4, 64)))
            case 4:
                size = dice.choice((2, 4, 8))
                value = dice.choice((0, 1, 2 ** (8 * size) - 1, 2 ** (8 * size - 1), 65_537))
                order = dice.choice(("little", "big"))
                data[at : at + size] = (value % 2 ** (8 * size)).to_bytes(size, order)
            case 5:
                data[at : at + 8] = bytes(8)
    return bytes(data)


def places(value, path=()):
    """Every place in what was read from JSON."""
    yield path
    children = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(
        value, list) else ()  # fmt: skip
    for key, child in children:
        yield from places(child, (*path, key))


def structure_changed(data, dice):
    """A value of the JSON exchanged for an odd one, taken away, doubled, or one more put in."""
    whole = json.loads(data)
    for _ in range(dice.choice((1, 1, 2, 4))):
        path = dice.choice(list(places(whole)))
        if not path:
            continue
        inside = whole
        for key in path[:-1]:
            inside = inside[key]
        key = path[-1]
        match dice.randrange(5):
            case 0 | 1:
                inside[key] = deepcopy(dice.choice(ODD))
            case 2:
                del inside[key]
            case 3:
                if isinstance(inside, list):
                    inside.insert(key, inside[key])
                else:
                    inside[dice.choice(("colour", "file", "hash", "frame", "kind", "id"))] = (
                        deepcopy(dice.choice(ODD))
                    )
            case 4:
                other = dice.choice(list(places(whole)))
                found = whole
                for step in other:
                    found = found[step]
                inside[key] = json.loads(json.dumps(found))
    return json.dumps(whole).encode()


# -- how they are read -------------------------------------------------------------------------


def commands(folder, *each):
    """Commands, which may refuse; what they end with."""
    from cicada.cli.main import main

    for words in each:
        with redirect_stdout(StringIO()), redirect_stderr(StringIO()):
            try:
                code = main([str(word) for word in words])
            except SystemExit as stopped:
                code = stopped.code
        assert code in (0, 1, 2), (words[0], code)


def read_project(path, good, dice):
    out = path.with_name("out.wav")
    commands(
        path.parent, ["check", path], ["plan", path],
        dice.choice((["render", path, "-o", out, "--limit", "0.3", "--missing", "silent"],
                     ["import", path, good / "sound.wav"],
                     ["render", path, "-o", out, "--limit", "0.2", "--allow-outside"])),
    )  # fmt: skip


def read_run(path, good, dice):
    demo = good / "demo" / "harbour.cicada"
    commands(path.parent, ["plan", demo, "--run", path], ["drift", demo, "--run", path, "--csv"])


def read_log(path, good, dice):
    from cicada.errors import BadProject
    from cicada.store.draw_log import read_draw_log
    from cicada.store.projectfile import load

    with suppress(BadProject):
        read_draw_log(path, load(good / "demo" / "harbour.cicada"))


def read_sound(path, good, dice):
    project = path.with_name("film.cicada")
    project.write_bytes((good / "small.cicada").read_bytes())
    commands(path.parent, ["info", path], ["import", project, path])


def read_journal(path, good, dice):
    from cicada.store.unfinished import read, unfinished

    read(path)
    unfinished(path.parent)


def read_picture(path, good, dice):
    from fractions import Fraction

    from cicada.errors import BadPicture
    from cicada.media.composing import Composer
    from cicada.media.wanted import FramePart, Wanted

    composer = Composer()
    try:
        info = composer.look_at(path)
        part = FramePart(info.kind, path, 0, Fraction(dice.choice((0, 1, 100)), 12))
        composer.image(Wanted(part, (part,), dice.choice((36, 360))))
    except BadPicture:
        pass
    finally:
        composer.forget()


def read_cache(path, good, dice):
    from cicada.media.cache import SoundCache
    from cicada.media.measures import known_measures

    cache = SoundCache(path.parent / "cache")
    cache.put("ab", good_samples())
    file = cache.path("ab")
    whole = file.read_bytes()
    file.write_bytes(bytes_changed(whole, dice))
    stored = cache.reading("ab")
    found = None if stored is None else stored.read()
    assert found is None or (found == good_samples()).all()
    cache.write_note("ab-measures", [1])
    for note in (path.parent / "cache").rglob("*.note"):
        note.write_bytes(bytes_changed(note.read_bytes(), dice))
    assert known_measures(cache, "ab") is None
    cache.keep_to(0)


def read_pattern(path, good, dice):
    from cicada.errors import BadSound
    from cicada.store.midi_file import losses, read_midi, written

    with suppress(BadSound):
        pattern = read_midi(path).pattern
        written(pattern)
        losses(pattern)


def read_recording(path, good, dice):
    from cicada.errors import BadSound
    from cicada.media.decode import opened
    from cicada.store.recordings import kept

    # Either the note or the sound beside it is the one that was changed.
    for name in ("take.wav", "take.recording"):
        beside = path.with_name(name)
        if not beside.exists():
            beside.write_bytes((good / name).read_bytes())
    for recording in kept(path.parent):
        for file, frames in recording.files:
            assert frames > 0
            with suppress(BadSound), opened(file) as sound:
                for _ in sound.blocks():
                    pass


def read_index(path, good, dice):
    from cicada.cabinet.catalogue import Catalogue
    from cicada.cabinet.index import BadIndex, news_of, opened

    catalogue = Catalogue()
    with suppress(BadIndex):
        catalogue.take(news_of(path, 0))
        catalogue.find("bell < 1 s")
    index, said = opened(path)
    news = index.news(-1)
    index.close()
    # What was set aside is kept.
    assert not said or any("damaged 1" in each.name for each in path.parent.iterdir())
    catalogue = Catalogue()
    catalogue.take(news)
    for row in catalogue.find("bell"):
        catalogue.like(row)


def good_samples():
    import numpy as np

    return np.linspace(-1, 1, 70_000, dtype=np.float32).reshape(2, -1)


KINDS = (
    [("project", "demo/harbour.cicada", read_project)] * 5
    + [("project", "small.cicada", read_project)] * 3
    + [("run", "run.json", read_run), ("run", "slow.json", read_run)]
    + [("log", "drawing.log", read_log)]
    + [("journal", "window.journal", read_journal)] * 2
    + [("sound", f"sound.{kind}", read_sound) for kind in SOUNDS]
    + [("video", f"moving.{kind}", read_picture) for kind in MOVING]
    + [("image", f"still.{kind}", read_picture) for kind in STILL]
    + [("cache", "run.json", read_cache)]
    + [("pattern", "beat.mid", read_pattern), ("index", "cabinet.sqlite", read_index)]
    + [("recording", name, read_recording) for name in ("take.wav", "take.recording")]
)


def attempt(good, number, seed):
    """Change one file and read it; what went wrong, or nothing."""
    dice = Random(f"{seed}-{number}")
    kind, name, read = dice.choice(KINDS)
    data = (good / name).read_bytes()
    structured = name.endswith((".cicada", ".json")) and dice.random() < 0.7
    changed = structure_changed(data, dice) if structured else bytes_changed(data, dice)
    with tempfile.TemporaryDirectory(dir=good.parent / "cases") as folder:
        inside = Path(folder) / "film"
        inside.mkdir()
        path = inside / Path(name).name
        path.write_bytes(changed)
        if kind == "project":
            sounds = (good / name).with_suffix(".sounds")
            (inside / sounds.name).symlink_to(sounds) if dice.random() < 0.1 else None
            os.mkfifo(inside / "pipe.wav")
        began = time.process_time()
        try:
            read(path, good, dice)
        except Exception as error:  # noqa: BLE001 - whatever it is, it is what is looked for
            return f"{kind} {name}: {type(error).__name__}: {str(error)[:200]}"
        took = time.process_time() - began
        if took > SECONDS:
            return f"{kind} {name}: took {took:.1f} s"
        beside = sorted(each.name for each in Path(folder).iterdir())
        if beside != ["film"]:
            return f"{kind} {name}: wrote {beside} outside"
    return ""


# -- a process that reads, and one that watches it ---------------------------------------------


def work(good, first, last, seed):
    """Read one after the other, and say of each how it went."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from PySide6.QtGui import QGuiApplication

    from cicada.window.drawing import theme  # noqa: F401 - what a window loads before it draws

    _app = QGuiApplication([])
    before = everything(good.parent / "outside")
    for number in range(first, last):
        Path("/proc/self/clear_refs").write_text("5")
        print(json.dumps({"begins": number}), flush=True)
        wrong = attempt(good, number, seed)
        peak = memory()
        if not wrong and peak > BYTES:
            wrong = f"took {peak / 1e9:.1f} GB"
        if not wrong and everything(good.parent / "outside") != before:
            wrong = "changed what is outside"
        print(json.dumps({"number": number, "wrong": wrong}), flush=True)
    return 0


def memory():
    """The most memory there was since it was forgotten, in bytes."""
    lines = Path("/proc/self/status").read_text().splitlines()
    return next(int(line.split()[1]) * 1024 for line in lines if line.startswith("VmHWM"))


def everything(folder):
    return {path: path.read_bytes() for path in folder.rglob("*") if path.is_file()}


def watched(good, first, last, seed, environment):
    """What goes wrong with the numbers given; a process that hangs or dies is that number's."""
    while first < last:
        process = subprocess.Popen(
            [sys.executable, "-m", "tests.fuzz", "--child", str(good), "--seed", str(seed),
             "--first", str(first), "--count", str(min(TURNS, last - first))],
            stdout=subprocess.PIPE, stderr=subprocess.PIPE, env=environment, cwd=HERE,
        )  # fmt: skip
        until = min(last, first + TURNS)
        first = yield from _results(process, first, until)
        process.kill()
        process.communicate()


def _results(process, first, until):
    """Number and fault of each, and the number to go on with."""
    at = first - 1
    with DefaultSelector() as selector:
        selector.register(process.stdout, EVENT_READ)
        while True:
            # Twice as long by the clock: other programs want the processor, too.
            if not selector.select(60 if at < first else 4 * SECONDS):
                yield max(at, first), "hangs"
                return max(at, first) + 1
            line = process.stdout.readline()
            if not line:
                if at + 1 < until:
                    told = process.stderr.read().decode("utf-8", "replace")[-300:]
                    yield max(at, first), f"ended with {process.wait()}: {told}"
                return at + 1
            said = json.loads(line)
            if "begins" in said:
                at = said["begins"]
                first = min(first, at)
            elif said["wrong"]:
                yield said["number"], said["wrong"]
            if said.get("number") == until - 1:
                return until


def run(count, seed, first=0):
    """What goes wrong among so many, as pairs of number and fault."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        for each in ("good", "cases", "outside"):
            (folder / each).mkdir()
        environment = {
            **os.environ,
            "CICADA_CACHE": str(folder / "cache"),
            "CICADA_DATA": str(folder / "data"),
            "QT_QPA_PLATFORM": "offscreen",
        }
        subprocess.run(
            [sys.executable, "-m", "tests.fuzz", "--make", str(folder / "good")],
            check=True, env=environment, cwd=HERE, stdout=subprocess.DEVNULL,
        )  # fmt: skip
        (folder / "outside" / "diary.wav").write_bytes((folder / "good" / "sound.wav").read_bytes())
        return list(watched(folder / "good", first, first + count, seed, environment))


def main():
    parser = argparse.ArgumentParser(prog="fuzz", description=__doc__)
    parser.add_argument("--count", type=int, default=1000)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--first", type=int, default=0, help="the number to begin with")
    parser.add_argument("--report", type=Path, help="a file that a line is added to")
    parser.add_argument("--make", type=Path)
    parser.add_argument("--child", type=Path)
    options = parser.parse_args()
    if options.make is not None:
        make_good(options.make)
        return 0
    if options.child is not None:
        resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
        return work(options.child, options.first, options.first + options.count, options.seed)
    began = time.monotonic()
    wrong = run(options.count, options.seed, options.first)
    for number, fault in wrong:
        print(f"{number}: {fault}", flush=True)
    print(f"{options.count} files, seed {options.seed}: {len(wrong)} went wrong "
          f"({time.monotonic() - began:.0f} s)", flush=True)  # fmt: skip
    if options.report is not None:
        found = "; ".join(fault for _, fault in wrong) or "nothing"
        long_runs.add(
            options.report, run="fuzz", seed=options.seed, count=options.count, found=found
        )
    return int(bool(wrong))


if __name__ == "__main__":
    sys.exit(main())
