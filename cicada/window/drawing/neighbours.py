"""How an opened clip stands to the soundings before and after it on its layer, in words."""

from cicada.core.plan import Voice
from cicada.window.drawing.open_clip import Openable, OpenClip
from cicada.window.drawing.traces import SceneTraces
from cicada.window.words.quantities import count


def edge_words(opened: Openable | None) -> list[str]:
    """Gap or overlap to what sounds before and after, in frames and milliseconds."""
    if not isinstance(opened, OpenClip) or opened.trace is None:
        return []
    traces, own = opened.traces, opened.trace.voice
    number = traces.row_of(opened.cell.layer)
    if number is None:
        return []
    others = [voice for voice in traces.rows[number].voices if voice is not own]
    words = []
    before = [voice for voice in others if voice.start < own.start]
    if before:
        last = max(before, key=lambda voice: voice.end)
        words.append(_said(traces, own.start - last.end, last, "after"))
    after = [voice for voice in others if voice.start >= own.start]
    if after:
        following = min(after, key=lambda voice: voice.start)
        words.append(_said(traces, following.start - own.end, following, "before"))
    return words


def _said(traces: SceneTraces, samples: int, other: Voice, side: str) -> str:
    base, name = traces.plan.timebase, traces.names[other.sound]
    frames = round(abs(samples) * base.fps / base.rate)
    long = f"{count(frames, 'frame')} ({abs(samples) * 1000 / base.rate:.0f} ms)"
    if samples < 0:
        return f"overlaps {name} by {long}"
    return f"{long} {side} {name}"
