"""Another frame rate: what it does is listed and drawn before it happens."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QScrollArea,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from cicada.core.editing import Edit
from cicada.core.frame_rate import KeepSeconds, Kept, keep_frames, keep_seconds
from cicada.core.model import Project
from cicada.core.plan import Plan
from cicada.core.planner import plan
from cicada.core.scene_edits import ChangeProject
from cicada.core.timebase import fps_text, parse_fps
from cicada.errors import BadEdit
from cicada.window.frame.before_after import BeforeAfter, Side
from cicada.window.frame.settings_dialog import RATES
from cicada.window.sheet.sheet import Sheet
from cicada.window.state.beside import Beside, Post
from cicada.window.state.planning import Planning
from cicada.window.widgets.asking import do_or_leave
from cicada.window.widgets.choice import Choice
from cicada.window.widgets.rows import soft
from cicada.window.words.frame_rate import shift_sentence, shifts_summary
from cicada.window.words.quantities import begun

KEEP = [
    ("seconds", "Seconds", "Everything stays at its moment, on the frame nearest to it"),
    ("frames", "Frames", "Everything stays on its frame and comes sooner or later by that"),
]
# So many shifts are listed one by one.
LISTED = 500
SHIFT = Qt.ItemDataRole.UserRole


class FrameRateDialog(QDialog):
    """Asks for the rate and what is kept; ``edit`` is read off after it."""

    def __init__(self, parent: QWidget, planning: Planning, sheet: Sheet, scene: str) -> None:
        super().__init__(parent)
        self._project, self._scene = planning.settled, scene
        self._before: Side | None = None
        self._kept: Kept | None = None
        self._after: Side | None = None
        self._beside = Beside("frame-rate", self._planned)
        self.setWindowTitle("Frame rate")
        self.resize(980, 600)
        column = QVBoxLayout(self)
        column.setContentsMargins(18, 14, 18, 14)
        column.setSpacing(8)
        row = QHBoxLayout()
        row.addWidget(soft(f"from {fps_text(self._project.fps)} to"))
        self.fps_field = QComboBox()
        self.fps_field.setEditable(True)
        self.fps_field.setAccessibleName("Frames a second")
        self.fps_field.addItems(RATES)
        self.fps_field.setCurrentText(fps_text(self._project.fps))
        row.addWidget(self.fps_field)
        row.addWidget(soft("frames a second, and keep"))
        self.keep = Choice("what is kept", KEEP)
        self.keep.set_value("frames")
        self.keeps = "frames"
        self.keep.chosen.connect(self._choose)
        row.addWidget(self.keep)
        self.by_delay = QCheckBox("Free clips wait for their very moment")
        self.by_delay.setToolTip("They stand on the frame before it and get a delay")
        self.by_delay.toggled.connect(self._look)
        row.addWidget(self.by_delay)
        row.addStretch(1)
        column.addLayout(row)
        self.says = QLabel()
        self.says.setWordWrap(True)
        column.addWidget(self.says)
        self.drawn = BeforeAfter(sheet.view_now)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setWidget(self.drawn)
        self.list = QListWidget()
        self.list.setAccessibleName("What shifts")
        self.list.itemSelectionChanged.connect(self._go)
        halves = QSplitter(Qt.Orientation.Vertical)
        halves.addWidget(area)
        halves.addWidget(self.list)
        halves.setSizes([330, 140])
        column.addWidget(halves, 1)
        buttons, self.verb = do_or_leave(self, "Change the frame rate")
        column.addLayout(buttons)
        self.fps_field.currentTextChanged.connect(self._look)
        self._look()

    def end(self) -> None:
        """Plan no more: nobody looks any longer."""
        self._beside.close()

    def offer(self, fps: tuple[int, int]) -> None:
        """Show what a rate would do with everything kept at its moment."""
        self.fps_field.setCurrentText(fps_text(fps))
        self.keep.set_value("seconds")
        self._choose("seconds")

    def _choose(self, what: str) -> None:
        self.keeps = what
        self._look()

    @property
    def fps(self) -> tuple[int, int]:
        """The frame rate typed; raises ``ValueError``."""
        return parse_fps(self.fps_field.currentText())

    @property
    def edit(self) -> Edit:
        """What is to be done."""
        if self.keeps == "seconds":
            return KeepSeconds(fps=self.fps, by_delay=self.by_delay.isChecked())
        return ChangeProject(changes={"fps": self.fps})

    def _look(self) -> None:
        """Say, list and draw what would be."""
        self.by_delay.setEnabled(self.keeps == "seconds")
        self._kept, problem = None, ""
        try:
            fps = self.fps
            if self.keeps == "seconds":
                self._kept = keep_seconds(self._project, fps, by_delay=self.by_delay.isChecked())
            else:
                self._kept = keep_frames(self._project, fps)
        except (ValueError, BadEdit) as error:
            problem = begun(str(error))
        self.says.setObjectName("wrong" if problem else "soft")
        self.says.style().unpolish(self.says)
        self.says.setText(problem or self._words())
        self.verb.setEnabled(self._kept is not None and self.fps != self._project.fps)
        self._list()
        self._after = None
        self._draw()
        if self._kept is not None:
            self._beside.do(_plan, self._kept, None if self._before else self._project)

    def _words(self) -> str:
        assert self._kept is not None
        was, now = (_lasts(each) for each in (self._project, self._kept.project))
        film = f"The film lasts {now:.2f} s"
        film += "" if abs(was - now) < 0.005 else f" instead of {was:.2f} s"
        return f"{film}. {shifts_summary(self._kept.shifts, self._project.rate)}"

    def _list(self) -> None:
        self.list.clear()
        shifts = () if self._kept is None else self._kept.shifts
        for shift in shifts[:LISTED]:
            item = QListWidgetItem(shift_sentence(shift, self._project))
            item.setData(SHIFT, shift)
            self.list.addItem(item)
        if len(shifts) > LISTED:
            self.list.addItem(f"and {len(shifts) - LISTED} more")
        if not shifts:
            self.list.addItem("Nothing is rounded.")

    def _planned(self, kept: Kept, made: Plan, before: Plan | None) -> None:
        if before is not None:
            self._before = Side(self._project, before)
        if kept is self._kept:
            self._after = Side(kept.project, made)
            self._draw()

    def _draw(self) -> None:
        shifts = () if self._kept is None else self._kept.shifts
        self.drawn.show_sides(self._scene, self._before, self._after, shifts)

    def _go(self) -> None:
        chosen = self.list.selectedItems()
        shift = chosen[0].data(SHIFT) if chosen else None
        if shift is None:
            return
        if shift.scene != self._scene:
            self._scene = shift.scene
            self._draw()
        self.drawn.look_at(shift)


def _lasts(project: Project) -> float:
    return sum(scene.length for scene in project.scenes) * project.fps[1] / project.fps[0]


def _plan(post: Post, kept: Kept, before: Project | None) -> None:
    post(kept, plan(kept.project), None if before is None else plan(before))
