"""What the card shows where no clip is chosen: an empty frame, a hush, a rest, or nothing."""

from collections.abc import Callable, Sequence
from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QComboBox, QPushButton

from cicada.core.model import Hush, Layer, Placeable
from cicada.window.clip.options import AT_THE_PLAYHEAD, PAST_SCENE, TARGETS
from cicada.window.state.arranging import Arranging
from cicada.window.widgets.choice import Choice
from cicada.window.widgets.fields import LEVEL, PAN, QuantityField, time
from cicada.window.widgets.rows import Page, soft
from cicada.window.words.quantities import TimeUnits


def offer(box: QComboBox, sounds: Sequence[Placeable], chosen: str) -> None:
    """Offer sounds by name in a box, one of them chosen by its id ("" for none)."""
    names = [(sound.id, sound.label) for sound in sounds]
    if [(box.itemData(i), box.itemText(i)) for i in range(box.count())] != names:
        box.clear()
        for value, name in names:
            box.addItem(name, value)
    box.setCurrentIndex(box.findData(chosen))


class EmptyPage(Page):
    """A frame of a layer without a keyframe: what can be put there, and the layer's settings."""

    # A sound, by its id, is to be placed here.
    placed = Signal(str)
    # A setting of the layer, and its value.
    changed = Signal(str, object)

    def __init__(self, arranging: Arranging) -> None:
        super().__init__()
        self.sound = QComboBox()
        self.sound.setAccessibleName("sound to place")
        self.sound.setMinimumWidth(200)
        self.place_button = QPushButton("Place it here")
        self.place_button.clicked.connect(self._place)
        self.row("sound", self.sound, self.place_button)
        rest, hush = QPushButton("Rest here"), QPushButton("Hush here")
        rest.clicked.connect(arranging.put_rest)
        hush.clicked.connect(arranging.put_hush)
        self.row("or", rest, hush)
        self.level = QuantityField("layer's level", LEVEL)
        self.pan = QuantityField("layer's pan", PAN)
        for field, quantity in (("level", self.level), ("pan", self.pan)):
            quantity.setFixedWidth(126)
            quantity.chosen.connect(partial(self.changed.emit, field))
        self.row("layer", self.level, soft("pan"), self.pan)
        self.past_scene = Choice("past the scene", PAST_SCENE)
        self.past_scene.chosen.connect(lambda v: self.changed.emit("past_scene", v == "rings"))
        self.row("at its end", self.past_scene)

    def _place(self) -> None:
        if self.sound.currentData():
            self.placed.emit(self.sound.currentData())

    def fill(self, layer: Layer) -> None:
        """Show a layer's settings."""
        self.level.set_value(layer.level)
        self.pan.set_value(layer.pan)
        self.past_scene.set_value("rings" if layer.past_scene else "stops")

    def offer(self, sounds: Sequence[Placeable], chosen: str) -> None:
        """Offer sounds: the chosen one, the one offered so far, or the first."""
        first = sounds[0].id if sounds else ""
        offer(self.sound, sounds, chosen or self.sound.currentData() or first)
        self.place_button.setEnabled(bool(sounds))


class HushPage(Page):
    """What a hush silences, and over how long."""

    # Settings of the hush by their names, and what they are called.
    changed = Signal(dict, str)
    target_chosen = Signal(str)

    def __init__(self, units: Callable[[], TimeUnits], arranging: Arranging) -> None:
        super().__init__()
        self.target = Choice("silences", TARGETS)
        self.target.chosen.connect(self.target_chosen)
        self.row("silences", self.target)
        self.sound = QComboBox()
        self.sound.setAccessibleName("sound to silence")
        self.sound.activated.connect(
            lambda index: self.changed.emit({"sound": self.sound.itemData(index)}, "the hush")
        )
        self.row("sound", self.sound)
        self.fade = QuantityField("fade", time(units, "How long the fade takes"))
        self.fade.setFixedWidth(126)
        self.fade.chosen.connect(lambda value: self.changed.emit({"fade": value}, "the fade"))
        self.row("over", self.fade)
        self.row("", _clear_button(arranging))

    def fill(self, hush: Hush, sounds: Sequence[Placeable]) -> None:
        """Show a hush's settings."""
        self.target.set_value(hush.target)
        self.fade.set_value(hush.fade)
        offer(self.sound, sounds, hush.sound or "")
        self.form.setRowVisible(self.sound, hush.target == "sound")


class RestPage(Page):
    """A rest has nothing to be set."""

    def __init__(self, arranging: Arranging) -> None:
        super().__init__()
        self.row("", _clear_button(arranging))


class NothingPage(Page):
    """What can be done at the playhead while nothing is chosen."""

    # A command of the menus, by its name.
    asked = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        for name, commands in AT_THE_PLAYHEAD:
            buttons = []
            for words, command, tip in commands:
                button = QPushButton(words)
                button.setToolTip(tip)
                button.clicked.connect(lambda _=False, command=command: self.asked.emit(command))
                buttons.append(button)
            self.row(name, *buttons)


def _clear_button(arranging: Arranging) -> QPushButton:
    button = QPushButton("Clear this keyframe")
    button.clicked.connect(arranging.clear)
    return button
