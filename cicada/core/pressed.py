"""What was pressed and is kept: trimmed, moved, turned into keyframes; keyframes turned into a pad.

A kept run's ``delay`` is how long its samples took to be heard. What was pressed is heard where it
counted; whoever pressed it saw and heard the film of that much before.
"""

from collections.abc import Collection, Sequence
from hashlib import blake2b
from typing import NamedTuple

from msgspec.structs import replace

from cicada.core.answer_edits import PutPad
from cicada.core.answers import Deed, Fire, HushDeed, Pad
from cicada.core.digest import Digests
from cicada.core.editing import Cell, Edit, Several
from cicada.core.layer_edits import AddLayer
from cicada.core.model import (
    Clip,
    Hush,
    KeptRun,
    Keyframe,
    Layer,
    Project,
    Run,
    Scene,
    clip_of,
    keyframe_at,
)
from cicada.core.naming import all_ids, free_id, free_name, next_id
from cicada.core.placements import Placements
from cicada.core.plan import Plan, Voice
from cicada.core.planner import plan
from cicada.core.timebase import (
    decimal_ratio,
    round_half_up,
    samples_to_seconds,
    seconds_to_samples,
)
from cicada.errors import BadEdit


def mark_of_film(project: Project, digests: Digests) -> str:
    """Tells a film from what it was before: all but its name, what was kept, and its pictures.

    ``digests`` keeps what it knows of the film from one time to the next.
    """
    scenes = tuple(replace(scene, picture=(), marks=()) for scene in project.scenes)
    bare = replace(project, name="", runs=(), styles=(), scenes=scenes)
    return digests.of(bare)


def mark_of_run(kept: KeptRun) -> str:
    """Tells what was pressed from anything else, whatever it is called."""
    # What is written leaves out defaults, but only those that are the very object.
    return blake2b(repr(replace(kept, name="")).encode(), digest_size=16).hexdigest()


def trimmed(kept: KeptRun, first: int, last: int | None = None) -> KeptRun:
    """What was given from run sample ``first`` on and before ``last``; raises ``BadEdit``."""

    def inside(at: int) -> bool:
        return at >= first and (last is None or at < last)

    made = replace(
        kept,
        presses=tuple(press for press in kept.presses if inside(press)),
        inputs=tuple(given for given in kept.inputs if inside(given.at)),
    )
    if not made.presses and not made.inputs:
        raise BadEdit("nothing was pressed there", remedy="choose another frame")
    return made


def moved(kept: KeptRun, samples: int) -> KeptRun:
    """All of it so many run samples later, or sooner; raises ``BadEdit``."""
    first = min((*kept.presses, *(given.at for given in kept.inputs)), default=0)
    if first + samples < 0:
        raise BadEdit("the first would come before the run begins", remedy="move it less")
    return replace(
        kept,
        presses=tuple(press + samples for press in kept.presses),
        inputs=tuple(replace(given, at=given.at + samples) for given in kept.inputs),
    )


# -- as keyframes ----------------------------------------------------------------------------------


class Laid(NamedTuple):
    """Presses as keyframes: how many there are, would share a frame, or are outside all scenes."""

    edit: Edit | None
    placed: int
    shared: int
    outside: int


class _Place(NamedTuple):
    """A moment of a run, as a keyframe tells it: a frame, and samples after it is entered."""

    scene: str
    frame: int
    after: int


