"""Keyframes and lines on the clipboard, between scenes, projects and windows."""

from collections.abc import Sequence
from pathlib import Path
from typing import Protocol

from PySide6.QtCore import QByteArray, QMimeData
from PySide6.QtGui import QGuiApplication

from cicada.core.arrange import with_their_rests
from cicada.core.copied import Copied, brought, copied, decoded, pasting
from cicada.core.editing import Several
from cicada.core.frame_rate import copied_in_seconds
from cicada.core.keyframe_edits import ChangeKeyframes, ClearKeyframes
from cicada.core.model import Clip
from cicada.core.shelf_edits import AddSounds
from cicada.core.timebase import fps_text
from cicada.errors import CicadaError
from cicada.store.sounds_folder import moved_sound
from cicada.window.state.notices import Notices
from cicada.window.state.session import Session
from cicada.window.words.frame_rate import copied_sentence, shifts_summary
from cicada.window.words.quantities import TimeUnits, count, line_text, parse_line

# So many shifts are listed in a question.
LISTED = 10
MIME = "application/x-cicada-keyframes"
# The first line of copied lines, which otherwise are plain text.
LINES = "level and pan lines"


class Choose(Protocol):
    """Asks what is to be done; the number of the verb, ``safe`` if nobody chooses."""

    def __call__(self, text: str, verbs: Sequence[str], *, safe: int, detail: str = "") -> int:
        """Ask."""


class Clipboard:
    """Copies what is chosen, and pastes it at the playhead."""

    def __init__(self, session: Session, choose: Choose, notices: Notices) -> None:
        self._session, self._document, self._notices = session, session.document, notices
        self._choose = choose
        self._copied = b""

    # -- keyframes -----------------------------------------------------------------------------

    def copy(self) -> bool:
        """Put what is chosen on the clipboard; whether there was anything."""
        session, document = self._session, self._document
        if not session.chosen:
            self._notices.say("Choose a keyframe first.")
            return False
        taken = copied(document.project, session.scene, session.chosen, str(document.file))
        self._copied = taken.encoded()
        data = QMimeData()
        data.setData(MIME, QByteArray(self._copied))
        QGuiApplication.clipboard().setMimeData(data)
        return True

    def cut(self) -> None:
        """Put what is chosen on the clipboard and clear it."""
        if self.copy():
            cells = tuple(sorted(with_their_rests(self._session.scene, self._session.chosen)))
            self._document.do(ClearKeyframes(cells=cells, verb="cut"))

    def can_paste(self) -> bool:
        """Whether keyframes are on the clipboard."""
        return bool(_on_clipboard())

    def paste(self) -> None:
        """Put the keyframes on the clipboard at the playhead, on the chosen layer and below."""
        copy = decoded(_on_clipboard())
        if copy is None:
            self._notices.say("There are no keyframes on the clipboard.")
            return
        session, document = self._session, self._document
        copy = self._at_this_rate(copy)
        if copy is None:
            return
        beside = Path(copy.file)
        try:
            added, ids = brought(
                document.project, copy, lambda sound: moved_sound(sound, beside, document.file)
            )
            project = AddSounds(sounds=added).apply(document.project) if added else document.project
            edit, cells = pasting(project, session.scene, copy, session.cell, session.playhead, ids)
        except CicadaError as error:
            self._notices.say(str(error))
            return
        if added:
            edit = Several(named=edit.title, edits=(AddSounds(sounds=added), edit))
        if document.do(edit):
            session.choose_all(cells)
            also = f", with {count(len(added), 'sound')}" if added else ""
            self._notices.say(f"Pasted {count(len(cells), 'keyframe')}{also}.")

    def _at_this_rate(self, copy: Copied) -> Copied | None:
        """What was copied at another frame rate, by seconds or by frames; None if neither."""
        project = self._document.project
        if copy.fps is None or copy.fps == project.fps:
            return copy
        moved, shifts = copied_in_seconds(copy, project.fps, project.rate)
        listed = [copied_sentence(shift, project.rate) for shift in shifts[:LISTED]]
        if len(shifts) > LISTED:
            listed.append(f"and {len(shifts) - LISTED} more")
        chosen = self._choose(
            f"These were copied at {fps_text(copy.fps)} frames a second; "
            f"here there are {fps_text(project.fps)}.",
            ["Leave it", "Paste by frames", "Paste by seconds"],
            safe=0,
            detail=f"By frames they stand as many frames apart as they stood. By seconds: "
            f"{shifts_summary(shifts, project.rate)}\n" + "\n".join(listed),
        )
        return {1: copy, 2: moved}.get(chosen)

    def close(self) -> None:
        """Take what was copied off the clipboard: its data does not outlive the window."""
        if self._copied and _on_clipboard() == self._copied:
            QGuiApplication.clipboard().clear()

    # -- lines ---------------------------------------------------------------------------------

    def copy_lines(self) -> None:
        """Put the lines of the chosen clip on the clipboard, as they are typed."""
        clip = self._session.keyframe()
        if not isinstance(clip, Clip):
            self._notices.say("Choose a clip first.")
            return
        lines = [line_text("level", clip.level_line), line_text("pan", clip.pan_line)]
        QGuiApplication.clipboard().setText("\n".join((LINES, *lines)))
        self._notices.say("Its lines are copied.")

    def paste_lines(self) -> None:
        """Put the lines on the clipboard on all chosen clips."""
        words = QGuiApplication.clipboard().text().split("\n")
        if len(words) != 3 or words[0] != LINES:
            self._notices.say("No lines were copied: Ctrl+Alt+C copies those of a clip.")
            return
        # Lines are told in seconds, whatever the project's frames are.
        units = TimeUnits(24.0)
        try:
            level, pan = parse_line("level", words[1], units), parse_line("pan", words[2], units)
        except ValueError as error:
            self._notices.say(str(error))
            return
        clips = self._session.clip_cells()
        if clips:
            lines = {"level_line": level, "pan_line": pan}
            self._document.do(ChangeKeyframes(cells=clips, changes=lines, what="the lines"))


def _on_clipboard() -> bytes:
    """The keyframes on the clipboard, as they were written; nothing if it holds something else."""
    # Some platforms have no data at all where nothing was copied.
    data = QGuiApplication.clipboard().mimeData()
    return bytes(data.data(MIME).data()) if data is not None else b""  # type: ignore[redundant-expr]
