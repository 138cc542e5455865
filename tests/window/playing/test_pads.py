"""Pads: pressed in a run and while the picture stands, by click and by key; kept, played again."""

import numpy as np
import pytest
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication

from cicada.core.answer_edits import KeepRun, PutPad, PutValue
from cicada.core.answers import Fire, GlideDeed, GoOn, HushDeed, Input, Pad, Value
from tests.by_hand import begin, play_on, player
from tests.window.playing.by_ear import heard_since, render

LEFT = Qt.MouseButton.LeftButton


def with_pads(window, *pads):
    for pad in pads:
        assert window.document.do(PutPad(pad=pad))
    window.lower_half.show_beside(window.pads_panel)
    QApplication.processEvents()


def gull():
    return Pad(id="p1", name="Gull", key="g", does=(Fire(sound="s11"),))


def played(window, qtbot, settled, scene="sc2", frame=10):
    window.conditions.play_times(1)
    window.pads.play(on=True)
    settled(window)
    return begin(window, qtbot, settled, scene, frame)


def test_with_the_first_pad_comes_one_that_stops_all_and_once_removed_it_stays_away(harbour):
    harbour.document.do(PutPad(pad=gull()))
    first, stop = harbour.document.project.pads
    assert stop.does == (HushDeed(target="all", fade=0.05),)
    harbour.document.undo()
    assert harbour.document.project.pads == ()
    harbour.document.do(PutPad(pad=gull()))
    harbour.document.do(PutPad(pad=replace(first, name="Louder", level=2.0)))
    assert [pad.name for pad in harbour.document.project.pads] == ["Louder", "Stop all"]


def test_what_is_heard_of_a_run_with_pads_is_the_render_of_what_was_pressed(
    harbour, qtbot, settled
):
    with_pads(harbour, gull())
    written = played(harbour, qtbot, settled)
    play_on(harbour, lambda: harbour.transport.sample > 70_000)
    qtbot.mousePress(harbour.pads_panel.rows["p1"].button, LEFT)
    qtbot.mouseRelease(harbour.pads_panel.rows["p1"].button, LEFT)
    play_on(harbour, lambda: harbour.conditions.live.inputs)
    play_on(harbour, lambda: harbour.transport.sample > 120_000)
    live = harbour.conditions.live
    assert [given.pad for given in live.inputs] == ["p1"]
    settled(harbour)
    assert [voice.layer for voice in harbour.planning.plan.voices].count("p1") == 1
    wanted = render(harbour, live)[:100_000]
    assert np.abs(heard_since(harbour, written)[: len(wanted)] - wanted).max() < 1e-6


def test_keys_go_to_pads_only_while_they_are_played_and_never_space_or_esc(harbour, qtbot, settled):
    with_pads(harbour, gull(), Pad(id="p2", name="Space", key=" ", does=(GoOn(),)))
    harbour.pads.listen_to_keys(harbour)
    pressed = []
    harbour.pads.pressed.connect(pressed.append)
    harbour.activateWindow()
    qtbot.waitUntil(harbour.isActiveWindow)
    qtbot.keyClick(harbour.sheet, "g")
    assert pressed == []
    harbour.document.undo()
    harbour.pads.play(on=True)
    qtbot.keyClick(harbour.sheet, "g")
    assert pressed == ["p1"]
    qtbot.keyClick(harbour.sheet, Qt.Key.Key_Space)
    assert pressed == ["p1"]
    harbour.transport.stop()
    harbour.escape.silence()
    assert not harbour.pads.played


def test_while_the_picture_stands_a_pad_is_heard_and_not_kept(harbour, qtbot, settled):
    with_pads(harbour, gull())
    settled(harbour)
    before = harbour.document.project
    harbour.pads.press("p1")
    assert harbour.transport.standing
    assert not harbour.transport.sounding
    written = len(player(harbour).output.recorded())
    play_on(harbour, lambda: np.abs(heard_since(harbour, written)).max(initial=0) > 0.01)
    assert harbour.conditions.live is None
    assert harbour.document.project is before
    harbour.transport.stop()
    assert harbour.transport.doing == "nothing"


def test_a_slider_gives_its_newest_place_and_its_last_one(harbour, qtbot, settled):
    with_pads(harbour, gull())
    harbour.document.do(PutValue(value=Value(id="v1", name="Wind")))
    QApplication.processEvents()
    given = []
    harbour.transport.answer_standing = given.append
    slider = harbour.pads_panel.sliders["v1"]
    for step in range(0, 1001, 10):
        slider.setValue(step)
    qtbot.waitUntil(lambda: given[-1].to == 1.0)
    assert len(given) < 20
    assert {each.over for each in given} == {0.03}


