"""The demo's storm in a window: zones, what was kept, pads of keyframes, draws tried anew."""

from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QApplication, QMenu

from cicada.core.answers import Fire
from cicada.core.editing import Cell
from cicada.core.model import Clip
from cicada.media.sources import SoundSources

LEFT = Qt.MouseButton.LeftButton


def spot(window, x, y):
    box = window.picture._box()
    return QPoint(round(box.left() + x * box.width()), round(box.top() + y * box.height()))


def said(window):
    words = []
    window.notices.said.connect(lambda text, _: words.append(text))
    return words


def test_a_click_in_a_zone_presses_its_pad_and_one_beside_it_none(storm, qtbot, settled):
    window, pressed = storm, []
    window.pads.pressed.connect(pressed.append)
    qtbot.mouseClick(window.picture, LEFT, pos=spot(window, 0.1, 0.9))
    assert pressed == []
    qtbot.mouseClick(window.picture, LEFT, pos=spot(window, 0.5, 0.2))
    assert pressed == ["p1"]
    window.session.show_scene("sc2")
    qtbot.mouseClick(window.picture, LEFT, pos=spot(window, 0.5, 0.2))
    assert pressed == ["p1"]


def test_a_zone_is_drawn_by_hand_on_the_frames_that_are_marked(storm, qtbot, settled):
    window = storm
    window.on_playing.mark_range(10, 30)
    window.pads_panel.rows["p2"].more.click()
    window.pads_panel.rows["p2"].zone.draw.click()
    for end in (spot(window, 0.1, 0.5), spot(window, 0.3, 0.9)):
        if window.picture.zones._held is None:
            qtbot.mousePress(window.picture, LEFT, pos=end)
        else:
            qtbot.mouseMove(window.picture, end)
            qtbot.mouseRelease(window.picture, LEFT, pos=end)
    zone = window.document.project.pad("p2").zone
    assert (zone.scene, zone.frames) == ("sc4", (10, 30))
    assert all(abs(a - b) < 0.02 for a, b in zip(zone.at, (0.1, 0.5, 0.2, 0.4), strict=True))
    window.pads_panel.rows["p2"].zone.gone.emit()
    assert window.document.project.pad("p2").zone is None


def test_escape_leaves_a_zone_undrawn(storm, qtbot, settled):
    window = storm
    before = window.document.project
    window.zones.draw("p2")
    window.escape.silence()
    qtbot.mouseClick(window.picture, LEFT, pos=spot(window, 0.1, 0.9))
    assert window.document.project is before


def test_what_is_kept_is_renamed_moved_and_trimmed_each_in_one_step(storm, settled, monkeypatch):
    window = storm
    kept, run = window.pads_panel.kept, lambda: window.document.project.runs[0]
    monkeypatch.setattr(window.asking, "ask", lambda *args: "Louder")
    kept.rename()
    assert run().name == "Louder"
    monkeypatch.setattr(window.asking, "ask", lambda *args: args[4]("-2 f"))
    kept.shift()
    assert run().inputs[0].at == 33600 - 2 * 2000
    window.session.move_playhead(40)
    words = said(window)
    kept.trim(begin=True)
    assert words == ["It is drawn now: put the playhead on a frame and choose this again."]
    settled(window)
    window.session.move_playhead(30)
    kept.trim(begin=True)
    left = [75_200, 120_800, 122_000, 123_200]
    assert [given.at for given in run().inputs] == [*left, 142_400]
    settled(window)
    window.session.move_playhead(65)
    kept.trim(begin=False)
    assert [given.at for given in run().inputs] == left
    window.document.undo()
    assert len(run().inputs) == 5


def test_what_is_kept_becomes_keyframes_on_a_layer_of_each_pad(storm, settled):
    window = storm
    window.pads_panel.kept.lay_out(as_heard=True)
    names = [layer.name for layer in window.document.project.scene("sc4").layers]
    assert names == ["Wind", "Thunder", "Rain and sea", "Thunder 2", "Bell in a gale"]
    window.document.undo()
    assert len(window.document.project.scene("sc4").layers) == 3


def test_it_is_said_that_the_film_has_changed_since_something_was_kept(storm, settled, monkeypatch):
    window = storm
    kept = window.pads_panel.kept
    live = window.document.project.runs[0].run()
    window.conditions.live = live.__class__(scene="sc4", inputs=live.inputs[:2])
    monkeypatch.setattr(window.asking, "ask", lambda *_: "Now")
    kept.keep_run()
    assert kept.chosen().name == "Now"
    assert kept.since.isHidden()
    window.session.choose(Cell("l14", 27))
    window.menus.actions["off"].trigger()
    assert not kept.since.isHidden()
    window.document.undo()
    assert kept.since.isHidden()


def test_chosen_keyframes_become_a_pad(storm, settled):
    window = storm
    window.session.choose(Cell("l14", 27))
    window.menus.actions["make_pad"].trigger()
    pad = window.document.project.pads[-1]
    assert (pad.label, [type(deed) for deed in pad.does]) == ("Thunder 2", [Fire])
    assert pad.does[0].sound == "o1"


def test_what_pads_may_fire_stays_when_the_cache_is_brought_to_its_limit(storm, monkeypatch):
    kept = []
    monkeypatch.setattr(storm.jobs, "run", lambda work, *given, **_: kept.extend(given[2]))
    storm.decoding.keep_to_limit()
    sources = SoundSources(storm.document.project, {}, storm.decoding._work.cache)
    stored = ("s4", *(f"s{n}" for n in range(12, 19)), "q1")
    assert {sources.key(each) for each in stored} <= set(kept)


def test_all_is_drawn_anew_for_listening_until_it_is_kept(storm, settled):
    window = storm
    seed = window.document.project.seed
    for _ in range(2):
        window.menus.actions["draw_anew"].trigger()
        settled(window)
        assert window.document.project.seed == seed
        assert window.planning.run.seed not in (None, seed)
    heard = window.planning.run.seed
    window.menus.actions["keep_draws"].trigger()
    settled(window)
    assert (window.document.project.seed, window.planning.run.seed) == (heard, None)


def test_the_part_that_was_drawn_is_placed_instead_of_its_pool(storm, settled):
    window = storm
    cell = Cell("l14", 27)
    window.session.choose(cell)
    picked = next(v for v in window.planning.plan.voices if v.cell == cell).picked
    menu = QMenu()
    window.on_clip.parts.menu(menu)
    assert len(menu.actions()) == 3
    assert menu.actions()[0].text().endswith("which was drawn here")
    menu.actions()[0].trigger()
    clip = window.session.keyframe()
    assert isinstance(clip, Clip)
    assert clip.sound == picked


def test_a_layers_level_follows_a_value_from_the_menu(storm, settled):
    window = storm
    window.session.choose(Cell("l15", 2))
    menu = QMenu()
    window.on_layer.follow_menu(menu)
    menu.actions()[1].trigger()
    layer = window.document.project.layer("l15")[1]
    assert (layer.follows.value, layer.follows.points) == ("v1", ((0.0, 0.0), (1.0, 1.0)))


def test_the_order_of_sound_and_picture_is_chosen_on_the_pad(storm, settled):
    window = storm
    window.pads_panel.rows["p1"].more.click()
    window.pads_panel.rows["p1"].order.buttons["over"].click()
    QApplication.processEvents()
    assert window.document.project.pad("p1").does[-1].when == "over"
    window.pads_panel.rows["p1"].order.buttons["over"].click()
    assert len(window.document.project.pad("p1").does) == 2
