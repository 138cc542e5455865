"""Which sounds the shelf shows and in which order: words, filters, sorting. No Qt here."""

from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from collections.abc import Set as AbstractSet
from dataclasses import dataclass, field
from pathlib import PurePath

from cicada.core.answers import Fire
from cicada.core.model import Clip, Keyframe, Placeable, Project, Sound
from cicada.core.naming import likeness

LONG = 10.0
ORDERS = {
    "import": "As imported",
    "name": "By name",
    "length": "Longest first",
    "loud": "Loudest first",
    "uses": "Most used first",
    "folder": "By folder",
}
FILTERS = {
    "": "All sounds",
    "unused": "Not used yet",
    "made": "Made of sounds",
    "long": f"Longer than {LONG:g} s",
    "mono": "Mono",
    "missing": "Missing",
    "linked": "Linked",
    "changed": "Source has changed",
    "alike": "Named alike",
}
FOLDER, TAG = "folder:", "tag:"


@dataclass(frozen=True)
class Wish:
    """What is asked for. ``only`` is one of ``FILTERS``, or FOLDER or TAG and a name."""

    words: str = ""
    only: str = ""
    order: str = "import"


@dataclass(frozen=True)
class Known:
    """What is known of the sounds besides what the project says."""

    uses: Mapping[str, int] = field(default_factory=dict)
    missing: AbstractSet[str] = frozenset()
    changed: AbstractSet[str] = frozenset()
    loudness: Callable[[Sound], float | None] = lambda sound: None
    seconds: Callable[[Placeable], float] = lambda made: 0.0


class Uses:
    """How often each sound is placed, fired, or a part; a layer that is as it was is known."""

    def __init__(self) -> None:
        self._counted: dict[str, tuple[tuple[Keyframe, ...], Counter[str]]] = {}

    def of(self, project: Project) -> Counter[str]:
        """The uses of every sound of the project that has any."""
        total: Counter[str] = Counter()
        counted = {}
        for _, layer in project.all_layers():
            known = self._counted.get(layer.id)
            if known is None or known[0] is not layer.keyframes:
                placed = (k.sound for k in layer.keyframes if isinstance(k, Clip))
                known = layer.keyframes, Counter(placed)
            counted[layer.id] = known
            total.update(known[1])
        self._counted = counted
        total.update(d.sound for pad in project.pads for d in pad.does if isinstance(d, Fire))
        for blend in project.blends:
            total.update(part.sound for part in blend.parts)
        for pool in project.pools:
            total.update(part.sound for part in pool.parts)
        for playlist in project.playlists:
            total.update(part.sound for part in playlist.parts)
        return total


class ShelfSearch:
    """Finds sounds; what it has read of a sound it reads again only when that changes."""

    def __init__(self) -> None:
        self._texts: dict[str, tuple[Placeable, str]] = {}
        self._lines: tuple[Sequence[Placeable], list[str]] = ((), [])

    def text(self, sound: Placeable) -> str:
        """All that is searched of a sound."""
        kept = self._texts.get(sound.id)
        if kept is not None and kept[0] is sound:
            return kept[1]
        parts = (sound.name, sound.code_name, sound.note, sound.folder, *sound.tags)
        text = "\n".join((*parts, PurePath(getattr(sound, "origin", "")).name)).casefold()
        self._texts[sound.id] = sound, text
        return text

    def _all_texts(self, sounds: Sequence[Placeable]) -> list[str]:
        if self._lines[0] is not sounds:
            self._lines = sounds, [self.text(sound) for sound in sounds]
        return self._lines[1]

    def find(self, sounds: Sequence[Placeable], wish: Wish, known: Known) -> list[Placeable]:
        """The sounds in which all words occur and that pass the filter, in order."""
        found = list(sounds)
        for number, word in enumerate(wish.words.casefold().split()):
            texts = self._all_texts(sounds) if not number else map(self.text, found)
            found = [sound for sound, text in zip(found, texts, strict=True) if word in text]
        if wish.only == "alike":
            return _alike(sounds, found)
        test = _test(wish.only, known)
        if test is not None:
            found = [sound for sound in found if test(sound)]
        return _ordered(found, wish.order, known)


def _test(only: str, known: Known) -> Callable[[Placeable], bool] | None:
    if only.startswith(FOLDER):
        folder = only.removeprefix(FOLDER)
        return lambda sound: sound.folder == folder
    if only.startswith(TAG):
        tag = only.removeprefix(TAG)
        return lambda sound: tag in sound.tags
    tests: dict[str, Callable[[Placeable], bool]] = {
        "unused": lambda sound: not known.uses.get(sound.id),
        "made": lambda sound: not isinstance(sound, Sound),
        "long": lambda sound: known.seconds(sound) > LONG,
        "mono": lambda sound: isinstance(sound, Sound) and sound.channels == 1,
        "missing": lambda sound: sound.id in known.missing,
        "linked": lambda sound: isinstance(sound, Sound) and sound.kept == "linked",
        "changed": lambda sound: sound.id in known.changed,
    }
    return tests.get(only)


def _alike(sounds: Sequence[Placeable], found: list[Placeable]) -> list[Placeable]:
    """Those of ``found`` that share their name, but for its numbering, with another sound."""
    groups = {sound.id: likeness(sound.name) for sound in sounds}
    sizes = Counter(groups.values())
    shared = [sound for sound in found if sizes[groups[sound.id]] > 1]
    return sorted(shared, key=lambda sound: (groups[sound.id], sound.name.casefold()))


def _ordered(found: list[Placeable], order: str, known: Known) -> list[Placeable]:
    keys: dict[str, Callable[[Placeable], object]] = {
        "name": lambda sound: sound.name.casefold(),
        "length": lambda sound: -known.seconds(sound),
        "loud": lambda sound: -(_loudness(sound, known) or -99.0),
        "uses": lambda sound: -known.uses.get(sound.id, 0),
        "folder": lambda sound: (not sound.folder, sound.folder.casefold(), sound.name.casefold()),
    }
    key = keys.get(order)
    return found if key is None else sorted(found, key=key)  # type: ignore[arg-type]


def _loudness(made: Placeable, known: Known) -> float | None:
    return known.loudness(made) if isinstance(made, Sound) else None
