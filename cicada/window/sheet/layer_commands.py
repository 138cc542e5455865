"""The Layer menu: layers added, named, ordered, removed and switched."""

from PySide6.QtWidgets import QMenu

from cicada.core.answer_edits import FollowValue
from cicada.core.answers import Follows, Value
from cicada.core.editing import Cell
from cicada.core.layer_edits import AddLayer, DuplicateLayer, MoveLayer, RemoveLayer
from cicada.core.model import Layer
from cicada.core.naming import free_id
from cicada.window.sheet.sheet import Sheet
from cicada.window.state.arranging import Arranging
from cicada.window.state.notices import Notices
from cicada.window.widgets.actions import Action
from cicada.window.widgets.asking import Asking
from cicada.window.words.answers import parse_points, ways_to_follow
from cicada.window.words.numbers import shown
from cicada.window.words.quantities import begun, count


class LayerCommands:
    """What is done to the chosen layer."""

    def __init__(
        self, sheet: Sheet, arranging: Arranging, asking: Asking, notices: Notices
    ) -> None:
        self.sheet, self.arranging, self.notices = sheet, arranging, notices
        self.asking = asking
        self.document, self.session = sheet.document, sheet.session

    def entries(self) -> list[Action | None]:
        """The entries of the Layer menu."""
        switch = self.arranging.switch_layer
        return [
            ("add_layer", "Add a layer", "Ctrl+L", self.add_layer),
            ("rename_layer", "Rename", "Ctrl+E", self.rename_layer),
            ("duplicate_layer", "Duplicate", "Shift+D", self.duplicate_layer),
            ("layer_up", "Move up", "Ctrl+Up", lambda: self.move_layer(-1)),
            ("layer_down", "Move down", "Ctrl+Down", lambda: self.move_layer(1)),
            ("remove_layer", "Remove", "Ctrl+Shift+L", self.remove_layer),
            None,
            ("mute", "Mute, or not", "X", lambda: switch("mute")),
            ("solo", "Solo, or not", "S", lambda: switch("solo")),
            ("guard", "Guard, or not", "G", lambda: switch("guarded")),
            ("layer_off", "Switch off, or on", "Shift+O", lambda: switch("off")),
            ("past_scene", "Ring past the scene, or not", "Shift+S", lambda: switch("past_scene")),
        ]

    def add_layer(self) -> None:
        """Add a layer below the chosen one, or at the bottom."""
        project, layers = self.document.project, self.session.scene.layers
        taken = {layer.name for layer in layers}
        number = next(n for n in range(1, len(layers) + 2) if f"Layer {n}" not in taken)
        new = Layer(id=free_id("l", project), name=f"Layer {number}", keyframes=())
        chosen = self.session.layer()
        index = None if chosen is None else layers.index(chosen) + 1
        if self.document.do(AddLayer(scene=self.session.scene_id, layer=new, index=index)):
            self.session.choose(Cell(new.id, self.session.playhead))

    def rename_layer(self) -> None:
        """Type another name for the chosen layer."""
        layer = self._layer()
        if layer is not None:
            self.sheet.rename_layer(layer)

    def duplicate_layer(self) -> None:
        """Put a copy of the chosen layer below it."""
        layer = self._layer()
        if layer is not None:
            self.document.do(DuplicateLayer(layer=layer.id))

    def move_layer(self, by: int) -> None:
        """Move the chosen layer up or down."""
        layer = self._layer()
        if layer is not None:
            to = self.session.scene.layers.index(layer) + by
            if 0 <= to < len(self.session.scene.layers):
                self.document.do(MoveLayer(layer=layer.id, to=to))
            else:
                self.notices.say(f"It is the {'lowest' if by > 0 else 'top'} layer already.")

    def remove_layer(self) -> None:
        """Remove the chosen layer."""
        layer = self._layer()
        if layer is not None and self.document.do(RemoveLayer(layer=layer.id)):
            held = count(len(layer.keyframes), "keyframe")
            self.notices.say(
                f"The layer {layer.name} is removed, with {held}; Ctrl+Z brings it back."
            )

    def follow_menu(self, menu: QMenu) -> None:
        """What the chosen layer's level may follow."""
        menu.clear()
        layer, project = self.session.layer(), self.document.project
        for words, follows in ways_to_follow(project):
            action = menu.addAction(begun(words))
            action.setCheckable(True)
            action.setChecked(layer is not None and layer.follows == follows)
            action.triggered.connect(lambda _=False, follows=follows: self._follow(follows))
        menu.addSeparator()
        for value in project.values:
            action = menu.addAction(f"{value.label}: other levels…")
            action.triggered.connect(lambda _=False, value=value: self.follow_by_points(value))

    def _follow(self, follows: Follows | None) -> None:
        layer = self._layer()
        if layer is not None:
            self.document.do(FollowValue(layer=layer.id, follows=follows))

    def follow_by_points(self, value: Value) -> None:
        """Ask at which numbers of a value the chosen layer is how loud."""
        layer = self._layer()
        if layer is None:
            return
        text = f"{shown(value.low)} 0 %; {shown(value.high)} 100 %"
        now = layer.follows
        if now is not None and now.value == value.id and now.points:
            text = "; ".join(f"{shown(at)} {round(100 * gain, 2):g} %" for at, gain in now.points)
        points = self.asking.ask(
            f"Follow {value.label}", "Its numbers, each with a level:", text, "Follow it so",
            parse_points,
        )  # fmt: skip
        if points is not None:
            self._follow(Follows(value=value.id, points=points))

    def _layer(self) -> Layer | None:
        layer = self.session.layer()
        if layer is None:
            self.notices.say("Choose a layer first.")
        return layer
