"""A scene made ready for planning: its keyframes with their spans and lengths, by frame."""

from collections import defaultdict
from collections.abc import Callable
from dataclasses import dataclass, field
from operator import is_not
from typing import Any

from cicada.core.clip import ClipTiming, clip_timing
from cicada.core.model import Clip, Hush, Keyframe, Layer, PressPoint, Project, Scene, Sound
from cicada.core.plan import Anchor
from cicada.core.timebase import seconds_to_samples

RowKey = tuple[int, int]
# What a clip does if its sound is sounding, where that looks at other voices of the sound.
COUNTING = ("skip", "restart")


@dataclass(slots=True, eq=False)
class PlacedClip:
    """A clip keyframe that has something to play.

    ``row`` is (scene index, layer index); ``span_end`` the frame its span runs up to, and
    ``hushed_at_end`` says that it is ended by a hush that hits this clip.
    ``total`` is the clip's own length in samples (None: endless), and ``fade_length`` what its
    fade-out counts back from (None: it has none): see semantics.md, section 8.
    """

    row: RowKey
    anchor: Anchor
    clip: Clip
    timing: ClipTiming
    total: int | None
    fade_length: int | None
    span_end: int
    hushed_at_end: bool
    gap: int
    release: int


@dataclass(slots=True, eq=False)
class PlacedHush:
    """A hush keyframe, with its fade in samples."""

    row: RowKey
    anchor: Anchor
    hush: Hush
    fade: int


@dataclass(slots=True)
class FrameWork:
    """What entering one frame does: spans left, hushes, clips; each with layers top first."""

    left: list[PlacedClip] = field(default_factory=list)
    hushes: list[PlacedHush] = field(default_factory=list)
    clips: list[PlacedClip] = field(default_factory=list)


@dataclass(slots=True)
class LayerTable:
    """The clips and hushes of one layer, in order, each with the frame it is done on.

    ``by_itself`` says that its clips are free, start whatever sounds, and play all their loops,
    ``sounds`` which they are, and ``counted`` those whose soundings its clips count or cut.
    ``sounding`` keeps what ``plain`` made of it, by visit.
    """

    clips: list[PlacedClip] = field(default_factory=list)
    hushes: list[PlacedHush] = field(default_factory=list)
    left: list[tuple[int, PlacedClip]] = field(default_factory=list)
    left_at_end: list[PlacedClip] = field(default_factory=list)
    by_itself: bool = True
    sounds: set[str] = field(default_factory=set)
    counted: set[str] = field(default_factory=set)
    sounding: dict[int, Any] = field(default_factory=dict)

    def add(self, placed: PlacedClip) -> None:
        """Take in the next clip."""
        clip = placed.clip
        self.clips.append(placed)
        self.sounds.add(clip.sound)
        if clip.sync != "locked" and clip.if_sounding in COUNTING and clip.busy == "sound":
            self.counted.add(clip.sound)
        if (
            clip.sync != "free"
            or clip.if_sounding != "on_top"
            or clip.ends != "ring"
            or placed.total is None
        ):
            self.by_itself = False


@dataclass(slots=True)
class SceneTable:
    """All the work of a scene. ``frames`` are, in order, those where anything can happen.

    Of the layers in ``plain`` nothing is among the work: see the module of that name.
    """

    scene: Scene
    index: int
    work: dict[int, FrameWork]
    presses: dict[int, PressPoint]
    frames: list[int]
    left_at_end: list[PlacedClip]
    cut_rows: list[RowKey]
    plain: list[LayerTable]


def live_keyframes(scene: Scene, layer: Layer) -> list[Keyframe]:
    """The keyframes that count, in order: not switched off, inside the scene."""
    if layer.off:
        return []
    kept = [k for k in layer.keyframes if not k.off and k.frame < scene.length]
    kept.sort(key=lambda keyframe: keyframe.frame)
    return kept


def spans(scene: Scene, layer: Layer) -> list[tuple[Keyframe, int]]:
    """The keyframes of a layer that count, each with the frame its span runs up to."""
    live = live_keyframes(scene, layer)
    ends = [keyframe.frame for keyframe in live[1:]] + [scene.length]
    return list(zip(live, ends, strict=False))


def span_ends(scene: Scene, layer: Layer) -> dict[int, int]:
    """The frame each span runs up to, by its keyframe's."""
    return {keyframe.frame: end for keyframe, end in spans(scene, layer)}


def hush_hits(hush: Hush, clip: Clip, *, same_layer: bool) -> bool:
    """Whether ``hush`` silences ``clip``."""
    if hush.target == "layer":
        return same_layer
    return hush.target == "all" or hush.sound == clip.sound


