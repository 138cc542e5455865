"""The top of the window: the film's name, the menus, the scenes, and what looks wrong."""

from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QHBoxLayout, QLabel, QMenu, QMenuBar, QPushButton, QWidget

from cicada.core.checks import Finding
from cicada.core.editing import Cell
from cicada.window.drawing import theme
from cicada.window.sheet.scene_tabs import SceneTabs
from cicada.window.state.planning import Planning
from cicada.window.state.session import Session
from cicada.window.widgets.menus import pop_up


class Top(QWidget):
    """One row over everything."""

    def __init__(
        self, session: Session, planning: Planning, menu_bar: QMenuBar, scenes: SceneTabs
    ) -> None:
        super().__init__()
        self._session, self._document, self._planning = session, session.document, planning
        self.setFixedHeight(38)
        row = QHBoxLayout(self)
        row.setContentsMargins(18, 0, 16, 0)
        row.setSpacing(8)
        self.title = QLabel()
        self.title.setFont(theme.font(15, 600))
        row.addWidget(self.title)
        menu_bar.setNativeMenuBar(False)
        menu_bar.setFixedHeight(28)
        row.addWidget(menu_bar, 0, Qt.AlignmentFlag.AlignVCenter)
        row.addSpacing(10)
        row.addWidget(scenes, 1, Qt.AlignmentFlag.AlignBottom)
        self.checks = QPushButton()
        self.checks.setObjectName("checks")
        self.checks.clicked.connect(self._show_findings)
        row.addWidget(self.checks)
        self._document.changed.connect(self._show_title)
        planning.checked.connect(self._show_checks)
        self._show_title()
        self._show_checks()

    def _show_title(self) -> None:
        self.title.setText(self._document.name)

    def _show_checks(self) -> None:
        number = len(self._planning.findings)
        self.checks.setText(f"Checks: {number}" if number else "Checks: all well")
        self.checks.setProperty("quiet", number == 0)
        self.checks.style().unpolish(self.checks)
        self.checks.style().polish(self.checks)

    def _show_findings(self) -> None:
        menu = QMenu(self)
        for finding in self._planning.findings:
            action = menu.addAction(finding.sentence)
            action.triggered.connect(lambda _=False, finding=finding: self._go_to(finding))
        if not self._planning.findings:
            menu.addAction("Nothing looks wrong.").setEnabled(False)
        pop_up(menu, self.checks.mapToGlobal(QPoint(0, self.checks.height())))

    def _go_to(self, finding: Finding) -> None:
        if finding.scene and finding.frame is not None:
            self._session.go_to(finding.scene, Cell(finding.layer, finding.frame))
