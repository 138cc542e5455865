"""Moments of a plan in words, and what ends a voice."""

from cicada.core.answers import Pad
from cicada.core.model import Project
from cicada.core.plan import Plan, Voice


class MomentWords:
    """Moments of a plan in words, as seen from a scene in one pass."""

    def __init__(self, project: Project, plan: Plan, scene: str, number: int) -> None:
        self._project, self._plan, self._scene, self._number = project, plan, scene, number

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
            where = f" of {scene.label}"
        if visit.number != self._number:
            where += f" in pass {visit.number}"
        return f"frame {self._project.shown(frame)}{where}"

    def why_ends(self, voice: Voice) -> str:
        """What ends it, in words."""
        by = voice.ended_by
        if voice.ended == "hush" and by is not None:
            place = self._project.heard_on(by.layer)
            return f"is hushed by {place.label}, frame {self._project.shown(by.frame)},"
        if voice.ended == "restarted" and by is not None:
            place = self._project.heard_on(by.layer)
            if isinstance(place, Pad):
                return f"is cut by {place.label}, frame {self._project.shown(by.frame)}"
            return f"is cut by the clip on frame {self._project.shown(by.frame)}"
        return {
            "finished": "is over",
            "span": "ends with its span",
            "hush": "is hushed",
            "restarted": "is cut",
            "scene": "ends with its scene",
            "run": "ends with the film",
        }[voice.ended]
