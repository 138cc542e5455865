"""Two versions of a clip's settings, heard in turn: the one held, and the one there is."""

from math import log10

from msgspec.structs import replace
from PySide6.QtCore import QObject, Signal

from cicada.core.editing import Cell
from cicada.core.model import Clip
from cicada.core.plan import Plan, Voice
from cicada.core.reshaping import ReshapeClip, clip_on
from cicada.core.values import HIGHEST_LEVEL
from cicada.errors import BadEdit
from cicada.jobs.measuring import loudnesses
from cicada.window.clip.chosen_clip import ChosenClip
from cicada.window.playing.transport import Transport
from cicada.window.state.session import Opened
from cicada.window.state.work import Work
from cicada.window.words.numbers import fixed
from cicada.window.words.quantities import count, loops_text

# Seconds around the clip that are played with it.
AROUND = 0.4


class Comparing(QObject):
    """``changed`` comes when a version is held or let go of, or the other one is heard."""

    changed = Signal()

    def __init__(self, chosen: ChosenClip, transport: Transport, work: Work) -> None:
        super().__init__()
        self._chosen, self._transport, self._work = chosen, transport, work
        self._planning, self._notices = chosen.planning, chosen.notices
        self._session, self._document = chosen.session, chosen.document
        self._trial = chosen.planning.trial()
        self._held: Clip | None = None
        self._where: Opened | None = None
        self._matched: float | None = None
        self._heard_as_held: Plan | None = None
        self._document.changed.connect(self._keep_up)
        self._planning.planned.connect(self._planned)
        self._planning.trial_changed.connect(self.changed)

    @property
    def hearing_held(self) -> bool:
        """Whether the version held is heard, and not the one there is."""
        return self._held is not None and self._trial.begun

    @property
    def held(self) -> Clip | None:
        """The version that is held."""
        return self._held

    def _cell(self) -> Cell | None:
        """Where the clip that is compared stands now."""
        if self._where is None:
            return None
        found = self._where.within(self._document.project, self._session.scene_id)
        return None if found is None or found.frame is None else Cell(found.layer, found.frame)

    # -- holding -------------------------------------------------------------------------------

    def hold(self) -> None:
        """Hold the chosen clip as it is; what is changed from now on can be flipped with it."""
        cell, clip = self._session.cell, self._chosen.clip()
        if cell is None or clip is None:
            self._notices.say("Choose a clip first.")
            return
        self.let_go()
        self._held, self._where = clip, Opened(cell.layer, cell.frame, clip.sound)
        self._notices.say("Held. Change the clip, then C flips between the two.")
        self.changed.emit()

    def let_go(self) -> None:
        """Forget the version held."""
        self._held = self._where = self._matched = self._heard_as_held = None
        self._trial.end()
        self.changed.emit()

    def flip(self) -> None:
        """Hear the other version, again and again until playing is stopped."""
        cell = self._cell()
        if self._held is None or cell is None:
            self._notices.say("Hold a version first, with Shift+C.")
            return
        if self.hearing_held:
            self._trial.end()
        elif not self._hear_held():
            return
        self._play(cell)
        self.changed.emit()

    def keep(self) -> None:
        """Keep the version that is heard, and forget the other."""
        cell, held = self._cell(), self._held
        if held is None or cell is None:
            self._notices.say("Hold a version first, with Shift+C.")
            return
        heard_held = self.hearing_held
        self.let_go()
        if heard_held:
            edit = ReshapeClip(cell=cell, clip=held, named="keep the version held")
            if self._document.do(edit):
                self._session.follow_clip(Cell(cell.layer, held.frame))

    def _hear_held(self) -> bool:
        """Have the version held in place of the one there is; whether it fits."""
        cell, held = self._cell(), self._held
        if cell is None or held is None:
            return False
        if self._matched is not None:
            held = replace(held, level=min(HIGHEST_LEVEL, held.level * self._matched))
        edit = ReshapeClip(cell=cell, clip=held)
        return self._trial.attempt(lambda: edit, heard=True)

    def _play(self, cell: Cell) -> None:
        plan = self._planning.plan
        voice = _voice_at(plan, self._session.scene_id, cell)
        if voice is None or self._transport.playing:
            return
        around = round(AROUND * plan.rate)
        self._transport.play_between(max(0, voice.start - around), voice.end + around)

    def match_levels(self) -> None:
        """Hear both equally loud from now on, or each as it is."""
        cell, held = self._cell(), self._held
        if cell is None or held is None:
            self._notices.say("Hold a version first, with Shift+C.")
            return
        if self._matched is not None:
            self._matched = None
            self._again()
            return

        def done(found: list[float | None]) -> None:
            before, now = found
            if before is None or now is None:
                self._notices.say("One of the two is silent: there is nothing to match.")
                return
            self._matched = 10 ** ((now - before) / 20)
            self._again()

        both = [(held, 1.0), (clip_on(self._document.project, cell), 1.0)]
        self._work.with_sounds(loudnesses, both, done=done)

    def _again(self) -> None:
        if self.hearing_held:
            self._hear_held()
        self.changed.emit()

    # -- following -----------------------------------------------------------------------------

    def _keep_up(self) -> None:
        """After an edit the version there is is heard; a clip that is gone is not compared."""
        if self._held is None:
            return
        self._heard_as_held = None
        try:
            cell = self._cell()
        except KeyError:
            cell = None
        if cell is None:
            self.let_go()
        else:
            self._where = Opened(cell.layer, cell.frame, self._held.sound)
        self.changed.emit()

    def _planned(self) -> None:
        if self._held is not None and self._trial.planned:
            self._heard_as_held = self._planning.plan
            self.changed.emit()

    def sentence(self) -> str:
        """How the version held differs from the one there is; empty if none is held."""
        cell, held = self._cell(), self._held
        if held is None or cell is None:
            return ""
        try:
            now = clip_on(self._document.project, cell)
        except BadEdit:
            return ""
        found = differences(held, now)
        ends = self._ends(cell, held)
        said = [*ends, *found]
        heard = ", heard now" if self.hearing_held else ""
        return (", ".join(said) if said else "the same as now") + heard

    def _ends(self, cell: Cell, held: Clip) -> list[str]:
        """How much later the version held starts and ends, once both have been planned."""
        plan, scene = self._heard_as_held, self._session.scene_id
        if plan is None or not self._trial.planned:
            return []
        one = _voice_at(plan, scene, Cell(cell.layer, held.frame))
        other = _voice_at(self._planning.settled_plan, scene, cell)
        if one is None or other is None:
            return ["does not sound"] if one is None else []
        words = []
        for verb, samples in (("starts", one.start - other.start), ("ends", one.end - other.end)):
            frames = round(samples * plan.timebase.fps / plan.rate)
            if frames:
                side = "later" if frames > 0 else "sooner"
                words.append(f"{verb} {count(abs(frames), 'frame')} {side}")
        return words


