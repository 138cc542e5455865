"""The commands on what is composed: keyframes, layers, scenes, and what stands on the rulers."""

from typing import TYPE_CHECKING

from PySide6.QtGui import QAction, QActionGroup
from PySide6.QtWidgets import QMenu

from cicada.core.beats import tempo_at
from cicada.core.editing import Cell
from cicada.core.layer_edits import AddLayer, DuplicateLayer, MoveLayer, RemoveLayer
from cicada.core.model import MAX_LENGTH, Clip, Layer, Scene
from cicada.core.naming import free_id, free_name
from cicada.core.scene_edits import (
    AddScene,
    ChangeProject,
    ChangeScene,
    ClearMark,
    ClearPressPoint,
    DuplicateScene,
    MoveScene,
    PutMark,
    PutPressPoint,
    PutTempo,
    RemoveScene,
    mark_at,
    press_point_at,
)
from cicada.window.sheet.hover import hover_sentence
from cicada.window.sheet.snapping import KINDS
from cicada.window.shelf.commands import Action
from cicada.window.state.arranging import SCOPES
from cicada.window.widgets.asking import any_words, ask
from cicada.window.words.numbers import shown
from cicada.window.words.quantities import (
    Pace,
    count,
    loops_text,
    parse_bpm,
    parse_frames,
    parse_loops,
    parse_seconds,
    seconds_text,
)

if TYPE_CHECKING:
    from cicada.window.frame.main_window import MainWindow


