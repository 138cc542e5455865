"""What a sounding on the sheet is, when it starts and ends, and why: in one sentence."""

from cicada.window.drawing.traces import Row, SceneTraces
from cicada.window.words.moments import MomentWords
from cicada.window.words.quantities import count

SYNC = {"locked": "locked to the picture", "free": "free", "hold": "holding the picture"}
WHY = {"fired": "starts", "queued": "starts when its turn comes", "joined": "goes on"}


def hover_sentence(scene: SceneTraces, row: Row, index: int) -> str:
    """One sentence about the sounding of that number on a row."""
    voice, trace = row.voices[index], row.trace(index)
    words = MomentWords(scene.project, scene.plan, scene.scene.id, scene.number)
    loops = "" if trace.clip.loops == 1 else f", {count(trace.clip.loops, 'time')}"
    if trace.clip.loops == 0:
        loops = ", endlessly"
    origin = f", from {trace.come_from}" if trace.come_from else ""
    begins = f"{WHY[voice.why]} on {words.at(voice.start)}"
    waited = ""
    if trace.waits_from is not None:
        waited = f" after waiting {(trace.start - trace.waits_from):.0f} frames"
    held = f", while the picture waits {trace.held / scene.plan.rate:.2f} s" if trace.held else ""
    ends = f"{words.why_ends(voice)} on {words.at(voice.end - 1)}"
    what = f"{trace.name}{origin}, {SYNC[voice.sync]}{loops}"
    there = " A double click goes to its keyframe." if trace.come_from else ""
    return f"{what}: {begins}{waited}{held}, and {ends}.{there}"
