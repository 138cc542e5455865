"""What a pad does, as lines of words and controls."""

from collections.abc import Callable, Sequence

from msgspec.structs import replace
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLineEdit, QPushButton, QVBoxLayout, QWidget

from cicada.core.answers import Deed, Fire, GlideDeed, GoOn, HushDeed
from cicada.core.model import Project
from cicada.window.widgets.fields import QuantityField, time
from cicada.window.widgets.rows import soft
from cicada.window.words.numbers import read, shown
from cicada.window.words.quantities import TimeUnits

IF_SOUNDING = [
    ("on_top", "on top of itself"),
    ("skip", "left out while it sounds"),
    ("restart", "starting over"),
    ("queue", "waiting until the pad is quiet"),
]
HUSHES = [("pad", "this pad"), ("sound", "one sound"), ("all", "everything")]
WHEN = [("now", "at once"), ("over", "when the sound is over")]
WIDE, NARROW = 150, 56


class DeedLine(QWidget):
    """One deed, but for letting the picture go on, which is chosen elsewhere.

    ``changed`` comes with what it is now, ``removed`` when it is to go.
    """

    changed = Signal(object)
    removed = Signal()

    def __init__(self, project: Project, deed: Deed) -> None:
        super().__init__()
        self._project, self._deed = project, deed
        self._units = lambda: TimeUnits(project.timebase.fps)
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(3)
        first = self._row = self._new_row()
        if isinstance(deed, Fire):
            self._fire(deed)
        elif isinstance(deed, HushDeed):
            self._hush(deed)
        elif isinstance(deed, GlideDeed):
            self._glide(deed)
        first.addStretch(1)
        out = QPushButton("×")
        out.setFixedWidth(36)
        out.setAccessibleName("remove this deed")
        out.setToolTip("The pad does this no more")
        out.clicked.connect(self.removed)
        first.addWidget(out)

    def _new_row(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(4)
        self._column.addLayout(row)
        return row

    def _word(self, text: str) -> None:
        self._row.addWidget(soft(text))

    def _box(
        self, name: str, options: Sequence[tuple[str, str]], now: str, make: Callable[[str], Deed]
    ) -> None:
        box = QComboBox()
        box.setAccessibleName(name)
        box.setMaximumWidth(WIDE)
        box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        box.setMinimumContentsLength(2)
        for value, words in options:
            box.addItem(words, value)
        box.setCurrentIndex(box.findData(now))
        box.activated.connect(lambda index: self.changed.emit(make(box.itemData(index))))
        self._row.addWidget(box, 10)

    def _seconds(self, name: str, now: float, make: Callable[[float], Deed]) -> None:
        field = QuantityField(name, time(self._units))
        field.setFixedWidth(NARROW)
        field.set_value(now)
        field.chosen.connect(lambda value: self.changed.emit(make(value)))
        self._row.addWidget(field)

    def _sounds(self) -> list[tuple[str, str]]:
        return [(made.id, made.label) for made in self._project.all_placeables()]

    def _fire(self, deed: Fire) -> None:
        self._word("fires")
        self._box("sound", self._sounds(), deed.sound, lambda x: replace(deed, sound=x))
        self._box(
            "if sounding", IF_SOUNDING, deed.if_sounding,
            lambda x: replace(deed, if_sounding=x),
        )  # fmt: skip
        if deed.if_sounding in ("restart", "queue"):
            self._row = self._new_row()
        if deed.if_sounding == "restart":
            self._word("handing over in")
            self._seconds("hand over", deed.hand_over, lambda x: replace(deed, hand_over=x))
        if deed.if_sounding == "queue":
            self._word("with a gap of")
            self._seconds("gap", deed.gap, lambda x: replace(deed, gap=x))
        if self._column.count() > 1:
            self._row.addStretch(1)

    def _hush(self, deed: HushDeed) -> None:
        self._word("silences")

        def aimed(target: str) -> Deed:
            sound = deed.sound or next(iter(self._sounds()), ("", ""))[0]
            return replace(deed, target=target, sound=sound if target == "sound" else None)

        options = HUSHES if self._sounds() else [HUSHES[0], HUSHES[2]]
        self._box("silences", options, deed.target, aimed)
        if deed.target == "sound":
            sound = deed.sound or ""
            self._box("sound", self._sounds(), sound, lambda x: replace(deed, sound=x))
        self._word("over")
        self._seconds("fade", deed.fade, lambda x: replace(deed, fade=x))

    def _glide(self, deed: GlideDeed) -> None:
        self._word("moves")
        values = [(value.id, value.label) for value in self._project.values]
        self._box("value", values, deed.value, lambda x: replace(deed, value=x))
        self._word("to")
        field = QLineEdit("" if deed.to is None else shown(deed.to))
        field.setPlaceholderText("its line")
        field.setToolTip("A number; empty is back to its line")
        field.setAccessibleName("to")
        field.setFixedWidth(NARROW)

        def entered() -> None:
            text = field.text().strip()
            try:
                to = read(text) if text else None
            except ValueError:
                field.setText("" if deed.to is None else shown(deed.to))
                return
            if to != deed.to:
                self.changed.emit(replace(deed, to=to))

        field.editingFinished.connect(entered)
        self._row.addWidget(field)
        self._word("over")
        self._seconds("over", deed.over, lambda x: replace(deed, over=x))


def deed_text(deed: Deed, project: Project) -> str:
    """What a deed is, as a part of a sentence."""
    if isinstance(deed, Fire):
        words = dict(IF_SOUNDING)[deed.if_sounding]
        return f"fires {project.placeable(deed.sound).label}, {words}"
    if isinstance(deed, HushDeed):
        what = dict(HUSHES)[deed.target]
        if deed.sound is not None and deed.target == "sound":
            what = project.placeable(deed.sound).label
        return f"silences {what}" + (f" over {shown(deed.fade)} s" if deed.fade else "")
    if isinstance(deed, GlideDeed):
        to = "back to its line" if deed.to is None else f"to {shown(deed.to)}"
        name = project.value(deed.value).label
        return f"moves {name} {to}" + (f" over {shown(deed.over)} s" if deed.over else "")
    assert isinstance(deed, GoOn)
    return f"lets the picture go on {dict(WHEN)[deed.when]}"
