"""What a sounding on the sheet is, when it starts and ends, and why: in one sentence."""

from cicada.core.model import Project
from cicada.core.plan import Plan, Voice
from cicada.window.drawing.traces import Row, SceneTraces
from cicada.window.words.quantities import count

SYNC = {"locked": "locked to the picture", "free": "free", "hold": "holding the picture"}
WHY = {"fired": "starts", "queued": "starts when its turn comes", "joined": "goes on"}


def hover_sentence(scene: SceneTraces, row: Row, index: int) -> str:
    """One sentence about the sounding of that number on a row."""
    voice, trace = row.voices[index], row.trace(index)
    words = Words(scene.project, scene.plan, scene.scene.id, scene.number)
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


class Words:
    """Moments of a plan in words, as seen from a scene in one pass."""

    def __init__(self, project: Project, plan: Plan, scene: str, number: int) -> None:
        self._project, self._plan, self._scene, self._number = project, plan, scene, number
        self._first = project.first_frame

    def at(self, sample: int) -> str:
        """A run sample as frame and time of its scene, and the scene if it is another."""
        plan = self._plan
        if sample >= plan.end:
            return self.frame(sample)
        _, frame, share = plan.frame_at(sample)
        return f"{self.frame(sample)} ({plan.timebase.seconds(1) * (frame + share):.3f} s)"

    def frame(self, sample: int) -> str:
        """The frame of a run sample, and its scene and pass where they are others."""
        plan = self._plan
        if sample >= plan.end:
            past = (sample - plan.end) / plan.rate
            return f"the last picture, {past:.2f} s after it" if past else "the film's end"
        visit, frame, _ = plan.frame_at(sample)
        where = ""
        if visit.scene != self._scene:
            scene = self._project.scene(visit.scene)
            where = f" of {scene.name or scene.id}"
        if visit.number != self._number:
            where += f" in pass {visit.number}"
        return f"frame {frame + self._first}{where}"

    def why_ends(self, voice: Voice) -> str:
        """What ends it, in words."""
        by = voice.ended_by
        if voice.ended == "hush" and by is not None:
            _, layer = self._project.layer(by.layer)
            return f"is hushed by {layer.name or layer.id}, frame {by.frame + self._first},"
        if voice.ended == "restarted" and by is not None:
            return f"is cut by the clip on frame {by.frame + self._first}"
        return {
            "finished": "is over",
            "span": "ends with its span",
            "hush": "is hushed",
            "restarted": "is cut",
            "scene": "ends with its scene",
            "run": "ends with the film",
        }[voice.ended]
