"""The key of shapes: small films, planned by the planner and drawn by what draws the sheet."""

from functools import cache
from typing import NamedTuple

import numpy as np
from PySide6.QtCore import QPointF
from PySide6.QtGui import QImage, QPainter, QPen

from cicada.core.arrays import Read
from cicada.core.model import Clip, Hush, Keyframe, Layer, Project, Rest, Run, Scene, Sound
from cicada.core.planner import plan
from cicada.core.stack import USUAL_RATIO
from cicada.media.peaks import PeakGatherer, Peaks
from cicada.window.drawing import theme
from cicada.window.drawing.layout import HEAD, SheetLayout
from cicada.window.drawing.narrow import RowWaves
from cicada.window.drawing.shapes import Shapes
from cicada.window.drawing.sound_pictures import SoundPictures
from cicada.window.drawing.traces import Row, SceneTraces
from cicada.window.drawing.view import SheetView

RATE, FPS, LENGTH = 8000, 10, 24


class Example(NamedTuple):
    """Keyframes of one layer, and what is shown of their film."""

    keyframes: tuple[Keyframe, ...]
    number: int = 1
    other: tuple[Keyframe, ...] = ()
    off: bool = False


def _clip(frame: int, sound: str = "bell", **settings: object) -> Clip:
    return Clip(frame=frame, sound=sound, **settings)  # type: ignore[arg-type]  # fields of a clip


EXAMPLES = {
    "locked": Example((_clip(2, sync="locked"), Rest(frame=18))),
    "cut": Example((_clip(2, sync="locked"), Rest(frame=9))),
    "free": Example((_clip(2), Rest(frame=7))),
    "loops": Example((_clip(1, "tap", loops=3), Rest(frame=22))),
    "endless": Example((_clip(2, loops=0),)),
    "hold": Example((_clip(4, "tap", sync="hold"),)),
    "waiting": Example((_clip(0, "tap"), _clip(2, "tap", if_sounding="queue"))),
    "left out": Example((_clip(1, "tap"), _clip(4, "tap", if_sounding="skip"))),
    "started over": Example((_clip(1), _clip(8, if_sounding="restart"))),
    "from elsewhere": Example((_clip(15),), number=2),
    "rest": Example((Rest(frame=8),)),
    "hush": Example((_clip(1, loops=0), Hush(frame=12, fade=0.1))),
    "idle hush": Example((Hush(frame=8),)),
    "off": Example((_clip(3, off=True), Rest(frame=16))),
}
SHAPES = (
    ("locked", "<b>Locked</b>: square, with the frames along its foot; as long as it sounds."),
    ("cut", "<b>Locked, cut</b>: a torn edge where its span ends before the sound does."),
    ("free", "<b>Free</b>: rounded inside its span; dashed past it, with a foot at the real end."),
    ("loops", "<b>Loops</b> are divided by thin lines and counted."),
    ("endless", "<b>Endless</b> ∞: goes on without a foot, until something ends it."),
    ("hold", "<b>Hold picture</b>: a pillar with the time it adds to the film."),
    ("waiting", "<b>Waiting its turn</b>: a dashed line from the keyframe to the real start."),
    ("left out", "<b>Left out</b>: the keyframe struck through, and why."),
    ("started over", "<b>Started over</b>: a cut mark on what the new one ended."),
    ("from elsewhere", "<b>From another scene or pass</b>: dotted, entering from the left."),
    ("rest", "<b>Rest</b>: a thin bar; places nothing, ends the span before it."),
    ("hush", "<b>Hush</b>: a double bar, with lines to what it ends on other layers."),
    ("idle hush", "<b>A hush that ends nothing</b> is dotted and pale."),
    ("off", "<b>Off</b>: an outline; as if not there."),
)


class _KeySounds:
    """Sounds that need no file."""

    def __init__(self) -> None:
        self._known = {"bell": _peaks(1.2), "tap": _peaks(0.6)}

    def peaks(self, sound_id: str) -> Peaks | None:
        return self._known[sound_id]

    def read(self, sound_id: str) -> Read | None:
        return None


def _peaks(seconds: float) -> Peaks:
    count = round(seconds * RATE)
    time = np.arange(count) / RATE
    noise = np.random.default_rng(4).uniform(-1, 1, count)
    sound = (noise * np.exp(-3.0 * time / seconds)).astype(np.float32)
    gatherer = PeakGatherer()
    gatherer.append(sound[:, None])
    return Peaks(gatherer.peaks(count), count)


@cache
def _traces(name: str) -> SceneTraces:
    example = EXAMPLES[name]
    layer = Layer(id="l", name="", off=example.off, keyframes=example.keyframes)
    scene = Scene(id="sc", length=LENGTH, layers=(layer,))
    sounds = tuple(
        Sound(id=sound, name=words, frames=round(seconds * RATE), rate=RATE, channels=1)
        for sound, words, seconds in (("bell", "Bell", 1.2), ("tap", "Tap", 0.6))
    )
    project = Project(
        format="cicada-project", version=1, fps=(FPS, 1), rate=RATE, sounds=sounds, scenes=(scene,)
    )
    return SceneTraces(project, plan(project, Run(passes=example.number)), scene, example.number)


def paint_shape(painter: QPainter, name: str, width: int, height: int) -> None:
    """Draw the example of that name, ``width`` by ``height`` pixels large."""
    traces = _traces(name)
    row = traces.rows[0]
    layout = SheetLayout(scale=width / LENGTH, height=height, rows=(height,))
    painter.save()
    painter.translate(-HEAD, 0)
    view = SheetView(
        project=traces.project,
        traces=traces,
        layout=layout,
        sounds=_KeySounds(),
        pictures=SoundPictures(lambda _: None),
        waves=_no_waves,
        film=_no_film,
        film_ratio=USUAL_RATIO,
        mix=None,
        width=HEAD + width,
        height=height,
    )
    painter.setPen(QPen(theme.RULE, 1))
    for frame in range(0, LENGTH + 1, 6):
        painter.drawLine(QPointF(layout.x(frame), 0), QPointF(layout.x(frame), height))
    shapes = Shapes(painter, view, row, 0, height)
    for off in row.off:
        shapes.off(off)
    for bar in row.bars:
        shapes.bar(bar)
    for trace in sorted(row.traces, key=lambda trace: trace.voice.visit):
        if name != "from elsewhere" or trace.come_from:
            shapes.trace(trace)
    for strike in row.strikes:
        shapes.strike(strike)
    painter.restore()


def _no_waves(row: Row) -> RowWaves:
    return RowWaves(len(row.voices))


def _no_film(frame: int, height: int) -> QImage | None:
    return None
