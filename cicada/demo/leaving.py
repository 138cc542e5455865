"""What is delivered of the demo: a recipe of each kind."""

from cicada.core.recipes import (
    AnyRecipe,
    BundleRecipe,
    DataRecipe,
    Encoding,
    Loud,
    MixRecipe,
    Scope,
    SheetRecipe,
    StemsRecipe,
    TrimmedRecipe,
    VideoRecipe,
)

_LOUD = Loud(aim="loudness", target=-16.0, ceiling=-1.0)
RECIPES: tuple[AnyRecipe, ...] = (
    MixRecipe(
        id="r1", name="For the page", place="sound/harbour",
        encoding=Encoding(kind="opus"), loud=_LOUD,
    ),
    MixRecipe(
        id="r2", name="Night, round and round", scope=Scope(scene="sc2", tail="fold"),
        encoding=Encoding(kind="flac"),
    ),
    StemsRecipe(id="r3", name="Stems"),
    TrimmedRecipe(id="r4", name="Pieces for the player", encoding=Encoding(kind="mp3")),
    DataRecipe(
        id="r5", name="Data for the player", forms=("json", "captions", "levels"),
    ),
    VideoRecipe(id="r6", name="Harbour film", loud=_LOUD),
    SheetRecipe(id="r7", name="To draw on", scope=Scope(scene="sc2")),
    BundleRecipe(
        id="r8", name="Film for a page", place="page", height=360, encoding=Encoding(kind="opus"),
    ),
)  # fmt: skip
