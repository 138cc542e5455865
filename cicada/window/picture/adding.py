"""What the picture is made of is added, exchanged and looked at here."""

from pathlib import Path

from PySide6.QtCore import QObject, Signal

from cicada.core.editing import Value
from cicada.core.picture_edits import AddParts, ChangePart
from cicada.core.picture_parts import Images, PicturePart, Still, Video, source_of
from cicada.core.stack import laid_out
from cicada.disk.paths import is_folder
from cicada.errors import BadPicture
from cicada.media.picture_names import DRAWINGS, SUFFIXES, VIDEOS, is_picture_name
from cicada.media.wanted import PictureInfo
from cicada.store.sounds_folder import relative
from cicada.window.state.frames import Frames
from cicada.window.state.notices import Notices
from cicada.window.state.session import Session
from cicada.window.widgets.asking import Asking
from cicada.window.words.quantities import count

Known = tuple[Path, PictureInfo]


class Adding(QObject):
    """Puts files into the picture of the scene shown.

    ``sounds_found`` comes with files among them that are to be heard.
    """

    sounds_found = Signal(list)

    def __init__(self, session: Session, frames: Frames, asking: Asking, notices: Notices) -> None:
        super().__init__()
        self.session, self.document, self.frames = session, session.document, frames
        self.asking, self.notices = asking, notices

    def choose(self) -> None:
        """Ask for images, drawings and videos."""
        kinds = " ".join(sorted(f"*{suffix}" for suffix in SUFFIXES | DRAWINGS | VIDEOS))
        paths = self.asking.files_to_open("Add to the picture", f"Images and videos ({kinds})")
        if paths:
            self.add(paths)

    def choose_folder(self) -> None:
        """Ask for a folder of numbered images."""
        folder = self.asking.folder_to_open("Choose a folder of numbered images")
        if folder is not None:
            self.add([folder])

    def drop(self, files: list[Path], frame: int | None = None) -> None:
        """What can be a picture becomes part of it; anything else is imported."""
        pictures = [path for path in files if _is_picture(path)]
        others = [path for path in files if path not in pictures]
        if pictures:
            self.add(pictures, frame)
        if others:
            self.sounds_found.emit(others)

    def add(self, paths: list[Path], frame: int | None = None) -> None:
        """Put files and folders on top of the picture, from a frame or the playhead on."""
        scene = self.session.scene_id
        known: list[Known] = []
        left = sorted(paths)

        def go_on() -> None:
            if left:
                self.frames.look_at(left[0], found)
            elif known:
                self._put(scene, known, frame)

        def found(info: PictureInfo | BadPicture) -> None:
            path = left.pop(0)
            if isinstance(info, BadPicture):
                self.notices.tell(str(info))
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
            self.notices.tell(
                f"There are {len(known)} pictures, but only "
                f"{count(scene.length - first, 'frame')} from here to the scene's end; drop their "
                "folder to show one a frame."
            )
            return
        edit = AddParts(scene=scene_id, parts=self._laid_out(known, first, scene.length))
        if self.document.do(edit):
            self.notices.say(self._said(known, first))
            self._take_sounds([path for path, info in known if info.has_sound])

    def _laid_out(self, known: list[Known], first: int, length: int) -> tuple[PicturePart, ...]:
        """One part each; several follow each other, and share the frames up to the scene's end."""
        bare = not self.session.scene.picture
        wanted = [self._own_length(info) if not bare else None for _, info in known]
        return tuple(
            self._part(path, info, start, shown)
            for (path, info), (start, shown) in zip(
                known, laid_out(first, length, wanted), strict=True
            )
        )

    def _own_length(self, info: PictureInfo) -> int | None:
        """How many frames a video lasts; None for what has no length of its own."""
        if info.kind != "video" or info.animated:
            return None
        return round(info.seconds * self.document.project.timebase.fps)

    def _part(self, path: Path, info: PictureInfo, start: int, shown: int | None) -> PicturePart:
        source = relative(path, self.document.file.parent)
        if info.kind == "images":
            return Images(folder=source, start=start, shown=shown)
        if info.kind == "still":
            return Still(file=source, start=start, shown=shown)
        seconds = round(info.seconds, 6)
        return Video(file=source, start=start, shown=shown, seconds=seconds, repeat=info.animated)

    def _said(self, known: list[Known], first: int) -> str:
        frame = self.document.project.shown(first)
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

    def take_sound(self) -> None:
        """Import the sound of the videos the picture is made of."""
        parts = self.session.scene.picture
        videos = [self.frames.file_of(part) for part in parts if isinstance(part, Video)]
        if not videos:
            self.notices.say("The picture of this scene has no video in it.")
            return
        self._take_sounds(list(dict.fromkeys(videos)))

    def _take_sounds(self, videos: list[Path]) -> None:
        """Have the sound of videos on the shelf; what is there already is not stored twice."""
        if videos:
            self.sounds_found.emit(videos)

    def exchange(self, number: int, path: Path) -> None:
        """Let a part of the picture be another file or folder of its kind."""
        scene = self.session.scene_id
        part = self.session.scene.picture[number]

        def found(info: PictureInfo | BadPicture) -> None:
            if isinstance(info, BadPicture):
                self.notices.tell(str(info))
                return
            made = self._part(path, info, part.start, part.shown)
            if type(made) is not type(part):
                self.notices.tell(
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

        self.frames.look_at(path, found)


def _is_picture(path: Path) -> bool:
    """Whether a file, or the files in a folder, are named like pictures."""
    if not is_folder(path):
        return is_picture_name(path)
    try:
        return any(each.suffix.lower() in SUFFIXES for each in path.iterdir())
    except OSError:
        return False
