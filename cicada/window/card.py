"""The clip card: the chosen keyframe as a sentence, and below it every setting in four parts."""

from collections.abc import Callable
from functools import partial
from html import escape
from typing import Any

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QComboBox,
    QFormLayout,
    QFrame,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QSizePolicy,
    QStackedWidget,
    QTabBar,
    QVBoxLayout,
    QWidget,
)

from cicada.core.editing import Cell
from cicada.core.keyframe_edits import ChangeKeyframes, PlaceClip
from cicada.core.layer_edits import ChangeLayer
from cicada.core.model import Clip, Hush, Layer, Rest
from cicada.window import theme
from cicada.window.arranging import Arranging
from cicada.window.card_options import (
    BUSY,
    ENDS,
    IF_SOUNDING,
    LINE_OVER,
    OFF,
    PART_OF,
    PARTS,
    PAST_SCENE,
    QUEUE,
    SYNC,
    TARGETS,
)
from cicada.window.fields import Choice, LineField, QuantityField
from cicada.window.planning import Planning
from cicada.window.quantities import (
    count,
    level_text,
    line_text,
    loops_text,
    pan_text,
    parse_factor,
    parse_level,
    parse_line,
    parse_loops,
    parse_pan,
    parse_seconds,
    parse_whole,
    seconds_text,
)
from cicada.window.sentence import Part, sentence
from cicada.window.session import Session


