"""One part of a pool, blend or playlist placed instead of all of it, for the chosen clip."""

from functools import partial

from msgspec.structs import replace
from PySide6.QtWidgets import QMenu

from cicada.core.model import Clip
from cicada.core.needs import parts_of
from cicada.core.shaping import Shaping
from cicada.window.clip.chosen_clip import ChosenClip


class ChoosingParts:
    """Offers the parts of what the chosen clip places."""

    def __init__(self, chosen: ChosenClip) -> None:
        self.chosen, self.session = chosen, chosen.session

    def picked(self) -> str | None:
        """The sound that the chosen clip's pool drew in the pass shown."""
        planning, cell = self.chosen.planning, self.session.cell
        plan = planning.settled_plan
        visit = plan.visit_of(self.session.scene_id, planning.number)
        for voice in plan.voices:
            if voice.cell == cell and voice.visit == visit and voice.fire is None:
                return voice.picked
        return None

    def menu(self, menu: QMenu) -> None:
        """The parts, the one that was drawn first and ticked."""
        menu.clear()
        clip, project = self.chosen.clip(), self.chosen.document.project
        parts = () if clip is None else parts_of(project.placeable(clip.sound))
        if not parts:
            menu.addAction("The chosen clip places one sound").setEnabled(False)
            return
        picked = self.picked()
        for part in sorted(parts, key=lambda part: part != picked):
            label = project.placeable(part).label
            words = f"{label}, which was drawn here" if part == picked else label
            make = self.chosen.reshaping(f"place {label} instead", partial(_placing, part))
            self.chosen.offer(menu, words, make)
        self.chosen.draw_while_open(menu)


def _placing(part: str, shaping: Shaping) -> Clip:
    return replace(shaping.clip, sound=part)
