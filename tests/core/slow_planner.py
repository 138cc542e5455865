"""A second planner, slow and plain, written from the rules alone to check the real one.

It walks through every frame, keeps every voice in one list, works each moment out anew from that
list, and shares nothing with the real planner but the project's types.
"""

from decimal import Decimal
from fractions import Fraction
from itertools import pairwise
from math import floor

from cicada.core.model import Clip, Hush, Project, Run

FAR = 10**15


def up(value: Fraction) -> int:
    return floor(value + Fraction(1, 2))


def samples(seconds: float, rate: int) -> int:
    return up(Fraction(Decimal(repr(seconds))) * rate)


class Slow:
    def __init__(self, project: Project, run: Run, *, longer: bool = False) -> None:
        self.project, self.run, self.rate = project, run, project.rate
        self.longer = longer
        self.voices: list[dict] = []
        self.queues: dict[str, list[dict]] = {}
        self.events: list[dict] = []
        self.picture: list[dict] = []
        # Of every frame: when it is entered, when the picture moves, and when its own time is up.
        self.passed: list[tuple[int, int, int]] = []
        self.now = 0
        self.checked = 0
        self.origin = None
        self.drawn = 0
        self.stays = 0
        self.limit = FAR
        self.last = (project.scenes[0].id, 0)

    # time

    def S(self, f):
        num, den = self.project.fps
        return up(Fraction(f * self.rate * den, num))

    def D(self, f):
        return self.S(f + 1) - self.S(f)

    def sec(self, s):
        return samples(s, self.rate)

    # clips

    def size(self, clip):
        sound = next(s for s in self.project.sounds if s.id == clip.sound)
        n = up(Fraction(sound.frames * self.rate, sound.rate))
        a = min(self.sec(clip.trim[0]), n)
        b = n if clip.trim[1] is None else min(self.sec(clip.trim[1]), n)
        b = max(a, b)
        length = up((b - a) / Fraction(Decimal(repr(clip.speed))))
        v = min(self.sec(clip.loop_overlap), length // 2)
        o = min(self.sec(clip.offset), length)
        if length == 0:
            return 0
        if clip.loops == 0:
            return None
        body = clip.loops * (length - v) + v - o
        return self.sec(clip.delay) + body if body else 0

    def standing(self, layer, scene):
        if layer.off:
            return []
        return sorted(
            (k for k in layer.keyframes if not k.off and k.frame < scene.length),
            key=lambda k: k.frame,
        )

    # voices

    def end_of(self, v):
        """When a voice is over as things stand; FAR if nothing ends it."""
        ends = [v["end"]]
        if v["sync"] == "locked":
            if v["from"] is not None and v["total"] is not None:
                ends.append(v["from"] + v["total"] - v["pos"])
            ends.append(v["hush"])
        return min(FAR if e is None else e for e in ends)

    def sounding(self, v):
        return not v["dead"] and v["start"] <= self.now < self.end_of(v)

    def freed(self, layer):
        """The latest end of the layer's free and hold voices; FAR behind an endless one."""
        return max(
            [0]
            + [self.end_of(v) for v in self.voices if v["layer"] == layer and v["sync"] != "locked"]
        )

    def cut(self, v, at, why):
        if at < self.end_of(v):
            v["end"], v["ended"] = at, why

    def fade(self, v, length, why):
        v["let_go"] = True
        at = self.now + length
        if v["sync"] == "locked":
            if v["hush"] is None or at < v["hush"]:
                v["hush"] = at
        else:
            self.cut(v, at, why)

    def close_piece(self, v, at):
        if v["from"] is not None and at > v["from"]:
            v["pieces"].append([v["from"], at, v["pos"]])
            v["pos"] += at - v["from"]
        v["from"] = None

    def finish_locked(self, v, why):
        finish = FAR
        if v["from"] is not None and v["total"] is not None:
            finish = v["from"] + v["total"] - v["pos"]
        hush = FAR if v["hush"] is None else v["hush"]
        at, _, reason = min((finish, 0, "finished"), (hush, 1, "hush"), (self.now, 2, why))
        self.close_piece(v, at)
        v["dead"], v["ended"] = True, reason

    def say(self, kind, key, **more):
        self.events.append({"at": self.now, "kind": kind, **key, **more})

    def start(self, clip, key, why, at):
        total = self.size(clip)
        v = {
            **key, "sound": clip.sound, "sync": clip.sync, "why": why, "start": at, "total": total,
            "end": None if total is None else at + total, "ended": "finished", "let_go": False,
            "dead": False, "pieces": [], "pos": 0, "from": None, "hush": None, "clip": clip,
        }  # fmt: skip
        if clip.sync == "locked":
            v["end"] = None
        self.voices.append(v)
        return v

    # queues

    def drain(self, until, *, inclusive=True):
        while True:
            heads = []
            for layer, queue in self.queues.items():
                if queue:
                    due = self.freed(layer)
                    if due < FAR:
                        due = max(due + self.sec(queue[0]["clip"].gap), self.checked)
                        heads.append((due, layer))
            if not heads:
                break
            due, layer = min(heads)
            if due >= self.limit or due > until or (due == until and not inclusive):
                break
            self.checked = due
            w = self.queues[layer].pop(0)
            w["voice"] = self.start(w["clip"], w["key"], "queued", due)
        self.checked = max(self.checked, until) if until < FAR else self.checked

    def drop(self, w):
        self.queues[w["key"]["layer"]].remove(w)
        self.say("unqueued", w["key"])

    # frames

    def leave(self, scene, layer, clip, following):
        key = {"scene": scene.id, "layer": layer.id, "frame": clip.frame}
        hit = isinstance(following, Hush) and self.hits(following, clip, same=True)
        if clip.sync == "locked":
            for v in self.voices:
                mine = v["layer"] == layer.id and v["frame"] == clip.frame and not v["dead"]
                if mine and not hit:
                    self.finish_locked(v, "span")
        elif clip.ends == "span":
            for w in list(self.queues.get(layer.id, [])):
                if w["key"] == key:
                    self.drop(w)
            for v in self.voices:
                if v["layer"] == layer.id and v["frame"] == clip.frame and self.sounding(v):
                    self.fade(v, self.sec(clip.release), "span")

    def hits(self, hush, clip, same):
        if hush.target == "layer":
            return same
        return hush.target == "all" or hush.sound == clip.sound

    def hush(self, layer, hush):
        for name, queue in self.queues.items():
            for w in list(queue):
                if self.hits(hush, w["clip"], same=name == layer.id):
                    self.drop(w)
        for v in self.voices:
            if self.sounding(v) and self.hits(hush, v["clip"], same=v["layer"] == layer.id):
                self.fade(v, self.sec(hush.fade), "hush")

    def fire(self, scene, layer, clip, holds):
        total = self.size(clip)
        if total == 0:
            return
        key = {"scene": scene.id, "layer": layer.id, "frame": clip.frame}
        if clip.sync == "locked":
            self.start(clip, key, "fired", self.now)
            return
        it = [
            v for v in self.voices
            if self.sounding(v)
            and (v["sound"] == clip.sound if clip.busy == "sound" else v["layer"] == layer.id)
        ]  # fmt: skip
        queue = self.queues.setdefault(layer.id, [])
        if clip.if_sounding == "skip" and any(not v["let_go"] for v in it):
            self.say("skipped", key)
            return
        if clip.if_sounding == "restart":
            for v in it:
                if v["sync"] != "locked":
                    self.cut(v, self.now, "restarted")
        if clip.if_sounding == "queue":
            if any(w["key"] == key for w in queue):
                self.say("skipped", key)
                return
            full = any(
                v["layer"] == layer.id and v["sync"] != "locked" and self.sounding(v)
                for v in self.voices
            )
            if full or queue:
                self.say("queued", key)
                w = {"clip": clip, "key": key, "voice": None}
                queue.append(w)
                if clip.sync == "hold":
                    holds.append(w) if total is not None else self.say("endless-hold", key)
                return
        v = self.start(clip, key, "fired", self.now)
        if clip.sync == "hold":
            if total is None:
                self.say("endless-hold", key)
            else:
                holds.append({"voice": v})

    def turn(self, w):
        """When a waiting hold's turn will be over, by playing its queue through."""
        at = self.freed(w["key"]["layer"])
        for ahead in self.queues[w["key"]["layer"]]:
            total = self.size(ahead["clip"])
            if at >= FAR or total is None:
                return None
            at = max(at + self.sec(ahead["clip"].gap), self.now) + total
            if ahead is w:
                break
        return at

    def stand(self, kind, scene, frame, until):
        if self.now >= self.limit or (kind == "held" and until == self.now):
            return
        shown = None if until is None else min(until, self.limit)
        self.say(kind, {"scene": scene.id, "frame": frame}, until=shown)
        if until is None:
            return
        if until > self.now:
            for v in self.voices:
                if v["sync"] == "locked" and not v["dead"]:
                    if self.end_of(v) <= self.now:
                        self.finish_locked(v, "run")
                    else:
                        self.close_piece(v, self.now)
        self.now = until
        for v in self.voices:
            if (
                v["sync"] == "locked"
                and not v["dead"]
                and v["hush"] is not None
                and v["hush"] <= until
            ):
                self.finish_locked(v, "run")

    def enter(self, scene, frame):
        """One frame, from being entered to being over. True if the run stands there for good."""
        self.last = (scene.id, frame)
        entered = self.now
        rows = [(layer, self.standing(layer, scene)) for layer in scene.layers]
        self.drain(self.now, inclusive=False)
        for layer, ks in rows:
            for before, k in pairwise(ks):
                if k.frame == frame and isinstance(before, Clip) and self.size(before) != 0:
                    self.leave(scene, layer, before, k)
        self.drain(self.now)
        for layer, ks in rows:
            for k in ks:
                if k.frame == frame and isinstance(k, Hush):
                    self.hush(layer, k)
        self.drain(self.now)
        holds: list[dict] = []
        for layer, ks in rows:
            for k in ks:
                if k.frame == frame and isinstance(k, Clip):
                    self.fire(scene, layer, k, holds)
        self.drain(self.now)
        real = self.origin is not None
        draw = self.run.draw_time
        if isinstance(draw, dict):
            draw = draw.get(scene.id, 0)
        if not isinstance(draw, tuple):
            draw = (draw,)
        shown = not real or self.drawn <= self.now
        if shown and real:
            self.picture.append({"at": self.now, "scene": scene.id, "frame": frame})
            self.drawn = self.now + (self.sec(draw[frame % len(draw)]) if draw else 0)
        until = self.now
        for hold in holds:
            over = self.end_of(hold["voice"]) if hold["voice"] else self.turn(hold)
            if over is None:
                self.say("blocked-hold", hold["key"])
            else:
                until = max(until, over)
        self.stand("held", scene, frame, until)
        for p in scene.press_points:
            if p.frame == frame and real and self.run.press_points == "wait":
                ends = [self.origin + x for x in self.run.presses if self.origin + x > self.now]
                if p.after is not None:
                    ends.append(self.now + self.sec(p.after))
                if not ends and (self.now < self.limit or self.untouched()):
                    self.stand("waiting", scene, frame, None)
                    return True
                if ends:
                    self.stand("waiting", scene, frame, min(ends))
        if self.now >= self.limit:
            return False
        leads = False
        for v in self.voices:
            if v["sync"] == "locked" and not v["dead"]:
                if v["from"] is None:
                    v["from"] = self.now
                if self.end_of(v) <= self.now:
                    self.finish_locked(v, "run")
                else:
                    leads = True
        self.passed.append((entered, self.now, self.now + self.D(frame)))
        self.now += self.D(frame)
        if shown and real and not leads:
            self.now = max(self.now, self.drawn)
        return False

    def end_scene(self, scene):
        self.drain(self.now, inclusive=False)
        for layer in scene.layers:
            ks = self.standing(layer, scene)
            if ks and isinstance(ks[-1], Clip) and self.size(ks[-1]) != 0:
                self.leave(scene, layer, ks[-1], None)
        for v in self.voices:
            if v["sync"] == "locked" and not v["dead"]:
                self.finish_locked(v, "span")
        for layer in scene.layers:
            if not layer.past_scene:
                for w in list(self.queues.get(layer.id, [])):
                    self.drop(w)
                for v in self.voices:
                    if v["layer"] == layer.id and v["sync"] != "locked":
                        self.cut(v, self.now, "scene")
        self.drain(self.now)

    def play(self):
        run, scenes = self.run, self.project.scenes
        ids = [s.id for s in scenes]
        first = ids.index(run.scene) if run.scene else 0
        number = 0
        while run.passes == 0 or number < run.passes:
            for index, scene in enumerate(scenes):
                if run.only_scene and index != first:
                    continue
                frame = 0
                if number == 0 and not run.chase:
                    if index < first:
                        continue
                    if index == first:
                        frame = run.frame
                        self.begin()
                        self.join(scene, frame)
                self.stays += 1
                while frame < scene.length:
                    if (
                        number == 0
                        and index == first
                        and frame == run.frame
                        and self.origin is None
                    ):
                        self.begin()
                    if self.now > self.limit or (self.now == self.limit and not self.untouched()):
                        return self.over(limited=True)
                    if self.enter(scene, frame):
                        return self.over(limited=False)
                    if self.now > self.limit:
                        return self.over(limited=True)
                    frame += 1
                if self.now > self.limit or (self.now == self.limit and not self.untouched()):
                    return self.over(limited=True)
                self.end_scene(scene)
            number += 1
        return self.over(limited=False)

    def untouched(self):
        """Whether the run, left alone for longer, is over by the limit: then it has none."""
        if self.now > self.limit or self.longer:
            return False
        fields = {f: getattr(self.run, f) for f in self.run.__struct_fields__}
        seconds = (self.limit - self.origin) / self.rate + 60
        again = Slow(self.project, Run(**{**fields, "limit": seconds}), longer=True).play()
        limited = any(e["kind"] == "limited" for e in again["events"])
        if limited or again["length"] > self.limit - self.origin:
            return False
        self.limit = FAR
        return True

    def begin(self):
        self.origin = self.drawn = self.now
        self.last = (self.run.scene or self.project.scenes[0].id, self.run.frame)
        self.events, self.picture = [], []
        limit = self.run.limit
        if limit is None and self.run.passes == 0:
            limit = 3600.0
        if limit is not None:
            self.limit = self.now + self.sec(limit)

    def join(self, scene, frame):
        for layer in scene.layers:
            ks = self.standing(layer, scene)
            for k, following in zip(ks, [*ks[1:], None], strict=False):
                end = following.frame if following else scene.length
                if isinstance(k, Clip) and k.sync == "locked" and k.frame < frame < end:
                    total, pos = self.size(k), self.S(frame) - self.S(k.frame)
                    if total is None or pos < total:
                        key = {"scene": scene.id, "layer": layer.id, "frame": k.frame}
                        v = self.start(k, key, "joined", self.now)
                        v["pos"] = pos

    def over(self, limited):
        if limited:
            self.now = self.limit
        end = self.now
        self.drain(end, inclusive=not limited)
        for v in self.voices:
            if v["sync"] == "locked" and not v["dead"]:
                self.finish_locked(v, "run")
        if limited or self.run.tail == "cut":
            for v in self.voices:
                if v["sync"] != "locked":
                    self.cut(v, end, "run")
        else:
            for layer, queue in self.queues.items():
                if self.freed(layer) >= FAR:
                    queue.clear()
                for i, w in enumerate(queue):
                    if self.size(w["clip"]) is None:
                        del queue[i:]
                        break
            for v in self.voices:
                if v["sync"] != "locked" and v["end"] is None:
                    self.cut(v, end, "run")
            self.drain(FAR)
            if any(self.queues.values()) and self.limit < FAR:
                limited = True
            for v in self.voices:
                if v["sync"] != "locked" and v["end"] > self.limit:
                    limited = True
                    self.cut(v, self.limit, "run")
        if limited:
            self.now = self.limit
            self.say("limited", {"scene": self.last[0], "frame": self.last[1]})
        return self.written(end)

    def written(self, end):
        o = self.origin
        out = []
        for v in self.voices:
            pieces = v["pieces"] if v["sync"] == "locked" else [[v["start"], v["end"], 0]]
            kept = [
                [max(a, o) - o, b - o, c + max(0, o - a)] for a, b, c in pieces if b > max(a, o)
            ]
            if kept:
                began = pieces[0][0]
                why = "joined" if began < o else v["why"]
                names = ("scene", "layer", "frame", "sound", "sync", "ended")
                out.append({**{n: v[n] for n in names}, "why": why, "pieces": kept})
        events = []
        for e in self.events:
            moved = {**e, "at": e["at"] - o}
            if e.get("until") is not None:
                moved["until"] -= o
            events.append(moved)
        return {
            "rate": self.rate,
            "fps": list(self.project.fps),
            "end": end - o,
            "length": max([end - o] + [v["pieces"][-1][1] for v in out]),
            "picture": [{**p, "at": p["at"] - o} for p in self.picture],
            "voices": out,
            "events": events,
        }


def slow_plan(project: Project, run: Run) -> dict:
    return Slow(project, run).play()


def slow_drift(project: Project, run: Run) -> list[dict]:
    """Section 6's drift of every free and hold voice, from the words alone."""
    slow = Slow(project, run)
    made, o = slow.play(), slow.origin

    def late(moment):
        """The run time up to a moment, less standstills, less how far the picture has come."""
        moment += o
        stood = sum(max(0, min(moment, moves) - entered) for entered, moves, _ in slow.passed)
        moved = sum(max(0, min(moment, up) - moves) for _, moves, up in slow.passed)
        return moment - stood - moved

    lateness = {p["at"]: late(p["at"]) for p in made["picture"]}
    found = []
    for voice in made["voices"]:
        start, end = voice["pieces"][0][0], voice["pieces"][-1][1]
        began = late(start)
        ahead = [lateness[p["at"]] - began for p in made["picture"] if start <= p["at"] < end]
        if voice["sync"] != "locked" and ahead:
            where = {name: voice[name] for name in ("scene", "layer", "frame")}
            found.append({**where, "start": start, "largest": max(ahead), "last": ahead[-1]})
    return found
