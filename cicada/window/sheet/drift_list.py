"""What runs ahead of the picture on a pretended slow machine, listed and gone to."""

from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from cicada.core.drift import Drift, Lateness, drifts
from cicada.deliver.drift_report import as_csv, as_json
from cicada.disk.writing import whole_file, write_all
from cicada.errors import CicadaError
from cicada.jobs.slowest import find_slowest
from cicada.window.sheet.going_about import GoingAbout
from cicada.window.state.jobs import Job, Jobs
from cicada.window.state.planning import Planning
from cicada.window.state.session import Session
from cicada.window.widgets.asking import Asking
from cicada.window.words.drift import drift_sentence, limit_sentence, steps_text, tolerance_of
from cicada.window.words.quantities import count

VOICE = Qt.ItemDataRole.UserRole
KINDS = "Text (*.txt);;Table (*.csv);;JSON (*.json)"


class DriftList(QDialog):
    """Each sound that is ahead, the farthest first; choosing one goes to where that is seen."""

    def __init__(
        self,
        parent: QWidget,
        session: Session,
        planning: Planning,
        going_about: GoingAbout,
        jobs: Jobs,
        asking: Asking,
    ) -> None:
        super().__init__(parent)
        self._session, self._planning, self._jobs = session, planning, jobs
        self._job: Job | None = None
        self._asked = 0
        self._going_about, self._asking = going_about, asking
        self._found: list[Drift] = []
        self.setWindowTitle("Ahead of the picture")
        self.resize(560, 380)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 14, 16, 14)
        self.list = QListWidget()
        self.list.setWordWrap(True)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setAccessibleName("Sounds that run ahead of the picture")
        column.addWidget(self.list, 1)
        self.limit = QLabel()
        self.limit.setWordWrap(True)
        self.limit.hide()
        column.addWidget(self.limit)
        row = QHBoxLayout()
        self.note = QLabel()
        self.note.setObjectName("soft")
        self.note.setWordWrap(True)
        row.addWidget(self.note, 1)
        self.save = QPushButton("Save the list…")
        self.save.setAutoDefault(False)
        self.save.clicked.connect(self._save)
        self.how_slow = QPushButton("How slow may it be?")
        self.how_slow.setToolTip("Find the slowest machine on which no sound is ahead by a frame")
        self.how_slow.setAutoDefault(False)
        self.how_slow.clicked.connect(self._find)
        row.addWidget(self.how_slow)
        row.addWidget(self.save)
        column.addLayout(row)
        # Not the current one, which the first becomes as the list is shown.
        self.list.itemSelectionChanged.connect(self._go)
        planning.planned.connect(self._refresh)
        self.finished.connect(self._stop)
        self._refresh()

    def _refresh(self) -> None:
        """List those of the plan that is drawn."""
        plan, project = self._planning.plan, self._planning.project
        lateness = Lateness(plan)
        slow = any(stretch.late for stretch in plan.stretches)
        self._found = [drift for drift in drifts(plan) if drift.last] if slow else []
        key = next((item.data(VOICE).voice.key for item in self.list.selectedItems()), None)
        self.list.blockSignals(True)
        self.list.clear()
        for drift in sorted(self._found, key=lambda drift: -drift.last):
            item = QListWidgetItem(drift_sentence(drift, project, plan))
            item.setData(VOICE, drift)
            item.setToolTip(steps_text(drift, lateness, project))
            self.list.addItem(item)
            if drift.voice.key == key:
                self.list.setCurrentItem(item)
        self.list.blockSignals(False)
        far = sum(drift.last > tolerance_of(project) for drift in self._found)
        self.note.setText(
            f"{count(len(self._found), 'sound')} ahead, {far} of them by more than a frame."
            if self._found
            else "Nothing runs ahead of the picture on this machine."
            if self._planning.run.draw_time
            else "No slow machine is pretended: choose one under Play, Draw time."
        )
        self.save.setEnabled(bool(self._found))

    def _go(self) -> None:
        chosen = self.list.selectedItems()
        if not chosen:
            return
        drift: Drift = chosen[0].data(VOICE)
        plan, project = self._planning.plan, self._planning.project
        seen = drift.beyond(tolerance_of(project))
        visit, frame, _ = plan.frame_at(int(drift.ats[-1]) if seen is None else seen)
        if any(scene.id == visit.scene for scene in self._session.document.project.scenes):
            self._session.show_scene(visit.scene)
            self._going_about.go_to(frame)

    # -- the slowest machine -------------------------------------------------------------------

    def _find(self) -> None:
        """Try one draw time after the other, beside the window."""
        planning = self._planning
        project, run = planning.project, planning.run
        self._stop()
        self.how_slow.setEnabled(False)
        self.limit.setText("Trying slower and slower machines…")
        self.limit.show()

        asked = self._asked

        def over(sentence: str) -> None:
            # Whoever has closed the list, or asked anew, is told nothing more.
            if asked == self._asked:
                self._job = None
                self.how_slow.setEnabled(True)
                self.limit.setText(sentence)

        self._job = self._jobs.run(
            find_slowest, project, run, tolerance_of(project),
            done=lambda found: over(limit_sentence(found, self._session.cell, project)),
            failed=over,
        )  # fmt: skip

    def _stop(self) -> None:
        self._asked += 1
        if self._job is not None:
            self._job.cancel()
            self._job = None

    def _save(self) -> None:
        path = self._asking.file_to_write("Save the list", KINDS, ".txt")
        if path is None:
            return
        try:
            with whole_file(path) as made:
                write_all(made.file, self._written(path).encode())
        except CicadaError as error:
            self._going_about.notices.tell(str(error))

    def _written(self, path: Path) -> str:
        if path.suffix.lower() == ".csv":
            return as_csv(self._found)
        if path.suffix.lower() == ".json":
            return as_json(self._found) + "\n"
        plan, project = self._planning.plan, self._planning.project
        return "".join(f"{drift_sentence(drift, project, plan)}\n" for drift in self._found)
