"""What mouse and keys do to a clip or a line that is opened on the sheet."""

from PySide6.QtCore import QPointF, QRect, Qt
from PySide6.QtGui import QAction

from cicada.core.beats import tempo_at
from cicada.core.editing import Cell, Edit
from cicada.core.keyframe_edits import ChangeKeyframes
from cicada.core.model import Clip, Layer
from cicada.core.points import Shape, place_of, shape_of, shaped, without_points
from cicada.core.reshaping import ReshapeClip
from cicada.core.timebase import samples_to_seconds, seconds_to_samples
from cicada.errors import CicadaError
from cicada.window.drawing.lanes import Lane
from cicada.window.drawing.open_clip import Grip, OpenClip
from cicada.window.sheet.canvas import SheetCanvas
from cicada.window.sheet.hand import Hand, Keys
from cicada.window.sheet.shaping_hands import PointMarquee, Points, hand_on_clip
from cicada.window.state.session import Opened
from cicada.window.widgets.fields import NameField
from cicada.window.words.quantities import (
    TimeUnits,
    count,
    line_text,
    parse_frame_number,
    parse_line,
    parse_seconds,
    seconds_text,
)

# A clip narrower than this is zoomed to as it is opened, to this share of the sheet's width.
NARROW, WIDE = 420, 0.6
SHAPES: dict[Shape, str] = {
    "straight": "Straight on from here",
    "smooth": "Smooth on from here",
    "step": "Held, then a step",
}


