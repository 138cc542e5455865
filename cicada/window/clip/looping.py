"""The loops of the chosen clip: their join listened to, their overlap fitted."""

from collections.abc import Callable
from functools import partial
from math import log2

from PySide6.QtWidgets import QMenu

from cicada.core.beats import tempo_at
from cicada.core.fitting import fitted_by_speed, fitted_by_trim, loop_length
from cicada.core.keyframe_edits import ChangeKeyframes
from cicada.core.model import Clip
from cicada.core.shaping import Shaping
from cicada.errors import BadEdit
from cicada.jobs.measuring import fitting_overlap
from cicada.window.clip.chosen_clip import ChosenClip
from cicada.window.playing.transport import Transport
from cicada.window.state.work import Work
from cicada.window.words.numbers import fixed, shown

# Seconds before a loop's join at which one begins to listen to it, and after it one stops.
BEFORE_JOIN, AFTER_JOIN = 1.0, 1.0


# So many beats are offered for a loop, of those nearest to its length.
BEATS = (0.25, 0.5, 1, 2, 3, 4, 6, 8, 12, 16, 24, 32, 48, 64)
OFFERED = 4


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

    def fit_menu(self, menu: QMenu) -> None:
        """Numbers of beats the loop can be made as long as, each by its speed and by its trim."""
        _, shaping = self.chosen.shaping()
        scene, project = self.session.scene, self.document.project
        bpm = tempo_at(scene, shaping.clip.frame)
        if bpm is None:
            menu.addAction("The scene has no tempo: set one with Ctrl+B").setEnabled(False)
            return
        beat, length = 60 * project.rate / bpm, loop_length(shaping)
        nearest = sorted(BEATS, key=lambda beats: abs(log2(max(1, length) / (beats * beat))))
        for beats in sorted(nearest[:OFFERED]):
            samples = round(beats * beat)
            self._offer(menu, shaping, beats, samples)
        self.chosen.draw_while_open(menu)

    def _offer(self, menu: QMenu, shaping: Shaping, beats: float, samples: int) -> None:
        """One number of beats, with what it costs by speed and by trim."""
        name = f"{shown(beats)} {'beat' if beats <= 1 else 'beats'}"
        for how, fit in (("speed", fitted_by_speed), ("trim", fitted_by_trim)):
            try:
                made = fit(shaping, samples)
            except BadEdit as error:
                menu.addAction(f"{name} by {how}: {error}".split(";")[0]).setEnabled(False)
                continue
            cost = _cost(shaping, made)
            title = f"{name} by {how}: {cost}"
            make = self.chosen.reshaping(f"fit {name}", partial(_fitted, fit, samples))
            self.chosen.offer(menu, title, make)

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


def _fitted(fit: Callable[[Shaping, int], Clip], samples: int, shaping: Shaping) -> Clip:
    return fit(shaping, samples)


def _cost(shaping: Shaping, made: Clip) -> str:
    """What a fit changes: its pitch, or how much of the sound is heard."""
    before = shaping.clip
    if made.speed != before.speed:
        steps = 12 * log2(made.speed / before.speed)
        faster = "higher" if steps > 0 else "lower"
        return f"{fixed(abs(steps), 2)} semitones {faster}"
    timing = shaping.timing
    end = made.trim[1]
    last = timing.last / shaping.rate
    by = (last if end is None else end) - last
    if abs(by) < 0.0005:
        return "as it is"
    return f"{fixed(abs(1000 * by), 0)} ms {'more' if by > 0 else 'less'} of it"
