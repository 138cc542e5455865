"""A voice is recorded against the picture: it lands where it was spoken, and nothing is lost."""

import time

import numpy as np
import pytest
import soundfile
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication

from cicada.core.editing import Cell
from cicada.core.layer_edits import ChangeLayer
from cicada.core.mix import Mixer
from cicada.core.model import Clip, Run, keyframe_at
from cicada.core.planner import plan
from cicada.core.scene_edits import PutTempo
from cicada.core.timebase import seconds_to_samples
from cicada.media.cache import user_cache
from cicada.media.sources import SoundSources
from cicada.playback.input import Attached, InputDevice, InputFailed
from cicada.playback.recorder import (
    Begin,
    Close,
    End,
    Find,
    ForgetPeaks,
    Inputs,
    Open,
    Opened,
    Recorder,
)
from cicada.playback.recorder_process import NOWHERE
from cicada.store.recordings import kept
from cicada.store.sounds_folder import sound_files
from cicada.window.drawing.growing import extent
from cicada.window.state.conditions import Range

RATE = 48000
LEFT = Qt.MouseButton.LeftButton
CABLE = InputDevice("cable", "A cable", RATE, 2, default=True)


class Cable:
    """An input that is what the player plays, as by a cable."""

    rate, channels = RATE, 2

    def __init__(self, window):
        self.window, self.at, self.taken = window, 0, 0
        self.left = np.zeros((0, 2), np.float32)
        self.gone = False

    @property
    def ready(self):
        blocks = self.window.transport._link._player.player.output._blocks
        new, self.taken = blocks[self.taken :], len(blocks)
        self.left = np.concatenate((self.left, *new))
        return len(self.left) >= 480

    def read(self):
        if self.gone:
            raise InputFailed("the input has gone", remedy="connect it again")
        block, self.left = self.left[:480], self.left[480:]
        self.at += 480
        return block

    def delay(self):
        return 0.0

    def attached(self):
        return Attached(there=True, sure=self.at)

    def close(self):
        pass


class CableRecorder:
    """A recorder in the window's own process."""

    alive = True
    inputs = (CABLE,)

    def __init__(self, window):
        self.window, self.said = window, [Inputs(self.inputs)]
        self.recorder = None

    def tell(self, said):
        self.said.append(said)

    def send(self, message):
        match message:
            case Open():
                self.cable = Cable(self.window)
                self.recorder = Recorder(
                    self.cable, message.columns, self.tell,
                    lambda: self.cable.at / RATE, message.folder,
                )  # fmt: skip
                self.said.append(Opened(RATE))
            case Close():
                self.recorder.close()
            case Begin():
                self.recorder.begin(message)
            case End():
                self.recorder.end(message)
            case Find():
                self.recorder.find(message)
            case ForgetPeaks():
                self.recorder.forget_peaks()
        return True

    def standing(self):
        while self.recorder is not None and self.recorder.open and (
            self.cable.ready or self.cable.gone
        ):  # fmt: skip
            self.recorder.step()
        return NOWHERE if self.recorder is None else self.recorder.standing()

    def reports(self):
        said, self.said = self.said, []
        return said

    def close(self):
        if self.recorder is not None:
            self.recorder.close()


@pytest.fixture
def at_mic(own, settled, qtbot):
    """A film with one sound on its first frame, and the panel of recording open and measured."""
    window = own
    window.recording.input._make = lambda: CableRecorder(window)
    layer = window.session.scene.layers[0].id
    window.arranging.place(window.document.project.sounds[0].id, Cell(layer, 0))
    settled(window)
    window.conditions.play_times(1)
    window.recording.set_option("count_in", "")
    window.lower_half.show_beside(window.record_panel)
    window.recording.input.look()
    assert window.recording.input.device == CABLE
    go(window, lambda: window.recording.state == "open")
    qtbot.mouseClick(window.record_panel.measure, LEFT)
    go(window, lambda: window.recording.state == "open")
    assert window.recording.lining_up.exact
    settled(window)
    return window


def go(window, there, seconds=20):
    """Let the player and the recorder go on until something holds."""
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        if there():
            return
        window.transport.follow()
        window.recording.input.look()
        QApplication.processEvents()
    raise AssertionError("it never came")


def record(window, qtbot, settled, seconds):
    qtbot.mouseClick(window.record_panel.button, LEFT)
    go(window, lambda: window.recording.recorded >= seconds)
    qtbot.mouseClick(window.record_panel.button, LEFT)
    go(window, lambda: window.recording.landed is not None)
    settled(window)
    return window.document.project.sound(window.recording.landed.sound)


