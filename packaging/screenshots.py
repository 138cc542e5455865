"""Draw the main views, with the demo in them, into docs/screenshots."""

import os
import shutil
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
import soundfile

os.environ["QT_QPA_PLATFORM"] = "offscreen"

from PySide6.QtCore import QSettings
from PySide6.QtWidgets import QDialog

from cicada.core.editing import Cell, Value
from cicada.core.keyframe_edits import ChangeKeyframes
from cicada.core.patterns import Note, Pattern, PatternPart
from cicada.core.picture_edits import ChangePart
from cicada.core.scene_edits import ChangeScene
from cicada.demo.harbour import make_demo
from cicada.media.cache import user_cache
from cicada.playback.process import PlayerProcess
from cicada.window.app import make_application
from cicada.window.delivery.dialog import DeliveryDialog
from cicada.window.delivery.weight_dialog import WeightDialog
from cicada.window.frame.main_window import MainWindow
from cicada.window.made.pattern_dialog import PatternDialog
from cicada.window.sheet.drift_list import DriftList
from cicada.window.words.draw_times import draw_time_of

# The frames that stand for the boards of an animatic.
BOARDS = (
    ("dusk_0020", "last light"), ("night_0020", "the beam"), ("night_0066", "the buoy"),
    ("night_0170", "rain"), ("dawn_0040", "all's well"),
)  # fmt: skip
TARGET = Path("docs/screenshots")
# Three parts, of which the last does not come out even with the others.
PATTERN = Pattern(
    bpm=100.0, repeats=2,
    parts=(
        PatternPart(name="Kit", voice="drums", notes=(
            *(Note(480 * n, 240, 42.0, 0.5) for n in range(8)), Note(0, 240, 36.0),
            Note(960, 240, 38.0), Note(1920, 240, 36.0), Note(2400, 240, 36.0, 1.0),
            Note(2880, 240, 38.0))),
        PatternPart(name="Strings", voice="plucked", notes=(
            Note(0, 480, 60.0), Note(960, 480, 64.0), Note(1920, 240, 67.0, 1.0),
            Note(2160, 720, 69.0, 0.4))),
        PatternPart(name="Bars", voice="struck", length=2880, notes=(
            Note(0, 480, 72.0), Note(960, 480, 76.0), Note(1920, 480, 79.0))),
    ),
)  # fmt: skip
# A bell that swells and travels, for the picture of an opened clip.
SHAPED: dict[str, Value] = {
    "level_line": ((0.0, 0.5, "smooth"), (0.7, 1.2), (1.6, 0.7), (2.2, 0.9)),
    "pan_line": ((0.2, -0.8, "smooth"), (2.0, 0.8)),
    "fade_in": 0.15,
    "fade_out": 0.4,
}


def main() -> None:
    """Make every picture anew."""
    with tempfile.TemporaryDirectory() as name:
        os.environ["CICADA_CACHE"] = f"{name}/cache"
        project = make_demo(Path(name) / "demo")
        app = make_application()
        settings = QSettings(f"{name}/window.ini", QSettings.Format.IniFormat)
        cache = user_cache()
        window = MainWindow(
            cache, Path(name) / "recovery", lambda rate: PlayerProcess(rate, cache), settings
        )
        window.document.open(project)
        sounds = window.document.project.sounds
        window.session.show_scene("sc2")
        window.show()

        def settle() -> None:
            for _ in range(40):
                app.processEvents()
                while (
                    window.frames.busy
                    or window.jobs.running
                    or not window.planning.at_rest
                    or window.mix_row.busy
                    or not all(map(window.measuring.of, sounds))
                ):
                    app.processEvents()

        TARGET.mkdir(parents=True, exist_ok=True)
        window.session.move_playhead(52)
        window.session.choose(Cell("l6", 6))
        window.session.choose_sound("s4")
        window.notices.say("")
        settle()
        window.grab().save(str(TARGET / "main-window.png"))
        window.session.choose(Cell("l6", 48))
        settle()
        window.card.grab().save(str(TARGET / "clip-card.png"))
        open_clip(window, settle)
        by_night(window, settle)
        sounding_now(window, settle, app.processEvents)
        against_the_frame_rate(window, settle, app.processEvents)
        window.menus.do("shapes")
        settle()
        dialog = next(
            d for d in window.findChildren(QDialog) if d.windowTitle() == "Shapes on the sheet"
        )
        dialog.grab().save(str(TARGET / "shapes.png"))
        dialog.close()
        window.session.choose(None)
        window.session.move_playhead(96)
        window.lower_half.show_details()
        window.shelf.order.setCurrentIndex(window.shelf.order.findData("name"))
        window.shelf.order.activated.emit(0)
        settle()
        window.grab().save(str(TARGET / "shelf.png"))
        picture_window(window, settle)
        what_answers(window, settle)
        leaving(window, settle, app.processEvents)
        of_ones_own(window, settle, app.processEvents, Path(name))
        animatic(window, settle, project)
        window.shut_down()
        window.deleteLater()
        app.processEvents()


