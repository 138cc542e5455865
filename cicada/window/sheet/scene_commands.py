"""The Scene menu: scenes gone through, added, named, ordered, made longer and removed."""

from PySide6.QtWidgets import QMenu

from cicada.core.beats import tempo_at
from cicada.core.model import MAX_LENGTH, Scene
from cicada.core.naming import free_name
from cicada.core.scene_edits import (
    AddScene,
    ChangeProject,
    ChangeScene,
    DuplicateScene,
    MoveScene,
    RemoveScene,
)
from cicada.window.sheet.scene_tabs import SceneTabs
from cicada.window.state.notices import Notices
from cicada.window.state.session import Session
from cicada.window.widgets.actions import Action
from cicada.window.widgets.asking import Asking
from cicada.window.words.quantities import TimeUnits, count, loops_text, parse_frames, parse_loops


class SceneCommands:
    """What is done to the scene shown, and how often the film plays."""

    def __init__(self, session: Session, tabs: SceneTabs, asking: Asking, notices: Notices) -> None:
        self.session, self.document, self.tabs = session, session.document, tabs
        self.asking, self.notices = asking, notices

    def entries(self) -> list[Action | None]:
        """The entries of the Scene menu."""
        return [
            ("scene_next", "Next scene", "Ctrl+PgDown", lambda: self.change_scene(1)),
            ("scene_back", "Scene before", "Ctrl+PgUp", lambda: self.change_scene(-1)),
            None,
            ("add_scene", "Add a scene", "Ctrl+Ins", self.add_scene),
            ("rename_scene", "Rename", "Shift+E", self.tabs.rename),
            ("duplicate_scene", "Duplicate", "Ctrl+Shift+Ins", self.duplicate_scene),
            ("scene_on", "Move on", "Ctrl+Shift+PgDown", lambda: self.move_scene(1)),
            ("scene_up", "Move back", "Ctrl+Shift+PgUp", lambda: self.move_scene(-1)),
            ("scene_length", "Length…", "Ctrl+Shift+G", self.scene_length),
            ("remove_scene", "Remove", "Ctrl+Shift+Del", self.remove_scene),
            None,
            ("plays", "How often the film plays…", "Ctrl+Shift+P", self.ask_plays),
        ]

    def change_scene(self, by: int) -> None:
        """Show the scene after or before."""
        ids = [scene.id for scene in self.document.project.scenes]
        index = ids.index(self.session.scene_id) + by
        if 0 <= index < len(ids):
            self.session.show_scene(ids[index])
        else:
            self.notices.say(f"This is the {'last' if by > 0 else 'first'} scene.")

    def add_scene(self) -> None:
        """Add a scene behind the one shown, as long as it, and let its name be typed."""
        project, scene = self.document.project, self.session.scene
        name = free_name(f"Scene {len(project.scenes) + 1}", {x.name for x in project.scenes})
        if self.document.do(AddScene(after=scene.id, name=name, length=scene.length)):
            self.change_scene(1)
            self.tabs.rename()

    def duplicate_scene(self) -> None:
        """Put a copy of the scene shown behind it, and show it."""
        if self.document.do(DuplicateScene(scene=self.session.scene_id)):
            self.change_scene(1)

    def remove_scene(self) -> None:
        """Remove the scene shown."""
        scene = self.session.scene
        if self.document.do(RemoveScene(scene=scene.id)):
            held = count(sum(len(layer.keyframes) for layer in scene.layers), "keyframe")
            self.notices.say(f"{scene.name} is removed, with {held}; Ctrl+Z brings it back.")

    def move_scene(self, by: int) -> None:
        """Move the scene shown on or back in the film."""
        ids = [scene.id for scene in self.document.project.scenes]
        to = ids.index(self.session.scene_id) + by
        if 0 <= to < len(ids):
            self.document.do(MoveScene(scene=self.session.scene_id, to=to))
        else:
            self.notices.say(f"This is the {'last' if by > 0 else 'first'} scene already.")

    def scene_length(self) -> None:
        """Ask how long the scene is to be, and say what lies beyond it then."""
        scene = self.session.scene
        units = TimeUnits(self.document.project.timebase.fps, tempo_at(scene, 0))

        def read(text: str) -> int:
            frames = parse_frames(text, units)
            if not 1 <= frames <= MAX_LENGTH:
                raise ValueError(f"a scene has 1 to {MAX_LENGTH} frames")
            return frames

        frames = self.asking.ask(
            "Length of the scene",
            f"How long {scene.label} is, in frames, or as in 12 s, 4 b:",
            f"{scene.length} f", "Make it that long", read,
        )  # fmt: skip
        if frames is not None:
            self.set_length(frames)

    def set_length(self, frames: int) -> None:
        """Make the scene that long."""
        if not self.document.do(
            ChangeScene(scene=self.session.scene_id, changes={"length": frames})
        ):
            return
        beyond = past_the_end(self.session.scene)
        if beyond:
            self.notices.say(
                f"{beyond} past the scene's end now: kept in the file, but without effect."
            )

    def ask_plays(self) -> None:
        """Ask how often the film plays for its audience."""
        plays = self.asking.ask(
            "How often the film plays",
            "How often it plays for its audience: 3, or endlessly:",
            loops_text(self.document.project.plays), "Let it play so often", parse_loops,
        )  # fmt: skip
        if plays is not None:
            self.document.do(ChangeProject(changes={"plays": int(plays)}))

    def plays_menu(self, menu: QMenu) -> None:
        """What can be chosen where the film ends."""
        for plays, words in ((1, "Once"), (2, "Twice"), (3, "Three times"), (0, "Endlessly")):
            action = menu.addAction(words)
            action.setCheckable(True)
            action.setChecked(self.document.project.plays == plays)
            action.triggered.connect(
                lambda _=False, plays=plays: self.document.do(
                    ChangeProject(changes={"plays": plays})
                )
            )


def past_the_end(scene: Scene) -> str:
    """What stands past the end of a scene, counted; empty if nothing does."""
    length = scene.length
    keyframes = sum(k.frame >= length for layer in scene.layers for k in layer.keyframes)
    marks = sum(mark.frame >= length for mark in scene.marks)
    presses = sum(point.frame >= length for point in scene.press_points)
    parts = [
        count(number, thing)
        for number, thing in (
            (keyframes, "keyframe"),
            (marks, "mark"),
            (presses, "press point"),
        )
        if number
    ]
    if not parts:
        return ""
    lie = "lies" if keyframes + marks + presses == 1 else "lie"
    return f"{' and '.join(parts)} {lie}"