class Card(QFrame):
    """Shows and changes the chosen keyframe; without one, offers to put one there."""

    hint = Signal(str)

    def __init__(self, session: Session, planning: Planning, arranging: Arranging) -> None:
        super().__init__()
        self.setObjectName("card")
        self.session, self.planning, self.document = session, planning, session.document
        self._arranging = arranging
        self._fillers: list[Callable[[list[Clip]], None]] = []
        self._controls: dict[str, QWidget] = {}
        self.setAccessibleName("Clip card")
        # As high as its highest page, so that the sheet does not jump when something is chosen.
        self.setMinimumSize(400, 262)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 10, 16, 5)
        column.setSpacing(4)
        self.words = QLabel()
        self.words.setWordWrap(True)
        self.words.setTextFormat(Qt.TextFormat.RichText)
        self.words.setTextInteractionFlags(
            Qt.TextInteractionFlag.LinksAccessibleByMouse
            | Qt.TextInteractionFlag.LinksAccessibleByKeyboard
        )
        self.words.setFont(theme.font(14))
        self.words.setAccessibleName("What this keyframe does")
        self.words.linkActivated.connect(self._follow)
        self.words.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Minimum)
        column.addWidget(self.words)
        self.pages = QStackedWidget()
        column.addWidget(self.pages, 1)
        self.parts = QTabBar()
        self.parts.setObjectName("parts")
        self.parts.setAccessibleName("Parts of the card")
        self.parts.setExpanding(False)
        self.parts.setDrawBase(False)
        for name in PARTS:
            self.parts.addTab(name)
        self.parts.currentChanged.connect(self._show_part)
        self._when = self._page(self._fill_when)
        self._which = self._page(self._fill_which)
        self._ends = self._page(self._fill_ends)
        self._loud = self._page(self._fill_loud)
        self._empty = self._page(self._fill_empty)
        self._hush = self._page(self._fill_hush)
        self._rest = self._page(self._fill_rest)
        column.addWidget(self.parts)
        session.cell_changed.connect(self.refresh)
        session.scene_changed.connect(self.refresh)
        session.sound_changed.connect(self._offer_sounds)
        planning.planned.connect(self.refresh)
        self.document.changed.connect(self.refresh)
        self.refresh()

    # -- building ------------------------------------------------------------------------------

    def _page(self, fill: Callable[[QFormLayout], None]) -> QWidget:
        page = QWidget()
        form = QFormLayout(page)
        form.setContentsMargins(0, 2, 0, 0)
        form.setHorizontalSpacing(14)
        form.setVerticalSpacing(5)
        form.setFieldGrowthPolicy(QFormLayout.FieldGrowthPolicy.FieldsStayAtSizeHint)
        form.setLabelAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        fill(form)
        self.pages.addWidget(page)
        return page

    def _row(self, form: QFormLayout, name: str, *widgets: QWidget) -> None:
        label = QLabel(name)
        label.setObjectName("soft")
        label.setFixedWidth(84)
        if len(widgets) == 1:
            form.addRow(label, widgets[0])
            return
        row = QHBoxLayout()
        row.setSpacing(8)
        for widget in widgets:
            row.addWidget(widget)
        row.addStretch(1)
        form.addRow(label, row)

    def _choice(self, field: str, name: str, options: list[tuple[str, str, str]]) -> Choice:
        choice = Choice(name, options)
        choice.chosen.connect(lambda value: self._change({field: value}, name))
        self._fillers.append(
            lambda clips: choice.set_values({getattr(clip, field) for clip in clips})
        )
        return choice

    def _quantity(
        self,
        field: str,
        name: str,
        parse: Callable[[str], float],
        show: Callable[[float], str],
        tip: str,
    ) -> QuantityField:
        quantity = QuantityField(name, parse, show, tip)
        quantity.setFixedWidth(126)
        quantity.chosen.connect(lambda value: self._change({field: value}, name))
        self._fillers.append(lambda clips: _fill(quantity, [getattr(c, field) for c in clips]))
        self._controls[field] = quantity
        return quantity

    def _time(self, field: str, name: str) -> QuantityField:
        return self._quantity(
            field,
            name,
            lambda text: parse_seconds(text, self._fps),
            lambda value: seconds_text(value, self._fps),
            "Seconds, ms or frames: 0.5 s, 250 ms, 12 f",
        )

    @property
    def _fps(self) -> float:
        num, den = self.document.project.fps
        return num / den

    def _fill_when(self, form: QFormLayout) -> None:
        sync = self._choice("sync", "keeps time", SYNC)
        self._row(form, "keeps time", sync)
        self._controls["sync"] = sync.buttons["free"]
        asked = self._choice("if_sounding", "if sounding", IF_SOUNDING)
        queue = self._choice("if_sounding", "if sounding", QUEUE)
        # Two rows of one choice: what is chosen in one is not chosen in the other.
        for choice, other in ((asked, queue), (queue, asked)):
            choice.chosen.connect(lambda _, other=other: other.set_values(()))
        self._row(form, "if sounding", asked)
        self._row(form, "", queue)
        self._controls["if_sounding"] = asked.buttons["on_top"]
        busy = self._choice("busy", "it is", BUSY)
        for row in (asked, queue, busy):
            self._fillers.append(partial(_enable_if_it_runs_on, row))
        self.loops = QuantityField(
            "loops", parse_loops, loops_text, "How often it plays: 3, or endless", step=1
        )
        self.loops.chosen.connect(lambda value: self._change({"loops": int(value)}, "loops"))
        self._fillers.append(lambda clips: _fill(self.loops, [clip.loops for clip in clips]))
        self._controls["loops"] = self.loops
        self.frame = QuantityField(
            "frame", parse_whole, lambda value: f"{value:.0f}", "The frame it stands on", step=1
        )
        self.frame.chosen.connect(self._move_to)
        self._controls["frame"] = self.frame
        for field in (self.loops, self.frame):
            field.setFixedWidth(84)
        self._row(form, "loops", self.loops, _soft("starts on frame"), self.frame)
        off = Choice("on or off", OFF)
        off.chosen.connect(lambda value: self._change({"off": value == "off"}, "what is off"))
        self._fillers.append(
            lambda clips: off.set_values({"off" if clip.off else "on" for clip in clips})
        )
        self._row(form, "“it” is", busy, off)

    def _fill_which(self, form: QFormLayout) -> None:
        self.sound = QComboBox()
        self.sound.setAccessibleName("sound")
        self.sound.activated.connect(
            lambda index: self._change({"sound": self.sound.itemData(index)}, "the sound")
        )
        self._controls["sound"] = self.sound
        self._row(form, "sound", self.sound)
        self.head = QuantityField(
            "trim from",
            lambda text: parse_seconds(text, self._fps),
            lambda value: seconds_text(value, self._fps),
            "How much of the sound's beginning is left out",
        )
        self.tail = QuantityField(
            "trim to",
            self._parse_tail,
            lambda value: "its end" if value < 0 else seconds_text(value, self._fps),
            "Where in the sound the clip stops; empty for its end",
        )
        for field in (self.head, self.tail):
            field.setFixedWidth(126)
            field.chosen.connect(self._trim)
        self._row(form, "from", self.head, _soft("to"), self.tail)
        self._row(
            form,
            "offset",
            self._time("offset", "offset"),
            _soft("delay"),
            self._time("delay", "delay"),
        )
        speed = self._quantity(
            "speed", "speed", parse_factor, lambda value: f"{value:g}x", "2x is an octave up"
        )
        overlap = self._time("loop_overlap", "loop overlap")
        self._row(form, "speed", speed, _soft("loops overlap"), overlap)

    def _parse_tail(self, text: str) -> float:
        if text.strip() in ("", "its end"):
            return -1.0
        return parse_seconds(text, self._fps)

    def _trim(self) -> None:
        tail = None if self.tail.value < 0 else self.tail.value
        self._change({"trim": (self.head.value, tail)}, "the trim")

    def _fill_ends(self, form: QFormLayout) -> None:
        ends = self._choice("ends", "ends", ENDS)
        self._controls["ends"] = ends.buttons["ring"]
        self._row(form, "ends", ends)
        release = self._time("release", "release")
        self._row(form, "release", release)
        self._fillers.append(lambda clips: ends.setEnabled(any(map(_runs_on, clips))))
        self._fillers.append(
            lambda clips: release.setEnabled(any(_runs_on(c) and c.ends == "span" for c in clips))
        )
        gap = self._time("gap", "gap")
        self._row(form, "gap", gap, _soft("after what it waits for"))
        self._fillers.append(
            lambda clips: gap.setEnabled(
                any(_runs_on(c) and c.if_sounding == "queue" for c in clips)
            )
        )
        hush = QPushButton("Hush it at the playhead")
        hush.setToolTip("Silence this sound on the playhead's frame (Shift+H)")
        hush.clicked.connect(lambda _: self._arranging.hush_here())
        self._row(form, "", hush)

    def _fill_loud(self, form: QFormLayout) -> None:
        level = self._quantity(
            "level", "level", parse_level, level_text, "40 %, -8 dB or 0.4x; a bare number is %"
        )
        pan = self._quantity("pan", "pan", parse_pan, pan_text, "40 left, middle, 100 right")
        self._row(form, "level", level, _soft("pan"), pan)
        self._row(
            form,
            "fade in",
            self._time("fade_in", "fade in"),
            _soft("out"),
            self._time("fade_out", "fade out"),
        )
        shapes = [
            ("linear", "Straight", "Even in level"),
            ("power", "Round", "Even in loudness"),
            ("smooth", "Smooth", "Slow at both ends"),
        ]
        self._row(form, "fade shape", self._choice("fade_shape", "fade shape", shapes))
        self._row(
            form,
            "lines",
            self._line("level line", "level_line", "level: 0 s 50 %; 2 s 100 %"),
            self._line("pan line", "pan_line", "pan: 0 s 70 left; 2 s middle"),
        )
        over = self._choice("line_over", "lines over", LINE_OVER)
        self._fillers.append(
            lambda clips: over.setEnabled(any(c.level_line or c.pan_line for c in clips))
        )
        self._row(form, "over", over)

    def _line(self, name: str, field: str, example: str) -> LineField:
        kind = "level" if field == "level_line" else "pan"
        line = LineField(
            name, lambda text: parse_line(kind, text, self._fps), partial(line_text, kind), example
        )
        line.setFixedWidth(150)
        line.chosen.connect(lambda points: self._change({field: points}, name))
        self._fillers.append(lambda clips: line.set_values({getattr(c, field) for c in clips}))
        self._controls[field] = line
        return line

    def _fill_empty(self, form: QFormLayout) -> None:
        self.new_sound = QComboBox()
        self.new_sound.setAccessibleName("sound to place")
        self.new_sound.setMinimumWidth(200)
        self.place_button = QPushButton("Place it here")
        self.place_button.clicked.connect(self.place_chosen)
        self._row(form, "sound", self.new_sound, self.place_button)
        rest, hush = QPushButton("Rest here"), QPushButton("Hush here")
        rest.clicked.connect(self.put_rest)
        hush.clicked.connect(self.put_hush)
        self._row(form, "or", rest, hush)
        self.layer_level = QuantityField(
            "layer's level", parse_level, level_text, "40 %, -8 dB or 0.4x; a bare number is %"
        )
        self.layer_pan = QuantityField("layer's pan", parse_pan, pan_text, "40 left, middle, right")
        for field, quantity in (("level", self.layer_level), ("pan", self.layer_pan)):
            quantity.setFixedWidth(126)
            quantity.chosen.connect(lambda value, field=field: self._change_layer(field, value))
        self._row(form, "layer", self.layer_level, _soft("pan"), self.layer_pan)
        self.past_scene = Choice("past the scene", PAST_SCENE)
        self.past_scene.chosen.connect(lambda v: self._change_layer("past_scene", v == "rings"))
        self._row(form, "at its end", self.past_scene)

    def _change_layer(self, field: str, value: object) -> None:
        cell = self.session.cell
        if cell is not None:
            self.document.do(ChangeLayer(layer=cell.layer, changes={field: value}))

    def _fill_hush(self, form: QFormLayout) -> None:
        self.target = Choice("silences", TARGETS)
        self.target.chosen.connect(self._choose_target)
        self._row(form, "silences", self.target)
        self.hushed = QComboBox()
        self.hushed.setAccessibleName("sound to silence")
        self.hushed.activated.connect(
            lambda index: self._change({"sound": self.hushed.itemData(index)}, "the hush")
        )
        self._row(form, "sound", self.hushed)
        self._hush_form = form
        self.hush_fade = QuantityField(
            "fade",
            lambda text: parse_seconds(text, self._fps),
            lambda value: seconds_text(value, self._fps),
            "How long the fade takes: 0.2 s, 5 f",
        )
        self.hush_fade.setFixedWidth(126)
        self.hush_fade.chosen.connect(lambda value: self._change({"fade": value}, "the fade"))
        self._row(form, "over", self.hush_fade)
        self._row(form, "", self._clear_button())

    def _fill_rest(self, form: QFormLayout) -> None:
        self._row(form, "", self._clear_button())

    def _clear_button(self) -> QPushButton:
        button = QPushButton("Clear this keyframe")
        button.clicked.connect(self._arranging.clear)
        return button

    # -- showing -------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the keyframe as it is now."""
        keyframe, layer = self.session.keyframe(), self.session.layer()
        self.parts.setVisible(isinstance(keyframe, Clip))
        if keyframe is None or layer is None or self.session.cell is None:
            self._show_empty(layer)
            return
        self._write_sentence()
        clips = self._clips()
        if isinstance(keyframe, Clip) and clips:
            for fill in self._fillers:
                fill(clips)
            alike = len({clip.sound for clip in clips}) == 1
            _offer(self.sound, self._sound_names(), keyframe.sound if alike else "")
            _fill(self.head, [clip.trim[0] for clip in clips])
            _fill(self.tail, [-1.0 if c.trim[1] is None else c.trim[1] for c in clips])
            self.frame.set_value(keyframe.frame + self.document.project.first_frame)
            self._show_part(self.parts.currentIndex())
        elif isinstance(keyframe, Hush):
            self.target.set_value(keyframe.target)
            self.hush_fade.set_value(keyframe.fade)
            _offer(self.hushed, self._sound_names(), keyframe.sound or "")
            self._hush_form.setRowVisible(self.hushed, keyframe.target == "sound")
            self.pages.setCurrentWidget(self._hush)
        else:
            self.pages.setCurrentWidget(self._rest)

    def _write_sentence(self) -> None:
        keyframe, layer = self.session.keyframe(), self.session.layer()
        if keyframe is None or layer is None or not self.planning.up_to_date:
            return
        if len(self.session.chosen) > 1:
            self.words.setText(self._many())
            return
        project, scene = self.document.project, self.session.scene
        number = self.planning.number
        parts = sentence(project, self.planning.plan, scene, layer, keyframe, number)
        self.words.setText(_rich(parts))

    def _many(self) -> str:
        """What is chosen, where that is several keyframes."""
        found = self.session.keyframes()
        clips = sum(isinstance(keyframe, Clip) for _, keyframe in found)
        layers = len({cell.layer for cell, _ in found})
        what = count(clips, "clip") if clips == len(found) else count(len(found), "keyframe")
        where = "" if layers == 1 else f" on {layers} layers"
        tail = f"the {count(clips, 'clip')} among them" if clips != len(found) else "all of them"
        return (
            f"{_strong(f'{what}{where}')} chosen.<br>What you change here is changed in {tail}; "
            "“mixed” stands where they differ."
        )

    def _clips(self) -> list[Clip]:
        return [k for _, k in self.session.keyframes() if isinstance(k, Clip)]

    def _show_empty(self, layer: Layer | None) -> None:
        cell = self.session.cell
        if cell is None or layer is None:
            self.words.setText(
                f"{_strong('No keyframe is chosen.')}<br>Click a frame on a layer, or drag a sound "
                "from the shelf onto it."
            )
            self.pages.setCurrentWidget(self._rest)
            self._rest.setVisible(False)
            return
        frame = cell.frame + self.document.project.first_frame
        name = escape(layer.name or layer.id)
        self.words.setText(f"{_strong(f'Frame {frame} of {name}')} has no keyframe.")
        self._offer_sounds()
        self.layer_level.set_value(layer.level)
        self.layer_pan.set_value(layer.pan)
        self.past_scene.set_value("rings" if layer.past_scene else "stops")
        self.pages.setCurrentWidget(self._empty)

    def _offer_sounds(self) -> None:
        names = self._sound_names()
        first = names[0][0] if names else ""
        chosen = self.session.sound or self.new_sound.currentData() or first
        _offer(self.new_sound, names, chosen)
        self.place_button.setEnabled(bool(self.document.project.sounds))

    def _sound_names(self) -> list[tuple[str, str]]:
        return [(sound.id, sound.name or sound.id) for sound in self.document.project.sounds]

    def _show_part(self, index: int) -> None:
        if isinstance(self.session.keyframe(), Clip):
            pages = (self._when, self._which, self._ends, self._loud)
            self.pages.setCurrentWidget(pages[index])

    def _follow(self, control: str) -> None:
        """A part of the sentence was chosen: go to what changes it."""
        self.parts.setCurrentIndex(PART_OF.get(control, self.parts.currentIndex()))
        widget = {"target": self.target, "fade": self.hush_fade}.get(
            control, self._controls.get(control)
        )
        if widget is None:
            return
        widget.setFocus(Qt.FocusReason.ShortcutFocusReason)
        if isinstance(widget, QComboBox):
            widget.showPopup()
        if isinstance(widget, QuantityField):
            widget.selectAll()

    # -- changing ------------------------------------------------------------------------------

    def _change(self, changes: dict[str, Any], what: str) -> None:
        lead = self.session.keyframe()
        kind = type(lead)
        cells = tuple(
            cell
            for cell, keyframe in self.session.keyframes()
            if type(keyframe) is kind
            and any(getattr(keyframe, field) != value for field, value in changes.items())
        )
        if lead is None or not cells:
            return
        if not self.document.do(ChangeKeyframes(cells=cells, changes=changes, what=what)):
            self.refresh()

    def _move_to(self, shown: float) -> None:
        self._arranging.move_to(int(shown) - self.document.project.first_frame)
        self.refresh()

    def _choose_target(self, target: str) -> None:
        changes: dict[str, Any] = {"target": target}
        keyframe = self.session.keyframe()
        if target == "sound" and isinstance(keyframe, Hush) and keyframe.sound is None:
            sounds = self._sound_names()
            if not sounds:
                self.hint.emit("There is no sound to silence yet.")
                self.refresh()
                return
            changes["sound"] = sounds[0][0]
        self._change(changes, "the hush")

    def place(self, sound: str, cell: Cell) -> None:
        """Put a sound on a cell and show it."""
        try:
            name = self.document.project.sound(sound).name
        except KeyError:
            return
        edit = PlaceClip(layer=cell.layer, frame=cell.frame, sound=sound, sound_name=name)
        if self.document.do(edit):
            self.session.choose(None)
            self.session.choose(cell)

    def place_chosen(self) -> None:
        """Put the sound named on the card on the chosen cell."""
        cell, sound = self.session.cell, self.new_sound.currentData()
        if cell is not None and sound:
            self.place(sound, cell)

    def put_rest(self) -> None:
        """Put a rest on the chosen cell."""
        if self.session.cell is not None:
            layer, frame = self.session.cell
            self._arranging.put(Rest(frame=frame), layer)

    def put_hush(self) -> None:
        """Put a hush on the chosen cell."""
        if self.session.cell is not None:
            layer, frame = self.session.cell
            self._arranging.put(Hush(frame=frame, fade=0.2), layer)