def against_the_frame_rate(
    window: MainWindow, settle: Callable[[], None], go_on: Callable[[], None]
) -> None:
    """On a slow machine: three ways and drift; then meters by night."""

    def wait(seconds: float) -> None:
        until = time.monotonic() + seconds
        while time.monotonic() < until:
            go_on()

    project = window.document.project
    window.session.show_scene("sc2")
    window.session.move_playhead(52)
    window.session.choose(Cell("l6", 6))
    window.conditions.draw_in(draw_time_of("8/s", project.rate))
    settle()
    window.menus.do("ways")
    wait(1.0)
    settle()
    window.grab().save(str(TARGET / "three-ways.png"))
    window.deciding.close()
    window.menus.do("drift")
    drift = window.findChild(DriftList)
    assert drift is not None
    drift.over_time.click()
    drift.list.setCurrentRow(2)
    wait(0.5)
    drift.grab().save(str(TARGET / "drift.png"))
    drift.close()
    window.conditions.draw_in(0.0)
    window.session.show_scene("sc2")
    window.switch_night()
    window.lower_half.show_beside(window.meters)
    window.conditions.wait_at_points(on=False)
    window.metering.choose("l6")
    window.meters.layers.refresh()
    settle()
    window.transport.play_from(30)
    wait(3.5)
    window.grab().save(str(TARGET / "meters.png"))
    window.transport.stop()
    window.conditions.wait_at_points(on=True)
    window.lower_half.show_beside(window.meters)
    window.switch_night()
    settle()


def sounding_now(window: MainWindow, settle: Callable[[], None], go_on: Callable[[], None]) -> None:
    """Playing, stopped at a press point, with what sounds now beside the card."""
    window.session.choose(Cell("l7", 0))
    window.session.move_playhead(112)
    window.lower_half.show_beside(window.sounding)
    window.picture.show_over(frozenset(("number",)))
    settle()
    window.transport.start()
    window.transport.toggle()
    while window.transport.waiting is None:
        go_on()
    until = time.monotonic() + 0.8
    while time.monotonic() < until:
        go_on()
    window.grab().save(str(TARGET / "sounding-now.png"))
    window.transport.stop()
    window.picture.show_over(frozenset())
    window.lower_half.show_beside(window.sounding)


def picture_window(window: MainWindow, settle: Callable[[], None]) -> None:
    """The picture in its own window, with all that can be drawn over it."""
    window.session.show_scene("sc1")
    window.session.move_playhead(34)
    window.picture.show_over(frozenset(("safe", "centre", "number")))
    window.on_picture.show_window()
    settle()
    assert window.on_picture.own is not None
    window.on_picture.own.grab().save(str(TARGET / "picture-window.png"))
    window.on_picture.own.close()
    window.picture.show_over(frozenset())


def animatic(window: MainWindow, settle: Callable[[], None], project: Path) -> None:
    """Stills of the night that follow each other, with a drawing that moves over them."""
    folder = project.parent / "boards"
    folder.mkdir()
    frames = project.parent / "harbour.pictures"
    for number, (frame, name) in enumerate(BOARDS, 1):
        shutil.copy(frames / frame.split("_")[0] / f"{frame}.jpg", folder / f"{number} {name}.jpg")
    window.session.show_scene("sc2")
    window.document.do(ChangeScene(scene="sc2", changes={"picture": ()}))
    window.adding.add(sorted(folder.iterdir()), 0)
    settle()
    for number, part in enumerate(window.session.scene.picture[1:], 1):
        shown = None if part.shown is None else part.shown + 8
        changes: dict[str, Value] = {"start": part.start - 8, "shown": shown, "dissolve_in": 8}
        window.document.do(ChangePart(scene="sc2", number=number, changes=changes))
    title = project.parent / "harbour.pictures" / "title.svg"
    window.adding.add([title], 40)
    settle()
    changes = {"shown": 90, "place": (0.4, 0.2, 0.5), "moves_to": (0.7, 0.3, 0.4)}
    window.document.do(ChangePart(scene="sc2", number=len(BOARDS), changes=changes))
    window.lower_half.widen(None)
    window.on_picture.show_parts()
    assert window.on_picture.panel is not None
    window.on_picture.panel.list.setCurrentRow(0)
    window.session.move_playhead(52)
    settle()
    window.grab().save(str(TARGET / "animatic.png"))