def clip_of(window):
    cell = window.recording.landed.cell
    return cell, keyframe_at(window.document.project.layer(cell.layer)[1], cell.frame)


def render(window, project):
    files = sound_files(project, window.document.file)
    made = plan(project, Run())
    return Mixer(made, project, SoundSources(project, files, user_cache())).mix(0, 4 * RATE).T


def samples_of(window, sound):
    return soundfile.read(sound_files(window.document.project, window.document.file)[sound.id],
                          dtype="float32", always_2d=True)[0]  # fmt: skip


def choose_spot(window, frame, layer=0):
    window.session.move_playhead(frame)
    window.session.spot = Cell(window.session.scene.layers[layer].id, frame)
    window.session.cell_changed.emit()


def starts(project, sound):
    """When a sound begins to be heard, after the silence before it that is part of its clip."""
    found = []
    for voice in plan(project, Run()).voices:
        if voice.sound == sound.id:
            clip = keyframe_at(project.layer(voice.layer)[1], voice.frame)
            found.append(voice.start + seconds_to_samples(clip.delay, RATE))
    return found


def test_a_take_is_what_was_heard_and_lies_on_it_to_the_sample(at_mic, qtbot, settled):
    before = at_mic.document.project
    film = render(at_mic, before)
    at_mic.session.move_playhead(5)
    sound = record(at_mic, qtbot, settled, 0.6)
    cell, clip = clip_of(at_mic)
    assert (cell.frame, clip.sync, clip.delay) == (5, "locked", 0.0)
    heard, begins = samples_of(at_mic, sound), before.timebase.start(5)
    # What is begun in its midst fades in.
    along = slice(1000, len(heard) - 1000)
    np.testing.assert_allclose(heard[along], film[begins:][: len(heard)][along], atol=2.0**-23)
    assert starts(at_mic.document.project, sound) == [begins]
    assert soundfile.info(at_mic.presence.standing.files[sound.id]).subtype == "PCM_24"


def test_while_it_is_recorded_the_take_grows_on_its_row_and_is_gone_when_it_lands(
    at_mic, qtbot, settled
):
    at_mic.session.move_playhead(5)
    recording, sheet = at_mic.recording, at_mic.sheet
    layer = recording.target.layer
    recording.record()
    go(at_mic, lambda: recording.recorded > 0.3)
    growing = recording.growing()
    assert (growing.layer, growing.frame) == (layer, 5)
    assert growing.frames == at_mic.session.playhead - 4
    assert max(growing.peaks) > 0.01
    drawn = sheet.viewport().grab().toImage()
    sheet.show_growing(None)
    box = extent(growing, sheet.place, *_row_of(sheet, layer))
    assert drawn.copy(box) != sheet.viewport().grab().toImage().copy(box)
    go(at_mic, lambda: recording.recorded > 0.6)
    assert recording.growing().frames > growing.frames
    recording.stop()
    go(at_mic, lambda: recording.landed is not None)
    settled(at_mic)
    assert recording.growing() is None


def _row_of(sheet, layer):
    row = sheet.traces.row_of(layer)
    return sheet.place.row_top(row), sheet.place.rows[row]


def test_it_is_one_step_to_undo_and_its_file_stays(at_mic, qtbot, settled):
    before = at_mic.document.project
    sound = record(at_mic, qtbot, settled, 0.5)
    file = sound_files(at_mic.document.project, at_mic.document.file)[sound.id]
    at_mic.document.undo()
    assert at_mic.document.project == before
    assert file.is_file()
    at_mic.document.redo()
    assert at_mic.document.project.sound(sound.id) == sound
    assert not list(at_mic.recording.input.folder.iterdir())


def test_a_take_begun_while_the_film_plays_lies_where_it_was_to_the_sample(at_mic, qtbot, settled):
    film = render(at_mic, at_mic.document.project)
    at_mic.transport.play_from(0)
    # What is audible goes by the clock, and so on while a busy machine mixes nothing.
    go(at_mic, lambda: at_mic.transport.sample > 9000)
    sound = record(at_mic, qtbot, settled, 0.4)
    (begins,) = starts(at_mic.document.project, sound)
    assert begins > 0
    heard = samples_of(at_mic, sound)
    assert heard.any()
    np.testing.assert_allclose(heard, film[begins:][: len(heard)], atol=2.0**-23)
    assert at_mic.transport.playing


