"""The loops of the chosen clip: their join listened to, their overlap fitted."""

from cicada.core.keyframe_edits import ChangeKeyframes
from cicada.errors import BadEdit
from cicada.jobs.measuring import fitting_overlap
from cicada.window.clip.chosen_clip import ChosenClip
from cicada.window.playing.transport import Transport
from cicada.window.state.work import Work

# Seconds before a loop's join at which one begins to listen to it, and after it one stops.
BEFORE_JOIN, AFTER_JOIN = 1.0, 1.0


class Looping:
    """Listens to the join of loops, and lets them overlap."""

    def __init__(self, chosen: ChosenClip, transport: Transport, work: Work) -> None:
        self.chosen, self.transport, self.work = chosen, transport, work
        self.document, self.session = chosen.document, chosen.session
        self.notices = chosen.notices

    def listen_to_join(self) -> None:
        """Play from just before the first join of the chosen clip's loops."""
        try:
            _, shaping = self.chosen.shaping()
        except BadEdit as error:
            self.notices.say(str(error))
            return
        timing = shaping.timing
        if timing.loops == 1:
            self.notices.say("The clip plays once, so there is no join; give it loops first.")
            return
        planning, rate = self.chosen.planning, shaping.rate
        visit = planning.plan.visit_of(self.session.scene_id, planning.number)
        join = shaping.first_join(planning.plan, visit)
        self.transport.play_between(
            max(0, join - round(BEFORE_JOIN * rate)), join + round(AFTER_JOIN * rate)
        )

    def overlap(self) -> None:
        """Let the loops of the chosen clip overlap by what its sound takes to die away."""
        try:
            cell, shaping = self.chosen.shaping()
        except BadEdit as error:
            self.notices.say(str(error))
            return

        def done(seconds: float | None) -> None:
            if not seconds:
                self.notices.say("The sound stays loud up to its end: its loops need no overlap.")
                return
            changes = {"loop_overlap": seconds}
            self.document.do(ChangeKeyframes(cells=(cell,), changes=changes, what="the overlap"))
            self.notices.say(f"Its loops overlap by {seconds:.3f} s, for so long it dies away.")

        self.work.with_sounds(fitting_overlap, shaping.clip, done=done)
