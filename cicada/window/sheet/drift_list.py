"""What runs ahead of the picture on a pretended slow machine, listed and gone to."""

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from cicada.core.drift import Drift, Lateness, drifts
from cicada.core.timebase import seconds_to_samples
from cicada.deliver.drift_report import as_csv, as_json
from cicada.disk.writing import whole_file, write_all
from cicada.errors import CicadaError
from cicada.jobs.slowest import find_slowest
from cicada.window.sheet.going_about import GoingAbout
from cicada.window.state.conditions import Conditions
from cicada.window.state.jobs import Job, Jobs
from cicada.window.state.planning import Planning
from cicada.window.state.session import Session
from cicada.window.widgets.asking import Asking
from cicada.window.widgets.fields import QuantityField, time
from cicada.window.widgets.rows import soft
from cicada.window.words.drift import (
    drift_sentence,
    limit_sentence,
    steps_text,
    tolerance_of,
    tolerance_text,
)
from cicada.window.words.quantities import TimeUnits, count

if TYPE_CHECKING:
    from cicada.window.sheet.drift_plot import DriftPlot

VOICE = Qt.ItemDataRole.UserRole
KINDS = "Text (*.txt);;Table (*.csv);;JSON (*.json)"


class DriftList(QDialog):
    """Each sound that is ahead, the farthest first; choosing one goes to where that is seen."""

    def __init__(
        self,
        parent: QWidget,
        session: Session,
        planning: Planning,
        conditions: Conditions,
        going_about: GoingAbout,
        jobs: Jobs,
        asking: Asking,
    ) -> None:
        super().__init__(parent)
        self._session, self._planning, self._jobs = session, planning, jobs
        self._conditions = conditions
        self._plot: DriftPlot | None = None
        self._job: Job | None = None
        self._asked = 0
        self._going_about, self._asking = going_about, asking
        self._found: list[Drift] = []
        self.setWindowTitle("Ahead of the picture")
        self.resize(640, 560)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 14, 16, 14)
        self.list = QListWidget()
        self.list.setWordWrap(True)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setAccessibleName("Sounds that run ahead of the picture")
        self.halves = QSplitter(Qt.Orientation.Vertical)
        self.halves.addWidget(self.list)
        column.addWidget(self.halves, 1)
        self.limit = QLabel()
        self.limit.setWordWrap(True)
        self.limit.hide()
        column.addWidget(self.limit)
        row = QHBoxLayout()
        row.addWidget(soft("It counts from"))
        self.tolerance = QuantityField(
            "what counts as ahead", time(self._units, "1 f, 40 ms; 0 s: any")
        )
        self.tolerance.setFixedWidth(150)
        self.tolerance.chosen.connect(self._tolerate)
        row.addWidget(self.tolerance)
        row.addWidget(soft("on"))
        row.addStretch(1)
        self.over_time = QPushButton("Over time")
        self.over_time.setCheckable(True)
        self.over_time.setAutoDefault(False)
        self.over_time.setToolTip("Draw how each gets ahead; a click on a curve goes there")
        self.over_time.toggled.connect(self._show_plot)
        row.addWidget(self.over_time)
        column.addLayout(row)
        row = QHBoxLayout()
        self.note = QLabel()
        self.note.setObjectName("soft")
        self.note.setWordWrap(True)
        row.addWidget(self.note, 1)
        self.save = QPushButton("Save the list…")
        self.save.setAutoDefault(False)
        self.save.clicked.connect(self._save)
        self.how_slow = QPushButton("How slow may it be?")
        self.how_slow.setToolTip("Find the slowest machine on which no sound is too far ahead")
        self.how_slow.setAutoDefault(False)
        self.how_slow.clicked.connect(self._find)
        row.addWidget(self.how_slow)
        row.addWidget(self.save)
        column.addLayout(row)
        # Not the current one, which the first becomes as the list is shown.
        self.list.itemSelectionChanged.connect(self._go)
        planning.planned.connect(self._refresh)
        conditions.tolerance_changed.connect(self._refresh)
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
            item = QListWidgetItem(drift_sentence(drift, project, plan, self._tolerated))
            item.setData(VOICE, drift)
            item.setToolTip(steps_text(drift, lateness, project))
            self.list.addItem(item)
            if drift.voice.key == key:
                self.list.setCurrentItem(item)
        self.list.blockSignals(False)
        tolerance = tolerance_of(project, self._tolerated)
        self.tolerance.set_value(round(tolerance / project.rate, 6))
        far = sum(drift.last > tolerance for drift in self._found)
        much = tolerance_text(project, self._tolerated)
        self.note.setText(
            f"{count(len(self._found), 'sound')} ahead, {far} of them by more than {much}."
            if self._found
            else "Nothing runs ahead of the picture on this machine."
            if self._planning.run.draw_time
            else "No slow machine is pretended: choose one under Play, Draw time."
        )
        self.save.setEnabled(bool(self._found))
        self._draw_plot()

    # -- what counts, and over time ------------------------------------------------------------

    @property
    def _tolerated(self) -> float | None:
        return self._conditions.tolerance

    def _units(self) -> TimeUnits:
        return TimeUnits(self._planning.project.timebase.fps)

    def _tolerate(self, seconds: float) -> None:
        project = self._planning.project
        own = seconds_to_samples(seconds, project.rate) == tolerance_of(project)
        self._conditions.tolerate(None if own else seconds)

    def _show_plot(self, on: bool) -> None:  # noqa: FBT001 - as Qt calls it
        """Show or hide the plot, which is loaded when it is first shown."""
        if on and self._plot is None:
            from cicada.window.sheet.drift_plot import DriftPlot

            self._plot = DriftPlot()
            self._plot.chosen.connect(self._go_to_picture)
            self.halves.addWidget(self._plot)
            self.halves.setSizes([200, 260])
        if self._plot is not None:
            self._plot.setVisible(on)
        self._draw_plot()

    def _draw_plot(self) -> None:
        if self._plot is None or not self.over_time.isChecked():
            return
        plan, project = self._planning.plan, self._planning.project
        chosen = self.list.selectedItems()
        drift = chosen[0].data(VOICE) if chosen else None
        self._plot.show_drifts(self._found, plan, tolerance_of(project, self._tolerated), drift)

    def _go_to_picture(self, drift: Drift, at: int) -> None:
        """A point of a curve was clicked."""
        self.list.blockSignals(True)
        for row in range(self.list.count()):
            item = self.list.item(row)
            if item.data(VOICE).voice.key == drift.voice.key:
                self.list.setCurrentItem(item)
        self.list.blockSignals(False)
        self._draw_plot()
        self._show_picture(at)

    # -- going there ---------------------------------------------------------------------------

    def _go(self) -> None:
        chosen = self.list.selectedItems()
        if not chosen:
            return
        drift: Drift = chosen[0].data(VOICE)
        seen = drift.beyond(tolerance_of(self._planning.project, self._tolerated))
        self._draw_plot()
        self._show_picture(int(drift.ats[-1]) if seen is None else seen)

    def _show_picture(self, at: int) -> None:
        """Go to the picture that is shown at a run sample."""
        visit, frame, _ = self._planning.plan.frame_at(at)
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

        asked, tolerated = self._asked, self._tolerated

        def over(sentence: str) -> None:
            # Whoever has closed the list, or asked anew, is told nothing more.
            if asked == self._asked:
                self._job = None
                self.how_slow.setEnabled(True)
                self.limit.setText(sentence)

        self._job = self._jobs.run(
            find_slowest, project, run, tolerance_of(project, tolerated),
            done=lambda found: over(limit_sentence(found, self._session.cell, project, tolerated)),
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
        sentences = [drift_sentence(x, project, plan, self._tolerated) for x in self._found]
        return "".join(f"{sentence}\n" for sentence in sentences)
