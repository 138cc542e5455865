"""The clip card's sentence: what a keyframe does here, in words, taken from the plan.

A sentence is a list of parts; a part with a name is the control that changes it.
"""

from typing import NamedTuple

from cicada.core.model import Clip, Hush, Keyframe, Layer, Project, Scene
from cicada.core.placed import span_ends
from cicada.core.plan import Anchor, Plan, Voice
from cicada.core.reasons import why_silent
from cicada.window.words.quantities import count, times_text
from cicada.window.words.silences import in_sentence


class Phrase(NamedTuple):
    """Some words, and the name of the control that changes them (empty: none)."""

    text: str
    control: str = ""


SYNC_WORDS = {
    "locked": "locked to the picture",
    "free": "free",
    "hold": "holding the picture",
}
IF_WORDS = {
    "on_top": "on top of {it} if {it} is sounding",
    "skip": "left out if {it} is sounding",
    "restart": "starting over if {it} is sounding",
    "queue": "waiting until the layer is quiet",
}


def sentence(
    project: Project,
    plan: Plan,
    scene: Scene,
    layer: Layer,
    keyframe: Keyframe,
    number: int = 1,
) -> list[Phrase]:
    """What the keyframe does in the pass of that number."""
    frame = project.shown(keyframe.frame)
    if isinstance(keyframe, Clip):
        return _Clip(project, plan, scene, layer, keyframe, number).parts()
    if isinstance(keyframe, Hush):
        return _hush(project, plan, scene, layer, keyframe, number)
    return [
        Phrase("A rest on "),
        Phrase(f"frame {frame}", "frame"),
        Phrase(": it places nothing and ends the span before it."),
    ]


def _hush(
    project: Project, plan: Plan, scene: Scene, layer: Layer, hush: Hush, number: int
) -> list[Phrase]:
    place = Anchor(scene.id, layer.id, hush.frame)
    names = {made.id: made.label for made in project.all_placeables()}
    what = {
        "layer": "what this layer sounds",
        "sound": names.get(hush.sound or "", "a sound"),
        "all": "everything",
    }[hush.target]
    how = "at once" if not hush.fade else f"over {hush.fade:g} s"
    visit = plan.visit_of(scene.id, number)
    ended = sorted(
        {names[v.sound] for v in plan.voices if v.ended_by == place and v.ended == "hush"}
    )
    if visit is None or hush.off or layer.off:
        result = "it is switched off."
    elif ended:
        result = f"it ends {', '.join(ended)}."
    else:
        result = "here it ends nothing."
    return [
        Phrase("A hush on "),
        Phrase(f"frame {project.shown(hush.frame)}", "frame"),
        Phrase(" silences "),
        Phrase(what, "target"),
        Phrase(" "),
        Phrase(how, "fade"),
        Phrase(f"; {result}"),
    ]