def test_what_is_counted_in_is_not_in_the_take(at_mic, qtbot, settled):
    at_mic.document.do(PutTempo(scene=at_mic.session.scene_id, frame=0, bpm=240.0))
    settled(at_mic)
    at_mic.recording.set_option("count_in", "4 beats")
    at_mic.recording.set_option("heard", "false")
    at_mic.session.move_playhead(48)
    sound = record(at_mic, qtbot, settled, 0.5)
    assert not samples_of(at_mic, sound).any()
    out = at_mic.transport._link._player.player.output.recorded()
    began = at_mic.recording._began
    clicks = out[began.written - RATE : began.written]
    loud = np.abs(clicks).max(axis=1).reshape(4, -1).max(axis=1)
    assert (loud > 0.3).all()
    assert clip_of(at_mic)[0].frame == 48


def test_while_the_picture_stands_a_take_is_free_on_the_playheads_frame(at_mic, qtbot, settled):
    qtbot.mouseClick(at_mic.record_panel.film, LEFT)
    choose_spot(at_mic, 30)
    assert "free of the picture" in at_mic.record_panel.lands.text()
    record(at_mic, qtbot, settled, 0.3)
    cell, clip = clip_of(at_mic)
    assert (cell.frame, clip.sync, clip.delay) == (30, "free", 0.0)
    assert not at_mic.transport.playing
    assert at_mic.session.playhead == 30


@pytest.mark.parametrize("obstacle", ["a clip", "a guarded layer", "no layer"])
def test_what_is_in_the_way_is_said_before_and_the_take_gets_a_layer_of_its_own(
    at_mic, qtbot, settled, obstacle
):
    layer = at_mic.session.scene.layers[0]
    before = keyframe_at(layer, 0)
    choose_spot(at_mic, 0 if obstacle == "a clip" else 40)
    if obstacle == "a guarded layer":
        at_mic.document.do(ChangeLayer(layer=layer.id, changes={"guarded": True}))
    if obstacle == "no layer":
        at_mic.session.choose(None)
    assert "a layer of its own" in at_mic.record_panel.lands.text()
    record(at_mic, qtbot, settled, 0.3)
    cell, clip = clip_of(at_mic)
    assert cell.layer != layer.id
    assert isinstance(clip, Clip)
    assert keyframe_at(at_mic.session.scene.layers[0], 0) == before


