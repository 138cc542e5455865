"""The commands that shape the chosen clip: trim, split, land, end, loop, soften, styles.

What a menu entry would do is drawn on the sheet while the pointer rests on it.
"""

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QMenu

from cicada.core.beats import beats, tempo_at
from cicada.core.editing import Cell, Edit, Several, Value
from cicada.core.keyframe_edits import ChangeKeyframes
from cicada.core.model import Clip, Scene
from cicada.core.shaping import ReshapeClip, Shaped, Shaping, ending_on, shaping_of, splitting
from cicada.core.shelf_edits import ChangeSounds
from cicada.core.styles import ForgetStyle, KeepStyle, putting, style_of
from cicada.core.timebase import samples_to_seconds, seconds_to_samples
from cicada.deliver.work import fitting_overlap
from cicada.errors import BadEdit, CicadaError
from cicada.media.moments import Part, loud_part
from cicada.window.clip.comparing import Comparing
from cicada.window.clip.gestures import GesturePanel
from cicada.window.clip.matching import Matching
from cicada.window.drawing.axis import visits_of
from cicada.window.drawing.traces import spans
from cicada.window.shelf.commands import Action
from cicada.window.state.edges import SOFT, hard_edges
from cicada.window.widgets.asking import ask, some_words
from cicada.window.words.quantities import Pace, parse_frame_number

if TYPE_CHECKING:
    from cicada.window.frame.main_window import MainWindow

# Below these levels, in dB, a head or tail counts as silent.
THRESHOLDS = (-40, -50, -60, -70)
# Seconds before a loop's join at which one begins to listen to it, and after it one stops.
BEFORE_JOIN, AFTER_JOIN = 1.0, 1.0
Making = Callable[[], Edit]