def _rich(parts: list[Part]) -> str:
    words = []
    link = theme.colour_name("MOSS_DEEP")
    for number, part in enumerate(parts):
        text = escape(part.text)
        if part.control:
            weight = " font-weight:600;" if number == 0 else ""
            text = f'<a href="{part.control}" style="color:{link};{weight}">{text}</a>'
        words.append(text)
    return "".join(words)


def _strong(text: str) -> str:
    return f'<span style="font-weight:600">{text}</span>'


def _soft(text: str) -> QLabel:
    label = QLabel(text)
    label.setObjectName("soft")
    return label


def _runs_on(clip: Clip) -> bool:
    """Whether a clip has a clock of its own."""
    return clip.sync != "locked"


def _enable_if_it_runs_on(row: Choice, clips: list[Clip]) -> None:
    row.setEnabled(any(map(_runs_on, clips)))


def _fill(field: QuantityField, values: list[float]) -> None:
    if len(set(values)) == 1:
        field.set_value(values[0])
    else:
        field.set_mixed()


def _offer(box: QComboBox, names: list[tuple[str, str]], chosen: str) -> None:
    if [(box.itemData(i), box.itemText(i)) for i in range(box.count())] != names:
        box.clear()
        for value, name in names:
            box.addItem(name, value)
    box.setCurrentIndex(box.findData(chosen))
