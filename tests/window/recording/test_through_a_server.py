"""A take through a sound server: what was fed, and within a sample of where the loop test says."""

import numpy as np
import pytest
import soundfile
from PySide6.QtCore import QSettings

from cicada.core.editing import Cell
from cicada.core.model import Run, empty_project, keyframe_at
from cicada.core.planner import plan
from cicada.core.timebase import seconds_to_samples
from cicada.media.cache import user_cache
from cicada.playback.process import PlayerProcess
from cicada.store.sounds_folder import sound_files
from cicada.window.frame.main_window import MainWindow
from tests.playback.conftest import server  # noqa: F401 - a fixture
from tests.playback.sound_server import RATE

pytestmark = pytest.mark.alone
STEP = 2.0**-23


def test_a_take_equals_what_was_fed_and_lands_within_a_sample_of_the_loop_test(
    server,  # noqa: F811 - the fixture
    qtbot,
    tmp_path,
    settled,
):
    noise = np.random.default_rng(5).integers(-(1 << 22), 1 << 22, 4 * RATE) * STEP
    noise = noise.astype(np.float32)
    soundfile.write(tmp_path / "noise.wav", np.stack((noise, noise), 1), RATE, subtype="PCM_24")
    # A machine that is kept busy elsewhere may stall: what counts is that nothing else differs.
    assert any(lands(qtbot, tmp_path / str(n), settled, noise) for n in range(4))


def lands(qtbot, home, settled, noise):
    home.mkdir()
    cache = user_cache()
    settings = QSettings(str(home / "window.ini"), QSettings.Format.IniFormat)
    window = MainWindow(cache, home / "recovery", lambda rate: PlayerProcess(rate, cache), settings)
    try:
        window.document.new(empty_project("Ours"))
        window.show()
        window.imports.import_files([home.parent / "noise.wav"])
        qtbot.waitUntil(lambda: window.imports.importing.done, timeout=60_000)
        settled(window)
        layer = window.session.scene.layers[0].id
        fed = window.document.project.sounds[0].id
        window.arranging.place(fed, Cell(layer, 0))
        window.conditions.play_times(1)
        settled(window)
        recording = window.recording
        recording.set_option("count_in", "1 s")
        window.lower_half.show_beside(window.record_panel)
        qtbot.waitUntil(lambda: bool(recording.input.inputs), timeout=20_000)
        recording.input.choose(recording.input.inputs[0])
        qtbot.waitUntil(lambda: recording.state == "open", timeout=20_000)
        # What nothing plays to sleeps, and begins late.
        qtbot.wait(2000)
        recording.measure()
        qtbot.waitUntil(lambda: recording.state == "open", timeout=20_000)
        if not recording.lining_up.exact:
            return False
        window.session.move_playhead(12)
        recording.record()
        qtbot.waitUntil(lambda: recording.recorded > 1.5, timeout=20_000)
        recording.stop()
        qtbot.waitUntil(lambda: recording.landed is not None, timeout=20_000)
        settled(window)
        return exact(window, noise, fed)
    finally:
        window.shut_down()
        window.deleteLater()


def exact(window, noise, fed):
    project, landed = window.document.project, window.recording.landed
    file = sound_files(project, window.document.file)[landed.sound]
    heard, _ = soundfile.read(file, dtype="float32", always_2d=True)
    clip = keyframe_at(project.layer(landed.cell.layer)[1], landed.cell.frame)
    (voice,) = (v for v in plan(project, Run()).voices if v.sound == landed.sound)
    begins = voice.start + seconds_to_samples(clip.delay, RATE)
    first = heard[2000 : 2000 + RATE]
    for off in (0, 1, -1):
        at = begins + 2000 + off
        if np.array_equal(first[:, 0], noise[at : at + RATE]):
            return clip.sync == "locked" and landed.cell.frame == 12
    return False
