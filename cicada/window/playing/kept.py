"""What was pressed in the last run: kept by name, played again, forgotten."""

from PySide6.QtWidgets import QComboBox, QHBoxLayout, QPushButton, QWidget

from cicada.core.answer_edits import ForgetRun, KeepRun
from cicada.core.model import KeptRun, Run
from cicada.core.naming import free_name
from cicada.window.state.conditions import Conditions
from cicada.window.state.session import Session
from cicada.window.widgets.asking import Asking, some_words
from cicada.window.widgets.rows import soft


def as_kept(run: Run, name: str) -> KeptRun:
    """A run under a name."""
    fields = {field: getattr(run, field) for field in run.__struct_fields__}
    return KeptRun(name=name, **fields)


class KeptRow(QWidget):
    """Says how much was pressed in the last run, and offers what is kept."""

    def __init__(self, session: Session, conditions: Conditions, asking: Asking) -> None:
        super().__init__()
        self._session, self._conditions, self._asking = session, conditions, asking
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 2, 0, 0)
        row.setSpacing(6)
        self.said = soft("")
        row.addWidget(self.said, 1)
        self.keep = QPushButton("Keep it…")
        self.keep.setToolTip("Keep what was pressed, to be played again exactly")
        self.keep.clicked.connect(self.keep_run)
        row.addWidget(self.keep)
        self.kept = QComboBox()
        self.kept.setAccessibleName("what was kept")
        self.kept.setMaximumWidth(140)
        row.addWidget(self.kept)
        self.again = QPushButton("Show")
        self.again.setToolTip("Draw it on the sheet; Space plays it as it was pressed")
        self.again.clicked.connect(self._show_kept)
        row.addWidget(self.again)
        self.forget = QPushButton("Forget")
        self.forget.clicked.connect(self._forget)
        row.addWidget(self.forget)
        conditions.changed.connect(self.refresh)
        session.document.changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show what there is."""
        live, runs = self._conditions.live, self._session.document.project.runs
        number = 0 if live is None else len(live.inputs)
        self.said.setText(f"{number} pressed in this run" if number else "")
        self.keep.setVisible(number > 0)
        names = [run.name for run in runs]
        if names != [self.kept.itemText(row) for row in range(self.kept.count())]:
            self.kept.clear()
            self.kept.addItems(names)
        for part in (self.kept, self.again, self.forget):
            part.setVisible(bool(names))
        self.setVisible(bool(names) or number > 0)

    def keep_run(self) -> None:
        """Ask for a name and keep what was pressed under it."""
        live = self._conditions.live
        if live is None or not live.inputs:
            return
        taken = {run.name for run in self._session.document.project.runs}
        name = self._asking.ask(
            "Keep what was pressed", "It is played again exactly, under the name:",
            free_name("Pressed", taken), "Keep it", some_words,
        )  # fmt: skip
        if name is not None:
            self._session.document.do(KeepRun(run=as_kept(live, name)))
            self.kept.setCurrentText(name)

    def chosen(self) -> KeptRun | None:
        """The one that is chosen of what is kept."""
        name = self.kept.currentText()
        return next((r for r in self._session.document.project.runs if r.name == name), None)

    def _show_kept(self) -> None:
        kept = self.chosen()
        if kept is not None:
            self._conditions.replay(kept.run())

    def _forget(self) -> None:
        kept = self.chosen()
        if kept is not None:
            self._session.document.do(ForgetRun(name=kept.name))
