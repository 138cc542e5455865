"""Hits of the chosen clip: landed on frames, set and taken off."""

from cicada.core.editing import Edit
from cicada.core.reshaping import ReshapeClip
from cicada.core.shaping import Shaped
from cicada.core.shelf_edits import ChangeSounds
from cicada.errors import CicadaError
from cicada.window.clip.chosen_clip import ChosenClip
from cicada.window.state.hits import Hits


class Landing:
    """Lands the hit that is nearest, and knows where hits were set by hand."""

    def __init__(self, chosen: ChosenClip, hits: Hits) -> None:
        self.chosen, self.hits, self.notices = chosen, hits, chosen.notices
        self.document, self.session = chosen.document, chosen.session

    def edit(self) -> Edit:
        """What landing would do."""
        return self._landing()[0]

    def _landing(self) -> tuple[Edit, Shaped]:
        """The edit that lands the hit nearest to the playhead there, and what comes of it."""
        cell, shaping = self.chosen.shaping()
        found, frame = self.hits.of(shaping.clip.sound), self.session.playhead
        onsets = [hit.onset for hit in found.hits] if found is not None else []
        made = shaping.land(shaping.nearest_hit(onsets, frame), frame)
        return ReshapeClip(cell=cell, clip=made.clip, named="land the hit on a frame"), made

    def land(self) -> None:
        """Put the clip so that the hit nearest to the playhead is heard on its frame."""
        try:
            edit, made = self._landing()
        except CicadaError as error:
            self.notices.say(str(error))
            return
        if self.document.do(edit):
            self.chosen.follow(made.clip.frame)
            shown = self.document.project.shown(self.session.playhead)
            gave = f": {made.gave}." if made.gave else "."
            self.notices.say(f"The hit lands on frame {shown}{gave}")

    def set_hit(self) -> None:
        """Set a hit where the sound is at the playhead, or take off the one that is there."""

        def make() -> Edit:
            _, shaping = self.chosen.shaping()
            apart = self.document.project.timebase.start(1)
            hits = shaping.hits_with(self.session.playhead, apart)
            return ChangeSounds(sounds=(shaping.sound.id,), changes={"hits": hits})

        self.chosen.do(make)