def _voice_at(plan: Plan, scene: str, cell: Cell) -> Voice | None:
    anchor = (scene, *cell)
    return next((v for v in plan.voices if v.anchor == anchor), None)


def differences(held: Clip, now: Clip) -> list[str]:
    """How the settings of one version differ from the other's, in words."""
    said = []
    if held.level != now.level and held.level and now.level:
        db = 20 * log10(held.level / now.level)
        said.append(f"{fixed(abs(db), 1)} dB {'louder' if db > 0 else 'quieter'}")
    if held.pan != now.pan:
        said.append("farther left" if held.pan < now.pan else "farther right")
    if held.speed != now.speed:
        st = 12 * log10(held.speed / now.speed) / log10(2)
        said.append(f"{fixed(abs(st), 1)} semitones {'higher' if st > 0 else 'lower'}")
    if held.loops != now.loops:
        said.append(f"plays {loops_text(held.loops)} instead of {loops_text(now.loops)} times")
    words = {
        "sync": "keeps time in another way", "trim": "another part of the sound",
        "offset": "another offset", "delay": "another delay", "loop_overlap": "another overlap",
        "level_line": "another level line", "pan_line": "another pan line",
        "fade_in": "another fade in", "fade_out": "another fade out", "ends": "ends otherwise",
        "release": "another release", "if_sounding": "another choice if it is sounding",
        "sound": "another sound",
    }  # fmt: skip
    said += [text for field, text in words.items() if getattr(held, field) != getattr(now, field)]
    return said