class Tables:
    """Makes scenes ready for planning; what was made of a layer is kept for the next project.

    Editing changes one layer or a few, and the others are the same objects as before. Only what
    the last project used is kept.
    """

    def __init__(self) -> None:
        self._known: dict[RowKey, tuple[tuple[object, ...], LayerTable]] = {}
        self._about: tuple[object, ...] = ()

    def layer_tables(self, project: Project, sounds: dict[str, Sound]) -> dict[RowKey, LayerTable]:
        """Every layer of the film made ready for planning, by its row."""
        about = (project.sounds, project.rate, project.fps)
        if len(self._about) != len(about) or any(map(is_not, self._about, about)):
            self._known.clear()
            self._about = about
        made = {
            (index, number): self._layer((index, number), project, scene, layer, sounds)
            for index, scene in enumerate(project.scenes)
            for number, layer in enumerate(scene.layers)
        }
        for row in self._known.keys() - made.keys():
            del self._known[row]
        return made

    @staticmethod
    def scene_table(
        project: Project,
        index: int,
        tables: dict[RowKey, LayerTable],
        plain: Callable[[LayerTable], bool],
    ) -> SceneTable:
        """Make scene number ``index`` ready for planning, with its plain layers apart."""
        scene = project.scenes[index]
        work: defaultdict[int, FrameWork] = defaultdict(FrameWork)
        left_at_end: list[PlacedClip] = []
        apart: list[LayerTable] = []
        for number, layer in enumerate(scene.layers):
            made = tables[index, number]
            if layer.past_scene and plain(made):
                apart.append(made)
                continue
            for placed in made.clips:
                work[placed.clip.frame].clips.append(placed)
            for hush in made.hushes:
                work[hush.hush.frame].hushes.append(hush)
            for frame, placed in made.left:
                work[frame].left.append(placed)
            left_at_end += made.left_at_end
        presses = {p.frame: p for p in scene.press_points if p.frame < scene.length}
        cut_rows = [(index, i) for i, layer in enumerate(scene.layers) if not layer.past_scene]
        frames = sorted(work.keys() | presses.keys())
        return SceneTable(scene, index, dict(work), presses, frames, left_at_end, cut_rows, apart)

    def _layer(
        self, row: RowKey, project: Project, scene: Scene, layer: Layer, sounds: dict[str, Sound]
    ) -> LayerTable:
        about = (layer.keyframes, layer.off, layer.id, scene.id, scene.length)
        known = self._known.get(row)
        # The keyframes are compared as the object they are: looking into them costs as much.
        if known is not None and known[0][0] is about[0] and known[0][1:] == about[1:]:
            return known[1]
        made = _layer_table(row, project, scene, layer, sounds)
        self._known[row] = about, made
        return made


def _layer_table(
    row: RowKey, project: Project, scene: Scene, layer: Layer, sounds: dict[str, Sound]
) -> LayerTable:
    made = LayerTable()
    keyframes = live_keyframes(scene, layer)
    for position, keyframe in enumerate(keyframes):
        following = keyframes[position + 1] if position + 1 < len(keyframes) else None
        anchor = Anchor(scene.id, layer.id, keyframe.frame)
        if isinstance(keyframe, Hush):
            fade = seconds_to_samples(keyframe.fade, project.rate)
            made.hushes.append(PlacedHush(row, anchor, keyframe, fade))
            made.by_itself = False
        elif isinstance(keyframe, Clip):
            placed = _placed(row, anchor, keyframe, following, scene.length, project, sounds)
            if placed is None:
                continue
            made.add(placed)
            if keyframe.sync == "locked" or keyframe.ends == "span":
                if following is None:
                    made.left_at_end.append(placed)
                else:
                    made.left.append((following.frame, placed))
    return made


def _placed(
    row: RowKey,
    anchor: Anchor,
    clip: Clip,
    following: Keyframe | None,
    length: int,
    project: Project,
    sounds: dict[str, Sound],
) -> PlacedClip | None:
    rate = project.rate
    timing = clip_timing(clip, sounds[clip.sound], rate)
    if timing.total == 0:
        return None
    span_end = length if following is None else following.frame
    hushed_at_end = isinstance(following, Hush) and hush_hits(following, clip, same_layer=True)
    fade_length = timing.total
    if clip.sync == "locked" and not hushed_at_end:
        base = project.timebase
        span = base.start(span_end) - base.start(clip.frame)
        fade_length = span if fade_length is None else min(fade_length, span)
    return PlacedClip(
        row,
        anchor,
        clip,
        timing,
        timing.total,
        fade_length,
        span_end,
        hushed_at_end,
        seconds_to_samples(clip.gap, rate) if clip.gap else 0,
        seconds_to_samples(clip.release, rate) if clip.release else 0,
    )
