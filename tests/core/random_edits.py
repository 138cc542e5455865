"""Random edits of a small project: many do not fit, which is part of the test."""

from hypothesis import strategies as st

from cicada.core.answer_edits import (
    ChangeRun,
    DrawValue,
    FollowValue,
    ForgetRun,
    KeepRun,
    MovePad,
    PutBlend,
    PutPad,
    PutPlaylist,
    PutPool,
    PutValue,
    RemovePad,
    RemoveValue,
)
from cicada.core.answers import (
    Blend,
    BlendPart,
    Fire,
    Follows,
    GlideDeed,
    GoOn,
    HushDeed,
    Input,
    Pad,
    Playlist,
    PlaylistPart,
    Pool,
    PoolPart,
    Value,
)
from cicada.core.editing import Cell, Several
from cicada.core.keyframe_edits import (
    ChangeKeyframes,
    ClearKeyframes,
    HushSound,
    MoveKeyframes,
    MoveSpanEnd,
    PlaceClip,
    PutKeyframes,
    TakeSoundsOff,
)
from cicada.core.layer_edits import AddLayer, ChangeLayer, DuplicateLayer, MoveLayer, RemoveLayer
from cicada.core.model import Clip, Hush, KeptRun, Layer, Rest, Style
from cicada.core.picture_edits import AddParts, ChangePart, MovePart, MovePartEnds, RemovePart
from cicada.core.picture_parts import Images, Still, Video
from cicada.core.reshaping import ReshapeClip
from cicada.core.ripple import InsertFrames, RemoveFrames
from cicada.core.scene_edits import (
    AddScene,
    ChangeProject,
    ChangeScene,
    ClearMark,
    ClearPressPoint,
    DuplicateScene,
    MoveMark,
    MovePressPoint,
    MoveScene,
    PutMark,
    PutPressPoint,
    PutTempo,
    RemoveScene,
)
from cicada.core.styles import ForgetStyle, KeepStyle

values, pads = st.sampled_from(("v1", "v2")), st.sampled_from(("p1", "p2"))
made = st.sampled_from(("s1", "o1", "q1"))
numbers = st.sampled_from((0.0, 0.25, 1.0))
deeds = st.one_of(
    st.builds(Fire, sound=made, hand_over=numbers),
    st.builds(GlideDeed, value=values, to=st.none() | numbers, over=numbers),
    st.builds(HushDeed, target=st.sampled_from(("pad", "all")), fade=numbers),
    st.builds(GoOn, when=st.sampled_from(("now", "over"))),
)
follows = st.none() | st.builds(
    Follows,
    value=values,
    points=st.sampled_from(((), ((0.0, 0.5), (1.0, 1.0)))),
)
inputs = st.one_of(
    st.builds(Input, at=st.integers(0, 9000), pad=pads),
    st.builds(Input, at=st.integers(0, 9000), value=values, to=st.none() | numbers),
)
runs = st.builds(
    KeptRun,
    name=st.sampled_from(("", "Once", "Twice")),
    frame=st.integers(0, 60),
    inputs=st.lists(inputs, max_size=3).map(tuple),
)
answering = st.one_of(
    st.builds(PutValue, value=st.builds(Value, id=values, start=st.none() | numbers)),
    st.builds(
        DrawValue,
        scene=st.sampled_from(("sc1", "sc2")),
        value=values,
        line=st.sampled_from(((), ((0.0, 0.5), (7.5, 1.0)))),
    ),
    st.builds(RemoveValue, value=values),
    st.builds(
        FollowValue,
        layer=st.sampled_from(("l1", "l2")),
        follows=follows,
    ),
    st.just(PutPool(pool=Pool(id="o1", parts=(PoolPart(sound="s1"),)))),
    st.just(PutPlaylist(playlist=Playlist(id="q1", parts=(PlaylistPart(sound="s1", loops=2),)))),
    st.just(
        PutBlend(
            blend=Blend(
                id="b1",
                value="v1",
                parts=(BlendPart(sound="s1", at=0.0), BlendPart(sound="q1", at=1.0)),
            )
        )
    ),
    st.builds(
        PutPad,
        pad=st.builds(
            Pad,
            id=pads,
            key=st.none() | st.just("k"),
            follows=follows,
            does=st.lists(deeds, max_size=3).map(tuple),
        ),
    ),
    st.builds(RemovePad, pad=pads),
    st.builds(MovePad, pad=pads, to=st.integers(0, 3)),
    st.builds(KeepRun, run=runs),
    st.builds(ChangeRun, name=st.just("Once"), run=runs),
    st.builds(ForgetRun, name=st.sampled_from(("Once", "Twice"))),
)
frames = st.integers(0, 60)
layers = st.sampled_from(("l1", "l2", "l3"))
scenes = st.sampled_from(("sc1", "sc1", "sc2"))
cells = st.builds(Cell, layers, frames)
some_cells = st.lists(cells, min_size=1, max_size=3).map(tuple)
some_layers = st.sampled_from((None, None, ("l1",), ("l1", "l2")))
keyframes = st.one_of(st.builds(Rest, frame=frames), st.builds(Hush, frame=frames))
count = st.integers(0, 9)
some_parts = st.one_of(
    st.builds(Still, file=st.just("board.png"), start=frames, shown=st.none() | st.integers(1, 30)),
    st.builds(Images, folder=st.just("shot"), start=frames),
    st.builds(Video, file=st.just("a.mp4"), start=frames, length=st.none() | st.integers(1, 30)),
)

