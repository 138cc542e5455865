"""The files of a recipe, written one after the other into files that have no name yet."""

from collections.abc import Callable, Iterator
from math import log10
from urllib.parse import quote

import msgspec
import numpy as np

from cicada.core.model import Project, Run
from cicada.core.passage import Passage
from cicada.core.planner import plan
from cicada.core.recipe_rules import place_of
from cicada.core.recipes import (
    BundleRecipe,
    DataForm,
    Encoding,
    Loud,
    MixRecipe,
    SheetRecipe,
    StemsRecipe,
    TrimmedRecipe,
    VideoRecipe,
)
from cicada.core.timebase import round_half_up
from cicada.deliver.bundle import (
    FILM,
    PAGE,
    PAGE_KIND,
    PICTURES,
    SCRIPT,
    BundledSound,
    Piece,
    bundle_json,
    picture_files,
    player_page,
    player_script,
)
from cicada.deliver.frame_levels import frame_levels, levels_csv, levels_json
from cicada.deliver.frame_sheet import frame_sheet
from cicada.deliver.gallery import Gallery
from cicada.deliver.markers import as_midi
from cicada.deliver.player_data import as_json
from cicada.deliver.promises import File
from cicada.deliver.ready import SUFFIXES, Prepared
from cicada.deliver.shown import Pictures, Screen, shown_in
from cicada.deliver.signal import Signal
from cicada.deliver.sound_file import SoundFile, aimed, measured, write_sound
from cicada.deliver.stretch import Stretch
from cicada.deliver.tables import as_captions, as_csv
from cicada.deliver.timeline import as_timeline
from cicada.deliver.video import Video, write_video
from cicada.disk.writing import NewFile, write_all
from cicada.errors import Cancelled
from cicada.media.sources import SoundSources

# In dB: sounds of whole numbers keep so far below full scale, and the player makes up for it.
ROOM = 0.01

Going = Callable[[float], bool]
"""Told the share done, answers whether to go on."""


