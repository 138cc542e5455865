"""What values, blends, pools, playlists, pads, inputs and kept runs must hold (live.md)."""

from collections.abc import Collection, Mapping
from itertools import pairwise
from typing import NoReturn

from cicada.core.answers import (
    Blend,
    Fire,
    Follows,
    GlideDeed,
    HushDeed,
    Pad,
    Playlist,
    Pool,
    Range,
    Value,
)
from cicada.core.model import Project, Run
from cicada.core.values import Line
from cicada.errors import BadProject


def refuse(place: str, problem: str, remedy: str) -> NoReturn:
    """Raise ``BadProject`` for a place in the file."""
    raise BadProject(problem, place=place, remedy=remedy)


def validate_answers(project: Project) -> None:
    """Raise ``BadProject``, naming the place, if what answers in a project breaks a rule."""
    names = Names(project)
    for number, value in enumerate(project.values):
        _value(value, f"values[{number}]")
    for number, blend in enumerate(project.blends):
        names.blend(blend, f"blends[{number}]")
    for number, pool in enumerate(project.pools):
        names.pool(pool, f"pools[{number}]")
    for number, playlist in enumerate(project.playlists):
        names.playlist(playlist, f"playlists[{number}]")
    for number, pad in enumerate(project.pads):
        names.pad(pad, f"pads[{number}]")
    for number, kept in enumerate(project.runs):
        validate_run(project, kept.run(), f"runs[{number}]")


def _value(value: Value, place: str) -> None:
    if value.low >= value.high:
        refuse(place, f"goes from {value.low:g} to {value.high:g}", "from must be below to")
    if value.start is not None and not value.low <= value.start <= value.high:
        refuse(f"{place}.start", f"is {value.start:g}", f"use {value.low:g} to {value.high:g}")


def line(given: Line, place: str, low: float, high: float) -> None:
    """Raise ``BadProject`` if a line's points are out of order or go too far."""
    previous = 0.0
    for number, point in enumerate(given):
        at, value = point[0], point[1]
        here = f"{place}[{number}]"
        if isinstance(at, str) or isinstance(value, str):
            refuse(here, "starts with a word", "a point is a place, a value and maybe a shape")
        if len(point) == 3 and not isinstance(point[2], str):
            refuse(here, "has a number for its shape", 'use "smooth" or "step"')
        if at < previous:
            where = "below 0" if not number else "before the point in front of it"
            refuse(here, f"stands at {at:g}, {where}", "put the points in order")
        if not low <= value <= high:
            refuse(here, f"has the value {value:g}", f"use {low:g} to {high:g}")
        previous = at


