"""New project and project settings: frame rate, length, sample rate, first frame number."""

from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QFormLayout,
    QLabel,
    QLineEdit,
    QVBoxLayout,
    QWidget,
)

from cicada.core.model import MAX_LENGTH, Project, Scene
from cicada.core.timebase import fps_text, parse_fps
from cicada.window.widgets.asking import do_or_leave
from cicada.window.words.quantities import TimeUnits, parse_frames, parse_whole

RATES = ("24", "25", "30", "50", "60", "12", "24000/1001", "30000/1001", "60000/1001")
SAMPLE_RATES = ("48000", "44100", "96000", "32000", "22050")


class SettingsDialog(QDialog):
    """Asks for the settings and says what each will change; the fields are read off after it."""

    def __init__(self, parent: QWidget, project: Project, scene: Scene, *, new: bool) -> None:
        super().__init__(parent)
        self._project, self._scene, self._new = project, scene, new
        self.setWindowTitle("New project" if new else "Project settings")
        column = QVBoxLayout(self)
        form = QFormLayout()
        self.name_field = QLineEdit(project.name)
        self.fps_field = QComboBox()
        self.fps_field.setEditable(True)
        self.fps_field.addItems(RATES)
        self.fps_field.setCurrentText(fps_text(project.fps))
        self.length_field = QLineEdit(str(scene.length))
        self.rate_field = QComboBox()
        self.rate_field.setEditable(True)
        self.rate_field.addItems(SAMPLE_RATES)
        self.rate_field.setCurrentText(str(project.rate))
        self.first_field = QLineEdit(str(project.first_frame))
        named = "Length in frames" if len(project.scenes) == 1 else f"Frames of {scene.label}"
        for label, field in (
            ("Name", self.name_field),
            ("Frames a second", self.fps_field),
            (named, self.length_field),
            ("Samples a second", self.rate_field),
            ("First frame's number", self.first_field),
        ):
            form.addRow(label, field)
        column.addLayout(form)
        self.says = QLabel()
        self.says.setWordWrap(True)
        self.says.setMinimumWidth(380)
        column.addWidget(self.says)
        row, self.verb = do_or_leave(self, "Begin the project" if new else "Change the settings")
        column.addLayout(row)
        self.fps_field.currentTextChanged.connect(self._say)
        self.rate_field.currentTextChanged.connect(self._say)
        self.length_field.textChanged.connect(self._say)
        self.first_field.textChanged.connect(self._say)
        self._say()

    def _say(self) -> None:
        """What will change, or what cannot be read."""
        try:
            num, den = self.fps
            rate, length = self.rate, self.length
            _ = self.first_frame
        except ValueError as error:
            self.says.setText(str(error))
            self.says.setObjectName("wrong")
            self.verb.setEnabled(False)
            return
        finally:
            self.says.style().unpolish(self.says)
        self.verb.setEnabled(True)
        self.says.setObjectName("soft")
        others = sum(s.length for s in self._project.scenes) - self._scene.length
        frames = others + length
        text = f"The film lasts {frames * den / num:.2f} s."
        if not self._new and (num, den) != self._project.fps:
            was_num, was_den = self._project.fps
            was = sum(s.length for s in self._project.scenes) * was_den / was_num
            text = (
                f"Keyframes stay on their frames; the film lasts {frames * den / num:.2f} s "
                f"instead of {was:.2f} s. To keep seconds, use Project, Frame rate…"
            )
        if not self._new and rate != self._project.rate:
            text += " All sounds are converted to the new rate."
            pressed = sum(len(r.inputs) + len(r.presses) for r in self._project.runs)
            if pressed:
                text += f" {pressed} presses and moves that are kept stay at their times."
        beyond = [
            k.frame for layer in self._scene.layers for k in layer.keyframes if k.frame >= length
        ]
        if beyond:
            text += f" {len(beyond)} keyframes past the new end are kept but do nothing."
        self.says.setText(text)

    @property
    def fps(self) -> tuple[int, int]:
        """The frame rate typed; raises ``ValueError``."""
        return parse_fps(self.fps_field.currentText())

    @property
    def rate(self) -> int:
        """The sample rate typed; raises ``ValueError``."""
        text = self.rate_field.currentText().strip()
        if not text.isdigit() or not 8000 <= int(text) <= 192_000:
            raise ValueError("a sample rate is a whole number from 8000 to 192000")
        return int(text)

    @property
    def length(self) -> int:
        """The number of frames typed; raises ``ValueError``."""
        num, den = self.fps
        value = parse_frames(self.length_field.text(), TimeUnits(num / den))
        if not 1 <= value <= MAX_LENGTH:
            raise ValueError(f"a scene has 1 to {MAX_LENGTH} frames")
        return value

    @property
    def first_frame(self) -> int:
        """The first frame's number as typed; raises ``ValueError``."""
        return int(parse_whole(self.first_field.text()))
