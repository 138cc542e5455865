// How loud: lines of points, the picture's position, values along a run.

const JUMP = 500; // a jump is spread over rate / 500 samples: 2 ms

function clamped(number, low, high) {
	return number < low ? low : number > high ? high : number;
}

function smoothstep(x) {
	return x * x * (3 - 2 * x);
}

/** The first place in an ascending list whose number is above `x`. */
function placeAbove(list, x, of = (each) => each) {
	let [low, high] = [0, list.length];
	while (low < high) {
		const middle = (low + high) >> 1;
		if (of(list[middle]) <= x) low = middle + 1;
		else high = middle;
	}
	return low;
}

/** A line of points: straight between them unless shaped, flat outside. */
class Curve {
	constructor(points, empty = 1) {
		this.xs = points.map((point) => Number(point[0]));
		this.ys = points.map((point) => Number(point[1]));
		this.shapes = points.map((point) => point[2] || "");
		this.empty = empty;
		this.jumps = this.findJumps();
	}

	get drawn() {
		return this.xs.length > 0;
	}

	at(x) {
		const { xs, ys } = this;
		if (!xs.length) return this.empty;
		const after = placeAbove(xs, x);
		if (after === 0) return ys[0];
		const before = after - 1;
		if (after === xs.length || this.shapes[before] === "step") return ys[before];
		let share = (x - xs[before]) / (xs[after] - xs[before]);
		if (this.shapes[before] === "smooth") share = smoothstep(share);
		return ys[before] + share * (ys[after] - ys[before]);
	}

	/** Where the line jumps and by how much: steps, and points at one place. */
	findJumps() {
		const { xs, ys, shapes } = this;
		const jumps = [];
		xs.forEach((x, index) => {
			if (xs[index + 1] === x) return;
			let first = index;
			while (first > 0 && xs[first - 1] === x) first -= 1;
			const before = first > 0 && shapes[first - 1] === "step" ? ys[first - 1] : ys[first];
			if (before !== ys[index]) jumps.push([x, ys[index] - before]);
		});
		return jumps;
	}
}

/** Spread a jump that some gains make over a stretch of length `over` after it. */
function spread(gains, places, at, height, over) {
	for (let i = 0; i < gains.length; i += 1) {
		const since = places(i) - at;
		if (since >= 0 && since < over) gains[i] -= height * (1 - since / over);
	}
}

/** Spread jumps, [run sample, height], over gains from run sample `start` on. */
function spreadAll(gains, start, jumps, over) {
	for (const [at, height] of jumps) {
		if (at > start - over && at < start + gains.length) {
			spread(gains, (i) => start + i, at, height, over);
		}
	}
	return gains;
}

/** Where the picture is over the run of a plan. */
class Motion {
	constructor(plan, base) {
		this.plan = plan;
		this.base = base;
		this.ramp = Math.round(plan.rate / JUMP);
	}

	visit(number) {
		return this.plan.visits[number - this.plan.firstVisit];
	}

	stretchesOf(visit) {
		const { stretches } = this.plan;
		const of = (stretch) => stretch.visit;
		return [placeAbove(stretches, visit - 1, of), placeAbove(stretches, visit, of)];
	}

	/** The position in frames at each run sample, as that visit has it. */
	positions(visit, start, end) {
		const stay = this.visit(visit);
		const { stretches } = this.plan;
		const found = new Float64Array(end - start).fill(stay.last);
		const [first, last] = this.stretchesOf(visit);
		let index = first;
		while (index + 1 < last && stretches[index + 1].at <= start) index += 1;
		for (; index < last && stretches[index].at < end; index += 1) {
			const until = index + 1 < last ? stretches[index + 1].at : stay.end;
			const low = Math.max(start, stretches[index].at);
			this.along(stretches[index], low, Math.min(end, until), found, start);
		}
		return found;
	}

	along(stretch, low, high, found, start) {
		const { base } = this;
		const origin = stretch.at + stretch.stands - base.start(stretch.frame);
		const first = base.start(stretch.frame);
		const last = base.start(stretch.frame + stretch.length);
		let [frame, begins, ends] = [-1, 0, -1];
		for (let moment = low; moment < high; moment += 1) {
			const moved = clamped(moment - origin, first, last);
			if (moved >= ends || frame < 0) {
				frame = base.frameAt(moved);
				begins = base.start(frame);
				ends = base.start(frame + 1);
			}
			found[moment - start] = frame + (moved - begins) / (ends - begins);
		}
	}

	/** The run sample at which that visit's picture passes a position; null if it does not. */
	reached(visit, position) {
		const { base } = this;
		const [first, last] = this.stretchesOf(visit);
		for (const stretch of this.plan.stretches.slice(first, last)) {
			if (position > stretch.frame + stretch.length) continue;
			if (position < stretch.frame) return null;
			const whole = Math.floor(position);
			if (whole === stretch.frame && whole === position) return stretch.at;
			const moved = base.start(whole) - base.start(stretch.frame);
			const share = (position - whole) * base.duration(whole);
			return stretch.at + stretch.stands + moved + share;
		}
		return null;
	}
}

/** A layer's line in one visit, its jumps spread. */
class PictureLine {
	constructor(motion, points, visit) {
		this.motion = motion;
		this.visit = visit;
		this.curve = new Curve(points);
		const { start } = motion.visit(visit);
		this.jumps = this.curve.jumps
			.map(([place, height]) => [motion.reached(visit, place), height])
			.filter(([moment]) => moment !== null && moment > start);
	}

	gains(start, end) {
		const { motion, curve } = this;
		const gains = motion.positions(this.visit, start, end).map((place) => curve.at(place));
		return spreadAll(gains, start, this.jumps, motion.ramp);
	}
}

