"""The commands about the picture: what it is made of, and its files."""

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QFileDialog, QMenu

from cicada.core.editing import Value
from cicada.core.model import Images, PicturePart, Still, Video, source_of
from cicada.core.picture_edits import AddParts, ChangePart
from cicada.errors import BadPicture
from cicada.media.pictures import DRAWINGS, SUFFIXES, VIDEOS, is_picture_name
from cicada.media.wanted import PictureInfo
from cicada.store.sounds_folder import relative
from cicada.window.picture.view import OVER
from cicada.window.shelf.commands import Action
from cicada.window.words.quantities import begun, count

if TYPE_CHECKING:
    from cicada.window.frame.main_window import MainWindow
    from cicada.window.picture.panel import PicturePanel
    from cicada.window.picture.window import PictureOverSheet, PictureWindow

Known = tuple[Path, PictureInfo]


class PictureCommands:
    """What the menus and drops do to the picture of the scene shown."""

    def __init__(self, window: "MainWindow") -> None:
        self.window = window
        self.document, self.session = window.document, window.session
        # The picture in a window of its own, and large over the sheet.
        self.own: PictureWindow | None = None
        # What it is made of, once that has been looked at.
        self.panel: PicturePanel | None = None
        self.over_sheet: PictureOverSheet | None = None

    def entries(self) -> list[Action | None]:
        """The entries of the menu."""
        return [
            ("picture", "Add to the picture…", "Ctrl+P", self.choose),
            ("numbered", "Add numbered images…", "Ctrl+Alt+P", self.choose_folder),
            ("parts", "What the picture is made of", "Ctrl+7", self.show_parts),
            ("picture_sound", "Take the picture's own sound", "Ctrl+Alt+T", self.take_sound),
            ("look_again", "Read the picture's files again", "Ctrl+Alt+E", self.look_again),
        ]

    def views(self) -> list[Action | None]:
        """The entries of the View menu."""
        return [
            ("picture_window", "The picture in a window of its own", "Ctrl+5", self.show_window),
            ("picture_full", "The picture fills the screen", "Ctrl+6", self.fill_screen),
            ("picture_over_sheet", "The picture over the sheet, or not", "Ctrl+8",
             self.show_over_sheet),
        ]  # fmt: skip

    # -- looking at it -------------------------------------------------------------------------

    def restore(self) -> None:
        """Show it as it was shown last."""
        over = self.window.settings.value("picture/over", [])
        self.window.picture.show_over(frozenset(over if isinstance(over, list) else [str(over)]))
        if self.window.settings.value("picture/over_sheet", "false") in (True, "true"):
            self.show_over_sheet()

    def show_parts(self) -> None:
        """Show what the picture is made of in the shelf's place, or the shelf again."""
        from cicada.window.picture.panel import PicturePanel

        if self.panel is None:
            self.panel = PicturePanel(self.window)
            self.window.side.addWidget(self.panel)
        self.window.show_beside(self.panel)

    def show_over_sheet(self) -> None:
        """Show the picture large, over the sheet, or the sheet again."""
        from cicada.window.picture.window import PictureOverSheet

        if self.over_sheet is None:
            self.over_sheet = PictureOverSheet(self.window, self.window.upper)
            self.over_sheet.show()
        else:
            self.over_sheet.deleteLater()
            self.over_sheet.hide()
            self.over_sheet = None
        self.window.settings.setValue("picture/over_sheet", self.over_sheet is not None)

    def show_window(self) -> None:
        """Show the picture in a window of its own, or close that."""
        from cicada.window.picture.window import PictureWindow

        if self.own is None:
            self.own = PictureWindow(self.window)
            self.own.show()
        else:
            self.own.close()

    def close_window(self) -> None:
        """Close the picture's own window, if it has one."""
        if self.own is not None:
            self.own.close()

    def fill_screen(self) -> None:
        """Let the picture fill the screen, or not."""
        if self.own is None:
            self.show_window()
        if self.own is not None:
            self.own.fill_screen()

    def over_menu(self, menu: QMenu) -> None:
        """What is drawn over the picture."""
        for name, words in OVER.items():
            action = menu.addAction(words)
            action.setCheckable(True)
            action.setChecked(name in self.window.picture.over)
            action.triggered.connect(lambda _=False, name=name: self._switch_over(name))

    def _switch_over(self, name: str) -> None:
        over = self.window.picture.over ^ {name}
        self.window.settings.setValue("picture/over", sorted(over))
        self.window.picture.show_over(over)

    # -- adding --------------------------------------------------------------------------------

    def choose(self) -> None:
        """Ask for images, drawings and videos."""
        kinds = " ".join(sorted(f"*{suffix}" for suffix in SUFFIXES | DRAWINGS | VIDEOS))
        names, _ = QFileDialog.getOpenFileNames(
            self.window, "Add to the picture", self.window.files.folder(),
            f"Images and videos ({kinds})",
        )  # fmt: skip
        if names:
            self.add([Path(name) for name in names])

    def choose_folder(self) -> None:
        """Ask for a folder of numbered images."""
        name = QFileDialog.getExistingDirectory(
            self.window, "Choose a folder of numbered images", self.window.files.folder()
        )
        if name:
            self.add([Path(name)])

    def drop(self, files: list[Path], frame: int | None = None) -> None:
        """What can be a picture becomes part of it; anything else is imported."""
        pictures = [path for path in files if _is_picture(path)]
        others = [path for path in files if path not in pictures]
        if pictures:
            self.add(pictures, frame)
        if others:
            self.window.commands.on_shelf.import_files(others)

    def add(self, paths: list[Path], frame: int | None = None) -> None:
        """Put files and folders on top of the picture, from a frame or the playhead on."""
        scene = self.session.scene_id
        known: list[Known] = []
        left = sorted(paths)

        def go_on() -> None:
            if left:
                self.window.frames.look_at(left[0], found)
            elif known:
                self._put(scene, known, frame)

        def found(info: PictureInfo | BadPicture) -> None:
            path = left.pop(0)
            if isinstance(info, BadPicture):
                self.window.tell(str(info))
            else:
                known.append((path, info))
            go_on()

        go_on()

    def _put(self, scene_id: str, known: list[Known], frame: int | None) -> None:
        try:
            scene = self.document.project.scene(scene_id)
        except KeyError:
            return
        first = frame
        if first is None:
            first = self.session.playhead if scene.picture else 0
        if len(known) > scene.length - first:
            self.window.tell(
                f"There are {len(known)} pictures, but only "
                f"{count(scene.length - first, 'frame')} from here to the scene's end; drop their "
                "folder to show one a frame."
            )
            return
        edit = AddParts(scene=scene_id, parts=self._laid_out(known, first, scene.length))
        if self.document.do(edit):
            self.window.say(self._said(known, first))
            self._take_sounds([path for path, info in known if info.has_sound])

    def _laid_out(self, known: list[Known], first: int, length: int) -> tuple[PicturePart, ...]:
        """One part each; several follow each other, and share the frames up to the scene's end."""
        alone, bare = len(known) == 1, not self.session.scene.picture
        parts: list[PicturePart] = []
        for number, (path, info) in enumerate(known):
            start = first + number * (length - first) // len(known)
            end = first + (number + 1) * (length - first) // len(known)
            shown = None if end == length else end - start
            if alone and not bare and info.kind == "video" and not info.animated:
                shown = max(1, min(length - start, self._frames_in(info.seconds)))
            parts.append(self._part(path, info, start, shown))
        return tuple(parts)

    def _frames_in(self, seconds: float) -> int:
        numerator, denominator = self.document.project.fps
        return round(seconds * numerator / denominator)

    def _part(self, path: Path, info: PictureInfo, start: int, shown: int | None) -> PicturePart:
        source = relative(path, self.document.file.parent)
        if info.kind == "images":
            return Images(folder=source, start=start, shown=shown)
        if info.kind == "still":
            return Still(file=source, start=start, shown=shown)
        seconds = round(info.seconds, 6)
        return Video(file=source, start=start, shown=shown, seconds=seconds, repeat=info.animated)

    def _said(self, known: list[Known], first: int) -> str:
        frame = first + self.document.project.first_frame
        if len(known) > 1:
            return f"{len(known)} pictures share the frames from {frame} to the scene's end."
        path, info = known[0]
        size = f"{info.width} × {info.height}"
        words = {
            "images": f"{count(info.images, 'image')}, one a frame",
            "still": size,
            "video": f"{size}, {info.rate:.5g} pictures a second, {info.seconds:.2f} s",
        }[info.kind]
        return f"{path.name} from frame {frame} on: {words}."

    # -- files ---------------------------------------------------------------------------------

    def take_sound(self) -> None:
        """Import the sound of the videos the picture is made of."""
        parts = self.session.scene.picture
        videos = [self.window.frames.file_of(part) for part in parts if isinstance(part, Video)]
        if not videos:
            self.window.say("The picture of this scene has no video in it.")
            return
        self._take_sounds(list(dict.fromkeys(videos)))

    def _take_sounds(self, videos: list[Path]) -> None:
        """Have the sound of videos on the shelf; what is there already is not stored twice."""
        if videos:
            self.window.commands.on_shelf.import_files(videos)

    def look_again(self) -> None:
        """Read every file of the picture anew, for they may have been exported again."""
        self.window.frames.forget()
        self.window.say("The picture's files are read again.")

    def exchange(self, number: int, path: Path) -> None:
        """Let a part of the picture be another file or folder of its kind."""
        scene = self.session.scene_id
        part = self.session.scene.picture[number]

        def found(info: PictureInfo | BadPicture) -> None:
            if isinstance(info, BadPicture):
                self.window.tell(str(info))
                return
            made = self._part(path, info, part.start, part.shown)
            if type(made) is not type(part):
                self.window.tell(
                    f"{path.name}: is not of the kind of {Path(source_of(part)).name}; "
                    "add it to the picture instead."
                )
                return
            changes: dict[str, Value] = {"file": source_of(made)}
            if isinstance(part, Images):
                changes = {"folder": source_of(made)}
            elif isinstance(made, Video):
                changes["seconds"] = made.seconds
            self.document.do(ChangePart(scene=scene, number=number, changes=changes))

        self.window.frames.look_at(path, found)


def _is_picture(path: Path) -> bool:
    """Whether a file, or the files in a folder, are named like pictures."""
    if not path.is_dir():
        return is_picture_name(path)
    try:
        return any(each.suffix.lower() in SUFFIXES for each in path.iterdir())
    except OSError:
        return False


def named(part: PicturePart, first_frame: int, end: int) -> str:
    """A part of the picture in a few words: what it is and on which frames."""
    kind = {Images: "numbered images", Video: "video", Still: "still"}[type(part)]
    frames = f"{part.start + first_frame} to {end - 1 + first_frame}"
    return f"{begun(kind)}, frames {frames}"
