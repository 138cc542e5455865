"""The demo's storm: wind that follows a value, thunder drawn anew, a bed in pieces, three pads."""

from cicada.core.answers import (
    Blend,
    BlendPart,
    Fire,
    GlideDeed,
    HushDeed,
    Input,
    Pad,
    Playlist,
    PlaylistPart,
    Pool,
    PoolPart,
    Value,
    Watch,
    Zone,
)
from cicada.core.model import Clip, KeptRun, Layer, Mark, Rest, Scene

RAIN, WAVES = "s6", "s7"
BREEZE, GUSTS, GALE, NEAR, ROLLING, FAR, BREAKERS = (f"s{number}" for number in range(12, 19))
STORM = "sc4"
WIND, STRENGTH, THUNDER, SEA = "v1", "b1", "o1", "q1"
LENGTH = 96
# When lightning strikes in the picture.
FLASHES = (18, 50, 77)

VALUES = (Value(id=WIND, name="Wind", start=0.2),)
BLENDS = (
    Blend(
        id=STRENGTH,
        name="Wind",
        value=WIND,
        parts=(
            BlendPart(sound=BREEZE, at=0.1),
            BlendPart(sound=GUSTS, at=0.5),
            BlendPart(sound=GALE, at=0.9),
        ),
    ),
)
POOLS = (
    Pool(
        id=THUNDER,
        name="Thunder",
        again="other",
        parts=(
            PoolPart(sound=FAR, value=WIND, range=(0.0, 0.6)),
            PoolPart(sound=ROLLING, weight=2.0),
            PoolPart(sound=NEAR, value=WIND, range=(0.3, 1.0)),
        ),
    ),
)
PLAYLISTS = (
    Playlist(
        id=SEA,
        name="Rain and breakers",
        parts=(
            PlaylistPart(sound=RAIN, tail=0.5),
            PlaylistPart(sound=BREAKERS, tail=0.6),
            PlaylistPart(sound=RAIN),
        ),
    ),
)
PADS = (
    Pad(
        id="p1",
        name="Thunder",
        key="t",
        message="/storm/thunder",
        zone=Zone(scene=STORM, frames=(0, LENGTH - 1), at=(0.42, 0.05, 0.5, 0.38)),
        level=0.9,
        does=(
            Fire(sound=THUNDER, if_sounding="restart", hand_over=0.4),
            GlideDeed(value=WIND, to=1.0, over=0.5),
        ),
    ),
    Pad(
        id="p2",
        name="Lull",
        key="l",
        message="/storm/lull",
        does=(GlideDeed(value=WIND, over=1.5),),
    ),
    Pad(
        id="p3",
        name="Bell in a gale",
        key="b",
        level=0.6,
        pan=0.35,
        watch=Watch(value=WIND, enters=(0.9, 1.0)),
        does=(Fire(sound="s4", if_sounding="skip", loops=2),),
    ),
    Pad(id="p4", name="Stop all", does=(HushDeed(target="all", fade=0.05),)),
)
RUNS = (
    KeptRun(
        name="Two strikes",
        delay=0.02,
        scene=STORM,
        only_scene=True,
        inputs=(
            Input(at=33600, pad="p1"),
            Input(at=79200, pad="p2"),
            Input(at=124800, value=WIND, to=0.7, over=0.03),
            Input(at=126000, value=WIND, to=0.85, over=0.03),
            Input(at=127200, value=WIND, to=0.95, over=0.03),
            Input(at=146400, pad="p1"),
        ),
    ),
)


def storm() -> Scene:
    """The scene."""
    strikes = tuple(
        Clip(frame=frame + late, sound=THUNDER, if_sounding="restart", hand_over=0.3, pan=pan)
        for frame, late, pan in zip(FLASHES, (9, 5, 2), (0.5, 0.3, 0.1), strict=True)
    )
    return Scene(
        id=STORM,
        name="Storm",
        length=LENGTH,
        marks=tuple(Mark(frame=frame, text="lightning") for frame in FLASHES),
        value_lines={
            WIND: (
                (0.0, 0.15),
                (26.0, 0.45, "smooth"),
                (44.0, 0.3, "smooth"),
                (78.0, 0.95, "smooth"),
                (92.0, 0.6),
            )
        },
        layers=(
            Layer(
                id="l13",
                name="Wind",
                keyframes=(
                    Clip(
                        frame=0,
                        sound=STRENGTH,
                        loops=0,
                        loop_overlap=0.4,
                        fade_in=0.4,
                        ends="span",
                        release=0.5,
                    ),
                ),
                level=0.7,
            ),
            Layer(id="l14", name="Thunder", keyframes=strikes, level=0.8),
            Layer(
                id="l15",
                name="Rain and sea",
                keyframes=(
                    Clip(frame=2, sound=SEA, fade_in=0.3, ends="span", release=0.4),
                    Rest(frame=94),
                ),
                level=0.45,
            ),
        ),
    )
