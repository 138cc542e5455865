"""The four parts of the clip card, which hold every setting of the chosen clips."""

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QEvent, QPoint, Signal
from PySide6.QtGui import QEnterEvent
from PySide6.QtWidgets import (
    QComboBox,
    QPushButton,
    QWidget,
)
from typing_extensions import override

from cicada.core.model import Clip
from cicada.window.clip.options import (
    BUSY,
    ENDS,
    FADE_SHAPES,
    IF_SOUNDING,
    LINE_OVER,
    OFF,
    QUEUE,
    SYNC,
)
from cicada.window.drawing import theme
from cicada.window.drawing.icons import icon
from cicada.window.widgets.choice import Choice
from cicada.window.widgets.fields import (
    LEVEL,
    PAN,
    SPEED,
    Kind,
    LineField,
    QuantityField,
    time,
    whole,
)
from cicada.window.widgets.rows import Page, soft
from cicada.window.words.numbers import fixed
from cicada.window.words.quantities import (
    TimeUnits,
    line_text,
    loops_text,
    parse_line,
    parse_loops,
    parse_seconds,
    parse_whole,
    seconds_text,
    time_readings,
    time_stepped,
)

# What a trim's end shows for the sound's own.
ITS_END = -1.0


class CommandButton(QPushButton):
    """A button that says when the pointer comes to rest on it, and when it leaves."""

    looked_at = Signal(bool)

    @override
    def enterEvent(self, event: QEnterEvent) -> None:
        super().enterEvent(event)
        self.looked_at.emit(True)

    @override
    def leaveEvent(self, event: QEvent) -> None:
        super().leaveEvent(event)
        self.looked_at.emit(False)


