"""What values are at any moment of a plan, and the gains that follow them, from the words alone."""

import numpy as np

from tests.core.slow_mix import line_at

# Just before a moment, in samples; and how far a value goes there at least if it jumps.
BEFORE, LEAST = 1e-7, 1e-6


class Values:
    def __init__(self, project, plan):
        self.project, self.plan = project, plan
        base = plan.timebase
        # Of every frame: when it is entered and moves on, how long that takes, what it is of.
        self.frames = []
        for stretch in plan.stretches:
            visit = plan.visits[stretch.visit]
            for number, (at, frame) in enumerate(plan.entries(stretch)):
                moves = at if number else at + stretch.stands
                self.frames.append((at, moves, base.duration(frame), visit.scene, frame))

    def spot(self, t):
        """The scene the picture is in at a moment, and its position there."""
        found = self.frames[0]
        for each in self.frames:
            if each[0] > t:
                break
            found = each
        _, moves, lasts, scene, frame = found
        return scene, frame + min(1.0, max(0.0, (t - moves) / lasts))

    def at(self, name, t):
        made = self.project.value(name)
        scene, position = self.spot(t)
        line = self.project.scene(scene).value_lines.get(name, ())
        reading = line_at(line, position, made.begins)
        found = reading
        given = [g for g in self.plan.glides if g.value == name and g.at <= t]
        if given:
            last = given[-1]
            goal = reading if last.to is None else last.to
            x = min(1.0, (t - last.at) / last.over) if last.over else 1.0
            found = (1 - x) * last.start + x * goal
        return min(made.high, max(made.low, found))

    def moments(self, name):
        """When a value may jump."""
        found = {float(g.at) for g in self.plan.glides if g.value == name}
        found |= {float(visit.start) for visit in self.plan.visits[1:]}
        for at, moves, lasts, scene, frame in self.frames:
            for point in self.project.scene(scene).value_lines.get(name, ()):
                if point[0] == frame:
                    found.add(float(at))
                elif frame < point[0] < frame + 1:
                    found.add(moves + (point[0] - frame) * lasts)
        return sorted(found)

    def gains(self, name, gain, length):
        """``gain`` of the value at every sample, its jumps spread over 2 ms."""
        out = np.array([gain(self.at(name, t)) for t in range(length)])
        over = round(self.plan.rate / 500)
        for moment in self.moments(name):
            was, now = self.at(name, moment - BEFORE), self.at(name, moment)
            if abs(now - was) < LEAST:
                continue
            for t in range(max(0, int(np.ceil(moment))), min(length, int(moment) + over + 1)):
                if t - moment < over:
                    out[t] -= (gain(now) - gain(was)) * (1 - (t - moment) / over)
        return out