def what_answers(window: MainWindow, settle: Callable[[], None]) -> None:
    """The storm with its pads, by day and by night."""
    window.session.show_scene("sc4")
    window.session.choose(None)
    window.lower_half.widen(None)
    window.lower_half.show_beside(window.pads_panel)
    settle()
    window.pads_panel.kept.show_kept()
    window.session.move_playhead(20)
    settle()
    window.grab().save(str(TARGET / "pads.png"))
    window.conditions.draw_value("v1")
    window.switch_night()
    settle()
    window.grab().save(str(TARGET / "storm.png"))
    window.switch_night()
    window.conditions.draw_value("")
    window.conditions.keep_presses(on=False)
    window.lower_half.show_beside(window.shelf)
    settle()


def of_ones_own(
    window: MainWindow, settle: Callable[[], None], go_on: Callable[[], None], folder: Path
) -> None:
    """A voice recorded against the picture, the cabinet, a pattern."""

    def wait(seconds: float) -> None:
        until = time.monotonic() + seconds
        while time.monotonic() < until:
            go_on()

    seconds = np.arange(8 * 48_000) / 48_000
    voice = 0.3 * np.sin(2 * np.pi * 170 * seconds) * np.sin(2 * np.pi * 0.8 * seconds) ** 2
    soundfile.write(folder / "Microphone.wav", voice, 48_000, subtype="PCM_24")
    window.session.show_scene("sc2")
    window.session.move_playhead(60)
    window.session.spot = Cell("l4", 60)
    window.session.cell_changed.emit()
    window.lower_half.show_beside(window.record_panel)
    window.recording.choose_file(folder / "Microphone.wav")
    wait(2.0)
    window.recording.set_option("count_in", "")
    window.recording.record()
    wait(2.0)
    window.grab().save(str(TARGET / "recording.png"))
    window.recording.stop()
    wait(2.0)
    settle()
    window.document.undo()
    window.lower_half.show_beside(window.cabinet_place)
    wait(12.0)
    window.cabinet_panel.search.setText("stereo > 1 s")
    wait(0.5)
    window.cabinet_panel.list.choose(1)
    window.grab().save(str(TARGET / "cabinet.png"))
    window.lower_half.show_beside(window.shelf)
    window.on_made.make(PATTERN)
    wait(0.5)
    dialog = window.findChild(PatternDialog)
    assert dialog is not None
    dialog.grab().save(str(TARGET / "pattern.png"))
    dialog.close()
    window.document.undo()
    settle()


def leaving(window: MainWindow, settle: Callable[[], None], go_on: Callable[[], None]) -> None:
    """The recipes of the demo, and what a player must fetch of it."""
    window.show_delivery()
    dialog = window.findChild(DeliveryDialog)
    assert dialog is not None
    dialog.list.setCurrentRow(0)
    while "about" not in dialog.says.text():
        go_on()
    settle()
    dialog.grab().save(str(TARGET / "delivery.png"))
    dialog.list.setCurrentRow(3)
    dialog.weigh.click()
    weighed = dialog.findChild(WeightDialog)
    assert weighed is not None
    while weighed.weight is None:
        go_on()
    settle()
    weighed.grab().save(str(TARGET / "weight.png"))
    weighed.close()
    dialog.close()


def by_night(window: MainWindow, settle: Callable[[], None]) -> None:
    """The second pass by night, waits opened, several clips chosen."""
    window.session.choose_all([Cell("l5", 0), Cell("l5", 136), Cell("l6", 6), Cell("l9", 24)])
    window.conditions.show_pass(2)
    window.sheet.open_waits(on=True)
    window.switch_night()
    settle()
    window.grab().save(str(TARGET / "night.png"))
    window.switch_night()
    window.sheet.open_waits(on=False)
    window.conditions.show_pass(1)


def open_clip(window: MainWindow, settle: Callable[[], None]) -> None:
    """A clip opened on the sheet, with lines and fades."""
    window.document.do(ChangeKeyframes(cells=(Cell("l6", 6),), changes=SHAPED))
    window.sheet.on_opened.open_clip(Cell("l6", 6))
    window.card.parts.setCurrentIndex(3)
    settle()
    window.grab().save(str(TARGET / "open-clip.png"))
    window.sheet.on_opened.close()
    window.document.undo()
    window.card.parts.setCurrentIndex(0)
    settle()


if __name__ == "__main__":
    main()
