"""What is read of sounds for drawing: not looked for on the disk at every paint."""

from cicada.core.model import Sound
from cicada.core.shelf_edits import AddSounds

LOOKS = "cicada.window.state.sounds.open_peaks"


def test_a_sound_that_is_not_decoded_is_looked_for_once_until_something_is(
    harbour, settled, monkeypatch
):
    sound = Sound(id="far", name="far", frames=9600, rate=48000, channels=2,
                  hash=f"blake2b:{'0' * 40}")  # fmt: skip
    harbour.document.do(AddSounds(sounds=(sound,)))
    settled(harbour)
    looked = []
    monkeypatch.setattr(LOOKS, lambda *given: looked.append(given))
    harbour.sounds.refresh()
    looked.clear()
    for _ in range(20):
        harbour.sounds.peaks("far")
    assert len(looked) == 1
    harbour.sounds.refresh()
    harbour.sounds.peaks("far")
    assert len(looked) == 2


def test_a_sound_decoded_by_somebody_else_is_found_after_a_while(harbour, settled, monkeypatch):
    settled(harbour)
    known = harbour.sounds.peaks("s1")
    assert known is not None
    harbour.sounds._peaks.clear()
    monkeypatch.setattr("cicada.window.state.sounds.AGAIN", 0.0)
    with monkeypatch.context() as patch:
        patch.setattr(LOOKS, lambda *given: None)
        assert harbour.sounds.peaks("s1") is None
    assert harbour.sounds.peaks("s1") is not None