class _Laying:
    """The new layers, by scene, pad and deed of the pad: each fires on a layer of its own."""

    def __init__(self, project: Project, planned: Plan) -> None:
        self._project, self._planned = project, planned
        self._placements = Placements(project)
        self.layers: dict[tuple[str, str, int], dict[int, Keyframe]] = {}
        self.shared = self.outside = 0

    def place(self, at: int) -> _Place | None:
        """Where a run sample is; None before the run, after its end, or in what was left out."""
        planned = self._planned
        if not 0 <= at < planned.end:
            return None
        index = planned.stretch_at(at).visit
        visit, frame, _ = planned.frame_at(at)
        entered = planned.entered(frame, index)
        return None if entered is None else _Place(visit.scene, frame, at - entered)

    def put(self, at: int, pad: Pad, deed: int, keyframe: Keyframe) -> None:
        """Put a keyframe where a run sample is; a clip begins at that very sample."""
        place = self.place(at)
        if place is None:
            self.outside += 1
            return
        frame = place.frame
        if isinstance(keyframe, Clip):
            rate = self._project.rate
            delay = seconds_to_samples(keyframe.delay, rate) + place.after
            keyframe = replace(keyframe, delay=samples_to_seconds(delay, rate))
        on = self.layers.setdefault((place.scene, pad.id, deed), {})
        if frame in on:
            self.shared += 1
        else:
            on[frame] = replace(keyframe, frame=frame)

    def fired(self, voice: Voice, pad: Pad, number: int, fire: Fire, early: int) -> None:
        """A clip for what a pad fired: the sound that was drawn, for as long as it was heard.

        Whether it sounds has been decided, and a keyframe could only cut it as a frame is entered.
        """
        piece, rate = voice.pieces[0], self._project.rate
        clip = replace(clip_of(fire, 0), sound=voice.plays, if_sounding="on_top", gap=0.0)
        clip = replace(clip, hand_over=0.0)
        if voice.rise is not None and not clip.fade_in:
            clip = replace(clip, fade_in=samples_to_seconds(voice.rise[1] - voice.rise[0], rate))
        if voice.ended == "restarted":
            clip = self._ended(voice, clip)
        self.put(piece.start - piece.clip_start - early, pad, number, clip)

    def _ended(self, voice: Voice, clip: Clip) -> Clip:
        """The clip cut where what came after it ended it, and faded as that did."""
        rate, timing = self._project.rate, self._placements.timing(voice)
        piece = voice.pieces[0]
        heard = piece.clip_start + piece.end - piece.start - timing.loop_begins(0)
        if timing.loops != 1 or heard >= timing.loop:
            return clip
        numerator, denominator = decimal_ratio(clip.speed)
        last = timing.first + round_half_up(max(0, heard) * numerator, denominator)
        # What is cut at once is let go of in 2 ms, as anything that is cut.
        ramp = round_half_up(rate, 500)
        fade = next((end - start for start, end in voice.fades if end == voice.end), ramp)
        return replace(
            clip,
            trim=(samples_to_seconds(timing.first, rate), samples_to_seconds(last, rate)),
            fade_out=samples_to_seconds(fade, rate),
        )


def laid_out(project: Project, kept: KeptRun, *, as_heard: bool) -> Laid:
    """The edit that puts what pads did in a kept run on layers of their own; values stay pressed.

    ``as_heard`` puts it where it was heard, else where the film was as it was pressed.
    """
    planned = plan(project, kept.run())
    early = 0 if as_heard else seconds_to_samples(kept.delay, project.rate)
    laying = _Laying(project, planned)
    pads = {pad.id: pad for pad in project.pads}
    for voice in sorted(planned.voices, key=lambda voice: voice.start):
        if voice.fire is not None:
            pad = pads[voice.layer]
            fire = pad.does[voice.fire]
            assert isinstance(fire, Fire)
            laying.fired(voice, pad, voice.fire, fire, early)
    for given in kept.inputs:
        pad_or_none = pads.get(given.pad or "")
        for number, deed in enumerate(pad_or_none.does if pad_or_none is not None else ()):
            if pad_or_none is not None and isinstance(deed, HushDeed) and not pad_or_none.off:
                target = "layer" if deed.target == "pad" else deed.target
                hush = Hush(frame=0, target=target, sound=deed.sound, fade=deed.fade)
                laying.put(given.at - early, pad_or_none, number, hush)
    edits = _edits(project, pads, laying)
    placed = sum(map(len, laying.layers.values()))
    edit = Several(named="turn presses into keyframes", edits=tuple(edits)) if edits else None
    return Laid(edit, placed, laying.shared, laying.outside)