class ShapeCommands:
    """What the Shape menu does."""

    def __init__(self, window: "MainWindow") -> None:
        self.window = window
        self.document, self.session, self.sheet = window.document, window.session, window.sheet
        self.comparing = Comparing(window)
        self.matching = Matching(window)
        self.threshold = THRESHOLDS[1]
        self._looking = False

    def entries(self) -> list[Action | None]:
        """The entries of the Shape menu."""
        return [
            ("open_clip", "Open the clip, or close it", "E", self.open_clip),
            ("open_line", "Open the layer's line", "Shift+L", self.open_line),
            ("open_master", "Open the master line", "Shift+K", self.open_master),
            None,
            ("head_here", "Let it begin at the playhead", "A", lambda: self.trim_here("head")),
            ("tail_here", "Let it end at the playhead", "Z", lambda: self.trim_here("tail")),
            ("split", "Split it at the playhead", "I", self.split),
            ("trim_silence", "Trim the silence", "Q", lambda: self.trim_silence(self.threshold)),
            ("loop_to_fill", "Loop it to fill its span", "F", self.loop_to_fill),
            None,
            ("land", "Land the nearest hit here", "V", self.land),
            ("hit", "Set a hit here, or take it off", "Shift+V", self.set_hit),
            None,
            ("gesture", "Move, swell or dip…", "Y", self.gesture),
            ("copy_lines", "Copy its lines", "Ctrl+Alt+C", self.copy_lines),
            ("paste_lines", "Paste lines", "Ctrl+Alt+V", self.paste_lines),
            ("soften", "Soften its hard edges", "Shift+Y", self.soften),
            None,
            ("join", "Listen to the join of its loops", "J", self.listen_to_join),
            ("overlap", "Overlap its loops as it dies away", "Shift+J", self.overlap),
            None,
            ("hold_version", "Hold these settings to compare", "Shift+C", self.comparing.hold),
            ("flip_version", "Flip to the held ones and back", "C", self.comparing.flip),
            ("match_versions", "Hear both equally loud, or not", "Ctrl+Shift+V",
             self.comparing.match_levels),
            ("keep_version", "Keep what is heard now", "Ctrl+Shift+C", self.comparing.keep),
        ]  # fmt: skip

    # -- the clip ------------------------------------------------------------------------------

    def shaping(self) -> tuple[Cell, Shaping]:
        """The chosen clip, ready to be shaped; raises ``BadEdit`` if none is chosen."""
        cell = self.session.cell
        if cell is None or not isinstance(self.session.keyframe(), Clip):
            raise BadEdit("no clip is chosen", remedy="choose one on the sheet first")
        # The document's own plan, also while something else is tried out.
        planning = self.window.planning
        plan = planning.settled_plan
        visit = visits_of(plan, self.session.scene_id, planning.number)
        return cell, shaping_of(self.document.project, cell, plan, visit)

    def _do(self, make: Making) -> bool:
        """Do an edit that may turn out not to fit; whether it was done."""
        try:
            edit = make()
        except CicadaError as error:
            self.window.say(str(error))
            return False
        return self.document.do(edit)

    def _reshape(self, named: str, make: Callable[[Shaping], Clip]) -> Making:
        def edit() -> Edit:
            cell, shaping = self.shaping()
            return ReshapeClip(cell=cell, clip=make(shaping), named=named)

        return edit

    def _follow(self, frame: int) -> None:
        if self.session.cell is not None:
            self.sheet.follow_clip(Cell(self.session.cell.layer, frame))

    # -- opening -------------------------------------------------------------------------------

    def open_clip(self) -> None:
        """Open the chosen clip on the sheet, or close it."""
        cell, opened = self.session.cell, self.session.opened
        if opened is not None and cell is not None and (opened.layer, opened.frame) == cell:
            self.sheet.on_opened.close()
        elif cell is not None and isinstance(self.session.keyframe(), Clip):
            self.sheet.on_opened.open_clip(cell)
        elif not self.sheet.on_opened.close():
            self.window.say("Choose a clip first.")

    def open_line(self) -> None:
        """Open the chosen layer's line, or close it."""
        layer, opened = self.session.layer(), self.session.opened
        if layer is None:
            self.window.say("Choose a layer first.")
        elif opened is not None and opened.layer == layer.id and opened.frame is None:
            self.sheet.on_opened.close()
        else:
            self.sheet.on_opened.open_line(layer.id)

    def open_master(self) -> None:
        """Open the master line, or close it."""
        opened = self.session.opened
        if opened is not None and not opened.layer:
            self.sheet.on_opened.close()
        else:
            self.sheet.on_opened.open_line("")

    # -- trim, split, ends ---------------------------------------------------------------------

    def look_at(self, command: str) -> None:
        """Draw what a command would do, while the pointer rests on its button or entry."""
        makes: dict[str, Making] = {
            "head_here": self._trimming("head")[0],
            "tail_here": self._trimming("tail")[0],
            "split": self._splitting,
            "loop_to_fill": self._filling,
            "land": lambda: self._landing()[0],
        }
        if command in makes and isinstance(self.session.keyframe(), Clip):
            self._looking = True
            self._try(makes[command])
        elif self._looking:
            # Something else may be tried out meanwhile, and is none of this.
            self._looking = False
            self.window.planning.try_out(None)

    def _trimming(self, end: str) -> tuple[Making, list[str]]:
        """The edit that lets the chosen clip begin or end at the playhead, and what gives."""
        frame = self.session.playhead
        gave: list[str] = []

        def make(shaping: Shaping) -> Clip:
            moment = shaping.clock.enters(frame)
            if end == "head" and moment >= shaping.begins + shaping.timing.loop:
                raise BadEdit("the clip is over by the playhead", remedy="go back inside it")
            if end == "tail" and moment <= shaping.begins:
                raise BadEdit("the clip begins after the playhead", remedy="go on inside it")
            made = shaping.trim_head(moment) if end == "head" else shaping.trim_tail(moment)
            gave.append(made.gave)
            return made.clip

        words = "beginning" if end == "head" else "end"
        return self._reshape(f"trim the clip's {words}", make), gave

    def trim_here(self, end: str) -> None:
        """Let the chosen clip begin or end at the playhead."""
        make, gave = self._trimming(end)
        if self._do(make):
            if end == "head":
                self._follow(self.session.playhead)
            words = "beginning" if end == "head" else "end"
            self.window.say(gave[-1] or f"The clip's {words} is at the playhead now.")

    def _splitting(self) -> Edit:
        cell, shaping = self.shaping()
        return splitting(cell, shaping.split(self.session.playhead))

    def split(self) -> None:
        """Split the chosen clip at the playhead, and choose the second part."""
        clip = self.session.keyframe()
        if self._do(self._splitting):
            self._follow(self.session.playhead)
            if isinstance(clip, Clip) and clip.loop_overlap and clip.loops != 1:
                self.window.say("Split; what rang over from the loop before is not taken along.")

    def _silence(self, threshold: int) -> tuple[Making, str]:
        """The edit that trims the silence below a threshold, and what it does in words."""
        _, shaping = self.shaping()
        timing, rate = shaping.timing, shaping.rate
        samples = self.window.sounds.samples(shaping.clip.sound)
        peaks = self.window.sounds.peaks(shaping.clip.sound)
        if samples is None or peaks is None:
            raise BadEdit("the sound is not decoded yet", remedy="wait a moment")
        part = Part(timing.first, timing.last)
        loud = loud_part(samples, peaks, 10 ** (threshold / 20), part)
        if loud.first >= loud.last:
            raise BadEdit(f"all of it is below {threshold} dB", remedy="choose a lower threshold")
        head = (loud.first - timing.first) / rate
        tail = (timing.last - loud.last) / rate
        words = f"{head:.3f} s off the front and {tail:.3f} s off the end, below {threshold} dB"
        return self._reshape("trim the silence", lambda s: s.trim_to(*loud).clip), words

    def trim_silence(self, threshold: int) -> None:
        """Cut what is silent off both ends; the sound then begins on its frame."""
        try:
            make, words = self._silence(threshold)
        except CicadaError as error:
            self.window.say(str(error))
            return
        self.threshold = threshold
        if self._do(make):
            self.window.say(f"Trimmed {words}.".replace("-", "−"))

    def silence_menu(self, menu: QMenu) -> None:
        """Thresholds, each with what it would cut."""
        for threshold in THRESHOLDS:
            try:
                make, words = self._silence(threshold)
            except CicadaError as error:
                menu.addAction(str(error)).setEnabled(False)
                continue
            shown = words.replace("-", "−")
            self._offer(menu, shown, make, partial(self.trim_silence, threshold))
        self._show_while_open(menu)

    def _places_to_end(self) -> list[tuple[str, int]]:
        """The frames the chosen clip may be ended on, named."""
        cell, shaping = self.shaping()
        scene, first = self.session.scene, self.document.project.first_frame
        layer = next(x for x in scene.layers if x.id == cell.layer)
        span_end = {k.frame: end for k, end in spans(scene, layer)}.get(cell.frame, scene.length)
        later = [k.frame for k in layer.keyframes if k.frame > cell.frame and isinstance(k, Clip)]
        places = [("its span's end", span_end), ("the scene's end", scene.length)]
        if later:
            places.insert(1, ("the next clip", min(later)))
        places.append(("the playhead", self.session.playhead))
        beat = self._beat_near(scene, shaping)
        if beat is not None:
            places.append(("the beat nearest to its end", beat))
        return [(f"{words}, frame {frame + first}", frame) for words, frame in places]

    def _beat_near(self, scene: Scene, shaping: Shaping) -> int | None:
        base = self.sheet.traces.plan.timebase
        total = shaping.timing.total or 0
        over = base.start(shaping.clock.frame_at(shaping.begins + total))
        found = [at for _, at in beats(scene, base, 0, base.start(scene.length))]
        if not found:
            return None
        return base.frame_from(int(min(found, key=lambda at: abs(at - over))))

    def end_menu(self, menu: QMenu) -> None:
        """Where the chosen clip may end, each drawn while the pointer rests on it."""
        for words, frame in self._places_to_end():
            self._offer(menu, words, self._ending(frame), None)
        asked = menu.addAction("another frame…")
        asked.triggered.connect(self.ask_end)
        self._show_while_open(menu)

    def _ending(self, frame: int) -> Making:
        def make() -> Edit:
            cell, shaping = self.shaping()
            return ending_on(cell, shaping, frame)

        return make

    def ask_end(self) -> None:
        """Ask for the frame the chosen clip is to be over on."""
        first, scene = self.document.project.first_frame, self.session.scene
        num, den = self.document.project.fps
        pace = Pace(num / den, tempo_at(scene, 0))

        def read(text: str) -> int:
            frame = parse_frame_number(text, pace, first)
            if not 0 <= frame <= scene.length:
                last = first + scene.length
                raise ValueError(f"it can be over from frame {first} to {last}")
            return frame

        frame = ask(
            self.window, "End the clip", "It is over as this frame begins, or as in 2.5 s:",
            str(self.session.playhead + first), "Let it end there", read,
        )  # fmt: skip
        if frame is not None:
            self._do(self._ending(frame))

    def _filling(self) -> Edit:
        cell, shaping = self.shaping()
        scene = self.session.scene
        layer = next(x for x in scene.layers if x.id == cell.layer)
        ends = {k.frame: end for k, end in spans(scene, layer)}
        if cell.frame not in ends:
            raise BadEdit("the clip is switched off", remedy="switch it on first")
        what = "its loops to fill the span"
        return ChangeKeyframes(
            cells=(cell,), changes=shaping.looped_to(ends[cell.frame]), what=what
        )

    def loop_to_fill(self) -> None:
        """Let the chosen clip loop until its span ends."""
        self._do(self._filling)

    # -- hits -------------------------------------------------------------------------------

    def _landing(self) -> tuple[Edit, Shaped]:
        """The edit that lands the hit nearest to the playhead there, and what comes of it."""
        cell, shaping = self.shaping()
        frame, rate, timing = self.session.playhead, shaping.rate, shaping.timing
        found = self.window.hits.of(shaping.clip.sound)
        samples = [seconds_to_samples(hit, rate) for hit in shaping.sound.hits]
        samples += [hit.onset for hit in found.hits] if found is not None else []
        samples = [sample for sample in samples if timing.first <= sample < timing.last]
        if not samples:
            raise BadEdit("no hit was found in this sound", remedy="set one with Shift+V")
        here = shaping.clock.enters(frame)
        made = shaping.land(min(samples, key=lambda s: abs(shaping.moment_of(s) - here)), frame)
        named = "land the hit on a frame"
        return ReshapeClip(cell=cell, clip=made.clip, named=named), made

    def land(self) -> None:
        """Put the clip so that the hit nearest to the playhead is heard on its frame."""
        try:
            edit, made = self._landing()
        except CicadaError as error:
            self.window.say(str(error))
            return
        if self.document.do(edit):
            self._follow(made.clip.frame)
            shown = self.sheet.frame_said(self.session.playhead)
            gave = f": {made.gave}." if made.gave else "."
            self.window.say(f"The hit lands on frame {shown}{gave}")

    def set_hit(self) -> None:
        """Set a hit where the sound is at the playhead, or take off the one that is there."""

        def make() -> Edit:
            _, shaping = self.shaping()
            sound, rate = shaping.sound, shaping.rate
            sample = shaping.sample_at(shaping.clock.enters(self.session.playhead))
            timing = shaping.timing
            if not timing.first <= sample < timing.last:
                raise BadEdit("the clip is not heard here", remedy="put the playhead inside it")
            seconds = samples_to_seconds(sample, rate)
            frame = self.sheet.traces.plan.timebase.start(1) / rate
            near = [hit for hit in sound.hits if abs(hit - seconds) < frame / 2]
            kept = [hit for hit in sound.hits if hit not in near]
            hits = tuple(sorted(kept if near else [*kept, seconds]))
            return ChangeSounds(sounds=(sound.id,), changes={"hits": hits})

        self._do(make)

    # -- lines ---------------------------------------------------------------------------------

    def gesture(self, at: QPoint | None = None) -> None:
        """Offer to draw a move, a swell or a dip."""
        try:
            cell, shaping = self.shaping()
        except BadEdit as error:
            self.window.say(str(error))
            return
        panel = GesturePanel(self.window, cell, shaping)
        where = at or self.window.card.mapToGlobal(QPoint(20, 40))
        panel.show_at(where)

    def copy_lines(self) -> None:
        """Put the lines of the chosen clip on the clipboard."""
        clip = self.session.keyframe()
        if isinstance(clip, Clip):
            self.window.arranging.copy_lines(clip)
            self.window.say("Its lines are copied.")
        else:
            self.window.say("Choose a clip first.")

    def paste_lines(self) -> None:
        """Put copied lines on all chosen clips."""
        self.window.arranging.paste_lines()

    def soften(self) -> None:
        """Put a very short fade where the chosen clips begin or end hard."""
        edits = []
        for cell, clip in self.session.keyframes():
            if isinstance(clip, Clip):
                edges = hard_edges(self.document.project, clip, self.window.sounds)
                changes: dict[str, Value] = {edge.field: SOFT for edge in edges}
                if changes:
                    what = "the fades of hard edges"
                    edits.append(ChangeKeyframes(cells=(cell,), changes=changes, what=what))
        if edits:
            self.document.do(Several(named="soften hard edges", edits=tuple(edits)))
        else:
            self.window.say("No edge of it is hard.")

    # -- loops ---------------------------------------------------------------------------------

    def listen_to_join(self) -> None:
        """Play from just before the first join of the chosen clip's loops."""
        try:
            _, shaping = self.shaping()
        except BadEdit as error:
            self.window.say(str(error))
            return
        timing = shaping.timing
        if timing.loops == 1:
            self.window.say("The clip plays once, so there is no join; give it loops first.")
            return
        clock, rate = shaping.clock, shaping.rate
        join = shaping.begins - timing.offset + timing.step
        if shaping.clip.sync == "locked":
            traces = self.sheet.traces
            frame = clock.frame_at(join)
            entered = traces.plan.entered(frame, traces.visit or 0) or 0
            join += entered - clock.enters(frame)
        self.window.transport.play_between(
            max(0, join - round(BEFORE_JOIN * rate)), join + round(AFTER_JOIN * rate)
        )

    def overlap(self) -> None:
        """Let the loops of the chosen clip overlap by what its sound takes to die away."""
        try:
            cell, shaping = self.shaping()
        except BadEdit as error:
            self.window.say(str(error))
            return
        project = self.document.project

        def done(seconds: float | None) -> None:
            if not seconds:
                self.window.say("The sound stays loud up to its end: its loops need no overlap.")
                return
            changes = {"loop_overlap": seconds}
            self.document.do(ChangeKeyframes(cells=(cell,), changes=changes, what="the overlap"))
            self.window.say(f"Its loops overlap by {seconds:.3f} s, for so long it dies away.")

        self.window.jobs.run(
            fitting_overlap, project, self.window.presence.standing.files,
            self.window.sounds.cache.folder, shaping.clip, done=done, failed=self.window.say,
        )  # fmt: skip

    # -- styles --------------------------------------------------------------------------------

    def style_menu(self, menu: QMenu) -> None:
        """The styles there are, and keeping and forgetting them."""
        menu.clear()
        cells = tuple(c for c, k in self.session.keyframes() if isinstance(k, Clip))
        styles = self.document.project.styles
        for style in styles:
            self._offer(menu, style.name, partial(putting, style, cells), None)
        if not styles:
            menu.addAction("No styles are kept yet").setEnabled(False)
        menu.addSeparator()
        kept = menu.addAction("Keep these settings as a style…")
        kept.setEnabled(isinstance(self.session.keyframe(), Clip))
        kept.triggered.connect(self.keep_style)
        if styles:
            forget = menu.addMenu("Forget")
            for style in styles:
                action = forget.addAction(style.name)
                action.triggered.connect(
                    lambda _=False, name=style.name: self.document.do(ForgetStyle(name=name))
                )
        self._show_while_open(menu)

    def keep_style(self) -> None:
        """Ask for a name, and keep the settings of the chosen clip under it."""
        clip = self.session.keyframe()
        if not isinstance(clip, Clip):
            self.window.say("Choose a clip first.")
            return
        name = ask(self.window, "Style", "Its name:", "", "Keep the style", some_words)
        if name is not None:
            self.document.do(KeepStyle(style=style_of(name, clip)))

    # -- offering ------------------------------------------------------------------------------

    def _offer(self, menu: QMenu, words: str, make: Making, do: Callable[[], None] | None) -> None:
        """An entry that is drawn on the sheet, untried by ear, while the pointer is on it."""
        action = menu.addAction(words)
        action.triggered.connect(lambda: do() if do is not None else self._do(make))
        action.hovered.connect(lambda: self._try(make))

    def _try(self, make: Making) -> None:
        try:
            edit = make()
            self.window.planning.try_out(edit.apply(self.document.project), heard=False)
        except CicadaError as error:
            self.window.planning.try_out(None)
            self.window.say(str(error))

    def _show_while_open(self, menu: QMenu) -> None:
        menu.aboutToHide.connect(lambda: self.window.planning.try_out(None))

    def show(self, command: str, at: QPoint) -> None:
        """A button of the card was pressed: open its menu there, or do its command."""
        menus: dict[str, Callable[[QMenu], None]] = {
            "trim_silence": self.silence_menu,
            "end_on": self.end_menu,
            "match": self.matching.menu,
        }
        if command == "gesture":
            self.gesture(at)
        elif command in menus:
            menu = QMenu(self.window)
            try:
                menus[command](menu)
            except BadEdit as error:
                menu.deleteLater()
                self.window.say(str(error))
                return
            self.window.show_menu(menu, at)
        else:
            self.window.commands.actions[command].trigger()
