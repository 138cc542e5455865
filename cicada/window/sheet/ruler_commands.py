"""What stands on the rulers: marks, press points and tempo."""

from collections.abc import Callable

from cicada.core.beats import tempo_at
from cicada.core.scene_edits import (
    ClearMark,
    ClearPressPoint,
    PutMark,
    PutPressPoint,
    PutTempo,
    mark_at,
    press_point_at,
)
from cicada.window.playing.transport import Transport
from cicada.window.sheet.beats_dialog import BeatsDialog
from cicada.window.sheet.drift_list import DriftList
from cicada.window.sheet.going_about import GoingAbout
from cicada.window.sheet.marks_list import MarksList
from cicada.window.sheet.sheet import Sheet
from cicada.window.state.jobs import Jobs
from cicada.window.state.planning import Planning
from cicada.window.state.work import Work
from cicada.window.widgets.actions import Action
from cicada.window.widgets.asking import Asking, any_words
from cicada.window.widgets.dialogs import show_beside
from cicada.window.words.numbers import shown
from cicada.window.words.quantities import TimeUnits, parse_bpm, parse_seconds, seconds_text


class RulerCommands:
    """What is put on the rulers at the playhead, and taken off them."""

    def __init__(
        self,
        sheet: Sheet,
        planning: Planning,
        transport: Transport,
        going_about: GoingAbout,
        jobs: Jobs,
        work: Work,
        asking: Asking,
    ) -> None:
        self.sheet, self.planning, self.transport = sheet, planning, transport
        self.going_about, self.jobs, self.asking = going_about, jobs, asking
        self.work = work
        # Who changes the frame rate, and is told which would suit the beats.
        self.frame_rate_wanted: Callable[[tuple[int, int]], None] = lambda _: None
        self.document, self.session = sheet.document, sheet.session

    def entries(self) -> list[Action | None]:
        """Its entries of the Place menu."""
        return [
            ("mark", "Mark this frame", "M", self.mark),
            ("name_mark", "Write on the mark…", "N", self.name_mark),
            ("marks", "All marks…", "Ctrl+Shift+N", self.show_marks),
            ("press", "Wait here for a press, or not", "W", self.press_point),
            ("name_press", "Name the press point…", "Shift+W", self.name_press_point),
            ("tempo", "Tempo from here…", "Shift+B", self.tempo),
            ("beats", "Beats…", "Ctrl+B", self.show_beats),
        ]

    def units(self, frame: int) -> TimeUnits:
        """What times are told in on a frame of the scene."""
        return TimeUnits(self.document.project.timebase.fps, tempo_at(self.session.scene, frame))

    def menu(self, frame: int) -> list[str]:
        """What the menu on the rulers offers for a frame, which the playhead goes to."""
        self.session.move_playhead(frame)
        names = ["mark", "name_mark", "marks", "press", "name_press", "tempo", "beats"]
        return [*names, "insert", "remove_frame", "scene_length"]

    def show_marks(self) -> None:
        """List the marks of all scenes."""
        show_beside(MarksList(self.sheet, self.session, self.going_about))

    def show_beats(self) -> None:
        """Show the beats of the scene, to be typed, tapped and found."""
        show_beside(
            BeatsDialog(self.sheet, self.sheet, self.transport, self.work, self.frame_rate_wanted)
        )

    def show_drift(self) -> None:
        """List what runs ahead of the picture on the machine that is pretended."""
        show_beside(
            DriftList(
                self.sheet,
                self.session,
                self.planning,
                self.sheet.conditions,
                self.going_about,
                self.jobs,
                self.asking,
            )
        )

    def mark(self) -> None:
        """Put a mark at the playhead, or take the one there away; also while the film plays."""
        session = self.session
        frame, scene = session.playhead, session.scene
        playing = self.transport.playing
        if mark_at(scene, frame) is not None and not playing:
            self.document.do(ClearMark(scene=scene.id, frame=frame))
        elif mark_at(scene, frame) is None:
            number = len(scene.marks) + 1
            self.document.do(PutMark(scene=scene.id, frame=frame, text=f"mark {number}"))

    def name_mark(self) -> None:
        """Write on the mark at the playhead."""
        scene, frame = self.session.scene, self.session.playhead
        mark = mark_at(scene, frame)
        text = self.asking.ask(
            "Mark", "What happens on this frame:", mark.text if mark else "",
            "Write it", any_words,
        )  # fmt: skip
        if text is not None:
            self.document.do(PutMark(scene=scene.id, frame=frame, text=text))

    def press_point(self) -> None:
        """Let the picture wait for a press at the playhead, or not."""
        scene, frame = self.session.scene, self.session.playhead
        if press_point_at(scene, frame) is None:
            self.document.do(PutPressPoint(scene=scene.id, frame=frame))
        else:
            self.document.do(ClearPressPoint(scene=scene.id, frame=frame))

    def name_press_point(self) -> None:
        """Write what the press point at the playhead waits for, and how long at most."""
        scene, frame = self.session.scene, self.session.playhead
        point = press_point_at(scene, frame)
        units = self.units(frame)
        label = self.asking.ask(
            "Press point", "The picture waits:",
            point.label if point else "until the lamp is pressed", "Go on", any_words,
        )  # fmt: skip
        if label is None:
            return
        before = point.after if point else None
        # Nothing typed is a time, too: that the picture waits until a press.
        after = self.asking.ask(
            "Press point", "At most (0.5 s, 12 f; empty: until a press):",
            "" if before is None else seconds_text(before, units), "Let it wait so long",
            lambda text: (parse_seconds(text, units),) if text.strip() else (None,),
        )  # fmt: skip
        if after is not None:
            edit = PutPressPoint(scene=scene.id, frame=frame, label=label, after=after[0])
            self.document.do(edit)

    def tempo(self) -> None:
        """Ask for the tempo from the playhead on."""
        scene, frame = self.session.scene, self.session.playhead
        here = next((t for t in scene.tempo if t.frame == frame), None)
        bpm = self.asking.ask(
            "Tempo", "Beats a minute from this frame on (0 takes it away):",
            shown(here.bpm if here else 96.0), "Set the tempo", parse_bpm,
        )  # fmt: skip
        if bpm is not None and self.document.do(
            PutTempo(scene=scene.id, frame=frame, bpm=bpm or None)
        ):
            self.sheet.show_unit("beats")