class OnOpened:
    """Opening, closing, and taking hold of what is open."""

    def __init__(self, sheet: SheetCanvas) -> None:
        self._sheet, self._session = sheet, sheet.session
        self._zoom: tuple[float, float] | None = None
        self._zoomed_to: tuple[float, float] | None = None

    # -- opening and closing -------------------------------------------------------------------

    def open_clip(self, cell: Cell) -> None:
        """Open the clip on a cell, large enough to be worked on."""
        layer = next((x for x in self._session.scene.layers if x.id == cell.layer), None)
        clip = next((k for k in layer.keyframes if k.frame == cell.frame), None) if layer else None
        if not isinstance(clip, Clip):
            return
        self._session.choose(cell)
        self._session.open(Opened(cell.layer, cell.frame, clip.sound))
        opened, place = self._sheet.opened, self._sheet.place
        if not isinstance(opened, OpenClip):
            return
        left, right = opened.x_of(opened.begins), opened.x_of(opened.ends)
        if right - left < NARROW:
            self._zoom = place.scale, place.left
            first, last = place.place(left), place.place(right)
            room = (last - first) * (1 / WIDE - 1) / 2
            self._sheet.show_places(max(0.0, first - room), last + room)
            self._zoomed_to = place.scale, place.left

    def open_line(self, layer: str) -> None:
        """Open the line of a layer, or (empty) the master line."""
        self._session.open(Opened(layer))

    def close(self) -> bool:
        """Close what is open, zoomed as before it was opened; whether anything was."""
        if self._session.opened is None:
            return False
        self._session.open(None)
        place = self._sheet.place
        if self._zoom is not None and (place.scale, place.left) == self._zoomed_to:
            place.scale, left = self._zoom
            self._sheet.scroll_to(left)
        self._zoom = self._zoomed_to = None
        return True

    # -- taking hold ---------------------------------------------------------------------------

    def lane_at(self, point: QPointF) -> Lane | None:
        """The lane that is under a point."""
        opened = self._sheet.opened
        if opened is None:
            return None
        return next((lane for lane in opened.lanes if lane.holds(point)), None)

    def press(self, point: QPointF, keys: Keys) -> Hand | None:
        """What is taken hold of: points first, then handles, then the line; None for nothing."""
        sheet, opened, lane = self._sheet, self._sheet.opened, self.lane_at(point)
        if opened is None or _guarded(opened.layer):
            return None
        index = lane.point_at(point) if lane is not None else None
        if lane is not None and index is not None:
            if keys & Keys.ControlModifier:
                chosen = sheet.points.get(lane.name, frozenset()) ^ {index}
                sheet.choose_points(lane, chosen)
                return Hand(sheet, point)
            return Points(sheet, point, lane, index, keys)
        if isinstance(opened, OpenClip):
            hand = hand_on_clip(sheet, point, opened)
            if hand is not None:
                return hand
        if lane is None:
            return None
        if lane.near_line(point):
            return Points(sheet, point, lane, None, keys)
        return PointMarquee(sheet, point, lane)

    def cursor(self, point: QPointF) -> Qt.CursorShape | None:
        """The pointer's shape over what is open; None where nothing of it is."""
        opened, lane = self._sheet.opened, self.lane_at(point)
        if opened is None or _guarded(opened.layer):
            return None
        if lane is not None and lane.point_at(point) is not None:
            return Qt.CursorShape.SizeAllCursor
        grip = opened.grip_at(point) if isinstance(opened, OpenClip) else None
        if grip is not None:
            tall = grip.kind in ("head", "tail")
            return Qt.CursorShape.SplitHCursor if tall else Qt.CursorShape.SizeHorCursor
        if lane is not None and lane.near_line(point):
            return Qt.CursorShape.CrossCursor
        return None

    # -- points --------------------------------------------------------------------------------

    def chosen_points(self) -> tuple[Lane, frozenset[int]] | None:
        """The lane with chosen points, and which they are."""
        opened = self._sheet.opened
        for lane in opened.lanes if opened is not None else ():
            chosen = self._sheet.points.get(lane.name, frozenset())
            if chosen and max(chosen) < len(lane.line):
                return lane, chosen
        return None

    def remove_points(self) -> bool:
        """Take the chosen points away; whether there were any."""
        found = self.chosen_points()
        if found is None:
            return False
        lane, chosen = found
        self._sheet.document.do(lane.put(without_points(lane.line, chosen)))
        self._sheet.choose_points(lane, frozenset())
        return True

    def point_menu(self, point: QPointF) -> list[QAction]:
        """What can be done with the point under a place; nothing where there is none."""
        lane = self.lane_at(point)
        index = lane.point_at(point) if lane is not None else None
        if lane is None or index is None:
            return []
        sheet = self._sheet
        if index not in sheet.points.get(lane.name, frozenset()):
            sheet.choose_points(lane, frozenset({index}))
        chosen = sheet.points[lane.name]
        actions = []
        for shape, words in SHAPES.items():
            action = QAction(words, sheet)
            action.setCheckable(True)
            action.setChecked(all(shape_of(lane.line[i]) == shape for i in chosen))
            action.triggered.connect(
                lambda _=False, shape=shape: sheet.document.do(
                    lane.put(shaped(lane.line, chosen, shape))
                )
            )
            actions.append(action)
        line = QAction(sheet)
        line.setSeparator(True)
        by_number = QAction("By number…", sheet)
        by_number.triggered.connect(lambda: self._type_point(lane, index))
        away = QAction(f"Take {count(len(chosen), 'point')} away", sheet)
        away.triggered.connect(lambda: self.remove_points())  # noqa: PLW0108 - without its state
        return [*actions, line, by_number, away]

    # -- by number -----------------------------------------------------------------------------

    def type_at(self, point: QPointF) -> bool:
        """Let what is under a point be typed; whether there is anything."""
        opened, lane = self._sheet.opened, self.lane_at(point)
        if opened is None or _guarded(opened.layer):
            return False
        index = lane.point_at(point) if lane is not None else None
        if lane is not None and index is not None:
            self._type_point(lane, index)
            return True
        grip = opened.grip_at(point) if isinstance(opened, OpenClip) else None
        if grip is None or grip.kind == "slip" or not isinstance(opened, OpenClip):
            return grip is not None
        self._type_grip(opened, grip)
        return True

    def _field(self, text: str, words: str, at: QPointF) -> NameField:
        place = QRect(round(at.x()) - 60, round(at.y()) - 13, 150, 26)
        field = NameField(text, words, self._sheet.viewport(), place)
        field.left.connect(self._sheet.setFocus)
        self._sheet.name_field = field
        return field

    def _units(self) -> TimeUnits:
        opened = self._sheet.opened
        frame = opened.cell.frame if isinstance(opened, OpenClip) else 0
        fps = self._sheet.planning.plan.timebase.fps
        return TimeUnits(fps, tempo_at(self._session.scene, frame))

    def _refuse(self, sentence: str) -> None:
        self._sheet.document.refused.emit(sentence)

    def _type_point(self, lane: Lane, index: int) -> None:
        units = self._units()
        by_frames = not isinstance(self._sheet.opened, OpenClip)
        text = line_text(lane.kind, (lane.line[index],), frames=by_frames)
        field = self._field(text, f"point of the {lane.name}", lane.point(index))

        def take(typed: str) -> None:
            try:
                (new,) = parse_line(lane.kind, typed, units, frames=by_frames)
                kept = without_points(lane.line, {index})
                line = tuple(sorted((*kept, new), key=place_of))
                self._sheet.document.do(lane.put(line))
            except (ValueError, CicadaError) as error:
                self._refuse(str(error))

        field.named.connect(take)

    def _type_grip(self, opened: OpenClip, grip: Grip) -> None:
        clip, rate, shaping = opened.clip, opened.rate, opened.shaping
        units = self._units()
        values = {
            "head": clip.trim[0],
            "tail": samples_to_seconds(shaping.timing.last, rate),
            "fade_in": clip.fade_in,
            "fade_out": clip.fade_out,
            "overlap": clip.loop_overlap,
            "hit": samples_to_seconds(grip.sample, rate),
            "peak": samples_to_seconds(grip.sample, rate),
        }
        names = {
            "head": "trim from",
            "tail": "trim to",
            "fade_in": "fade in",
            "fade_out": "fade out",
            "overlap": "loop overlap",
            "hit": "frame the hit lands on",
            "peak": "frame the peak lands on",
        }
        at = grip.at
        if grip.kind in ("hit", "peak"):
            here = shaping.clock.frame_at(shaping.moment_of(grip.sample))
            field = self._field(str(self._sheet.document.project.shown(here)), names[grip.kind], at)
        else:
            field = self._field(seconds_text(values[grip.kind], units), names[grip.kind], at)

        def take(typed: str) -> None:
            try:
                edit, gave = self._typed_edit(opened, grip, typed, units)
                if self._sheet.document.do(edit) and gave:
                    self._refuse(gave)
            except (ValueError, CicadaError) as error:
                self._refuse(str(error))

        field.named.connect(take)

    def _typed_edit(
        self, opened: OpenClip, grip: Grip, typed: str, units: TimeUnits
    ) -> tuple[Edit, str]:
        """The edit that was typed, and what had to give for it."""
        shaping, rate = opened.shaping, opened.rate
        if grip.kind in ("hit", "peak"):
            frame = parse_frame_number(typed, units, self._sheet.document.project.first_frame)
            made = shaping.land(grip.sample, frame)
            edit = ReshapeClip(cell=opened.cell, clip=made.clip, named="land the hit")
            return edit, made.gave
        seconds = parse_seconds(typed, units)
        if grip.kind in ("head", "tail"):
            timing = shaping.timing
            sample = seconds_to_samples(seconds, rate)
            first, last = (sample, timing.last) if grip.kind == "head" else (timing.first, sample)
            made = shaping.trim_to(first, last)
            edit = ReshapeClip(cell=opened.cell, clip=made.clip, named="trim the clip")
            return edit, made.gave
        field = {"fade_in": "fade_in", "fade_out": "fade_out", "overlap": "loop_overlap"}[grip.kind]
        changes = {field: seconds}
        return ChangeKeyframes(cells=(opened.cell,), changes=changes, what="the clip"), ""


def _guarded(layer: Layer | None) -> bool:
    return layer is not None and layer.guarded
