"""Random projects and runs: small numbers, so that things coincide often."""

from hypothesis import strategies as st
from msgspec.structs import replace

from cicada.core.model import (
    FORMAT,
    Clip,
    Hush,
    Layer,
    PressPoint,
    Project,
    Rest,
    Run,
    Scene,
    Sound,
)

RATE = 8000
SOUNDS = ("s0", "s1", "s2")
times = st.sampled_from((0.0, 0.0, 0.0, 0.05, 0.1, 0.125, 0.25, 0.5, 1.0, 0.033))


def clips(frame: int) -> st.SearchStrategy[Clip]:
    return st.builds(
        Clip,
        frame=st.just(frame),
        off=st.sampled_from((False, False, False, False, True)),
        sound=st.sampled_from(SOUNDS),
        sync=st.sampled_from(("locked", "free", "free", "hold")),
        loops=st.sampled_from((1, 1, 1, 2, 3, 0)),
        if_sounding=st.sampled_from(("on_top", "skip", "restart", "queue", "queue")),
        busy=st.sampled_from(("sound", "layer")),
        gap=times,
        ends=st.sampled_from(("ring", "ring", "span")),
        release=times,
        delay=times,
        trim=st.sampled_from(((0.0, None), (0.0, None), (0.1, 0.6), (0.25, None), (5.0, None))),
        offset=times,
        loop_overlap=times,
        speed=st.sampled_from((1.0, 1.0, 0.5, 2.0, 1.3)),
    )


def hushes(frame: int) -> st.SearchStrategy[Hush]:
    return st.builds(
        Hush,
        frame=st.just(frame),
        target=st.sampled_from(("layer", "sound", "all")),
        sound=st.sampled_from(SOUNDS),
        fade=times,
    )


def keyframes(frame: int) -> st.SearchStrategy[object]:
    return st.one_of(
        clips(frame), clips(frame), clips(frame), st.just(Rest(frame=frame)), hushes(frame)
    )


@st.composite
def layers(draw, name: str, length: int) -> Layer:
    frames = draw(st.lists(st.integers(0, length + 1), max_size=6, unique=True))
    return Layer(
        id=name,
        off=draw(st.sampled_from((False, False, False, False, False, True))),
        past_scene=draw(st.booleans()),
        keyframes=tuple(draw(keyframes(frame)) for frame in frames),
    )


@st.composite
def projects(draw) -> Project:
    scenes = []
    for index in range(draw(st.integers(1, 3))):
        length = draw(st.integers(1, 24))
        points = draw(st.lists(st.integers(0, length), max_size=2, unique=True))
        scenes.append(
            Scene(
                id=f"sc{index}",
                length=length,
                press_points=tuple(
                    PressPoint(frame=f, after=draw(st.sampled_from((None, None, 0.0, 0.3))))
                    for f in points
                ),
                layers=tuple(
                    draw(layers(f"c{index}l{i}", length)) for i in range(draw(st.integers(1, 3)))
                ),
            )
        )
    sounds = tuple(
        Sound(
            id=s,
            frames=draw(st.sampled_from((0, 1, 400, 4000, 6615, 12000))),
            rate=r,
            channels=1,
        )
        for s, r in zip(SOUNDS, (8000, 11025, 16000), strict=True)
    )
    fps = draw(st.sampled_from(((10, 1), (24, 1), (12, 1), (30000, 1001))))
    return Project(
        format=FORMAT, version=1, fps=fps, rate=RATE, sounds=sounds, scenes=tuple(scenes)
    )


def draw_times(project):
    """Quick and slow machines, now and then slow in some of the scenes only."""
    either = st.sampled_from((0.0, 0.0, 0.0, 0.05, 0.1, 0.25, (0.01, 0.2), (0.0, 0.0, 0.5), ()))
    scenes = st.sampled_from([scene.id for scene in project.scenes])
    return either | either | st.dictionaries(scenes, either, max_size=3)


@st.composite
def films(draw) -> tuple[Project, Run]:
    project = draw(projects())
    scene = draw(st.sampled_from(project.scenes))
    passes = draw(st.sampled_from((1, 1, 2, 3, 0)))
    limits = (None, None, None, 0.0, 0.5, 1.0, 2.4, 7.0) if passes else (0.7, 3.0, 9.0)
    return project, Run(
        scene=draw(st.sampled_from((None, scene.id))),
        frame=0
        if draw(st.booleans())
        else draw(st.integers(0, min(scene.length, project.scenes[0].length) - 1)),
        only_scene=draw(st.sampled_from((False, False, True))),
        passes=passes,
        chase=draw(st.booleans()),
        press_points=draw(st.sampled_from(("pass", "wait"))),
        presses=tuple(draw(st.lists(st.integers(0, 40000), max_size=3))),
        draw_time=draw(draw_times(project)),
        tail=draw(st.sampled_from(("ring", "cut"))),
        limit=draw(st.sampled_from(limits)),
    )


@st.composite
def plain_films(draw) -> tuple[Project, Run]:
    """Films most layers of which depend on nothing else, and some that do."""
    project, run = draw(films())
    scenes = []
    for scene in project.scenes:
        layers = []
        for layer in scene.layers:
            if draw(st.integers(0, 3)):
                keyframes = tuple(
                    replace(k, sync="free", if_sounding="on_top", ends="ring", loops=k.loops or 2)
                    if isinstance(k, Clip)
                    else Rest(frame=k.frame)
                    for k in layer.keyframes
                )
                made = replace(layer, keyframes=keyframes, past_scene=True)
                layers.append(made)
            else:
                layers.append(layer)
        scenes.append(replace(scene, layers=tuple(layers)))
    if draw(st.integers(0, 3)):
        run = Run(
            passes=run.passes or 2,
            scene=run.scene if run.only_scene else None,
            only_scene=run.only_scene,
            press_points=run.press_points,
            presses=run.presses,
        )
    return replace(project, scenes=tuple(scenes)), run


@st.composite
def queues(draw) -> tuple[Project, Run]:
    """One layer on which nearly every clip has to wait for another."""
    keyframes = []
    for frame in range(draw(st.integers(2, 6))):
        clip = Clip(
            frame=2 * frame,
            sound="s",
            if_sounding=draw(st.sampled_from(("queue", "queue", "queue", "on_top"))),
            gap=draw(st.sampled_from((0.0, 0.1, 0.25, 0.5))),
            loops=draw(st.sampled_from((1, 2))),
        )
        keyframes.append(clip)
    layer = Layer(id="l", keyframes=tuple(keyframes))
    sound = Sound(id="s", frames=4000, rate=RATE, channels=1)
    scene = Scene(id="sc", length=14, layers=(layer,))
    return Project(
        format=FORMAT, version=1, fps=(24, 1), rate=RATE, sounds=(sound,), scenes=(scene,)
    ), Run(passes=draw(st.integers(1, 2)))
