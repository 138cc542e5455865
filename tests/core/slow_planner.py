"""A second planner, slow and plain, written from the rules alone to check the real one.

It walks through every frame, keeps every voice in one list, works each moment out anew from that
list, and shares nothing with the real planner but the project's types.
"""

from decimal import Decimal
from fractions import Fraction
from hashlib import blake2b
from itertools import pairwise
from math import floor

from cicada.core.answers import Fire, GlideDeed, HushDeed
from cicada.core.model import Clip, Hush, Project, Run, clip_of

FAR = 10**15


def up(value: Fraction) -> int:
    return floor(value + Fraction(1, 2))


def text(number) -> Fraction:
    return Fraction(Decimal(repr(float(number))))


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
        # Where the picture is: scene, frame, and since when it moves.
        self.spot = (project.scenes[0], 0, None)
        self.inputs: list = []
        self.glides: list[dict] = []
        self.draws: dict[str, int] = {}
        self.drawn_last: dict[str, int] = {}
        self.were_inside: set[str] = set()
        self.on_the_way: set[str] = set()
        self.go = False

    # time

    def S(self, f):
        num, den = self.project.fps
        return up(Fraction(f * self.rate * den, num))

    def D(self, f):
        return self.S(f + 1) - self.S(f)

    def sec(self, s):
        return samples(s, self.rate)

    # clips

    def group(self, name, wanted):
        return next((x for x in getattr(self.project, name) if x.id == wanted), None)

    def N(self, thing):
        """The length of a sound, a playlist or a blend."""
        sound = self.group("sounds", thing)
        if sound is not None:
            return up(Fraction(sound.frames * self.rate, sound.rate))
        playlist = self.group("playlists", thing)
        if playlist is None:
            return min(self.N(part.sound) for part in self.group("blends", thing).parts)
        total = ring = 0
        for part in playlist.parts:
            n = self.N(part.sound)
            ring = min(self.sec(part.tail), n // 2)
            total += part.loops * (n - ring)
        return total + ring

    def size(self, clip, plays=None):
        n = self.N(plays or clip.sound)
        a = min(self.sec(clip.trim[0]), n)
        b = n if clip.trim[1] is None else min(self.sec(clip.trim[1]), n)
        b = max(a, b)
        length = up((b - a) / text(clip.speed))
        v = min(self.sec(clip.loop_overlap), length // 2)
        o = min(self.sec(clip.offset), length)
        if length == 0:
            return 0
        if clip.loops == 0:
            return None
        body = clip.loops * (length - v) + v - o
        return self.sec(clip.delay) + body if body else 0

    def is_nothing(self, clip):
        """Whether it is as if the clip were not there, but for its span."""
        return self.group("pools", clip.sound) is None and self.size(clip) == 0

    # values, and what is drawn by them

    def reading(self, name):
        scene, frame, since = self.spot
        line = [(text(p[0]), text(p[1]), (*p, "")[2]) for p in scene.value_lines.get(name, ())]
        value = self.group("values", name)
        if not line:
            return text(value.low if value.start is None else value.start)
        at = Fraction(frame)
        if since is not None:
            at += min(Fraction(1), Fraction(self.now - since, self.D(frame)))
        if at < line[0][0]:
            return line[0][1]
        found = line[-1][1]
        for (x0, y0, shape), (x1, y1, _) in pairwise(line):
            if x0 <= at < x1:
                x = (at - x0) / (x1 - x0)
                x = {"step": 0, "smooth": x * x * (3 - 2 * x)}.get(shape, x)
                found = y0 + x * (y1 - y0)
        return found

    def value(self, name):
        made = self.group("values", name)
        given = [g for g in self.glides if g["value"] == name]
        found = self.reading(name)
        if given:
            last = given[-1]
            goal = found if last["to"] is None else text(last["to"])
            x = Fraction(1)
            if last["over"]:
                x = min(x, Fraction(self.now - last["at"], last["over"]))
            found = (1 - x) * last["u"] + x * goal
        return max(text(made.low), min(text(made.high), found))

    def give(self, name, to, over):
        u = Fraction(up(self.value(name) * 2**32), 2**32)
        self.glides.append(
            {"at": self.now, "value": name, "u": u, "to": to, "over": self.sec(over)}
        )

    def inside(self, name, pair):
        low, high, v = text(pair[0]), text(pair[1]), self.value(name)
        return low <= v < high or (v == high == text(self.group("values", name).high))

    def open_parts(self, clip):
        pool = self.group("pools", clip.sound)
        return [
            i for i, part in enumerate(pool.parts)
            if self.size(clip, part.sound) != 0
            and (part.value is None or self.inside(part.value, part.range))
        ]  # fmt: skip

    def pick(self, clip, who):
        """The sound of the part that is drawn; None if the clip places no pool."""
        pool = self.group("pools", clip.sound)
        if pool is None:
            return None
        parts = self.open_parts(clip)
        last = self.drawn_last.get(pool.id)
        if pool.again == "other" and len(parts) > 1 and last in parts:
            parts.remove(last)
        seed = self.project.seed if self.run.seed is None else self.run.seed
        n = self.draws.get(who, 0)
        self.draws[who] = n + 1
        digest = blake2b(f"{seed}/{pool.id}/{who}/{n}".encode(), digest_size=8).hexdigest()
        u, run = Fraction(int(digest, 16), 2**64), Fraction(0)
        whole = sum(text(pool.parts[i].weight) for i in parts)
        for i in parts:
            run += text(pool.parts[i].weight) / whole
            if run > u:
                break
        self.drawn_last[pool.id] = i
        return pool.parts[i].sound

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
                if length:
                    v["fades"].append((self.now, at))
        else:
            forward = at < self.end_of(v)
            self.cut(v, at, why)
            if forward and length:
                v["fades"].append((self.now, at))

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

    def start(self, clip, key, why, at, picked=None):
        total = self.size(clip, picked)
        v = {
            **key, "sound": clip.sound, "sync": clip.sync, "why": why, "start": at, "total": total,
            "end": None if total is None else at + total, "ended": "finished", "let_go": False,
            "dead": False, "pieces": [], "pos": 0, "from": None, "hush": None, "clip": clip,
            "picked": picked, "fades": [], "rise": None,
        }  # fmt: skip
        if clip.sync == "locked":
            v["end"] = None
        self.voices.append(v)
        return v

    # queues

    def drain(self, until, *, inclusive=True):
        while True:
            heads = []
            for layer, queue in sorted(self.queues.items(), key=lambda q: self.place(q[0])):
                if queue:
                    due = self.freed(layer)
                    if due < FAR:
                        due = max(due + self.sec(queue[0]["clip"].gap), self.checked)
                        heads.append((due, self.place(layer), layer))
            if not heads:
                break
            due, _, layer = min(heads)
            if due >= self.limit or due > until or (due == until and not inclusive):
                break
            self.checked = due
            w = self.queues[layer].pop(0)
            w["voice"] = self.start(w["clip"], w["key"], "queued", due, w["picked"])
        self.checked = max(self.checked, until) if until < FAR else self.checked

    def place(self, layer):
        """Layers as listed, then pads."""
        names = [x.id for scene in self.project.scenes for x in scene.layers]
        return (names + [pad.id for pad in self.project.pads]).index(layer)

    def drop(self, w):
        self.queues[w["key"]["layer"]].remove(w)
        self.say("unqueued", w["key"])

    # frames

    def leave(self, scene, layer, clip, following):
        key = {"scene": scene.id, "layer": layer.id, "frame": clip.frame}
        if clip.sync == "locked":
            for v in self.voices:
                mine = v["layer"] == layer.id and v["frame"] == clip.frame and not v["dead"]
                hit = isinstance(following, Hush) and self.hits(following, v, same=True)
                if mine and not hit:
                    self.finish_locked(v, "span")
        elif clip.ends == "span":
            for w in list(self.queues.get(layer.id, [])):
                if w["key"] == key:
                    self.drop(w)
            for v in self.voices:
                if v["layer"] == layer.id and v["frame"] == clip.frame and self.sounding(v):
                    self.fade(v, self.sec(clip.release), "span")

    def hits(self, hush, it, same):
        if hush.target in ("layer", "pad"):
            return same
        return hush.target == "all" or hush.sound in (it["clip"].sound, it["picked"])

    def hush(self, layer, hush):
        for name in sorted(self.queues, key=self.place):
            for w in list(self.queues[name]):
                if self.hits(hush, w, same=name == layer.id):
                    self.drop(w)
        for v in self.voices:
            if self.sounding(v) and self.hits(hush, v, same=v["layer"] == layer.id):
                self.fade(v, self.sec(hush.fade), "hush")

    def fire(self, key, who, clip, holds):
        if self.is_nothing(clip):
            return
        pool, layer = self.group("pools", clip.sound), key["layer"]
        if pool is not None and not self.open_parts(clip):
            self.say("nothing-open", key)
            return
        if clip.sync == "locked":
            self.start(clip, key, "fired", self.now, self.pick(clip, who))
            return
        it = [
            v for v in self.voices
            if self.sounding(v)
            and (v["sound"] == clip.sound if clip.busy == "sound" else v["layer"] == layer)
        ]  # fmt: skip
        queue = self.queues.setdefault(layer, [])
        if clip.if_sounding == "skip" and any(not v["let_go"] for v in it):
            self.say("skipped", key)
            return
        anything, over = False, self.sec(clip.hand_over)
        if clip.if_sounding == "restart":
            for v in it:
                if v["sync"] != "locked":
                    anything = True
                    if over:
                        self.fade(v, over, "restarted")
                    else:
                        self.cut(v, self.now, "restarted")
        if clip.if_sounding == "queue":
            if any(w["who"] == who for w in queue):
                self.say("skipped", key)
                return
            full = any(
                v["layer"] == layer and v["sync"] != "locked" and self.sounding(v)
                for v in self.voices
            )
            if full or queue:
                self.say("queued", key)
                picked = self.pick(clip, who)
                w = {"clip": clip, "key": key, "voice": None, "picked": picked, "who": who}
                queue.append(w)
                if clip.sync == "hold":
                    endless = self.size(clip, picked) is None
                    self.say("endless-hold", key) if endless else holds.append(w)
                return
        v = self.start(clip, key, "fired", self.now, self.pick(clip, who))
        if anything and over:
            first = self.now + self.sec(clip.delay)
            v["rise"] = (first, first + over)
        if clip.sync == "hold":
            if v["total"] is None:
                self.say("endless-hold", key)
            else:
                holds.append({"voice": v})

    # what the audience does

    def act(self, pad):
        scene, frame, _ = self.spot
        key = {"scene": scene.id, "layer": pad.id, "frame": frame}
        for i, deed in enumerate(pad.does):
            if isinstance(deed, Fire):
                self.fire(key, f"{pad.id}/{i}", clip_of(deed, frame), [])
            elif isinstance(deed, HushDeed):
                self.hush(pad, deed)
            elif isinstance(deed, GlideDeed):
                self.give(deed.value, deed.to, deed.over)
            elif deed.when == "over" and self.busy_pad(pad.id):
                self.on_the_way.add(pad.id)
            else:
                self.go = True

    def busy_pad(self, pad):
        """Whether something of a pad sounds or waits, what never ends left aside."""
        mine = [v for v in self.voices if v["layer"] == pad]
        if any(self.sounding(v) and self.end_of(v) < FAR for v in mine):
            return True
        queue = self.queues.get(pad, [])
        return bool(
            queue and self.freed(pad) < FAR and self.size(queue[0]["clip"], queue[0]["picked"])
        )

    def look(self):
        due = []
        for pad in self.project.pads:
            if pad.off or pad.watch is None:
                continue
            now = self.inside(pad.watch.value, pad.watch.enters)
            if now and pad.id not in self.were_inside:
                due.append(pad)
            (self.were_inside.add if now else self.were_inside.discard)(pad.id)
        for pad in due:
            self.act(pad)

    def answer(self):
        """The inputs of this moment."""
        while self.inputs and self.inputs[0][0] == self.now:
            given = self.inputs.pop(0)[1]
            if given.pad is not None:
                self.act(self.group("pads", given.pad))
            elif given.value is not None:
                self.give(given.value, given.to, given.over)
            self.look()

    def judge(self):
        """All of this moment has happened; whether a pad holds the way no more."""
        gone = {pad for pad in self.on_the_way if not self.busy_pad(pad)}
        self.on_the_way -= gone
        return bool(gone)

    def ahead(self):
        """When something of those that hold the way ends or starts, and the next input."""
        found = [at for at, _ in self.inputs[:1]]
        for pad in self.on_the_way:
            found += [self.end_of(v) for v in self.voices if v["layer"] == pad]
            for w in self.queues.get(pad, [])[:1]:
                found.append(self.freed(pad) + self.sec(w["clip"].gap))
        return [at for at in found if self.now < at < FAR]

    def go_through(self, until):
        """The moments between now and then."""
        while True:
            moments = [at for at in self.ahead() if at < min(until, self.limit)]
            if not moments:
                break
            self.now = min(moments)
            self.drain(self.now, inclusive=False)
            self.answer()
            self.drain(self.now)
            self.judge()

    def turn(self, w):
        """When a waiting hold's turn will be over, by playing its queue through."""
        at = self.freed(w["key"]["layer"])
        for ahead in self.queues[w["key"]["layer"]]:
            total = self.size(ahead["clip"], ahead["picked"])
            if at >= FAR or total is None:
                return None
            at = max(at + self.sec(ahead["clip"].gap), self.now) + total
            if ahead is w:
                break
        return at

    def held_until(self, holds):
        ends = [self.now]
        for hold in holds:
            if hold["voice"]:
                ends.append(self.end_of(hold["voice"]))
            elif hold in self.queues[hold["key"]["layer"]]:
                ends.append(self.turn(hold))
        return max(ends)

    def stand(self, kind, scene, frame, entered, until):
        """Stand still until ``until()`` (None: as long as need be). True if it is for good."""
        began, over = self.now, until()
        if began >= self.limit or (kind == "held" and over == began):
            return False
        self.say(kind, {"scene": scene.id, "frame": frame}, until=None)
        event = self.events[-1]
        watched = any(p.watch is not None and not p.off for p in self.project.pads)
        if over is None or over > began:
            for v in self.voices:
                if v["sync"] == "locked" and not v["dead"]:
                    if self.end_of(v) <= began:
                        self.finish_locked(v, "run")
                    else:
                        self.close_piece(v, began)
        while over is None or over > self.now:
            moments = self.ahead() + ([] if over is None else [over])
            if not moments:
                return True
            if watched:
                k = (self.now - entered) // self.D(frame) + 1
                moments.append(entered + k * self.D(frame))
            moment = min(moments)
            if moment >= self.limit:
                self.now = self.limit if over is None else max(over, self.limit)
                break
            self.now = moment
            self.drain(moment, inclusive=False)
            self.answer()
            if watched and (moment - entered) % self.D(frame) == 0:
                self.look()
            self.drain(moment)
            let_go = self.judge()
            over = until()
            if kind == "waiting" and (let_go or self.go):
                over = self.now
        event["until"] = min(self.now, self.limit)
        for v in self.voices:
            if (
                v["sync"] == "locked"
                and not v["dead"]
                and v["hush"] is not None
                and v["hush"] <= self.now
            ):
                self.finish_locked(v, "run")
        return False

    def wait(self, scene, frame, entered, ends):
        """At a press point that lets it go on at the first of ``ends``. True if for good."""
        self.judge()
        self.go = False
        to_come = bool(ends or self.on_the_way or self.inputs)
        if not to_come and self.now >= self.limit and not self.untouched():
            return False
        if self.now == self.limit and not to_come:
            self.say("waiting", {"scene": scene.id, "frame": frame}, until=None)
            return True
        until = min(ends) if ends else None
        return self.stand("waiting", scene, frame, entered, lambda: until)

    def enter(self, scene, frame):
        """One frame, from being entered to being over. True if the run stands there for good."""
        self.last = (scene.id, frame)
        entered, self.spot = self.now, (scene, frame, None)
        rows = [(layer, self.standing(layer, scene)) for layer in scene.layers]
        self.drain(self.now, inclusive=False)
        self.answer()
        self.look()
        for layer, ks in rows:
            for before, k in pairwise(ks):
                if k.frame == frame and isinstance(before, Clip) and not self.is_nothing(before):
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
                    key = {"scene": scene.id, "layer": layer.id, "frame": frame}
                    self.fire(key, f"{layer.id}/{frame}", k, holds)
        self.drain(self.now)
        self.judge()
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
        kept = []
        for hold in holds:
            if not hold["voice"] and self.turn(hold) is None:
                self.say("blocked-hold", hold["key"])
            else:
                kept.append(hold)
        self.stand("held", scene, frame, entered, lambda: self.held_until(kept))
        for p in scene.press_points:
            if p.frame == frame and real and self.run.press_points == "wait":
                ends = [self.origin + x for x in self.run.presses if self.origin + x > self.now]
                if p.after is not None:
                    ends.append(self.now + self.sec(p.after))
                if self.wait(scene, frame, entered, ends):
                    return True
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
        over = self.now + self.D(frame)
        if shown and real and not leads:
            over = max(over, self.drawn)
        self.spot = (scene, frame, self.now)
        self.go_through(over)
        self.now = over
        return False

    def end_scene(self, scene):
        self.drain(self.now, inclusive=False)
        for layer in scene.layers:
            ks = self.standing(layer, scene)
            if ks and isinstance(ks[-1], Clip) and not self.is_nothing(ks[-1]):
                self.leave(scene, layer, ks[-1], None)
        for v in self.voices:
            if v["sync"] == "locked" and not v["dead"]:
                self.finish_locked(v, "span")
        for layer in (*scene.layers, *self.project.pads):
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
                        self.spot = (scene, frame, None)
                        self.begin()
                        self.at_start()
                        self.join(scene, frame)
                if self.stays == 0 and run.chase:
                    self.spot = (scene, 0, None)
                    if index == first and run.frame == 0:
                        self.begin()
                    self.at_start()
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

    def at_start(self):
        for pad in self.project.pads:
            if pad.at_start and not pad.off:
                self.act(pad)

    def begin(self):
        self.origin = self.drawn = self.now
        self.last = (self.run.scene or self.project.scenes[0].id, self.run.frame)
        self.events, self.picture = [], []
        limit = self.run.limit
        if limit is None and self.run.passes == 0:
            limit = 3600.0
        if limit is not None:
            self.limit = self.now + self.sec(limit)
        off = {pad.id for pad in self.project.pads if pad.off}
        given = [(self.now + x.at, x) for x in self.run.inputs if x.pad not in off]
        self.inputs = [x for x in sorted(given, key=lambda x: x[0]) if x[0] < self.limit]

    def join(self, scene, frame):
        for layer in scene.layers:
            ks = self.standing(layer, scene)
            for k, following in zip(ks, [*ks[1:], None], strict=False):
                end = following.frame if following else scene.length
                if isinstance(k, Clip) and k.sync == "locked" and k.frame < frame < end:
                    key = {"scene": scene.id, "layer": layer.id, "frame": k.frame}
                    if self.group("pools", k.sound) is not None and not self.open_parts(k):
                        self.say("nothing-open", key)
                        continue
                    picked = self.pick(k, f"{layer.id}/{k.frame}")
                    total, pos = self.size(k, picked), self.S(frame) - self.S(k.frame)
                    if total is None or pos < total:
                        v = self.start(k, key, "joined", self.now, picked)
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
                    if self.size(w["clip"], w["picked"]) is None:
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
                names = ("scene", "layer", "frame", "sound", "sync", "ended", "picked")
                fades = [[a - o, b - o] for a, b in v["fades"] if a < pieces[-1][1]]
                rise = None if v["rise"] is None else [x - o for x in v["rise"]]
                out.append({
                    **{n: v[n] for n in names},
                    "why": why, "pieces": kept, "fades": fades, "rise": rise,
                })  # fmt: skip
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
            "glides": [
                {
                    **{n: g[n] for n in ("value", "to", "over")},
                    "at": g["at"] - o,
                    "from": float(g["u"]),
                }
                for g in self.glides
            ],
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
