"""Why a clip does not sound, in words: on the sheet, and in the sentence on the card."""

from cicada.core.model import Clip
from cicada.core.reasons import Silence

_ON_SHEET: dict[Silence, str] = {
    "called off": "never started: {name} was still waiting",
    "still queued": "left out: {name} still waits from before",
    "left out": "left out: {what} is still sounding",
    "nothing open": "nothing of {name} is open here",
}
_IN_SENTENCE: dict[Silence, str] = {
    "clip off": "it is switched off",
    "layer off": "its layer is switched off",
    "past the end": "it never starts, for the scene is over by then",
    "nothing to play": "it never starts: its trim, loops and offset leave nothing to play",
    "left out": "it is left out here, for {what} is still sounding",
    "still queued": "it is left out here, for it still waits from before",
    "called off": "it never starts, for it was still waiting when it was called off",
    "nothing open": "nothing of it is open here, so it does nothing",
    "waits for good": "it never starts, for what it waits for does not end",
    "not here": "it does not sound in this run",
}


def on_sheet(why: Silence, clip: Clip, name: str, row: str) -> str:
    """In a few words, beside where it would have started."""
    what = name if clip.busy == "sound" else f"the layer {row}"
    return _ON_SHEET[why].format(name=name, what=what)


def in_sentence(why: Silence, clip: Clip, name: str) -> str:
    """As a part of a sentence about it."""
    return _IN_SENTENCE[why].format(what=name if clip.busy == "sound" else "the layer")