any_edit = st.one_of(
    st.builds(PlaceClip, layer=layers, frame=frames, sound=st.just("s1")),
    st.builds(PlaceClip, layer=layers, frame=frames, sound=st.just("s1")),
    st.builds(PutKeyframes, keyframes=st.tuples(st.tuples(layers, keyframes))),
    st.builds(
        ChangeKeyframes,
        cells=some_cells,
        changes=st.fixed_dictionaries(
            {"sync": st.sampled_from(("locked", "hold")), "loops": frames}
        ),
    ),
    st.builds(ClearKeyframes, cells=some_cells),
    st.builds(MoveKeyframes, moves=st.tuples(st.tuples(cells, cells))),
    st.builds(ReshapeClip, cell=cells, clip=st.builds(Clip, frame=frames, sound=st.just("s1"))),
    st.builds(KeepStyle, style=st.builds(Style, name=st.sampled_from(("", "Far")), loops=frames)),
    st.just(ForgetStyle(name="Far")),
    st.builds(MoveSpanEnd, layer=layers, frame=frames, to=frames),
    st.builds(TakeSoundsOff, cells=some_cells, leave=st.sampled_from(("rests", "marks"))),
    st.builds(
        HushSound,
        scene=scenes,
        layer=layers,
        clip_frame=frames,
        sound=st.just("s1"),
        frame=frames,
    ),
    st.builds(ChangeLayer, layer=layers, changes=st.just({"mute": True, "name": "Other"})),
    st.builds(ChangeLayer, layer=layers, changes=st.just({"guarded": True})),
    st.builds(MoveLayer, layer=layers, to=st.integers(0, 4)),
    st.builds(DuplicateLayer, layer=layers),
    st.builds(RemoveLayer, layer=layers),
    st.just(AddLayer(scene="sc1", layer=Layer(id="l2", keyframes=()), index=0)),
    st.builds(InsertFrames, scene=scenes, frame=frames, count=count, layers=some_layers),
    st.builds(RemoveFrames, scene=scenes, frame=frames, count=count, layers=some_layers),
    st.builds(PutMark, scene=scenes, frame=frames, text=st.sampled_from(("", "door"))),
    st.builds(MoveMark, scene=scenes, frame=frames, to=frames),
    st.builds(ClearMark, scene=scenes, frame=frames),
    st.builds(
        PutPressPoint, scene=scenes, frame=frames, after=st.sampled_from((None, 0.5, -1.0))
    ),
    st.builds(MovePressPoint, scene=scenes, frame=frames, to=frames),
    st.builds(ClearPressPoint, scene=scenes, frame=frames),
    st.builds(
        PutTempo, scene=scenes, frame=frames, bpm=st.sampled_from((None, 90.0, 120.0, 5000.0))
    ),
    st.builds(AddParts, scene=scenes, parts=st.tuples(some_parts)),
    st.builds(
        ChangePart,
        scene=scenes,
        number=st.integers(0, 3),
        changes=st.sampled_from(
            ({"start": 7, "shown": 5}, {"moves_to": (0.1, 0.9, 2.0)}, {"place": (0.5, 0.5, 1.0)})
        ),
    ),
    st.builds(MovePart, scene=scenes, number=st.integers(0, 3), to=st.integers(0, 3)),
    st.builds(MovePartEnds, scene=scenes, frame=frames, to=frames),
    st.builds(RemovePart, scene=scenes, number=st.integers(0, 5)),
    st.builds(AddScene, after=scenes, name=st.just("More"), length=st.sampled_from((0, 48))),
    st.builds(DuplicateScene, scene=scenes),
    st.builds(RemoveScene, scene=scenes),
    st.builds(MoveScene, scene=scenes, to=st.integers(0, 3)),
    st.builds(ChangeScene, scene=scenes, changes=st.just({"length": 50})),
    answering,
    answering,
    answering,
    st.just(Several(named="both", edits=(ChangeProject(changes={"level": 0.5}),))),
)  # fmt: skip