class Products:
    """The files of a recipe under way."""

    def __init__(
        self,
        project: Project,
        ready: Prepared,
        sources: SoundSources,
        files: dict[str, NewFile],
        said: list[str],
        going: Going,
        pictures: Pictures | None,
    ) -> None:
        self._project, self._ready, self._sources = project, ready, sources
        self._files, self._said, self._going = files, said, going
        self._pictures = pictures
        # The parts of the work that are done, of all: a file is one.
        self._done, self._all = 0.0, float(max(1, len(files)))

    def _part(self, weight: float = 1.0) -> Going:
        """What a part of the work says of itself, as a share of all of it."""
        begun = self._done
        self._done += weight

        def going(share: float) -> bool:
            return self._going(min(1.0, (begun + weight * share) / self._all))

        return going

    def made(self) -> Iterator[File]:
        """Write all files, and say what they are."""
        recipe = self._ready.recipe
        if isinstance(recipe, MixRecipe):
            made = self._sound(
                Passage(self._ready.found, self._sources, self._ready.silent), recipe.encoding
            )
            (name,) = self._ready.names
            yield write_sound(made, self._files[name].path, name, recipe.loud, self._part())
        elif isinstance(recipe, StemsRecipe):
            yield from self._stems(recipe.encoding, recipe.loud)
        elif isinstance(recipe, TrimmedRecipe):
            yield from self._trimmed(recipe.encoding)
        elif isinstance(recipe, VideoRecipe):
            yield self._video(recipe)
        elif isinstance(recipe, SheetRecipe):
            yield self._sheet(recipe)
        elif isinstance(recipe, BundleRecipe):
            yield from self._bundle(recipe)
        else:
            for form in recipe.forms:
                yield from self._data(form)

    def _mix(self) -> Passage:
        return Passage(self._ready.found, self._sources, self._ready.silent)

    def _sound(self, passage: Passage, encoding: Encoding, *, mono: bool = False) -> SoundFile:
        rate = encoding.rate or self._project.rate
        signal = Signal(passage, rate, mono=mono or encoding.mono)
        begins = round_half_up(self._begins * rate, self._project.rate)
        return SoundFile(signal, encoding, self._project.seed, begins)

    @property
    def _begins(self) -> int:
        """The sample of the film, played once, with which the file begins."""
        scope = self._ready.recipe.scope
        if scope.scene is None:
            return 0
        number = [scene.id for scene in self._project.scenes].index(scope.scene)
        return plan(self._project, Run()).entered(scope.first, number) or 0

    def _stems(self, encoding: Encoding, loud: Loud) -> Iterator[File]:
        ready, gain = self._ready, 0.0
        if loud != Loud():
            self._all += 1
            whole = self._sound(self._mix(), encoding)
            aim = aimed(loud, measured(whole.signal, self._part()))
            gain = aim.gain
            if aim.short:
                self._said.append(f"The stems are by {gain:+.1f} dB: {aim.short}.")
        for name, stem in zip(ready.names, ready.stems, strict=True):
            passage = Passage(ready.found, self._sources, ready.silent, stem.has)
            made = self._sound(passage, encoding)
            yield write_sound(made, self._files[name].path, name, loud, self._part(), gain)

    def _video(self, recipe: VideoRecipe) -> File:
        (name,), found, project = self._ready.names, self._ready.found, self._project
        shown = shown_in(found, even=recipe.waits == "even")
        screen = Screen(self._pictures, shown, self._mix(), recipe.height)
        signal = Signal(self._mix(), recipe.rate or project.rate, mono=recipe.mono)
        gain = 0.0
        if recipe.loud != Loud():
            self._all += 1
            aim = aimed(recipe.loud, measured(signal, self._part()))
            gain = aim.gain
            if aim.short:
                self._said.append(f"The sound is by {gain:+.1f} dB: {aim.short}.")
        if screen.rounded:
            self._said.append(f"It is {screen.width} × {screen.height}: coders take even sizes.")
        if screen.smaller:
            self._said.append(f"It is {screen.height} high, as its picture is.")
        if recipe.waits == "even":
            self._said.append("Its pictures come half a frame early or late at most.")
        made = Video(
            recipe, shown, screen.picture, screen.height, screen.width, project.fps,
            project.rate, signal, gain,
        )  # fmt: skip
        return write_video(made, self._files[name].path, name, self._part())

    def _sheet(self, recipe: SheetRecipe) -> File:
        (name,) = self._ready.names
        sheet = frame_sheet(self._ready.found, recipe.paper, self._pictures, self._part(0.9))
        if sheet is None:
            raise Cancelled("the delivery was stopped; nothing of it was written")
        return self._text(name, "PDF", sheet)

    def _trimmed(self, encoding: Encoding) -> Iterator[File]:
        uses = list[dict[str, object]]()
        *names, last = self._ready.names
        for name, piece in zip(names, self._ready.trimmed, strict=True):
            passage = Passage(piece.asked, self._sources)
            made = self._sound(passage, encoding, mono=piece.mono)._replace(begins=0)
            yield write_sound(made, self._files[name].path, name, Loud(), self._part(), 0.0)
            uses.append({
                "file": name.rpartition("/")[2],
                "sound": piece.shape.clip.sound,
                "frames": made.signal.length,
                "rate": made.signal.rate,
                "channels": made.signal.channels,
                "left": piece.shape.left,
                "uses": [{**use._asdict(), "loops": loops} for use, loops in piece.shape.uses],
            })  # fmt: skip
        told = {"format": "cicada-trimmed", "version": 1, "sounds": uses}
        yield self._text(last, "JSON", msgspec.json.format(msgspec.json.encode(told), indent=1))

    def _bundle(self, recipe: BundleRecipe) -> Iterator[File]:
        ready, place = self._ready, place_of(recipe)
        yield self._text(f"{place}/{PAGE}", PAGE_KIND, player_page().encode())
        yield self._text(f"{place}/{SCRIPT}", "player", player_script().encode())
        fetched = list[BundledSound]()
        for piece in ready.pieces:
            file, gain = self._fetched(piece, f"{place}/{piece.name}", recipe.encoding)
            need = piece.need
            fetched.append(BundledSound(
                need.sound, need.first, need.last, repr(need.speed), quote(piece.name),
                piece.length, file.channels or 1, gain, file.size, piece.needed,
            ))  # fmt: skip
            yield file
        files = None
        if ready.images:
            gallery = Gallery(self._pictures, ready.images, recipe.height)
            size = 0
            for image, data in gallery.files():
                size += self._text(f"{place}/{image.name}", "WebP", data).size
            yield File(f"{place}/{PICTURES}", size, f"{len(ready.images)} pictures")
            files = picture_files(ready.images, gallery.width, gallery.height)
        made = bundle_json(ready.found, self._project.name or place, fetched, files)
        yield self._text(f"{place}/{FILM}", "film", made)

    def _fetched(self, piece: Piece, name: str, encoding: Encoding) -> tuple[File, float]:
        """A sound that is fetched, and by what its samples are to be multiplied."""
        stretch = Stretch(piece.need, piece.length, self._project.rate, self._sources)
        rate = encoding.rate or self._project.rate
        signal = Signal(stretch, rate, mono=stretch.mono or encoding.mono)
        gain = 0.0
        if encoding.lossy or encoding.whole_numbers:
            peak = max(float(np.abs(block).max(initial=0)) for block in signal.blocks())
            gain = -max(0.0, 20 * log10(peak) + ROOM) if peak else 0.0
        made = SoundFile(signal, encoding, self._project.seed)
        file = write_sound(made, self._files[name].path, name, Loud(), self._part(), gain)
        return file, 10 ** (-gain / 20)

    def _data(self, form: DataForm) -> Iterator[File]:
        found, place = self._ready.found, place_of(self._ready.recipe)
        names = [place + suffix for suffix in SUFFIXES[form]]
        if form == "json":
            yield self._text(names[0], "player data", as_json(found))
        elif form == "csv":
            yield self._text(names[0], "CSV", as_csv(found).encode())
        elif form == "captions":
            yield self._text(names[0], "WebVTT", as_captions(found).encode())
        elif form == "timeline":
            yield self._text(names[0], "OpenTimelineIO", as_timeline(found))
        elif form == "midi":
            markers = as_midi(found)
            self._said.append(
                f"The markers of the MIDI file are off by {1000 * markers.error:.2g} ms at most."
            )
            yield self._text(names[0], "MIDI", markers.data)
        else:
            self._all += 2
            levels = frame_levels(found, self._sources, self._ready.silent, self._part(2.0))
            if levels is None:
                raise Cancelled("the delivery was stopped; nothing of it was written")
            yield self._text(names[0], "CSV", "".join(levels_csv(found, levels)).encode())
            told = msgspec.json.encode(levels_json(found, levels))
            yield self._text(names[1], "JSON", told)

    def _text(self, name: str, kind: str, data: bytes) -> File:
        self._done = min(self._done, self._all - 1)
        if not self._part()(1.0):
            raise Cancelled("the delivery was stopped; nothing of it was written")
        write_all(self._files[name].file, data)
        return File(name, len(data), kind)
