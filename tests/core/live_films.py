"""Random films in which much answers, close together: values, pools, pads, inputs by a seed."""

from random import Random

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
    Watch,
)
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
SINGLE = (*SOUNDS, "pl0", "pl1")
PLACED = (*SOUNDS, "pl0", "pl1", "bl0", "po0", "po1", "po0", "po1")
TIMES = (0.0, 0.0, 0.0, 0.05, 0.1, 0.125, 0.25, 0.5, 0.033, 0.00004)
NUMBERS = (-1.0, 0.0, 0.1, 0.25, 0.3, 0.5, 0.75, 1.0, 2.0, 3.0)
PADS = ("p0", "p1", "p2")


class Films:
    """Makes one film after the other; ``follows`` has levels follow values as well."""

    def __init__(self, seed: int, *, follows: bool = False) -> None:
        self.r, self.follows = Random(seed), follows

    def any(self, *of):
        return self.r.choice(of)

    def one_in(self, n):
        return self.r.randrange(n) == 0

    def clip_fields(self):
        return {
            "sound": self.any(*PLACED),
            "loops": self.any(1, 1, 1, 2, 3, 0),
            "if_sounding": self.any("on_top", "skip", "restart", "restart", "queue", "queue"),
            "busy": self.any("sound", "layer"),
            "gap": self.any(*TIMES),
            "hand_over": self.any(*TIMES),
            "delay": self.any(*TIMES),
            "trim": self.any((0.0, None), (0.0, None), (0.0, None), (0.1, 0.6), (0.25, None)),
            "offset": self.any(*TIMES),
            "loop_overlap": self.any(*TIMES),
            "speed": self.any(1.0, 1.0, 0.5, 2.0, 1.3),
        }

    def keyframe(self, frame):
        kind = self.any("clip", "clip", "clip", "clip", "rest", "hush")
        if kind == "rest":
            return Rest(frame=frame)
        if kind == "hush":
            target = self.any("layer", "sound", "all")
            return Hush(frame=frame, target=target, sound=self.any(*PLACED), fade=self.any(*TIMES))
        return Clip(
            frame=frame,
            off=self.one_in(8),
            sync=self.any("locked", "free", "free", "hold"),
            ends=self.any("ring", "ring", "span"),
            release=self.any(*TIMES),
            **self.clip_fields(),
        )

    def follow(self):
        if not self.follows or self.one_in(2):
            return None
        points = sorted((self.any(*NUMBERS), self.r.random() * 2) for _ in range(self.any(1, 2, 3)))
        return Follows(value=self.any("v0", "v1"), points=tuple(points))

    def layer(self, name, length):
        count = self.r.randint(0, min(7, length + 1))
        frames = sorted(self.r.sample(range(length + 1), count))
        return Layer(
            id=name,
            off=self.one_in(8),
            past_scene=self.any(True, False),
            follows=self.follow(),
            level=self.any(1.0, 0.5) if self.follows else 1.0,
            keyframes=tuple(self.keyframe(frame) for frame in frames),
        )

    def line(self, length):
        points = []
        for _ in range(self.r.randrange(5)):
            place = float(self.any(0, 1, 2, 2.5, 3, 4, 6, 8, length))
            points.append((place, self.any(*NUMBERS), *self.any((), ("smooth",), ("step",))))
        return tuple(sorted(points, key=lambda point: point[0]))

    def scene(self, index):
        length = self.r.randint(1, 16)
        count = self.r.randint(0, min(3, length))
        drawn = {name: line for name in ("v0", "v1") if (line := self.line(length))}
        return Scene(
            id=f"sc{index}",
            length=length,
            press_points=tuple(
                PressPoint(frame=frame, after=self.any(None, None, 0.0, 0.3, 1.2))
                for frame in self.r.sample(range(length), count)
            ),
            value_lines=drawn,
            layers=tuple(self.layer(f"c{index}l{i}", length) for i in range(self.any(1, 2, 3))),
        )

    def range(self):
        low = self.any(*NUMBERS[:-1])
        return low, self.any(*[x for x in (0.1, 0.5, 1.0, 2.0, 3.0, 4.0) if x > low])

    def deed(self):
        kind = self.any("fire", "fire", "fire", "hush", "glide", "go")
        if kind == "fire":
            return Fire(**self.clip_fields())
        if kind == "hush":
            target = self.any("pad", "pad", "sound", "all")
            return HushDeed(target=target, sound=self.any(*PLACED), fade=self.any(*TIMES))
        if kind == "glide":
            to = self.any(None, *NUMBERS)
            return GlideDeed(value=self.any("v0", "v1"), to=to, over=self.any(*TIMES, 1.0))
        return GoOn(when=self.any("now", "over", "over"))

    def pad(self, name):
        watch = Watch(value=self.any("v0", "v1"), enters=self.range()) if self.one_in(3) else None
        return Pad(
            id=name,
            off=self.one_in(10),
            past_scene=self.any(True, True, False),
            at_start=self.one_in(5),
            watch=watch,
            follows=self.follow(),
            level=self.any(1.0, 0.3) if self.follows else 1.0,
            does=tuple(self.deed() for _ in range(self.any(1, 2, 3))),
        )

    def pool(self, name):
        parts = []
        for _ in range(self.any(1, 2, 3, 4)):
            ranged = {"value": self.any("v0", "v1"), "range": self.range()}
            part = ranged if self.one_in(2) else {}
            weight = self.any(1.0, 1.0, 0.5, 3.0, 0.1)
            parts.append(PoolPart(sound=self.any(*SINGLE, "bl0"), weight=weight, **part))
        return Pool(id=name, again=self.any("any", "other"), parts=tuple(parts))

    def playlist(self, name):
        parts = tuple(
            PlaylistPart(
                sound=self.any(*SOUNDS), loops=self.any(1, 1, 2), tail=self.any(*TIMES, 2.0)
            )
            for _ in range(self.any(1, 2, 3))
        )
        return Playlist(id=name, parts=parts)

    def project(self):
        ats = sorted(self.r.sample((-1.0, 0.0, 0.3, 0.5, 1.0, 2.0), self.any(2, 3, 4)))
        parts = tuple(BlendPart(sound=self.any(*SINGLE), at=at) for at in ats)
        curve = self.any("power", "linear")
        return Project(
            format=FORMAT,
            version=2,
            fps=self.any((10, 1), (24, 1), (12, 1), (30000, 1001)),
            rate=RATE,
            seed=self.any(1, 1, 7),
            sounds=tuple(
                Sound(id=name, frames=self.any(1, 400, 1600, 4000, 6615, 12000), rate=rate,
                      channels=1)
                for name, rate in zip(SOUNDS, (8000, 11025, 16000), strict=True)
            ),
            blends=(Blend(id="bl0", value=self.any("v0", "v1"), curve=curve, parts=parts),),
            pools=(self.pool("po0"), self.pool("po1")),
            playlists=(self.playlist("pl0"), self.playlist("pl1")),
            values=(Value(id="v0", start=self.any(None, 0.5)), Value(id="v1", low=-1.0, high=3.0)),
            pads=tuple(self.pad(name) for name in PADS),
            scenes=tuple(self.scene(index) for index in range(self.any(1, 1, 2, 3))),
        )  # fmt: skip

    def moment(self, fps):
        kind = self.any("frame", "frame", "end", "any")
        if kind == "frame":
            frame, (num, den) = self.r.randint(0, 40), fps
            return (2 * frame * RATE * den + num) // (2 * num) + self.any(0, 0, 0, 1)
        if kind == "end":
            return self.any(0, 1, 400, 800, 1600, 2000, 2400, 4000, 4400, 4800, 8000)
        return self.r.randint(0, 30000)

    def inputs(self, fps):
        given = []
        for _ in range(self.r.randrange(9)):
            at = self.moment(fps)
            if self.one_in(3):
                to = self.any(None, *NUMBERS)
                given.append(Input(at=at, value=self.any("v0", "v1"), to=to, over=self.any(*TIMES)))
            else:
                given.append(Input(at=at, pad=self.any(*PADS, *PADS, None)))
        return tuple(given)

    def film(self):
        """A project and a run of it."""
        project = self.project()
        scene = self.any(*project.scenes)
        passes = self.any(1, 1, 2, 3, 0)
        limits = (None, None, None, 0.0, 0.5, 1.0, 2.4, 7.0) if passes else (0.7, 3.0, 9.0)
        draw = self.any(0.0, 0.0, 0.0, 0.05, 0.25, (0.01, 0.2), {project.scenes[0].id: 0.2})
        run = Run(
            scene=self.any(None, scene.id),
            frame=self.any(0, self.r.randrange(min(scene.length, project.scenes[0].length))),
            only_scene=self.one_in(3),
            passes=passes,
            chase=self.any(True, False),
            press_points=self.any("pass", "wait", "wait"),
            presses=tuple(self.moment(project.fps) for _ in range(self.r.randrange(3))),
            inputs=self.inputs(project.fps),
            seed=self.any(None, None, 3),
            draw_time=draw,
            tail=self.any("ring", "ring", "cut"),
            limit=self.any(*limits),
        )
        return project, run


def live_film(seed: int, *, follows: bool = False) -> tuple[Project, Run]:
    """The random film of that seed, with a run of it."""
    return Films(seed, follows=follows).film()
