"""Work that is waited for: how far it is, and a way to stop it."""

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QProgressDialog, QWidget

from cicada.window.state.jobs import Job

LOOK, AT_ONCE = 50, 300


class Progressing:
    """Shows how far a job is, once it takes long enough to be noticed."""

    def __init__(self, parent: QWidget, text: str) -> None:
        self._dialog = QProgressDialog(text, "Cancel", 0, 1000, parent)
        self._dialog.setWindowModality(Qt.WindowModality.WindowModal)
        self._dialog.setMinimumDuration(AT_ONCE)
        self._timer = QTimer(self._dialog)

    def follow(self, job: Job) -> None:
        """Show this job from now on."""
        self._timer.timeout.connect(lambda: self._dialog.setValue(round(job.share * 999)))
        self._timer.start(LOOK)
        self._dialog.canceled.connect(job.cancel)

    def close(self) -> None:
        """It is over."""
        self._timer.stop()
        self._dialog.reset()
        self._dialog.deleteLater()