class SheetCommands:
    """What the menus Edit, Place, Layer and Scene do."""

    def __init__(self, window: "MainWindow") -> None:
        self.window = window
        self.document, self.session = window.document, window.session
        self.arranging, self.sheet = window.arranging, window.sheet

    # -- menus ---------------------------------------------------------------------------------

    def editing(self) -> list[Action | None]:
        """The entries of the Edit menu."""
        do = self.arranging
        return [
            ("undo", "Undo", "Ctrl+Z", self.document.undo),
            ("redo", "Redo", "Ctrl+Shift+Z", self.document.redo),
            ("history", "All steps…", "Ctrl+H", self.window.show_history),
            None,
            ("cut", "Cut", "Ctrl+X", do.cut),
            ("copy_keyframes", "Copy", "Ctrl+C", do.copy),
            ("paste", "Paste", "Ctrl+V", self.paste),
            ("duplicate", "Duplicate", "Ctrl+D", do.duplicate),
            ("clear", "Clear the keyframe", "Del", do.clear),
            None,
            ("choose_all", "Choose all keyframes", "Ctrl+A", do.choose_everything),
            ("choose_same", "Choose all of this sound", "Ctrl+Shift+A", do.choose_same_sound),
            None,
            ("nudge_on", "Move one frame on", "Alt+Right", lambda: do.shift(1)),
            ("nudge_back", "Move one frame back", "Alt+Left", lambda: do.shift(-1)),
            ("nudge_on_ten", "Move ten frames on", "Alt+Shift+Right", lambda: do.shift(10)),
            ("nudge_back_ten", "Move ten frames back", "Alt+Shift+Left", lambda: do.shift(-10)),
            ("to_playhead", "Move to the playhead", "Shift+N",
             lambda: do.move_to(self.session.playhead)),
            ("nudge_up", "Move to the layer above", "Alt+Up", lambda: do.shift(0, -1)),
            ("nudge_down", "Move to the layer below", "Alt+Down", lambda: do.shift(0, 1)),
            None,
            ("insert", "Insert a frame", "Ctrl+Right", lambda: do.insert_frames(1)),
            ("insert_ten", "Insert ten frames", "Ctrl+Shift+Right", lambda: do.insert_frames(10)),
            ("remove_frame", "Remove a frame", "Ctrl+Left", lambda: do.remove_frames(1)),
            ("remove_ten", "Remove ten frames", "Ctrl+Shift+Left", lambda: do.remove_frames(10)),
        ]  # fmt: skip

    def placing(self) -> list[Action | None]:
        """The entries of the Place menu."""
        do = self.arranging
        return [
            ("place", "Place the shelf's sound here", "P", self.window.commands.place_here),
            ("rest", "Rest here", "R", do.put_rest),
            ("hush", "Hush here", "H", do.put_hush),
            ("hush_sounding", "Hush all that sounds here", "Shift+H", do.hush_here),
            ("hush_chosen", "Hush what is chosen here", "Ctrl+Shift+H", do.hush_chosen),
            None,
            ("swap", "Put the shelf's sound in its place", "Shift+P", self.swap_sound),
            ("leave_rest", "Take the sound off, leave a rest", "Shift+R",
             lambda: do.take_sounds_off("rests")),
            ("leave_mark", "Take the sound off, leave a mark", "Shift+M",
             lambda: do.take_sounds_off("marks")),
            ("off", "Switch off, or on", "O", do.switch_off),
            None,
            ("mark", "Mark this frame", "M", self.mark),
            ("name_mark", "Write on the mark…", "N", self.name_mark),
            ("marks", "All marks…", "Ctrl+Shift+N", self.window.show_marks),
            ("press", "Wait here for a press, or not", "W", self.press_point),
            ("name_press", "Name the press point…", "Shift+W", self.name_press_point),
            ("tempo", "Tempo from here…", "Shift+B", self.tempo),
        ]  # fmt: skip

    def layers(self) -> list[Action | None]:
        """The entries of the Layer menu."""
        switch = self.arranging.switch_layer
        return [
            ("add_layer", "Add a layer", "Ctrl+L", self.add_layer),
            ("rename_layer", "Rename", "Ctrl+E", self.rename_layer),
            ("duplicate_layer", "Duplicate", "Shift+D", self.duplicate_layer),
            ("layer_up", "Move up", "Ctrl+Up", lambda: self.move_layer(-1)),
            ("layer_down", "Move down", "Ctrl+Down", lambda: self.move_layer(1)),
            ("remove_layer", "Remove", "Ctrl+Shift+L", self.remove_layer),
            None,
            ("mute", "Mute, or not", "X", lambda: switch("mute")),
            ("solo", "Solo, or not", "S", lambda: switch("solo")),
            ("guard", "Guard, or not", "G", lambda: switch("guarded")),
            ("layer_off", "Switch off, or on", "Shift+O", lambda: switch("off")),
            ("past_scene", "Ring past the scene, or not", "Shift+S", lambda: switch("past_scene")),
        ]

    def scenes(self) -> list[Action | None]:
        """The entries of the Scene menu."""
        return [
            ("scene_next", "Next scene", "Ctrl+PgDown", lambda: self.change_scene(1)),
            ("scene_back", "Scene before", "Ctrl+PgUp", lambda: self.change_scene(-1)),
            None,
            ("add_scene", "Add a scene", "Ctrl+Ins", self.add_scene),
            ("rename_scene", "Rename", "Shift+E", self.window.scenes.rename),
            ("duplicate_scene", "Duplicate", "Ctrl+Shift+Ins", self.duplicate_scene),
            ("scene_on", "Move on", "Ctrl+Shift+PgDown", lambda: self.move_scene(1)),
            ("scene_up", "Move back", "Ctrl+Shift+PgUp", lambda: self.move_scene(-1)),
            ("scene_length", "Length…", "Ctrl+Shift+G", self.scene_length),
            ("remove_scene", "Remove", "Ctrl+Shift+Del", self.remove_scene),
            None,
            ("plays", "How often the film plays…", "Ctrl+Shift+P", self.ask_plays),
        ]

    def scopes(self, menu: QMenu) -> None:
        """The menu that says what inserted and removed frames move."""
        group = QActionGroup(menu)
        for scope, words in SCOPES.items():
            action = menu.addAction(f"Frames move {words}")
            action.setCheckable(True)
            action.setChecked(scope == self.arranging.scope)
            group.addAction(action)
            action.triggered.connect(
                lambda _=False, scope=scope: setattr(self.arranging, "scope", scope)
            )

    def snaps(self, menu: QMenu) -> None:
        """The menu of what is snapped to."""
        snapping = self.window.snapping
        for kind, words in KINDS.items():
            action = menu.addAction(words)
            action.setCheckable(True)
            action.setChecked(kind in snapping.kinds)
            action.toggled.connect(lambda on, kind=kind: snapping.choose(kind, on=on))

    def cell_menu(self) -> list[QAction]:
        """What the menu on the sheet offers: first what concerns the sounding under it."""
        actions = self.window.commands.actions
        names: tuple[str, ...]
        if isinstance(self.session.keyframe(), Clip):
            names = (
                "open_clip", "split", "trim_silence", "loop_to_fill", "",
                "hush_chosen", "end_with_span", "off", "mute", "to_playhead", "swap",
                "leave_rest", "leave_mark",
                "", "cut", "copy_keyframes", "paste", "duplicate", "choose_same", "clear",
            )  # fmt: skip
        elif self.session.keyframe() is not None:
            names = ("off", "", "cut", "copy_keyframes", "paste", "duplicate", "clear")
        else:
            names = ("place", "rest", "hush", "hush_sounding", "paste")
        layer = (
            "", "add_layer", "rename_layer", "duplicate_layer", "layer_off", "past_scene",
            "remove_layer",
        )  # fmt: skip
        found = []
        for name in (*names, *layer):
            if name == "end_with_span":
                found.append(self._end_with_span())
            elif name:
                found.append(actions[name])
            else:
                line = QAction(self.window)
                line.setSeparator(True)
                found.append(line)
        return found

    def _end_with_span(self) -> QAction:
        action = QAction("Let it end with its span", self.window)
        clip = self.session.keyframe()
        action.setEnabled(isinstance(clip, Clip) and clip.sync != "locked" and clip.ends == "ring")
        action.triggered.connect(lambda: self.arranging.change({"ends": "span"}, "what ends it"))
        return action

    # -- clipboard and sounds ------------------------------------------------------------------

    def paste(self) -> None:
        """Paste keyframes onto the sheet, or copied files onto the shelf."""
        if self.arranging.can_paste():
            self.arranging.paste()
        else:
            self.window.commands.on_shelf.paste()

    def swap_sound(self) -> None:
        """Put the shelf's sound on the chosen clips; their settings stay."""
        if self.session.sound is None:
            self.window.say("Choose a sound on the shelf first.")
        else:
            self.arranging.replace_sound(self.session.sound)

    # -- layers --------------------------------------------------------------------------------

    def add_layer(self) -> None:
        """Add a layer below the chosen one, or at the bottom."""
        project, layers = self.document.project, self.session.scene.layers
        taken = {layer.name for layer in layers}
        number = next(n for n in range(1, len(layers) + 2) if f"Layer {n}" not in taken)
        new = Layer(id=free_id("l", project), name=f"Layer {number}", keyframes=())
        chosen = self.session.layer()
        index = None if chosen is None else layers.index(chosen) + 1
        if self.document.do(AddLayer(scene=self.session.scene_id, layer=new, index=index)):
            self.session.choose(Cell(new.id, self.session.playhead))

    def rename_layer(self) -> None:
        """Type another name for the chosen layer."""
        layer = self._layer()
        if layer is not None:
            self.sheet.rename_layer(layer)

    def duplicate_layer(self) -> None:
        """Put a copy of the chosen layer below it."""
        layer = self._layer()
        if layer is not None:
            self.document.do(DuplicateLayer(layer=layer.id))

    def move_layer(self, by: int) -> None:
        """Move the chosen layer up or down."""
        layer = self._layer()
        if layer is not None:
            to = self.session.scene.layers.index(layer) + by
            if 0 <= to < len(self.session.scene.layers):
                self.document.do(MoveLayer(layer=layer.id, to=to))
            else:
                self.window.say(f"It is the {'lowest' if by > 0 else 'top'} layer already.")

    def remove_layer(self) -> None:
        """Remove the chosen layer."""
        layer = self._layer()
        if layer is not None and self.document.do(RemoveLayer(layer=layer.id)):
            held = count(len(layer.keyframes), "keyframe")
            self.window.say(
                f"The layer {layer.name} is removed, with {held}; Ctrl+Z brings it back."
            )

    def _layer(self) -> Layer | None:
        layer = self.session.layer()
        if layer is None:
            self.window.say("Choose a layer first.")
        return layer

    # -- scenes --------------------------------------------------------------------------------

    def change_scene(self, by: int) -> None:
        """Show the scene after or before."""
        ids = [scene.id for scene in self.document.project.scenes]
        index = ids.index(self.session.scene_id) + by
        if 0 <= index < len(ids):
            self.session.show_scene(ids[index])
        else:
            self.window.say(f"This is the {'last' if by > 0 else 'first'} scene.")

    def add_scene(self) -> None:
        """Add a scene behind the one shown, as long as it, and let its name be typed."""
        project, scene = self.document.project, self.session.scene
        name = free_name(f"Scene {len(project.scenes) + 1}", {x.name for x in project.scenes})
        if self.document.do(AddScene(after=scene.id, name=name, length=scene.length)):
            self.change_scene(1)
            self.window.scenes.rename()

    def duplicate_scene(self) -> None:
        """Put a copy of the scene shown behind it, and show it."""
        if self.document.do(DuplicateScene(scene=self.session.scene_id)):
            self.change_scene(1)

    def remove_scene(self) -> None:
        """Remove the scene shown."""
        scene = self.session.scene
        if self.document.do(RemoveScene(scene=scene.id)):
            held = count(sum(len(layer.keyframes) for layer in scene.layers), "keyframe")
            self.window.say(f"{scene.name} is removed, with {held}; Ctrl+Z brings it back.")

    def move_scene(self, by: int) -> None:
        """Move the scene shown on or back in the film."""
        ids = [scene.id for scene in self.document.project.scenes]
        to = ids.index(self.session.scene_id) + by
        if 0 <= to < len(ids):
            self.document.do(MoveScene(scene=self.session.scene_id, to=to))
        else:
            self.window.say(f"This is the {'last' if by > 0 else 'first'} scene already.")

    def scene_length(self) -> None:
        """Ask how long the scene is to be, and say what lies beyond it then."""
        scene = self.session.scene
        num, den = self.document.project.fps
        pace = Pace(num / den, tempo_at(scene, 0))

        def read(text: str) -> int:
            frames = parse_frames(text, pace)
            if not 1 <= frames <= MAX_LENGTH:
                raise ValueError(f"a scene has 1 to {MAX_LENGTH} frames")
            return frames

        frames = ask(
            self.window, "Length of the scene",
            f"How long {scene.name or scene.id} is, in frames, or as in 12 s, 4 b:",
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
            self.window.say(
                f"{beyond} past the scene's end now: kept in the file, but without effect."
            )

    def ask_plays(self) -> None:
        """Ask how often the film plays for its audience."""
        plays = ask(
            self.window, "How often the film plays",
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
        menu.addAction(self.window.commands.actions["plays"])

    # -- on the rulers -------------------------------------------------------------------------

    def ruler_menu(self, frame: int) -> list[QAction]:
        """What the menu on the rulers offers for a frame, which the playhead goes to."""
        self.session.move_playhead(frame)
        names = ["mark", "name_mark", "marks", "press", "name_press", "tempo"]
        names += ["insert", "remove_frame", "scene_length"]
        return [self.window.commands.actions[name] for name in names]

    def mark(self) -> None:
        """Put a mark at the playhead, or take the one there away; also while the film plays."""
        session = self.session
        frame, scene = session.playhead, session.scene
        playing = self.window.transport.playing
        if mark_at(scene, frame) is not None and not playing:
            self.document.do(ClearMark(scene=scene.id, frame=frame))
        elif mark_at(scene, frame) is None:
            number = len(scene.marks) + 1
            self.document.do(PutMark(scene=scene.id, frame=frame, text=f"mark {number}"))

    def name_mark(self) -> None:
        """Write on the mark at the playhead."""
        scene, frame = self.session.scene, self.session.playhead
        mark = mark_at(scene, frame)
        text = ask(
            self.window, "Mark", "What happens on this frame:", mark.text if mark else "",
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
        num, den = self.document.project.fps
        pace = Pace(num / den, tempo_at(scene, frame))
        label = ask(
            self.window, "Press point", "The picture waits:",
            point.label if point else "until the lamp is pressed", "Go on", any_words,
        )  # fmt: skip
        if label is None:
            return
        before = point.after if point else None
        # Nothing typed is a time, too: that the picture waits until a press.
        after = ask(
            self.window, "Press point", "At most (0.5 s, 12 f; empty: until a press):",
            "" if before is None else seconds_text(before, pace), "Let it wait so long",
            lambda text: (parse_seconds(text, pace),) if text.strip() else (None,),
        )  # fmt: skip
        if after is not None:
            edit = PutPressPoint(scene=scene.id, frame=frame, label=label, after=after[0])
            self.document.do(edit)

    def tempo(self) -> None:
        """Ask for the tempo from the playhead on."""
        scene, frame = self.session.scene, self.session.playhead
        here = next((t for t in scene.tempo if t.frame == frame), None)
        bpm = ask(
            self.window, "Tempo", "Beats a minute from this frame on (0 takes it away):",
            shown(here.bpm if here else 96.0), "Set the tempo", parse_bpm,
        )  # fmt: skip
        if bpm is not None and self.document.do(
            PutTempo(scene=scene.id, frame=frame, bpm=bpm or None)
        ):
            self.sheet.show_unit("beats")

    def say_what_sounds(self) -> None:
        """Say in a sentence what the chosen clip does, for those who cannot hover."""
        for row in self.sheet.traces.rows:
            for index, voice in enumerate(row.voices):
                if (voice.layer, voice.frame) == self.session.cell:
                    self.window.say(hover_sentence(self.sheet.traces, row, index), lasting=True)
                    return
        chosen = isinstance(self.session.keyframe(), Clip)
        self.window.say("It does not sound here." if chosen else "Choose a clip first.")


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