/** A number that each scene draws as a line; `jumps` are [run sample, before, after]. */
class SceneLines {
	constructor(motion, lines, empty) {
		this.motion = motion;
		const { visits, firstVisit } = motion.plan;
		const curves = new Map(Array.from(lines, ([scene, line]) => [scene, new Curve(line, empty)]));
		this.stays = visits
			.map((visit, i) => ({ ...visit, number: firstVisit + i, curve: curves.get(visit.scene) }))
			.filter((stay, i) => stay.end > 0 || i === visits.length - 1);
		this.drawn = this.stays.some((stay) => stay.curve.drawn);
		this.jumps = [];
		this.stays.forEach((stay, i) => {
			const { curve } = stay;
			if (i) {
				const before = this.stays[i - 1].curve.at(this.stays[i - 1].last);
				const after = curve.at(0);
				if (before !== after) this.jumps.push([stay.start, before, after]);
			}
			for (const [place, height] of curve.jumps) {
				const moment = motion.reached(stay.number, place);
				if (moment === null || moment <= stay.start) continue;
				this.jumps.push([moment, curve.at(place) - height, curve.at(place)]);
			}
		});
	}

	values(start, end) {
		const found = new Float64Array(end - start);
		const { stays } = this;
		let index = Math.max(0, placeAbove(stays, start, (stay) => stay.start) - 1);
		for (; index < stays.length; index += 1) {
			const stay = stays[index];
			const low = index ? Math.max(start, stay.start) : start;
			const high = index + 1 < stays.length ? Math.min(end, stays[index + 1].start) : end;
			if (low < high) {
				if (stay.curve.drawn) {
					const places = this.motion.positions(stay.number, low, high);
					found.set(places.map((place) => stay.curve.at(place)), low - start);
				} else found.fill(stay.curve.empty, low - start, high - start);
			}
			if (high >= end) break;
		}
		return found;
	}
}

/** What a value is along a run; `jumps` are [run sample, before, after]. */
class ValueTrack {
	constructor(motion, film, value) {
		const made = film.valuesById.get(value);
		[this.low, this.high] = [Number(made.from), Number(made.to)];
		const lines = film.scenes.map((scene) => [scene.id, scene.value_lines[value] || []]);
		const begins = Number(made.start === null ? made.from : made.start);
		this.reading = new SceneLines(motion, lines, begins);
		const given = motion.plan.glides.filter((glide) => glide.value === value);
		// Of those of one moment the last holds, and the first knows what was before.
		this.glides = given.filter((glide, i) => !given[i + 1] || given[i + 1].at !== glide.at);
		this.before = new Map(given.slice().reverse().map((glide) => [glide.at, glide.from]));
		this.asked = null;
		this.jumps = this.findJumps();
	}

	/** The value by a glide (undefined: none yet), clamped. */
	by(glide, moment, reading) {
		let found = reading;
		if (glide) {
			const wanted = glide.to === null ? reading : glide.to;
			const x = glide.over ? Math.min(1, (moment - glide.at) / glide.over) : 1;
			found = (1 - x) * glide.from + x * wanted;
		}
		return clamped(found, this.low, this.high);
	}

	values(start, end) {
		if (this.asked && this.asked.start === start && this.asked.end === end) return this.asked.found;
		const found = this.reading.values(start, end);
		let number = placeAbove(this.glides, start, (glide) => glide.at) - 1;
		for (let moment = start; moment < end; moment += 1) {
			while (this.glides[number + 1] && this.glides[number + 1].at <= moment) number += 1;
			found[moment - start] = this.by(this.glides[number], moment, found[moment - start]);
		}
		this.asked = { start, end, found };
		return found;
	}

	findJumps() {
		const found = [];
		for (const [moment, before, after] of this.reading.jumps) {
			const number = placeAbove(this.glides, moment, (glide) => glide.at) - 1;
			const held = this.glides[number];
			const glide = held && held.at === moment ? this.glides[number - 1] : held;
			if (!glide || glide.to === null) {
				found.push([moment, this.by(glide, moment, before), this.by(glide, moment, after)]);
			}
		}
		for (const [at, before] of this.before) found.push([at, before, this.values(at, at + 1)[0]]);
		return found.filter(([, before, after]) => Math.abs(after - before) > 1e-9);
	}
}

/** A gain that follows a value, its jumps spread. */
class FollowedGain {
	constructor(track, gain, ramp) {
		Object.assign(this, { track, gain, ramp, asked: null });
		this.jumps = track.jumps
			.map(([moment, before, after]) => [moment, gain(after) - gain(before)])
			.filter(([, height]) => height !== 0);
	}

	gains(start, end) {
		if (this.asked && this.asked.start === start && this.asked.end === end) return this.asked.gains;
		const gains = this.track.values(start, end).map(this.gain);
		spreadAll(gains, start, this.jumps, this.ramp);
		this.asked = { start, end, gains };
		return gains;
	}
}

/** The gain of one part of a blend by the value it follows. */
function blendGain(blend, number) {
	const ats = blend.parts.map((part) => part.at);
	const here = ats[number];
	const power = blend.curve === "power";
	return (value) => {
		if (value < here && number > 0) {
			const x = clamped((value - ats[number - 1]) / (here - ats[number - 1]), 0, 1);
			return power && x < 1 ? Math.sin(x * Math.PI / 2) : x;
		}
		if (value > here && number + 1 < ats.length) {
			const x = clamped((value - here) / (ats[number + 1] - here), 0, 1);
			if (x >= 1) return 0;
			return power ? Math.cos(x * Math.PI / 2) : 1 - x;
		}
		return 1;
	};
}
