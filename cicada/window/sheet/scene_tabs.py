"""The scenes as tabs on the sheet's edge: chosen, named, ordered and added there."""

from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QTabBar, QToolButton, QWidget

from cicada.core.scene_edits import ChangeScene, MoveScene
from cicada.window.state.session import Session
from cicada.window.widgets.fields import NameField


class SceneTabs(QWidget):
    """Follows the project's scenes and edits their order and names."""

    menu_wanted = Signal(QPoint)
    add_wanted = Signal()
    # A name has been typed, or left as it was.
    named = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session, self._document = session, session.document
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(2)
        self.bar = QTabBar()
        self.bar.setObjectName("scenes")
        self.bar.setDrawBase(False)
        self.bar.setExpanding(False)
        self.bar.setMovable(True)
        self.bar.setUsesScrollButtons(True)
        self.bar.setAccessibleName("Scenes")
        self.bar.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        row.addWidget(self.bar, 0, Qt.AlignmentFlag.AlignBottom)
        self.add = QToolButton()
        self.add.setObjectName("add")
        self.add.setText("+")
        self.add.setToolTip("Add a scene behind this one (Ctrl+Ins)")
        self.add.setAccessibleName("Add a scene")
        self.add.clicked.connect(self.add_wanted)
        row.addWidget(self.add, 0, Qt.AlignmentFlag.AlignVCenter)
        row.addStretch(1)
        self.setFocusProxy(self.bar)
        self._ids: list[str] = []
        self.name_field: NameField | None = None
        # All places a tab passes while it is dragged are one step.
        self._drag = object()
        self.bar.tabBarClicked.connect(self._begin_drag)
        self.bar.currentChanged.connect(self._choose)
        self.bar.tabMoved.connect(self._moved)
        self.bar.tabBarDoubleClicked.connect(lambda _: self.rename())
        self.bar.customContextMenuRequested.connect(self._menu)
        session.scene_changed.connect(self._mark)
        self._document.changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show the scenes as they are."""
        scenes = self._document.project.scenes
        names = [scene.label for scene in scenes]
        self._ids = [scene.id for scene in scenes]
        self.bar.blockSignals(True)
        while self.bar.count() > len(names):
            self.bar.removeTab(self.bar.count() - 1)
        for index, name in enumerate(names):
            if index >= self.bar.count():
                self.bar.addTab(name)
            elif self.bar.tabText(index) != name:
                self.bar.setTabText(index, name)
        self.bar.blockSignals(False)
        self.bar.updateGeometry()
        self._mark()

    def _mark(self) -> None:
        if self._session.scene_id in self._ids:
            self.bar.blockSignals(True)
            self.bar.setCurrentIndex(self._ids.index(self._session.scene_id))
            self.bar.blockSignals(False)

    def _choose(self, index: int) -> None:
        if 0 <= index < len(self._ids):
            self._session.show_scene(self._ids[index])

    def _begin_drag(self) -> None:
        self._drag = object()

    def _moved(self, before: int, after: int) -> None:
        # The bar has moved its tab already; the project follows, and the bar is read from that.
        self._document.do(MoveScene(scene=self._ids[before], to=after), joins=self._drag)
        self.refresh()

    def _menu(self, at: QPoint) -> None:
        index = self.bar.tabAt(at)
        if index >= 0:
            self._choose(index)
        self.menu_wanted.emit(self.bar.mapToGlobal(at))

    def rename(self) -> None:
        """Let the name of the scene shown be typed in place."""
        index = self.bar.currentIndex()
        scene = self._session.scene
        place = self.bar.tabRect(index).translated(self.bar.pos()).adjusted(2, 2, 24, -1)
        self.name_field = NameField(scene.label, "Scene name", self, place)
        self.name_field.left.connect(self.named)
        self.name_field.named.connect(
            lambda name: self._document.do(ChangeScene(scene=scene.id, changes={"name": name}))
        )
