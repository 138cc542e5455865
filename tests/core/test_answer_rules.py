"""What must hold of what answers: each thing that does not is refused, with its place."""

import re

import pytest
from msgspec.structs import replace

from cicada.core.answer_rules import validate_run
from cicada.core.answers import (
    Blend,
    BlendPart,
    Fire,
    Follows,
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
from cicada.core.model import Clip, Layer, Run, Sound, empty_project
from cicada.errors import BadProject
from cicada.store.validate import validate

SOUND = Sound(id="s1", frames=9, rate=8000, channels=1)
EMPTY = empty_project("Rules", length=10)
FILM = replace(
    EMPTY,
    sounds=(SOUND,),
    values=(Value(id="v1"),),
    playlists=(Playlist(id="q1", parts=(PlaylistPart(sound="s1"),)),),
    pads=(Pad(id="p1", does=(Fire(sound="s1"),)),),
)
HERE = EMPTY.scenes[0].id


def pad(**fields):
    return {"pads": (Pad(id="p1", **fields),)}


def pool(**fields):
    return {"pools": (Pool(id="o1", parts=(PoolPart(sound="s1", **fields),)),)}


def drawn(line):
    return {"scenes": (replace(EMPTY.scenes[0], value_lines=line),)}


def zone(scene=HERE, frames=(0, 1), at=(0.0, 0.0, 1.0, 1.0)):
    return pad(zone=Zone(scene=scene, frames=frames, at=at))


def blend(value="v1", parts=(("s1", 0.0), ("q1", 1.0))):
    made = tuple(BlendPart(sound=sound, at=at) for sound, at in parts)
    return {"blends": (Blend(id="b1", value=value, parts=made),)}


@pytest.mark.parametrize(
    ("changes", "place", "problem"),
    [
        ({"values": (Value(id="v1", low=1.0, high=1.0),)}, "values[0]", "goes from 1 to 1"),
        ({"values": (Value(id="v1", start=2.0),)}, "values[0].start", "is 2"),
        (drawn({"v9": ((0.0, 0.0),)}), "value_lines", "there is no value 'v9'"),
        (drawn({"v1": (("0", 0.0),)}), "value_lines", "starts with a word"),
        (drawn({"v1": ((0.0, 0.0, 1.0),)}), "value_lines", "number for its shape"),
        (drawn({"v1": ((5.0, 0.0), (4.0, 0.0))}), "value_lines", "before the point in front"),
        (drawn({"v1": ((-1.0, 0.0),)}), "value_lines", "below 0"),
        (blend(value="v9"), "blends[0]", "there is no value 'v9'"),
        (blend(parts=(("s1", 1.0), ("q1", 1.0))), "blends[0]", "part in front of it"),
        (blend(parts=(("s1", 0.0), ("o9", 1.0))), "blends[0].parts[1]", "there is no"),
        (pool(value="v1"), "pools[0].parts[0]", "only one of value and while"),
        (pool(value="v1", range=(0.5, 0.5)), "pools[0].parts[0].while", "goes from 0.5 to 0.5"),
        (pool(value="v9", range=(0.0, 0.5)), "pools[0].parts[0].value", "there is no value"),
        ({"playlists": (Playlist(id="q1", parts=(PlaylistPart(sound="q1"),)),)},
         "playlists[0].parts[0]", "there is no sound 'q1'"),
        (pad(follows=Follows(value="v9", points=())), "pads[0].follows.value", "there is no value"),
        (pad(follows=Follows(value="v1", points=((1.0, 0.0), (0.0, 0.0)))),
         "pads[0].follows.points[1]", "stands at 0"),
        (pad(watch=Watch(value="v1", enters=(1.0, 0.0))), "pads[0].watch.enters", "goes from 1"),
        (pad(key="ab"), "pads[0].key", "is 'ab'"),
        (pad(message="lamp"), "pads[0].message", "is 'lamp'"),
        (pad(does=(Fire(sound="s9"),)), "pads[0].does[0]", "there is no sound"),
        (pad(does=(HushDeed(target="sound"),)), "pads[0].does[0].sound", "is missing"),
        (pad(does=(HushDeed(target="sound", sound="s9"),)), "pads[0].does[0]", "there is no"),
        (pad(does=(GlideDeed(value="v9"),)), "pads[0].does[0].value", "there is no value"),
        (zone(scene="sc9"), "pads[0].zone.scene", "there is no scene"),
        (zone(frames=(3, 2)), "pads[0].zone.frames", "go from 3 to 2"),
        (zone(at=(0.5, 0.5, 0.6, 0.1)), "pads[0].zone.at", "not within the picture"),
    ],
)  # fmt: skip
def test_what_breaks_a_rule_is_refused_with_its_place(changes, place, problem):
    validate(FILM)
    with pytest.raises(BadProject, match=re.escape(problem)) as refused:
        validate(replace(FILM, **changes))
    assert place in str(refused.value)


@pytest.mark.parametrize(
    ("given", "problem"),
    [
        (Input(at=0, pad="p9"), "there is no pad 'p9'"),
        (Input(at=0, value="v9"), "there is no value 'v9'"),
        (Input(at=0, pad="p1", value="v1"), "names a pad and a value"),
        (Input(at=0, to=1.0), "moves no value"),
    ],
)
def test_inputs_of_what_is_not_there_are_refused(given, problem):
    with pytest.raises(BadProject, match=problem):
        validate_run(FILM, Run(inputs=(given,)), "run")


def test_what_is_asked_for_by_an_id_that_is_not_there_is_a_key_error():
    layer = Layer(id="l9", keyframes=(Clip(frame=0, sound="s1"),))
    film = replace(FILM, scenes=(replace(EMPTY.scenes[0], layers=(layer,)),))
    assert film.heard_on("p1") is film.pads[0]
    assert film.heard_on("l9") is layer
    for ask in (film.sound, film.placeable, film.pad, film.value, film.heard_on):
        with pytest.raises(KeyError):
            ask("gone")