class Names:
    """What the parts of a project may name."""

    def __init__(self, project: Project) -> None:
        self._sounds = frozenset(sound.id for sound in project.sounds)
        self._playlists = frozenset(each.id for each in project.playlists)
        self._blends = frozenset(each.id for each in project.blends)
        self._values: Mapping[str, Value] = {value.id: value for value in project.values}
        self._scenes = frozenset(scene.id for scene in project.scenes)
        self.placeable = self._sounds | self._playlists | self._blends
        self.placeable |= {each.id for each in project.pools}

    def sound(self, sound: str, place: str) -> None:
        """A clip or hush names what is on the shelf."""
        if sound not in self.placeable:
            refuse(
                f"{place}.sound", f"there is no sound {sound!r}", "name one of the project's sounds"
            )

    def value(self, value: str, place: str) -> None:
        """Something follows a value that is there."""
        if value not in self._values:
            refuse(place, f"there is no value {value!r}", "name one of the project's values")

    def _part(self, sound: str, of: Collection[str], place: str, kinds: str) -> None:
        if sound not in of:
            refuse(f"{place}.sound", f"there is no {kinds} {sound!r}", f"name a {kinds}")

    def _range(self, given: Range, place: str) -> None:
        if given[0] >= given[1]:
            refuse(place, f"goes from {given[0]:g} to {given[1]:g}", "begin below its end")

    def blend(self, blend: Blend, place: str) -> None:
        """A blend follows a value, and its parts stand in order."""
        self.value(blend.value, f"{place}.value")
        for number, part in enumerate(blend.parts):
            here = f"{place}.parts[{number}]"
            self._part(part.sound, self._sounds | self._playlists, here, "sound or playlist")
        for number, (one, other) in enumerate(pairwise(blend.parts), 1):
            if one.at >= other.at:
                refuse(
                    f"{place}.parts[{number}].at",
                    f"is {other.at:g}, not above the {one.at:g} of the part in front of it",
                    "put the parts in order",
                )

    def pool(self, pool: Pool, place: str) -> None:
        """A pool's parts are there, and a range is one of a value."""
        for number, part in enumerate(pool.parts):
            here = f"{place}.parts[{number}]"
            kinds = self._sounds | self._playlists | self._blends
            self._part(part.sound, kinds, here, "sound, blend or playlist")
            if (part.value is None) != (part.range is None):
                refuse(here, "has only one of value and while", "give both or neither")
            if part.value is not None and part.range is not None:
                self.value(part.value, f"{here}.value")
                self._range(part.range, f"{here}.while")

    def playlist(self, playlist: Playlist, place: str) -> None:
        """A playlist is made of sounds."""
        for number, part in enumerate(playlist.parts):
            self._part(part.sound, self._sounds, f"{place}.parts[{number}]", "sound")

    def follows(self, follows: Follows, place: str) -> None:
        """What a layer or pad follows is there, and its points stand in order."""
        self.value(follows.value, f"{place}.value")
        for number, (one, other) in enumerate(pairwise(follows.points), 1):
            if one[0] > other[0]:
                refuse(
                    f"{place}.points[{number}]",
                    f"stands at {other[0]:g}, before the point in front of it",
                    "put the points in order",
                )

    def pad(self, pad: Pad, place: str) -> None:
        """A pad does what can be done, when something makes it act."""
        if pad.follows is not None:
            self.follows(pad.follows, f"{place}.follows")
        if pad.watch is not None:
            self.value(pad.watch.value, f"{place}.watch.value")
            self._range(pad.watch.enters, f"{place}.watch.enters")
        if pad.key is not None and len(pad.key) != 1:
            refuse(f"{place}.key", f"is {pad.key!r}", "a key is one character")
        if pad.message is not None and not pad.message.startswith("/"):
            refuse(f"{place}.message", f"is {pad.message!r}", "an OSC address begins with /")
        self._zone(pad, f"{place}.zone")
        for number, deed in enumerate(pad.does):
            here = f"{place}.does[{number}]"
            if isinstance(deed, Fire):
                self.sound(deed.sound, here)
                line(deed.level_line, f"{here}.level_line", 0, 16)
                line(deed.pan_line, f"{here}.pan_line", -1, 1)
            elif isinstance(deed, HushDeed):
                if deed.target == "sound" and deed.sound is None:
                    refuse(f"{here}.sound", "is missing", "say which sound is silenced")
                if deed.sound is not None:
                    self.sound(deed.sound, here)
            elif isinstance(deed, GlideDeed):
                self.value(deed.value, f"{here}.value")

    def _zone(self, pad: Pad, place: str) -> None:
        if pad.zone is None:
            return
        if pad.zone.scene not in self._scenes:
            refuse(f"{place}.scene", f"there is no scene {pad.zone.scene!r}", "name one there is")
        first, last = pad.zone.frames
        if first > last:
            refuse(f"{place}.frames", f"go from {first} to {last}", "begin before the end")
        x, y, width, height = pad.zone.at
        if min(x, y) < 0 or min(width, height) <= 0 or max(x + width, y + height) > 1 + 1e-9:
            refuse(f"{place}.at", "is not within the picture", "use parts of its width and height")


def validate_run(project: Project, run: Run, place: str) -> None:
    """Raise ``BadProject`` if the conditions of a run name what is not in its project."""
    scenes = {scene.id: scene for scene in project.scenes}
    if run.scene is not None and run.scene not in scenes:
        refuse(
            f"{place}.scene", f"there is no scene {run.scene!r}",
            "name one of " + ", ".join(list(scenes)[:8]),
        )  # fmt: skip
    scene = project.scenes[0] if run.scene is None else scenes[run.scene]
    if run.frame >= scene.length:
        first = project.first_frame
        refuse(
            f"{place}.frame",
            f"{run.frame + first} is past the scene's last frame, {scene.length - 1 + first}",
            "start on an earlier frame",
        )
    pads, values = {pad.id for pad in project.pads}, {value.id for value in project.values}
    for number, given in enumerate(run.inputs):
        here = f"{place}.inputs[{number}]"
        if given.pad is not None and given.value is not None:
            refuse(here, "names a pad and a value", "make it two inputs")
        if given.pad is not None and given.pad not in pads:
            refuse(
                f"{here}.pad", f"there is no pad {given.pad!r}", "name one of the project's pads"
            )
        if given.value is not None and given.value not in values:
            refuse(
                f"{here}.value", f"there is no value {given.value!r}",
                "name one of the project's values",
            )  # fmt: skip
        if given.value is None and (given.to is not None or given.over):
            refuse(here, "moves no value", "say which")
