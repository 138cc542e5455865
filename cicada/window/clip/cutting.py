"""Where the chosen clip begins, stops and is over: trimmed, split, ended on a frame, looped."""

from functools import partial

from PySide6.QtWidgets import QMenu

from cicada.core.beats import tempo_at
from cicada.core.editing import Edit
from cicada.core.model import Clip
from cicada.core.reshaping import ending_on, endings, filling, splitting
from cicada.core.shaping import Shaping
from cicada.errors import BadEdit, CicadaError
from cicada.media.moments import LoudPart, loud_part
from cicada.window.clip.chosen_clip import ChosenClip, Making
from cicada.window.state.sounds import Sounds
from cicada.window.widgets.asking import Asking
from cicada.window.words.quantities import TimeUnits, parse_frame_number

# Below these levels, in dB, a head or tail counts as silent.
THRESHOLDS = (-40, -50, -60, -70)


class Cutting:
    """Trims, splits and ends the chosen clip."""

    def __init__(self, chosen: ChosenClip, sounds: Sounds, asking: Asking) -> None:
        self.chosen, self.sounds, self.asking = chosen, sounds, asking
        self.document, self.session = chosen.document, chosen.session
        self.notices = chosen.notices
        self.threshold = THRESHOLDS[1]

    def edits(self) -> dict[str, Making]:
        """What commands would do, by their names."""
        return {
            "head_here": self._trimming(head=True)[0],
            "tail_here": self._trimming(head=False)[0],
            "split": self._splitting,
            "loop_to_fill": self._filling,
        }

    def _trimming(self, *, head: bool) -> tuple[Making, list[str]]:
        """The edit that lets the chosen clip begin or end at the playhead, and what gives."""
        frame = self.session.playhead
        gave: list[str] = []

        def make(shaping: Shaping) -> Clip:
            made = shaping.trim_at(frame, head=head)
            gave.append(made.gave)
            return made.clip

        words = "beginning" if head else "end"
        return self.chosen.reshaping(f"trim the clip's {words}", make), gave

    def trim_here(self, *, head: bool) -> None:
        """Let the chosen clip begin or end at the playhead."""
        make, gave = self._trimming(head=head)
        if self.chosen.do(make):
            if head:
                self.chosen.follow(self.session.playhead)
            words = "beginning" if head else "end"
            self.notices.say(gave[-1] or f"The clip's {words} is at the playhead now.")

    def _splitting(self) -> Edit:
        cell, shaping = self.chosen.shaping()
        return splitting(cell, shaping.split(self.session.playhead))

    def split(self) -> None:
        """Split the chosen clip at the playhead, and choose the second part."""
        clip = self.session.keyframe()
        if self.chosen.do(self._splitting):
            self.chosen.follow(self.session.playhead)
            if isinstance(clip, Clip) and clip.loop_overlap and clip.loops != 1:
                self.notices.say("Split; what rang over from the loop before is not taken along.")

    def _silence(self, threshold: int) -> tuple[Making, str]:
        """The edit that trims the silence below a threshold, and what it does in words."""
        _, shaping = self.chosen.shaping()
        timing, rate = shaping.timing, shaping.rate
        read = self.sounds.read(shaping.clip.sound)
        peaks = self.sounds.peaks(shaping.clip.sound)
        if read is None or peaks is None:
            raise BadEdit("the sound is not decoded yet", remedy="wait a moment")
        part = LoudPart(timing.first, timing.last)
        loud = loud_part(read, peaks, 10 ** (threshold / 20), part)
        if loud.first >= loud.last:
            raise BadEdit(f"all of it is below {threshold} dB", remedy="choose a lower threshold")
        head = (loud.first - timing.first) / rate
        tail = (timing.last - loud.last) / rate
        words = f"{head:.3f} s off the front and {tail:.3f} s off the end, below {threshold} dB"
        return self.chosen.reshaping("trim the silence", lambda s: s.trim_to(*loud).clip), words

    def trim_silence_again(self) -> None:
        """Cut what is silent off, below the threshold used last."""
        self.trim_silence(self.threshold)

    def trim_silence(self, threshold: int) -> None:
        """Cut what is silent off both ends; the sound then begins on its frame."""
        try:
            make, words = self._silence(threshold)
        except CicadaError as error:
            self.notices.say(str(error))
            return
        self.threshold = threshold
        if self.chosen.do(make):
            self.notices.say(f"Trimmed {words}.".replace("-", "−"))

    def silence_menu(self, menu: QMenu) -> None:
        """Thresholds, each with what it would cut."""
        for threshold in THRESHOLDS:
            try:
                make, words = self._silence(threshold)
            except CicadaError as error:
                menu.addAction(str(error)).setEnabled(False)
                continue
            shown = words.replace("-", "−")
            self.chosen.offer(menu, shown, make, partial(self.trim_silence, threshold))
        self.chosen.draw_while_open(menu)

    def end_menu(self, menu: QMenu) -> None:
        """Where the chosen clip may end, each drawn while the pointer rests on it."""
        cell, shaping = self.chosen.shaping()
        project = self.document.project
        for what, frame in endings(project, cell, shaping, self.session.playhead):
            words = f"{what}, frame {project.shown(frame)}"
            self.chosen.offer(menu, words, self._ending(frame))
        asked = menu.addAction("another frame…")
        asked.triggered.connect(self.ask_end)
        self.chosen.draw_while_open(menu)

    def _ending(self, frame: int) -> Making:
        def make() -> Edit:
            cell, shaping = self.chosen.shaping()
            return ending_on(cell, shaping, frame)

        return make

    def ask_end(self) -> None:
        """Ask for the frame the chosen clip is to be over on."""
        scene, shown = self.session.scene, self.document.project.shown
        units = TimeUnits(self.document.project.timebase.fps, tempo_at(scene, 0))

        def read(text: str) -> int:
            frame = parse_frame_number(text, units, shown(0))
            if not 0 <= frame <= scene.length:
                raise ValueError(f"it can be over from frame {shown(0)} to {shown(scene.length)}")
            return frame

        frame = self.asking.ask(
            "End the clip", "It is over as this frame begins, or as in 2.5 s:",
            str(shown(self.session.playhead)), "Let it end there", read,
        )  # fmt: skip
        if frame is not None:
            self.chosen.do(self._ending(frame))

    def _filling(self) -> Edit:
        return filling(self.document.project, *self.chosen.shaping())

    def loop_to_fill(self) -> None:
        """Let the chosen clip loop until its span ends."""
        self.chosen.do(self._filling)
