"""A scene made ready for planning: its keyframes with their spans and lengths, by frame."""

from collections import defaultdict
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from dataclasses import replace as with_changes
from fractions import Fraction
from operator import is_not
from typing import Any, NamedTuple

from cicada.core.answers import Pool
from cicada.core.clip import ClipTiming, clip_timing
from cicada.core.exact import ExactRange, exactly
from cicada.core.lengths import Lengths
from cicada.core.model import Clip, Hush, Keyframe, Layer, PressPoint, Project, Scene
from cicada.core.plan import Anchor
from cicada.core.timebase import seconds_to_samples
from cicada.core.values import Target

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
    ``hand_over`` is over how many samples it takes the place of what it restarts. A clip that
    places a pool has ``choices``; what was drawn is a placed clip of its own, with ``picked``, the
    part's sound. Whatever is played of a clip is known by that one ``clip``.
    ``fire`` is the number of the deed where a pad fires it, and its row the pad's.
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
    hand_over: int = 0
    fire: int | None = None
    picked: str | None = None
    choices: tuple["Choice", ...] = ()

    def drawn(self, picked: str, timing: ClipTiming) -> "PlacedClip":
        """The clip as it plays one part of its pool."""
        total = timing.total
        return with_changes(self, picked=picked, timing=timing, total=total, choices=())

    def fired_at(self, anchor: Anchor) -> "PlacedClip":
        """The clip of a pad as it is fired where the picture is now."""
        return with_changes(self, anchor=anchor)


class Choice(NamedTuple):
    """A part of a pool: what it would play (None: nothing), how likely, while which value is."""

    placed: PlacedClip | None
    weight: Fraction
    value: str | None
    range: ExactRange | None


@dataclass(slots=True, eq=False)
class PlacedHush:
    """A hush keyframe, or what a pad hushes, with its fade in samples."""

    row: RowKey
    anchor: Anchor
    target: Target
    sound: str | None
    fade: int

    def hits(self, placed: PlacedClip) -> bool:
        """Whether it silences a clip."""
        if self.target == "layer":
            return placed.row == self.row
        return self.target == "all" or self.sound in (placed.clip.sound, placed.picked)


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
            placed.choices
            or clip.sync != "free"
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


