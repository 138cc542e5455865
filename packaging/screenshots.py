"""Draw the main views, with the demo in them, into docs/screenshots."""

import os
import tempfile
from pathlib import Path

os.environ["QT_QPA_PLATFORM"] = "offscreen"

from PySide6.QtCore import QSettings

from cicada.deliver.work import make_ready
from cicada.demo.harbour import make_demo
from cicada.media.cache import user_cache
from cicada.window.app import make_application
from cicada.window.main_window import MainWindow
from cicada.window.session import Cell

TARGET = Path("docs/screenshots")


def main() -> None:
    """Make every picture anew."""
    with tempfile.TemporaryDirectory() as name:
        os.environ["CICADA_CACHE"] = f"{name}/cache"
        project = make_demo(Path(name) / "demo")
        app = make_application()
        settings = QSettings(f"{name}/window.ini", QSettings.Format.IniFormat)
        window = MainWindow(user_cache(), Path(name) / "recovery", lambda rate: None, settings)
        window.document.open(project)
        document = window.document
        make_ready(document.project, document.sound_files(), user_cache().folder)
        window.session.show_scene("sc2")
        window.show()

        def settle() -> None:
            for _ in range(40):
                app.processEvents()
                while window.frames.busy or window.jobs.running or not window.planning.up_to_date:
                    app.processEvents()

        TARGET.mkdir(parents=True, exist_ok=True)
        window.session.move_playhead(52)
        window.session.choose(Cell("l6", 6))
        window.session.choose_sound("s4")
        window.say("")
        settle()
        window.grab().save(str(TARGET / "main-window.png"))
        window.session.choose(Cell("l6", 48))
        settle()
        window.card.grab().save(str(TARGET / "clip-card.png"))
        window.shut_down()
        window.deleteLater()
        app.processEvents()


if __name__ == "__main__":
    main()
