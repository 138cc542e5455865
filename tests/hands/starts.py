"""What the hands begin with: nothing but some sounds, a random project, and the demo."""

from random import Random

import numpy as np
import soundfile
from msgspec.structs import replace

from cicada.core.model import (
    Clip,
    Hush,
    Layer,
    Mark,
    PressPoint,
    Rest,
    Scene,
    Sound,
    Style,
    Tempo,
    empty_project,
)
from cicada.core.picture_parts import Still
from cicada.demo.harbour import make_demo
from cicada.store.projectfile import save
from cicada.store.validate import validate

STARTS = ("empty", "random", "demo")
NAMES = ("Bell", "", "Ünïcødé 🔔", "a" * 200, "<b>bold</b>", "line\nbreak", "12 s", "=1+1")


def make_files(folder):
    """Things to be dropped: sounds of some kinds, a picture, a project, and what is none."""
    folder.mkdir(parents=True, exist_ok=True)
    made = []
    for number, (rate, seconds, channels) in enumerate(
        ((48000, 0.4, 1), (44100, 1.3, 2), (8000, 0.05, 1), (22050, 0.0, 1), (96000, 0.2, 6))
    ):
        time = np.arange(int(rate * seconds)) / rate
        tone = 0.4 * np.sin(2 * np.pi * (220 + 110 * number) * time)
        path = folder / f"tone {number}.wav"
        soundfile.write(path, np.repeat(tone[:, None], channels, 1), rate)
        made.append(path)
    junk = folder / "junk.wav"
    junk.write_bytes(b"RIFF junk that is no sound")
    note = folder / "note.txt"
    note.write_text("nothing to hear")
    board = folder / "board.svg"
    board.write_text('<svg xmlns="http://www.w3.org/2000/svg" width="32" height="18"/>')
    project = folder / "other.cicada"
    save(empty_project("Other", length=1), project)
    bad = folder / "bad.cicada"
    bad.write_text('{"format": "cicada-project"')
    return [*made, junk, note, board, project, bad, folder / "gone.wav", folder]


def random_project(rng):
    """Any kind of project: none of something, one, or far too many."""
    sounds = tuple(
        Sound(
            id=f"s{number}",
            name=rng.choice(NAMES),
            frames=rng.choice((0, 1, 400, 24000, 96000)),
            rate=rng.choice((48000, 44100, 8000)),
            channels=rng.choice((1, 2, 6)),
        )
        for number in range(rng.choice((0, 1, 3, 8)))
    )
    count = iter(range(10**6))
    scenes = tuple(
        _scene(rng, f"sc{number}", sounds, count) for number in range(rng.choice((1, 1, 2, 5)))
    )
    made = replace(
        empty_project("Random"),
        fps=rng.choice(((24, 1), (30000, 1001), (240, 1), (1, 1), (25, 2))),
        rate=rng.choice((48000, 44100, 8000)),
        first_frame=rng.choice((1, 0, 1001, -50)),
        plays=rng.choice((1, 3, 0)),
        sounds=sounds,
        scenes=scenes,
        styles=(Style(name="far", level=0.3),),
    )
    validate(made)
    return made


def _scene(rng, name, sounds, count):
    length = rng.choice((1, 2, 24, 240, 5000))
    layers = tuple(
        _layer(rng, f"l{next(count)}", sounds, length)
        for _ in range(rng.choice((0, 1, 2, 6, 6, 300)))
    )
    some = [rng.randrange(length) for _ in range(rng.choice((0, 1, 4)))]
    return Scene(
        id=name,
        name=rng.choice(NAMES),
        length=length,
        layers=layers,
        marks=tuple(Mark(frame=f, text=rng.choice(NAMES)) for f in some),
        press_points=tuple(
            PressPoint(frame=f, after=rng.choice((None, 0.5))) for f in sorted(set(some))
        ),
        tempo=(Tempo(frame=0, bpm=120.0),) if rng.random() < 0.3 else (),
        master=((0.0, 1.0), (float(length), 0.2)) if rng.random() < 0.3 else (),
        picture=(Still(file="gone.png"),) if rng.random() < 0.3 else (),
    )


def _layer(rng, name, sounds, length):
    number = rng.choice((0, 0, 1, 3, 12))
    frames = sorted({rng.randrange(length + 3) for _ in range(number)})
    return Layer(
        id=name,
        name=rng.choice(NAMES),
        off=rng.random() < 0.1,
        mute=rng.random() < 0.1,
        solo=rng.random() < 0.05,
        guarded=rng.random() < 0.1,
        past_scene=rng.random() < 0.7,
        line=((0.0, 0.5), (10.0, 1.0)) if rng.random() < 0.1 else (),
        keyframes=tuple(_keyframe(rng, frame, sounds) for frame in frames),
    )


def _keyframe(rng, frame, sounds):
    kind = rng.choice(("clip", "clip", "clip", "rest", "hush")) if sounds else "rest"
    off = rng.random() < 0.1
    if kind == "rest":
        return Rest(frame=frame, off=off)
    sound = rng.choice(sounds).id
    if kind == "hush":
        target = rng.choice(("layer", "sound", "all"))
        return Hush(frame=frame, off=off, target=target, sound=sound, fade=rng.choice((0.0, 0.2)))
    return Clip(
        frame=frame,
        off=off,
        sound=sound,
        sync=rng.choice(("locked", "free", "free", "hold")),
        loops=rng.choice((1, 1, 2, 0)),
        if_sounding=rng.choice(("on_top", "skip", "restart", "queue")),
        busy=rng.choice(("sound", "layer")),
        ends=rng.choice(("ring", "span")),
        release=rng.choice((0.0, 0.1)),
        delay=rng.choice((0.0, 0.02)),
        trim=rng.choice(((0.0, None), (0.1, 0.3), (5.0, None))),
        offset=rng.choice((0.0, 0.05)),
        loop_overlap=rng.choice((0.0, 0.05)),
        speed=rng.choice((1.0, 0.5, 3.0)),
        level=rng.choice((1.0, 0.0, 0.4)),
        level_line=((0.0, 0.2), (0.5, 1.0, "smooth")) if rng.random() < 0.2 else (),
        fade_in=rng.choice((0.0, 0.1)),
        fade_out=rng.choice((0.0, 0.1)),
    )


def begin(window, start, folder, seed):
    """Open what the hands begin with."""
    if start == "random":
        path = folder / "random.cicada"
        save(random_project(Random(f"{seed}-project")), path)
        window.document.open(path)
    elif start in ("demo", "storm"):
        window.document.open(make_demo(folder / "demo"))
        if start == "storm":
            window.session.show_scene("sc4")
            window.lower_half.show_beside(window.pads_panel)