class Tables:
    """Makes scenes ready for planning; what was made of a layer is kept for the next project.

    Editing changes one layer or a few, and the others are the same objects as before. Only what
    the last project used is kept. Of scenes that end early ``wholes`` are what they are otherwise:
    nothing fades earlier than it does there.
    """

    def __init__(self, wholes: Iterable[Scene] = ()) -> None:
        self._wholes = {scene.id: scene for scene in wholes}
        self._known: dict[RowKey, tuple[tuple[object, ...], LayerTable]] = {}
        self._about: tuple[object, ...] = ()
        # What ``placed_pads`` made last, and of what.
        self.pads: Any = None

    def layer_tables(self, project: Project) -> dict[RowKey, LayerTable]:
        """Every layer of the film made ready for planning, by its row."""
        about = (
            project.sounds, project.rate, project.fps,
            project.blends, project.pools, project.playlists, project.values,
        )  # fmt: skip
        if len(self._about) != len(about) or any(map(is_not, self._about, about)):
            self._known.clear()
            self._about = about
            self._placing = Placing(project)
        placing = self._placing
        made = {
            (index, number): self._layer((index, number), placing, scene, layer)
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
                work[hush.anchor.frame].hushes.append(hush)
            for frame, placed in made.left:
                work[frame].left.append(placed)
            left_at_end += made.left_at_end
        presses = {p.frame: p for p in scene.press_points if p.frame < scene.length}
        cut_rows = [(index, i) for i, layer in enumerate(scene.layers) if not layer.past_scene]
        pads = len(project.scenes)
        cut_rows += [(pads, i) for i, pad in enumerate(project.pads) if not pad.past_scene]
        frames = sorted(work.keys() | presses.keys())
        return SceneTable(scene, index, dict(work), presses, frames, left_at_end, cut_rows, apart)

    @property
    def placing(self) -> "Placing":
        """Makes clips ready; of the project that ``layer_tables`` was asked for last."""
        return self._placing

    def _layer(self, row: RowKey, placing: "Placing", scene: Scene, layer: Layer) -> LayerTable:
        about = (layer.keyframes, layer.off, layer.id, scene.id, scene.length)
        known = self._known.get(row)
        # The keyframes are compared as the object they are: looking into them costs as much.
        if known is not None and known[0][0] is about[0] and known[0][1:] == about[1:]:
            return known[1]
        made = _layer_table(row, placing, scene, layer, self._wholes.get(scene.id))
        self._known[row] = about, made
        return made


def _layer_table(
    row: RowKey, placing: "Placing", scene: Scene, layer: Layer, whole: Scene | None
) -> LayerTable:
    made = LayerTable()
    keyframes = live_keyframes(scene, layer)
    # Those of the whole scene begin with these.
    more = keyframes if whole is None else live_keyframes(whole, layer)
    for position, keyframe in enumerate(keyframes):
        following = keyframes[position + 1] if position + 1 < len(keyframes) else None
        anchor = Anchor(scene.id, layer.id, keyframe.frame)
        if isinstance(keyframe, Hush):
            made.hushes.append(placing.hush(row, anchor, keyframe))
            made.by_itself = False
        elif isinstance(keyframe, Clip):
            placed = placing.clip(row, anchor, keyframe, following, scene.length)
            if placed is None:
                continue
            if whole is not None and keyframe.sync == "locked":
                later = more[position + 1] if position + 1 < len(more) else None
                placing.fade_as_in(placed, later, whole.length)
            made.add(placed)
            if keyframe.sync == "locked" or keyframe.ends == "span":
                if following is None:
                    made.left_at_end.append(placed)
                else:
                    made.left.append((following.frame, placed))
    return made


class Placing:
    """Makes the clips and hushes of a project ready for planning."""

    def __init__(self, project: Project) -> None:
        self._rate, self._base = project.rate, project.timebase
        self._lengths = Lengths(project)
        self._pools = {pool.id: pool for pool in project.pools}
        self._highest = {value.id: value.high for value in project.values}

    def hush(self, row: RowKey, anchor: Anchor, hush: Hush) -> PlacedHush:
        """A hush keyframe made ready."""
        fade = seconds_to_samples(hush.fade, self._rate)
        return PlacedHush(row, anchor, hush.target, hush.sound, fade)

    def clip(
        self, row: RowKey, anchor: Anchor, clip: Clip, following: Keyframe | None, length: int
    ) -> PlacedClip | None:
        """A clip keyframe made ready; None if it has nothing to play."""
        rate = self._rate
        timing = clip_timing(clip, self._lengths[clip.sound], rate)
        total, pool = timing.total, None
        if self._pools:
            pool = self._pools.get(clip.sound)
        if total == 0 and pool is None:
            return None
        placed = PlacedClip(
            row,
            anchor,
            clip,
            timing,
            total,
            total,
            length if following is None else following.frame,
            False,
            seconds_to_samples(clip.gap, rate) if clip.gap else 0,
            seconds_to_samples(clip.release, rate) if clip.release else 0,
            seconds_to_samples(clip.hand_over, rate) if clip.hand_over else 0,
        )
        if pool is None:
            if clip.sync == "locked":
                self._end(placed, following)
        else:
            placed.choices = self._choices(placed, pool, following)
        return placed

    def _choices(
        self, placed: PlacedClip, pool: Pool, following: Keyframe | None
    ) -> tuple[Choice, ...]:
        found = []
        for part in pool.parts:
            timing = clip_timing(placed.clip, self._lengths[part.sound], self._rate)
            drawn = placed.drawn(part.sound, timing) if timing.total != 0 else None
            if drawn is not None:
                drawn.fade_length = drawn.total
                if drawn.clip.sync == "locked":
                    self._end(drawn, following)
            inside = None
            if part.value is not None and part.range is not None:
                inside = self.range(part.value, part.range)
            found.append(Choice(drawn, exactly(part.weight), part.value, inside))
        return tuple(found)

    def range(self, value: str, given: tuple[float, float]) -> ExactRange:
        """A range of a value."""
        return ExactRange(*given, self._highest[value])

    def _end(self, placed: PlacedClip, following: Keyframe | None) -> None:
        """Work out how a locked clip's span ends, and what its fade-out counts back from."""
        placed.hushed_at_end = self._hushes(following, placed)
        placed.fade_length = self._fades_from(placed, following, placed.span_end)

    def _hushes(self, following: Keyframe | None, placed: PlacedClip) -> bool:
        if not isinstance(following, Hush):
            return False
        return self.hush(placed.row, placed.anchor, following).hits(placed)

    def _fades_from(
        self, placed: PlacedClip, following: Keyframe | None, span_end: int
    ) -> int | None:
        """What a fade-out counts back from, where that keyframe ends the span, or its scene."""
        if self._hushes(following, placed):
            return placed.total
        span = self._base.start(span_end) - self._base.start(placed.clip.frame)
        return span if placed.total is None else min(placed.total, span)

    def fade_as_in(self, placed: PlacedClip, following: Keyframe | None, length: int) -> None:
        """Let a locked clip fade as in a film whose scene is that long."""
        end = length if following is None else following.frame
        drawn = [choice.placed for choice in placed.choices if choice.placed is not None]
        for each in drawn or [placed]:
            each.fade_length = self._fades_from(each, following, end)
