"""Frames that something dragged is drawn to: keyframes, ends, peaks, beats, marks and the like."""

from collections.abc import Callable, Collection, Iterator
from typing import NamedTuple

from PySide6.QtCore import QObject, Signal

from cicada.core.beats import beats
from cicada.core.editing import Cell
from cicada.core.model import Layer
from cicada.core.timebase import Timebase, seconds_to_samples
from cicada.window.drawing.traces import SceneTraces
from cicada.window.state.hits import Hits
from cicada.window.state.sounds import Sounds

# How near, in pixels, something must come to be drawn.
NEAR = 7
KINDS = {
    "keyframes": "Keyframes",
    "ends": "Ends of sounds",
    "peaks": "Peaks of sounds",
    "hits": "Hits in sounds",
    "beats": "Beats",
    "marks": "Marks",
    "press points": "Press points",
    "playhead": "The playhead",
}


class Snapped(NamedTuple):
    """The frame something is drawn to, and what is there."""

    frame: int
    what: str


class Snapping(QObject):
    """What is snapped to, besides frames, which always are."""

    changed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.kinds = {"keyframes", "ends", "hits", "beats", "marks", "press points", "playhead"}
        self.on = True

    def choose(self, kind: str, *, on: bool) -> None:
        """Snap to a kind of place, or no more."""
        (self.kinds.add if on else self.kinds.discard)(kind)
        self.changed.emit()

    def switch(self) -> None:
        """Snap to all that is chosen, or to frames alone."""
        self.on = not self.on
        self.changed.emit()


class Targets:
    """The frames of a scene that are snapped to while one thing is dragged."""

    def __init__(
        self,
        snapping: Snapping,
        traces: SceneTraces,
        sounds: Sounds,
        hits: Hits,
        playhead: int,
        moved: Collection[Cell] = (),
    ) -> None:
        self._traces, self._sounds, self._playhead = traces, sounds, playhead
        self._hits_of = hits
        self._moved = frozenset(moved)
        num, den = traces.project.fps
        self._base = Timebase(num, den, traces.project.rate)
        sources: dict[str, Callable[[], Iterator[Snapped]]] = {
            "keyframes": self._keyframes,
            "ends": self._ends,
            "peaks": self._peaks,
            "hits": self._hits,
            "beats": self._beats,
            "marks": self._marks,
            "press points": self._press_points,
            "playhead": self._the_playhead,
        }
        self.frames: dict[int, str] = {}
        for kind, source in sources.items():
            if snapping.on and kind in snapping.kinds:
                for frame, what in source():
                    self.frames.setdefault(frame, what)

    def nearest(self, frame: float, scale: float) -> Snapped | None:
        """What is near enough to a place in frames, at that many pixels a frame."""
        found = min(self.frames, key=lambda target: abs(target - frame), default=None)
        if found is None or abs(found - frame) * scale > NEAR:
            return None
        return Snapped(found, self.frames[found])

    def _layers(self) -> Iterator[Layer]:
        yield from self._traces.scene.layers

    def _keyframes(self) -> Iterator[Snapped]:
        for layer in self._layers():
            for keyframe in layer.keyframes:
                if Cell(layer.id, keyframe.frame) not in self._moved:
                    yield Snapped(keyframe.frame, f"a keyframe of {layer.label}")

    def _ends(self) -> Iterator[Snapped]:
        for row in self._traces.rows:
            for voice, end in zip(row.voices, row.ends.tolist(), strict=True):
                if voice.cell not in self._moved:
                    name = self._traces.names[voice.sound]
                    frame = self._traces.frame_at(end)
                    yield Snapped(int(-(-frame // 1)), f"the end of {name}")

    def _peaks(self) -> Iterator[Snapped]:
        axis = self._traces.axis
        for row in self._traces.rows:
            for index, voice in enumerate(row.voices):
                peaks = self._sounds.peaks(voice.plays)
                if peaks is None or axis is None or voice.cell in self._moved:
                    continue
                trace = row.trace(index)
                heard = trace.timing
                into = (peaks.loudest(heard.first, heard.last) - heard.first) / trace.clip.speed
                at = voice.pieces[0].start - voice.pieces[0].clip_start + heard.loop_begins(0)
                if voice.start <= at + into < voice.end:
                    frame = round(self._traces.frame_at(axis.place(int(at + into))))
                    yield Snapped(frame, f"the peak of {trace.name}")

    def _hits(self) -> Iterator[Snapped]:
        """Hits of what is heard on the sheet, once they are known; nothing is looked for."""
        axis, rate = self._traces.axis, self._traces.plan.rate
        sounds = {sound.id: sound for sound in self._traces.project.sounds}
        for row in self._traces.rows:
            for index, voice in enumerate(row.voices):
                if axis is None or voice.cell in self._moved:
                    continue
                sound = sounds.get(voice.plays)
                known = self._hits_of.known(voice.plays)
                own = sound.hits if sound is not None else ()
                samples = [seconds_to_samples(hit, rate) for hit in own]
                samples += [hit.onset for hit in known.hits] if known is not None else []
                if not samples:
                    continue
                trace = row.trace(index)
                heard = trace.timing
                at = voice.pieces[0].start - voice.pieces[0].clip_start + heard.loop_begins(0)
                for sample in samples:
                    moment = at + int((sample - heard.first) / trace.clip.speed)
                    if voice.start <= moment < voice.end and sample < heard.last:
                        frame = round(self._traces.frame_at(axis.place(moment)))
                        yield Snapped(frame, f"a hit of {trace.name}")

    def _beats(self) -> Iterator[Snapped]:
        scene, base = self._traces.scene, self._base
        for number, at in beats(scene, base, 0, base.start(scene.length)):
            yield Snapped(round(base.position(at)), f"beat {number}")

    def _marks(self) -> Iterator[Snapped]:
        for mark in self._traces.scene.marks:
            yield Snapped(mark.frame, f"the mark “{mark.text}”" if mark.text else "a mark")

    def _press_points(self) -> Iterator[Snapped]:
        for point in self._traces.scene.press_points:
            yield Snapped(point.frame, "a press point")

    def _the_playhead(self) -> Iterator[Snapped]:
        yield Snapped(self._playhead, "the playhead")