class _Clip:
    def __init__(
        self,
        project: Project,
        plan: Plan,
        scene: Scene,
        layer: Layer,
        clip: Clip,
        number: int,
    ) -> None:
        self.project, self.plan = project, plan
        self.scene, self.layer, self.clip = scene, layer, clip
        self.name = project.placeable(clip.sound).label
        self.visit = plan.visit_of(scene.id, number)

    def parts(self) -> list[Phrase]:
        clip = self.clip
        reason = self.why_silent()
        verb = " starts on " if not reason else " stands on "
        parts = [
            Phrase(self.name, "sound"),
            Phrase(verb),
            Phrase(f"frame {self.project.shown(clip.frame)}", "frame"),
            Phrase(", runs "),
            Phrase(SYNC_WORDS[clip.sync], "sync"),
            Phrase(", "),
            Phrase(times_text(clip.loops), "loops"),
        ]
        if clip.sync != "locked":
            it = "itself" if clip.busy == "sound" else "the layer"
            words = IF_WORDS[clip.if_sounding].format(it=it).replace("if itself is", "if it is")
            parts += [Phrase(", "), Phrase(words, "if_sounding")]
        if reason:
            return [*parts, Phrase(f"; {reason}.")]
        return [*parts, *self.ends(self.voice())]

    def voice(self) -> Voice:
        """Its sounding in that pass; there must be one."""
        place = Anchor(self.scene.id, self.layer.id, self.clip.frame)
        return next(v for v in self.plan.voices if v.anchor == place and v.visit == self.visit)

    def why_silent(self) -> str:
        """Why nothing sounds, or nothing if something does."""
        place = Anchor(self.scene.id, self.layer.id, self.clip.frame)
        voices = self.plan.voices
        if any(voice.anchor == place and voice.visit == self.visit for voice in voices):
            return ""
        events = [
            event
            for event in self.plan.events
            if (event.scene, event.layer, event.frame) == place and event.visit == self.visit
        ]
        why = why_silent(self.project, self.scene, self.layer, self.clip, events)
        return in_sentence(why, self.clip, self.name)

    def ends(self, voice: Voice) -> list[Phrase]:
        """How and where that is over."""
        clip = self.clip
        waited = ""
        if voice.why == "queued":
            waited = f", when its turn comes on {self._frame_of(voice.start)}"
        if clip.sync == "hold" and self._holds():
            seconds = (voice.end - voice.start) / self.plan.rate
            return [
                Phrase(f"{waited}, and the picture stands still for it, {seconds:.2f} s; it "),
                Phrase("rings out" if clip.ends == "ring" else "ends with its span", "ends"),
                Phrase("."),
            ]
        where = self._frame_of(voice.end - 1)
        past = self._past_span(voice)
        middle = f"{waited}, and "
        if voice.ended == "finished":
            if clip.sync == "locked":
                return [Phrase(f"{middle}ends on {where}{past}.")]
            words = "rings out" if clip.ends == "ring" else "is over before its span is"
            tail = f" on {where}{past}."
            return [Phrase(middle), Phrase(words, "ends"), Phrase(tail)]
        if voice.ended == "span" and clip.sync == "locked":
            return [
                Phrase(f"{middle}is cut on {where}, where its span ends{self._left_over(voice)}.")
            ]
        tails = {
            "span": ("ends with its span", f" on {where}{past}."),
            "hush": ("is hushed", f" on {where}{past}."),
            "restarted": ("is cut", f" on {where}, where it starts over."),
            "scene": ("ends with its scene", f" on {where}."),
            "run": ("goes on", " until the film is over."),
        }[voice.ended]
        return [Phrase(middle), Phrase(tails[0], "ends"), Phrase(tails[1])]

    def _holds(self) -> bool:
        return any(
            event.kind == "held"
            and (event.scene, event.frame, event.visit)
            == (self.scene.id, self.clip.frame, self.visit)
            for event in self.plan.events
        )

    def _frame_of(self, sample: int) -> str:
        plan = self.plan
        if sample >= plan.end:
            seconds = (sample + 1 - plan.end) / plan.rate
            return f"{seconds:.2f} s after the last picture"
        visit, frame, _ = plan.frame_at(max(0, sample))
        shown = f"frame {self.project.shown(frame)}"
        if visit != plan.visits[self.visit or 0]:
            scene = self.project.scene(visit.scene)
            return f"{shown} of {scene.label}"
        return shown

    def _past_span(self, voice: Voice) -> str:
        """How the end stands to the span's, in frames."""
        plan, visit = self.plan, self.visit
        assert visit is not None
        ends = span_ends(self.scene, self.layer)
        span_end = ends[self.clip.frame]
        stay, frame, _ = plan.frame_at(min(voice.end - 1, plan.end))
        if voice.end > plan.end or stay != plan.visits[visit]:
            return ", past its scene's end" if voice.end > plan.visits[visit].end else ""
        frames = frame + 1 - span_end
        if frames > 0:
            return f", {count(frames, 'frame')} past its span"
        return ", inside its span" if frames < 0 else ", where its span ends"

    def _left_over(self, voice: Voice) -> str:
        piece = voice.pieces[-1]
        if voice.length is None:
            return ""
        left = voice.length - (piece.clip_start + piece.end - piece.start)
        return f", {left / self.plan.rate:.2f} s before its own end"


def ending(
    project: Project, plan: Plan, scene: Scene, layer: Layer, clip: Clip, number: int
) -> str:
    """How and where the clip ends in the pass of that number, or why it does not sound there."""
    said = _Clip(project, plan, scene, layer, clip, number)
    reason = said.why_silent()
    words = reason or plain(said.ends(said.voice()))
    return words.removeprefix(", and ").removeprefix(", ").removesuffix(".")


def plain(parts: list[Phrase]) -> str:
    """The sentence without its controls."""
    return "".join(part.text for part in parts)
