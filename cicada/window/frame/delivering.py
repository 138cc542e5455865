"""Mixing the film down to a file from the window, with progress and cancel."""

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QProgressDialog

from cicada.core.model import Run
from cicada.core.planner import plan
from cicada.deliver.mixdown import Mixdown, file_format
from cicada.deliver.work import mix_down
from cicada.errors import CicadaError
from cicada.media.whole import remove_orphans
from cicada.store.sounds_folder import sound_files

if TYPE_CHECKING:
    from cicada.window.frame.main_window import MainWindow
    from cicada.window.state.jobs import Job


class Mixing:
    """The mixdown command behind the question for a file."""

    def __init__(self, window: "MainWindow") -> None:
        self.window = window

    def mix_to(self, path: Path) -> None:
        """Mix the film into a file, with progress and cancel."""
        window = self.window
        project = window.document.project
        files = sound_files(project, window.document.file)
        try:
            file_format(path, None, project.rate)
        except CicadaError as error:
            self.window.tell(str(error))
            return
        if path.resolve() in {file.resolve() for file in files.values()}:
            self.window.tell(f"{path.name} is a sound of this project; choose another name")
            return
        progress = QProgressDialog(f"Mixing {path.name}…", "Cancel", 0, 1000, window)
        progress.setWindowModality(Qt.WindowModality.WindowModal)
        progress.setMinimumDuration(300)
        timer = QTimer(progress)
        timer.timeout.connect(lambda: progress.setValue(round(job.share * 999)))
        timer.start(50)

        def over() -> None:
            timer.stop()
            progress.reset()
            progress.deleteLater()

        def done(mix: Mixdown) -> None:
            over()
            window.say(
                f"{path.name}: {mix.length / mix.rate:.2f} s, peak {mix.levels.peak_db:.1f} dB. "
                + mix.warning,
                lasting=True,
            )

        def failed(sentence: str) -> None:
            over()
            # A worker that had to be ended has left what it was writing.
            QTimer.singleShot(1000, lambda: remove_orphans(path.parent))
            window.say(
                "The mixdown was stopped; nothing was written." if job.cancelled else sentence
            )

        job: Job = window.jobs.run(
            mix_down,
            plan(project, Run()),
            project,
            files,
            window.sounds.cache.folder,
            path,
            None,
            done=done,
            failed=failed,
        )
        progress.canceled.connect(job.cancel)