class ClipPages(QWidget):
    """Makes the pages. ``changed`` says which fields become what, and what that is called.

    ``asked`` is a command, by its name among the window's, and where its menu would open.
    """

    changed = Signal(dict, str)
    # Where the sound begins (0) or stops (1) to be heard is another; the other side stays.
    trimmed = Signal(int, object)
    moved = Signal(int)
    asked = Signal(str, QPoint)
    # The pointer rests on a command's button, or (empty) on none any more.
    looked_at = Signal(str)

    def __init__(self, units: Callable[[], TimeUnits]) -> None:
        super().__init__()
        self._units = units
        self._fillers: list[Callable[[list[Clip]], None]] = []
        self.controls: dict[str, QWidget] = {}
        self._pictured: list[QPushButton] = []
        self.pages = [self._when(), self._which(), self._ends(), self._loud()]
        self.dress()

    def fill(self, clips: list[Clip]) -> None:
        """Show the settings of clips."""
        for fill in self._fillers:
            fill(clips)

    # -- controls ------------------------------------------------------------------------------

    def _choice(self, field: str, name: str, options: list[tuple[str, str, str]]) -> Choice:
        choice = Choice(name, options)
        choice.chosen.connect(lambda value: self.changed.emit({field: value}, name))
        self._fillers.append(
            lambda clips: choice.set_values({getattr(clip, field) for clip in clips})
        )
        return choice

    def _quantity(self, field: str, name: str, kind: Kind, width: int = 126) -> QuantityField:
        quantity = QuantityField(name, kind)
        quantity.setFixedWidth(width)
        quantity.chosen.connect(lambda value: self.changed.emit({field: value}, name))
        self._fillers.append(lambda clips: quantity.set_values([getattr(c, field) for c in clips]))
        self.controls[field] = quantity
        return quantity

    def _time(self, field: str, name: str, tip: str = "") -> QuantityField:
        return self._quantity(field, name, time(self._units, tip))

    def _button(self, words: str, command: str, tip: str) -> QPushButton:
        button = CommandButton(words)
        button.looked_at.connect(lambda on: self.looked_at.emit(command if on else ""))
        button.setToolTip(tip)
        button.clicked.connect(
            lambda _: self.asked.emit(command, button.mapToGlobal(QPoint(0, button.height())))
        )
        return button

    def _comparing(self, command: str, where: str) -> QPushButton:
        """A button that has all choices of its row drawn on the sheet."""
        button = self._button("", command, f"Draw each of these on the sheet, to compare {where}")
        button.setAccessibleName(f"Compare {where}")
        button.setObjectName("small")
        button.setFixedWidth(28)
        self._pictured.append(button)
        return button

    def dress(self) -> None:
        """Take the icons in the colours of now."""
        for button in self._pictured:
            button.setIcon(icon("ways", theme.INK.name()))

    # -- when ----------------------------------------------------------------------------------

    def _when(self) -> Page:
        page = Page()
        sync = self._choice("sync", "keeps time", SYNC)
        page.row("keeps time", sync, self._comparing("ways", "(Shift+F)"))
        self.controls["sync"] = sync.buttons["free"]
        asked = self._choice("if_sounding", "if sounding", IF_SOUNDING)
        queue = self._choice("if_sounding", "if sounding", QUEUE)
        # Two rows of one choice: what is chosen in one is not chosen in the other.
        for choice, other in ((asked, queue), (queue, asked)):
            choice.chosen.connect(lambda _, other=other: other.set_values(()))
        page.row("if sounding", asked, self._comparing("passes", "in the next pass (Shift+G)"))
        page.row("", queue)
        self.controls["if_sounding"] = asked.buttons["on_top"]
        busy = self._choice("busy", "it is", BUSY)
        for row in (asked, queue, busy):
            self._fillers.append(partial(_enable_if_it_runs_on, row))
        # A step down from once would be endless, which nobody means by it.
        loops = whole(parse_loops, loops_text, "How often it plays: 3, or endless", least=1)
        self.loops = QuantityField("loops", loops)
        self.loops.chosen.connect(lambda value: self.changed.emit({"loops": int(value)}, "loops"))
        self._fillers.append(lambda clips: self.loops.set_values([clip.loops for clip in clips]))
        self.controls["loops"] = self.loops
        self.frame = QuantityField(
            "frame", whole(parse_whole, lambda value: f"{value:.0f}", "The frame it stands on")
        )
        self.frame.chosen.connect(lambda value: self.moved.emit(int(value)))
        self.controls["frame"] = self.frame
        for field in (self.loops, self.frame):
            field.setFixedWidth(66)
        page.row("loops", self.loops, soft("starts on frame"), self.frame)
        page.row("“it” is", busy)
        off = Choice("on or off", OFF)
        off.chosen.connect(lambda value: self.changed.emit({"off": value == "off"}, "what is off"))
        self._fillers.append(
            lambda clips: off.set_values({"off" if clip.off else "on" for clip in clips})
        )
        page.row("the clip is", off)
        return page

    # -- which part ----------------------------------------------------------------------------

    def _which(self) -> Page:
        page = Page()
        self.sound = QComboBox()
        self.sound.setAccessibleName("sound")
        self.sound.setMinimumWidth(180)
        self.sound.activated.connect(
            lambda index: self.changed.emit({"sound": self.sound.itemData(index)}, "the sound")
        )
        self.controls["sound"] = self.sound
        page.row(
            "sound",
            self.sound,
            self._button("Open", "open_clip", "Open it on the sheet, to be shaped by hand (E)"),
        )
        self.head = QuantityField(
            "trim from", time(self._units, "How much of the sound's beginning is left out")
        )
        self.tail = QuantityField("trim to", self._tail_kind())
        for side, field in enumerate((self.head, self.tail)):
            field.setFixedWidth(126)
            field.chosen.connect(partial(self._trim, side))
        self._fillers.append(lambda clips: self.head.set_values([c.trim[0] for c in clips]))
        self._fillers.append(
            lambda clips: self.tail.set_values(
                [ITS_END if c.trim[1] is None else c.trim[1] for c in clips]
            )
        )
        page.row("from", self.head, soft("to"), self.tail)
        trim = self._button(
            "Trim the silence ▾", "trim_silence", "Cut what is silent off both ends (Q)"
        )
        self._length = page.row(
            "", trim, self._button("Split here", "split", "Split it at the playhead (I)")
        )
        offset = self._time("offset", "offset", "How far into its sound the first loop starts")
        delay = self._time("delay", "delay", "Silence before the first loop")
        page.row("offset", offset, soft("delay"), delay)
        speed = self._quantity("speed", "speed", SPEED)
        overlap = self._time("loop_overlap", "loop overlap", "How far loops reach into each other")
        page.row("speed", speed, soft("overlap"), overlap)
        return page

    def show_length(self, seconds: float) -> None:
        """Say how long one loop is, trimmed and at its speed."""
        self._length.setText(f"{fixed(seconds, 2)} s long")
        self._length.setToolTip(f"One loop: {time_readings(seconds, self._units())}")

    def _tail_kind(self) -> Kind:
        def read(text: str) -> float:
            if text.strip() in ("", "its end"):
                return ITS_END
            return parse_seconds(text, self._units())

        def show(value: float) -> str:
            return "its end" if value < 0 else seconds_text(value, self._units())

        def step(value: float, steps: int, /, *, fine: bool) -> float:
            return value if value < 0 else time_stepped(value, steps, self._units(), fine=fine)

        tip = "Where in the sound the clip stops; empty for its end"
        return Kind(read, show, tip, None, step)

    def _trim(self, side: int, value: float) -> None:
        self.trimmed.emit(side, None if value < 0 else value)

    # -- what ends it --------------------------------------------------------------------------

    def _ends(self) -> Page:
        page = Page()
        ends = self._choice("ends", "ends", ENDS)
        self.controls["ends"] = ends.buttons["ring"]
        page.row("ends", ends)
        release = self._time("release", "release", "How long it fades when its span ends it")
        page.row("release", release)
        self._fillers.append(lambda clips: ends.setEnabled(any(map(_runs_on, clips))))
        self._fillers.append(
            lambda clips: release.setEnabled(any(_runs_on(c) and c.ends == "span" for c in clips))
        )
        gap = self._time("gap", "gap", "Silence before it when it has waited for its turn")
        page.row("gap", gap, soft("after what it waits for"))
        hand_over = self._time("hand_over", "hand over", "How long what it ends goes on below it")
        page.row("hand over", hand_over, soft("from what it ends"))
        self._fillers.append(
            lambda clips: gap.setEnabled(
                any(_runs_on(c) and c.if_sounding == "queue" for c in clips)
            )
        )
        self._fillers.append(
            lambda clips: hand_over.setEnabled(
                any(_runs_on(c) and c.if_sounding == "restart" for c in clips)
            )
        )
        page.row(
            "let it",
            self._button("End on ▾", "end_on", "Trim it or end its span so that it is over there"),
            self._button("Loop to fill", "loop_to_fill", "Loop it up to its span's end (F)"),
        )
        hush = "Silence this sound on the playhead's frame (Ctrl+Shift+H)"
        page.row("", self._button("Hush it at the playhead", "hush_chosen", hush))
        return page

    # -- how loud ------------------------------------------------------------------------------

    def _loud(self) -> Page:
        page = Page()
        level = self._quantity("level", "level", LEVEL)
        pan = self._quantity("pan", "pan", PAN, 86)
        match = self._button("Match ▾", "match", "Make it as loud as another clip, or as a figure")
        page.row("level, pan", level, pan, match)
        page.row(
            "fade in",
            self._time("fade_in", "fade in"),
            soft("out"),
            self._time("fade_out", "fade out"),
        )
        page.row("fade shape", self._choice("fade_shape", "fade shape", FADE_SHAPES))
        page.row(
            "lines",
            self._line("level line", "level_line", "level: 0 s 50 %; 2 s 100 %"),
            self._line("pan line", "pan_line", "pan: 0 s 70 left; 2 s middle"),
            self._button("Draw ▾", "gesture", "Let it move, swell, or dip under another clip"),
        )
        over = self._choice("line_over", "lines over", LINE_OVER)
        self._fillers.append(
            lambda clips: over.setEnabled(any(c.level_line or c.pan_line for c in clips))
        )
        self.peak = soft("")
        self.peak.setAccessibleName("How loud it gets")
        page.row("over", over, self.peak)
        return page

    def _line(self, name: str, field: str, example: str) -> LineField:
        kind = "level" if field == "level_line" else "pan"
        line = LineField(
            name,
            lambda text: parse_line(kind, text, self._units()),
            partial(line_text, kind),
            example,
        )
        line.setFixedWidth(106)
        line.chosen.connect(lambda points: self.changed.emit({field: points}, name))
        self._fillers.append(lambda clips: line.set_values({getattr(c, field) for c in clips}))
        self.controls[field] = line
        return line


def _runs_on(clip: Clip) -> bool:
    """Whether a clip has a clock of its own."""
    return clip.sync != "locked"


def _enable_if_it_runs_on(row: Choice, clips: list[Clip]) -> None:
    row.setEnabled(any(map(_runs_on, clips)))