def test_each_round_of_a_range_is_a_take_and_choosing_another_is_an_edit(at_mic, qtbot, settled):
    at_mic.conditions.mark_range(Range(at_mic.session.scene_id, 2, 13))
    qtbot.mouseClick(at_mic.record_panel.rounds, LEFT)
    qtbot.mouseClick(at_mic.record_panel.button, LEFT)
    go(at_mic, lambda: len(at_mic.recording._takes) >= 2)
    go(at_mic, lambda: at_mic.recording.recorded > 0.2)
    at_mic.transport.toggle()
    go(at_mic, lambda: at_mic.recording.landed is not None)
    settled(at_mic)
    sound = at_mic.document.project.sound(at_mic.recording.landed.sound)
    assert clip_of(at_mic)[0].frame == 2
    assert [take.frames for take in (sound, *sound.takes)][:2] == [RATE // 2, RATE // 2]
    assert len(sound.takes) == 2
    first, second = sound.hash, sound.takes[0].hash
    row = at_mic.record_panel._take_rows.itemAt(1).widget()
    use = row.findChildren(type(at_mic.record_panel.button))[-1]
    qtbot.mouseClick(use, LEFT)
    assert at_mic.document.project.sound(sound.id).hash == second
    at_mic.document.undo()
    assert at_mic.document.project.sound(sound.id).hash == first


def test_silence_at_the_ends_is_trimmed_if_wanted_and_the_rest_stays_where_it_was(
    at_mic, qtbot, settled
):
    # From frame 0 the sound is heard, and then there is silence.
    sound = record(at_mic, qtbot, settled, 1.5)
    go(at_mic, lambda: at_mic.recording.landed.tail > 0)
    (begins,) = starts(at_mic.document.project, sound)
    at_mic.recording.landed = at_mic.recording.landed._replace(head=0.25)
    at_mic.record_panel.refresh()
    assert "0.2 s before" in at_mic.record_panel.trim.text()
    qtbot.mouseClick(at_mic.record_panel.trim, LEFT)
    assert starts(at_mic.document.project, sound) == [begins + RATE // 4]
    (voice,) = (v for v in plan(at_mic.document.project, Run()).voices if v.sound == sound.id)
    assert voice.end - voice.start < 1.0 * RATE
    at_mic.document.undo()
    assert starts(at_mic.document.project, sound) == [begins]


def test_an_input_that_goes_away_ends_the_take_which_is_kept(at_mic, qtbot, settled):
    qtbot.mouseClick(at_mic.record_panel.button, LEFT)
    go(at_mic, lambda: at_mic.recording.recorded > 0.5)
    at_mic.recording.input._link.cable.gone = True
    go(at_mic, lambda: at_mic.recording.landed is not None)
    settled(at_mic)
    sound = at_mic.document.project.sound(at_mic.recording.landed.sound)
    assert sound.frames > RATE // 2
    assert "gone" in at_mic.recording.input.trouble
    assert "gone" in at_mic.record_panel.lands.text()
    assert not at_mic.transport.playing


@pytest.mark.parametrize("key", [Qt.Key.Key_Space, Qt.Key.Key_Escape])
def test_space_and_esc_end_the_take_also_while_the_picture_stands(at_mic, qtbot, settled, key):
    at_mic.recording.set_option("film", "false")
    qtbot.mouseClick(at_mic.record_panel.button, LEFT)
    go(at_mic, lambda: at_mic.recording.recorded > 0.2)
    at_mic.sheet.setFocus()
    qtbot.keyClick(at_mic, key)
    go(at_mic, lambda: at_mic.recording.landed is not None)
    assert not at_mic.transport.sounding


def test_what_a_window_was_recording_as_it_closed_is_offered_at_the_next_start(
    at_mic, qtbot, settled, answer, tmp_path
):
    qtbot.mouseClick(at_mic.record_panel.button, LEFT)
    go(at_mic, lambda: at_mic.recording.recorded > 0.5)
    sounds, folder = at_mic.document.project.sounds, at_mic.recording.input.folder
    at_mic.recording.close()
    (left,) = kept(folder)
    assert left.frames > RATE // 2
    asked = answer("Put it on the shelf")
    at_mic.left_over.look()
    qtbot.waitUntil(lambda: len(at_mic.document.project.sounds) > len(sounds), timeout=30_000)
    assert "was not finished" in asked[0]
    assert at_mic.document.project.sounds[-1].frames == left.frames
    settled(at_mic)
    assert not kept(folder)


def test_a_recording_thrown_away_is_gone_and_one_left_for_later_is_not(
    at_mic, qtbot, settled, answer
):
    qtbot.mouseClick(at_mic.record_panel.button, LEFT)
    go(at_mic, lambda: at_mic.recording.recorded > 0.5)
    folder = at_mic.recording.input.folder
    at_mic.recording.close()
    answer("Leave it for later", "Throw it away")
    at_mic.left_over.look()
    settled(at_mic)
    assert len(kept(folder)) == 1
    at_mic.left_over.look()
    settled(at_mic)
    assert not list(folder.iterdir())


def test_a_real_recorder_and_a_file_instead_of_a_microphone(qtbot, own, settled, tmp_path):
    voice = tmp_path / "voice.wav"
    noise = np.random.default_rng(1).integers(-(1 << 23), 1 << 23, (6 * RATE, 1)) * 2.0**-23
    soundfile.write(voice, noise, RATE, subtype="PCM_24")
    own.recording.set_option("film", "false")
    own.recording.set_option("count_in", "")
    own.lower_half.show_beside(own.record_panel)
    own.recording.choose_file(voice)
    qtbot.waitUntil(lambda: own.recording.state == "open", timeout=30_000)
    qtbot.waitUntil(lambda: own.recording.input.standing.held > 0, timeout=10_000)
    qtbot.mouseClick(own.record_panel.button, LEFT)
    qtbot.waitUntil(lambda: own.recording.recorded > 0.5, timeout=20_000)
    qtbot.mouseClick(own.record_panel.button, LEFT)
    qtbot.waitUntil(lambda: own.recording.landed is not None, timeout=30_000)
    settled(own)
    sound = own.document.project.sound(own.recording.landed.sound)
    heard = samples_of(own, sound)[:, 0]
    at = int(np.flatnonzero(noise[:, 0].astype(np.float32) == heard[0])[0])
    np.testing.assert_array_equal(heard, noise[at : at + len(heard), 0].astype(np.float32))
    own.lower_half.show_beside(own.shelf)
    assert own.recording.state == "closed"
