"""Which sounds the shelf shows and in which order: words, filters, sorting. No Qt here."""

from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from collections.abc import Set as AbstractSet
from dataclasses import dataclass, field
from pathlib import PurePath

from cicada.core.model import Clip, Keyframe, Project, Sound
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


class Uses:
    """How many keyframes place each sound; a layer that is as it was is not counted again."""

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
        return total


class ShelfSearch:
    """Finds sounds; what it has read of a sound it reads again only when that changes."""

    def __init__(self) -> None:
        self._texts: dict[str, tuple[Sound, str]] = {}
        self._lines: tuple[Sequence[Sound], list[str]] = ((), [])

    def text(self, sound: Sound) -> str:
        """All that is searched of a sound."""
        kept = self._texts.get(sound.id)
        if kept is not None and kept[0] is sound:
            return kept[1]
        parts = (sound.name, sound.code_name, sound.note, sound.folder, *sound.tags)
        text = "\n".join((*parts, PurePath(sound.origin).name)).casefold()
        self._texts[sound.id] = sound, text
        return text

    def _all_texts(self, sounds: Sequence[Sound]) -> list[str]:
        if self._lines[0] is not sounds:
            self._lines = sounds, [self.text(sound) for sound in sounds]
        return self._lines[1]

    def find(self, sounds: Sequence[Sound], wish: Wish, known: Known) -> list[Sound]:
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


def _test(only: str, known: Known) -> Callable[[Sound], bool] | None:
    if only.startswith(FOLDER):
        folder = only.removeprefix(FOLDER)
        return lambda sound: sound.folder == folder
    if only.startswith(TAG):
        tag = only.removeprefix(TAG)
        return lambda sound: tag in sound.tags
    tests: dict[str, Callable[[Sound], bool]] = {
        "unused": lambda sound: not known.uses.get(sound.id),
        "long": lambda sound: sound.frames > LONG * sound.rate,
        "mono": lambda sound: sound.channels == 1,
        "missing": lambda sound: sound.id in known.missing,
        "linked": lambda sound: sound.kept == "linked",
        "changed": lambda sound: sound.id in known.changed,
    }
    return tests.get(only)


def _alike(sounds: Sequence[Sound], found: list[Sound]) -> list[Sound]:
    """Those of ``found`` that share their name, but for its numbering, with another sound."""
    groups = {sound.id: likeness(sound.name) for sound in sounds}
    sizes = Counter(groups.values())
    shared = [sound for sound in found if sizes[groups[sound.id]] > 1]
    return sorted(shared, key=lambda sound: (groups[sound.id], sound.name.casefold()))


def _ordered(found: list[Sound], order: str, known: Known) -> list[Sound]:
    keys: dict[str, Callable[[Sound], object]] = {
        "name": lambda sound: sound.name.casefold(),
        "length": lambda sound: -sound.frames / sound.rate,
        "loud": lambda sound: -(known.loudness(sound) or -99.0),
        "uses": lambda sound: -known.uses.get(sound.id, 0),
        "folder": lambda sound: (not sound.folder, sound.folder.casefold(), sound.name.casefold()),
    }
    key = keys.get(order)
    return found if key is None else sorted(found, key=key)  # type: ignore[arg-type]