def test_what_was_pressed_is_kept_by_name_shown_again_and_forgotten(
    harbour, qtbot, settled, monkeypatch
):
    with_pads(harbour, gull())
    live = harbour.conditions.played()
    harbour.pads.play(on=True)
    live = harbour.conditions.played().run
    harbour.conditions.live = replace(live, inputs=(Input(at=4000, pad="p1"),))
    harbour.conditions.changed.emit()
    monkeypatch.setattr(harbour.asking, "ask", lambda *_: "Third")
    harbour.pads_panel.kept.keep.click()
    (kept,) = harbour.document.project.runs
    assert (kept.name, kept.inputs) == ("Third", (Input(at=4000, pad="p1"),))
    harbour.conditions.live = None
    harbour.pads_panel.kept.again.click()
    settled(harbour)
    assert harbour.conditions.live.inputs == kept.inputs
    assert any(voice.layer == "p1" for voice in harbour.planning.plan.voices)
    harbour.pads_panel.kept.forget_run()
    assert harbour.document.project.runs == ()


def test_an_osc_message_presses_the_pad_of_its_address_unless_it_is_a_release(harbour):
    with_pads(harbour, replace(gull(), message="/lamp/on"))
    pressed = []
    harbour.pads.pressed.connect(pressed.append)
    harbour.remote.other.emit("/lamp/on", (0,))
    harbour.remote.other.emit("/lamp/off", (1,))
    assert pressed == []
    harbour.remote.other.emit("/lamp/on", (1,))
    harbour.remote.other.emit("/lamp/on", ())
    assert pressed == ["p1", "p1"]


@pytest.mark.parametrize(
    ("arguments", "to", "over"),
    [
        (("Wind", 0.25), 0.25, 0.03), (("v1", 7, 2.0), 1.0, 2.0), (("Wind",), None, 0.03),
        (("Rain", 0.5), "nothing", 0), (("Wind", float("nan")), "nothing", 0), ((), "nothing", 0),
        (("Wind", "up"), "nothing", 0), (("Wind", None), "nothing", 0),
    ],
)  # fmt: skip
def test_an_osc_message_moves_a_value_within_its_reach(harbour, arguments, to, over):
    with_pads(harbour, gull())
    harbour.document.do(PutValue(value=Value(id="v1", name="Wind")))
    given = []
    harbour.transport.answer_standing = given.append
    harbour.remote.other.emit("/cicada/value", arguments)
    assert [(each.value, each.to, each.over) for each in given] == (
        [] if to == "nothing" else [("v1", to, over)]
    )


def test_a_pad_says_what_is_not_ready_to_be_fired_at_its_speed(harbour, settled):
    with_pads(harbour, gull())
    settled(harbour)
    said = harbour.pads_panel.rows["p1"].sentence
    assert "Not ready" not in said.text()
    ready = []
    harbour.decoding.decoded.connect(lambda: ready.append(1))
    harbour.document.do(PutPad(pad=replace(gull(), does=(Fire(sound="s11", speed=1.7),))))
    assert "Not ready yet: Gull" in harbour.pads_panel.rows["p1"].sentence.text()
    settled(harbour)
    assert "Not ready" not in harbour.pads_panel.rows["p1"].sentence.text()


def test_presses_fifty_a_second_are_neither_lost_nor_merged(harbour, qtbot, settled):
    with_pads(harbour, gull())
    played(harbour, qtbot, settled)
    began, pressed = harbour.transport.sample, 0
    while pressed < 50:
        if harbour.transport.sample >= began + pressed * 960:
            harbour.pads.press("p1")
            pressed += 1
        play_on(harbour, lambda: True)
    play_on(harbour, lambda: len(harbour.conditions.live.inputs) == 50)
    at = [given.at for given in harbour.conditions.live.inputs]
    assert at == sorted(at)


@pytest.mark.parametrize(("number", "kind"), [(0, Fire), (1, HushDeed), (2, GlideDeed)])
def test_what_a_pad_does_is_added_changed_and_removed_in_its_sentence(harbour, qtbot, number, kind):
    harbour.document.do(PutValue(value=Value(id="v1", name="Wind")))
    with_pads(harbour, replace(gull(), does=()))
    harbour.pads_panel.rows["p1"].more.click()
    harbour.pads_panel.rows["p1"].adders[number].click()
    row = harbour.pads_panel.rows["p1"]
    assert [type(deed) for deed in harbour.document.project.pad("p1").does] == [kind]
    assert row.sentence.text() != "Does nothing yet"
    row.lines[0].removed.emit()
    assert harbour.document.project.pad("p1").does == ()


def test_removing_a_pad_takes_what_was_kept_of_it_along(harbour, qtbot):
    from cicada.core.model import KeptRun

    with_pads(harbour, gull())
    inputs = (Input(at=1, pad="p1"), Input(at=2, pad="p1"))
    harbour.document.do(KeepRun(run=KeptRun(name="Once", inputs=inputs)))
    said = []
    harbour.notices.said.connect(lambda text, _: said.append(text))
    harbour.pads_panel.rows["p1"].more.click()
    harbour.pads_panel.rows["p1"].removed.emit()
    assert harbour.document.project.runs[0].inputs == ()
    assert any(text.startswith("2 kept in runs") for text in said)
    harbour.document.undo()
    assert len(harbour.document.project.runs[0].inputs) == 2
