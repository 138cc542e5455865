"""Deciding between ways a clip can be set: they are drawn in its row, heard and taken."""

from PySide6.QtCore import QObject

from cicada.core.editing import Cell, Changes
from cicada.core.keyframe_edits import ChangeKeyframes
from cicada.core.model import Clip
from cicada.core.ways import VALUES, Setting
from cicada.window.clip.chosen_clip import ChosenClip
from cicada.window.playing.transport import Transport
from cicada.window.state.conditions import Conditions
from cicada.window.state.ways import Ways
from cicada.window.words.ways import NAMES

# Seconds around the clip that are played with it, and after a keyframe that makes no sound.
AROUND, SILENT = 0.4, 2.0


class Deciding(QObject):
    """Compares the chosen clip's ways of keeping time, or what happens if it is sounding."""

    def __init__(
        self, chosen: ChosenClip, ways: Ways, conditions: Conditions, transport: Transport
    ) -> None:
        super().__init__()
        self._chosen, self._ways = chosen, ways
        self._conditions, self._transport = conditions, transport
        self._session, self._planning = chosen.session, chosen.planning
        self._trial = chosen.planning.trial()
        self._waiting = False
        # Whether the second pass is shown only for what is compared.
        self._turned = False
        self._planning.planned.connect(self._planned)
        self._planning.trial_changed.connect(self._keep_up)
        transport.state_changed.connect(self._follow)
        ways.changed.connect(self._closed)

    def compare_sync(self) -> None:
        """Compare locked, free and hold for the chosen clip, or close that."""
        self._compare("sync")

    def compare_passes(self) -> None:
        """Compare what the next pass does with each choice if it is sounding, or close that."""
        self._compare("if_sounding")

    def _compare(self, setting: Setting) -> None:
        cell, clip, ways = self._session.cell, self._chosen.clip(), self._ways
        if cell is None or clip is None:
            self._chosen.notices.say("Choose a clip first.")
        elif (ways.cell, ways.setting) == (cell, setting):
            self.close()
        elif setting == "if_sounding" and clip.sync == "locked":
            self._chosen.notices.say(
                "A locked clip goes by the picture and never asks what is sounding."
            )
        else:
            self._begin(cell, clip, setting)

    def _begin(self, cell: Cell, clip: Clip, setting: Setting) -> None:
        self.close()
        self._session.open(None)
        if setting == "if_sounding" and self._conditions.shown_pass == 1:
            self._turned = True
            self._conditions.show_pass(2)
        self._ways.compare(cell, setting)
        name = self._chosen.document.project.placeable(clip.sound).label
        last = len(VALUES[setting])
        self._chosen.notices.say(
            f"{name}: 1 to {last} let a way be heard, a click takes it, Esc closes."
        )

    def close(self) -> bool:
        """Compare nothing any more; whether anything was."""
        was = self._ways.cell is not None
        self._trial.end()
        self._ways.close_all()
        return was

    def _closed(self) -> None:
        """The comparison may be over for any reason."""
        if self._ways.cell is None:
            self._trial.end()
        if self._ways.cell is None and self._turned:
            self._turned = False
            if self._conditions.shown_pass == 2:
                self._conditions.show_pass(1)

    # -- hearing and taking ----------------------------------------------------------------------

    def hear(self, number: int) -> None:
        """Hear the way of that number, from 0, again and again until playing is stopped."""
        ways, cell = self._ways, self._ways.cell
        values = VALUES[ways.setting]
        if cell is None:
            self._chosen.notices.say("Compare a clip's ways first, with Shift+F or Shift+G.")
            return
        if number >= len(values):
            return
        value, now = values[number], ways.now
        if now is not None and now.value == value:
            self._trial.end()
        elif not self._trial.attempt(lambda: self._edit(cell, value), heard=True):
            return
        ways.hear(value)
        self._waiting = True
        self._planned()

    def take(self, value: str) -> None:
        """Set the clip so."""
        ways, cell = self._ways, self._ways.cell
        if cell is None or (ways.now is not None and ways.now.value == value):
            return
        self._chosen.document.do(self._edit(cell, value))

    def _edit(self, cell: Cell, value: str) -> ChangeKeyframes:
        setting = self._ways.setting
        what = "how it keeps time" if setting == "sync" else "what it does if it is sounding"
        changes: Changes = {setting: value}
        return ChangeKeyframes(cells=(cell,), changes=changes, what=f"{what}: {NAMES[value]}")

    def _planned(self) -> None:
        """The plan with what is to be heard is there: play it about the clip."""
        ready = self._trial.planned if self._trial.begun else self._planning.up_to_date
        cell = self._ways.cell
        if not self._waiting or not ready or cell is None:
            return
        self._waiting = False
        plan, project = self._planning.plan, self._planning.project
        visit = plan.visit_of(project.layer(cell.layer)[0].id, self._planning.number)
        if visit is None:
            return
        voice = next((v for v in plan.voices if v.cell == cell and v.visit == visit), None)
        around = round(AROUND * plan.rate)
        first = voice.start if voice is not None else plan.entered(cell.frame, visit) or 0
        last = voice.end if voice is not None else first + round(SILENT * plan.rate)
        heard = self._ways.heard
        begins = max(0, plan.visits[visit].start, first - around)
        self._transport.play_between(begins, last + around)
        self._ways.hear(heard)

    def _follow(self) -> None:
        """Nothing is played any more: the film is as it is."""
        if self._ways.heard and not self._waiting and not self._transport.sounding:
            self._ways.hear("")
            self._trial.end()

    def _keep_up(self) -> None:
        """Something else is tried out in its place."""
        if self._ways.heard and not self._trial.begun and not self._waiting:
            now = self._ways.now
            if now is None or now.value != self._ways.heard:
                self._ways.hear("")