def _edits(project: Project, pads: dict[str, Pad], laying: _Laying) -> list[Edit]:
    taken, edits = all_ids(project), list[Edit]()
    names = {scene.id: {layer.name for layer in scene.layers} for scene in project.scenes}
    for (scene, pad_id, _), keyframes in laying.layers.items():
        pad = pads[pad_id]
        own = next_id("l", taken)
        taken.add(own)
        name = free_name(pad.label, names[scene])
        names[scene].add(name)
        layer = Layer(
            id=own, name=name, level=pad.level, pan=pad.pan, past_scene=pad.past_scene,
            follows=pad.follows, keyframes=tuple(keyframes[frame] for frame in sorted(keyframes)),
        )  # fmt: skip
        edits.append(AddLayer(scene=scene, layer=layer))
    return edits


# -- as a pad --------------------------------------------------------------------------------------


def pad_of(project: Project, scene: Scene, cells: Collection[Cell]) -> tuple[Edit, int]:
    """The edit that makes a pad of keyframes, and how many of them a pad cannot do.

    It fires the clips as far apart as they stand. Raises ``BadEdit`` if none is a clip.
    """
    found: list[tuple[int, Layer, Keyframe]] = []
    for layer in scene.layers:
        for cell in cells:
            keyframe = keyframe_at(layer, cell.frame) if cell.layer == layer.id else None
            if keyframe is not None:
                found.append((cell.frame, layer, keyframe))
    clips = [each for each in found if isinstance(each[2], Clip)]
    if not clips:
        raise BadEdit("no clip is chosen", remedy="choose the clips the pad is to fire")
    first = min(frame for frame, _, _ in clips)
    one_layer = len({layer.id for _, layer, _ in clips}) == 1
    does = _deeds(project, sorted(found, key=lambda each: each[0]), first, one_layer=one_layer)
    _, layer, clip = min(clips, key=lambda each: each[0])
    assert isinstance(clip, Clip)
    names = {pad.label for pad in project.pads}
    pad = Pad(
        id=free_id("p", project),
        name=free_name(project.placeable(clip.sound).label, names),
        level=layer.level if one_layer else 1.0,
        pan=layer.pan if one_layer else 0.0,
        follows=layer.follows if one_layer else None,
        past_scene=layer.past_scene if one_layer else True,
        does=tuple(does),
    )
    return PutPad(pad=pad, named=f"make the pad {pad.label}"), len(found) - len(does)


def _deeds(
    project: Project,
    found: Sequence[tuple[int, Layer, Keyframe]],
    first: int,
    *,
    one_layer: bool,
) -> list[Deed]:
    rate, base = project.rate, project.timebase
    hushes, fires = list[Deed](), list[Deed]()
    for frame, layer, keyframe in found:
        if isinstance(keyframe, Clip):
            fields = {name: getattr(keyframe, name) for name in Fire.__struct_fields__}
            later = seconds_to_samples(keyframe.delay, rate) + base.start(frame) - base.start(first)
            fields["delay"] = samples_to_seconds(later, rate)
            if not one_layer:
                fields["level"] = min(16.0, keyframe.level * layer.level)
            fires.append(Fire(**fields))
        elif isinstance(keyframe, Hush) and frame == first:
            target = "pad" if keyframe.target == "layer" else keyframe.target
            hushes.append(HushDeed(target=target, sound=keyframe.sound, fade=keyframe.fade))
    return [*hushes, *fires]


def as_kept(run: Run, name: str, delay: float) -> KeptRun:
    """A run under a name, with how late in seconds it was heard."""
    fields = {field: getattr(run, field) for field in run.__struct_fields__}
    return KeptRun(name=name, delay=delay, **fields)
