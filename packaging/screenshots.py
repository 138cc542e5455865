"""Draw the main views, with the demo in them, into docs/screenshots."""

import os
import shutil
import tempfile
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path

import numpy as np
import soundfile

os.environ["QT_QPA_PLATFORM"] = "offscreen"

from msgspec import structs
from PySide6.QtCore import QSettings, QSize
from PySide6.QtWidgets import QDialog

from cicada.core.answer_edits import PutPool
from cicada.core.editing import Cell, Value
from cicada.core.keyframe_edits import ChangeKeyframes
from cicada.core.picture_edits import ChangePart
from cicada.core.scene_edits import ChangeScene, PutTempo
from cicada.demo.harbour import make_demo
from cicada.media.cache import user_cache
from cicada.playback.process import PlayerProcess
from cicada.window.app import make_application
from cicada.window.frame.frame_rate_dialog import FrameRateDialog
from cicada.window.frame.main_window import MainWindow
from cicada.window.sheet.beats_dialog import BeatsDialog
from cicada.window.sheet.drift_list import DriftList
from cicada.window.words.draw_times import draw_time_of

# The frames that stand for the boards of an animatic.
BOARDS = (
    ("dusk_0020", "last light"), ("night_0020", "the beam"), ("night_0066", "the buoy"),
    ("night_0170", "rain"), ("dawn_0040", "all's well"),
)  # fmt: skip
TARGET = Path("docs/screenshots")
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
        for show, title, picture in (
            (partial(window.menus.do, "shapes"), "Shapes on the sheet", "shapes.png"),
            (partial(window.menus.do, "keys"), "Keys", "keys.png"),
        ):
            show()
            settle()
            dialog = next(d for d in window.findChildren(QDialog) if d.windowTitle() == title)
            dialog.resize(QSize(1240, 700) if title == "Keys" else dialog.sizeHint())
            settle()
            dialog.grab().save(str(TARGET / picture))
            dialog.close()
        window.session.choose(None)
        window.session.move_playhead(96)
        window.lower_half.show_details()
        window.shelf.order.setCurrentIndex(window.shelf.order.findData("name"))
        window.shelf.order.activated.emit(0)
        settle()
        window.grab().save(str(TARGET / "shelf.png"))
        imports = window.imports
        imports.import_files([collected(Path(name) / "collected", project)])
        while imports.under_way:
            app.processEvents()
        settle()
        imports.show_summary()
        settle()
        assert imports.summary is not None
        imports.summary.grab().save(str(TARGET / "import-summary.png"))
        imports.summary.close()
        picture_window(window, settle)
        what_answers(window, settle)
        animatic(window, settle, project)
        window.shut_down()
        window.deleteLater()
        app.processEvents()


def collected(folder: Path, project: Path) -> Path:
    """A folder as people have them: new sounds, old ones under other names, and no sounds."""
    folder.mkdir()
    kept = sorted((project.parent / "harbour.sounds").iterdir())
    shutil.copy(kept[0], folder / f"found on an old disk{kept[0].suffix}")
    plain = next(path for path in kept[1:] if soundfile.info(path).subtype == "PCM_16")
    samples, rate = soundfile.read(plain, dtype="int16")
    other = ".flac" if plain.suffix == ".wav" else ".wav"
    soundfile.write(folder / f"export of last week{other}", samples, rate)
    noise = np.random.default_rng(3)
    for number, name in enumerate(("rope on the pier 01", "rope on the pier 02", "oar", "chain")):
        seconds = np.arange(int(44100 * (0.5 + 0.2 * number))) / 44100
        creak = np.exp(-4 * seconds) * noise.standard_normal(len(seconds)) * 0.3
        soundfile.write(folder / f"{name}.wav", creak, 44100 if number % 2 else 96000)
    (folder / "harbour notes.wav").write_text("record the gulls again on Tuesday")
    (folder / "take 7.mp3").write_bytes(b"")
    return folder


def against_the_frame_rate(
    window: MainWindow, settle: Callable[[], None], go_on: Callable[[], None]
) -> None:
    """On a slow machine: three ways and drift; then beats, another rate, and meters by night."""

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
    window.document.do(PutTempo(scene="sc2", frame=0, bpm=110.0))
    window.menus.do("beats")
    wait(0.3)
    beats = window.findChild(BeatsDialog)
    assert beats is not None
    beats.grab().save(str(TARGET / "beats.png"))
    beats.close()
    window.menus.do("undo")
    settle()
    rate = FrameRateDialog(window, window.planning, window.sheet, "sc2")
    rate.offer((25, 1))
    rate.show()
    wait(1.0)
    rate.grab().save(str(TARGET / "frame-rate.png"))
    rate.end()
    rate.close()
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
    """The storm with its pads, by day and by night, and a pool with a gap."""
    document = window.document
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
    thunder = next(pool for pool in document.project.pools if pool.id == "o1")
    ranges = ((0.0, 0.45), (0.3, 0.7), (0.8, 1.0))
    parts = tuple(
        structs.replace(part, value="v1", range=range_)
        for part, range_ in zip(thunder.parts, ranges, strict=True)
    )
    assert document.do(PutPool(pool=structs.replace(thunder, parts=parts)))
    window.session.choose_sounds(("o1",), "o1")
    window.lower_half.show_details()
    settle()
    window.shelf.parts.grab().save(str(TARGET / "coverage.png"))
    window.lower_half.widen(None)
    document.undo()
    window.conditions.keep_presses(on=False)
    window.lower_half.show_beside(window.shelf)
    settle()


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
