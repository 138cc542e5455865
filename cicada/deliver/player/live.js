// A live run: planned a little ahead, again and again, as more is given in it.

// A press nobody has made yet is taken to come some day.
const SOME_DAY = Number.MAX_SAFE_INTEGER / 4;
// So many samples back every glide is kept: a jump is spread over what follows it.
const GLIDES_KEPT = 10000;

/** How long drawing takes: what it took lately, but for frames that have gone by as planned. */
class DrawTimes {
	constructor() {
		this.usual = 0;
		this.fixed = 0;
		this.planned = new Map();
		this.of = (scene, frame, at) => {
			if (!(at < this.fixed && this.planned.has(at))) this.planned.set(at, this.usual);
			return this.planned.get(at);
		};
	}

	/** What is planned from a sample on may still be otherwise. */
	fixUpTo(sample) {
		const last = this.begunBefore(sample);
		for (const at of this.planned.keys()) if (at !== last) this.planned.delete(at);
		this.fixed = sample;
	}

	begunBefore(sample) {
		return Math.max(...Array.from(this.planned.keys()).filter((at) => at < sample));
	}

	/** The frame shown last before a sample is still being drawn at a later one. */
	lasts(sample, until) {
		const at = this.begunBefore(sample);
		if (this.planned.has(at)) this.planned.set(at, Math.max(this.planned.get(at), until - at));
	}
}

/** Plans one run of a film again and again; what is given in it never comes before what was. */
class LiveRun {
	constructor(film, run, { draws = null } = {}) {
		this.film = film;
		this.run = run;
		this.draws = draws;
		this.presses = run.presses.slice().sort((a, b) => a - b);
		this.inputs = run.inputs.slice().sort((a, b) => a.at - b.at);
		this.kept = null;
	}

	press(at) {
		this.presses.push(at);
		this.presses.sort((a, b) => a - b);
	}

	give(input) {
		this.inputs.push({ pad: null, value: null, to: null, over: "0", ...input });
		this.inputs.sort((a, b) => a.at - b.at);
	}

	/** The run from sample `now` on, up to `until`, as it goes on if nothing more is given. */
	ahead(now, until) {
		const { film, draws } = this;
		const limit = this.run.limit === null ? null : film.samples(this.run.limit);
		const whole = limit !== null && limit <= until;
		const { press_points: points } = this.run;
		const far = points === "wait" ? [SOME_DAY] : [];
		const run = { ...this.run, presses: [...this.presses, ...far], inputs: this.inputs };
		if (draws) draws.fixUpTo(now);
		const last = whole ? limit : until;
		const state = this.kept && this.kept.at <= now ? this.resumed(this.kept, last, far)
			: new State();
		const walk = new Walk(film, run, state, { until: last, drawTime: draws && draws.of });
		walk.beforeMoment = (moment) => this.keepStanding(walk.state, moment, now);
		for (const before of walk.frames()) this.keepAtFrame(before, now);
		const { plan } = walk;
		const over = whole || !plan.events.some((event) => event.kind === "limited");
		return { plan, until: over ? plan.length : until, whole: over };
	}

	resumed({ at, state: kept }, until, far) {
		const state = kept.kept();
		const since = (sample) => sample >= at;
		state.limit = state.origin + until;
		state.presses = [...this.presses.filter(since), ...far].map((press) => state.origin + press);
		state.inputs = Acting.taken(this.film, this.inputs.filter((given) => since(given.at)), state);
		state.taken = 0;
		return state;
	}

	/** A frame is about to be entered: nothing that is given from `now` on has happened. */
	keepAtFrame(state, now) {
		const at = state.time - state.origin;
		if (!state.standing && state.began && at <= now) this.keep(state, at);
	}

	/** The picture stands, and the next that happens is at a moment, if anything does. */
	keepStanding(state, moment, now) {
		const at = state.time - state.origin;
		const later = moment === null || moment - state.origin >= now;
		// What happened at this very moment is in it.
		if (state.began && at < now && later) this.keep(state, at + 1);
	}

	keep(state, at) {
		const kept = state.kept();
		kept.forget(state.time - GLIDES_KEPT);
		this.kept = { at, state: kept };
	}
}
