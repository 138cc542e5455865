// What values, clips, hushes, queues and pads do to a run's state.

/** The values of a film, read where a run's state is. */
class Readings {
	constructor(film, state) {
		this.film = film;
		this.state = state;
		this.bounds = new Map(film.values.map((value) => [value.id, {
			low: Ratio.text(value.from),
			high: Ratio.text(value.to),
			begins: Ratio.text(value.start === null ? value.from : value.start),
		}]));
		this.lines = film.scenes.map((scene) => new Map(
			Object.entries(scene.value_lines)
				.filter(([, line]) => line.length)
				.map(([value, line]) => [value, new ExactLine(line)])));
	}

	/** Where the picture is, in frames of its scene. */
	position() {
		const { state, film: { base } } = this;
		if (state.movesFrom === null) return Ratio.of(state.frame);
		const moved = state.time - state.movesFrom + base.start(state.frame);
		const frame = base.frameAt(moved);
		if (frame >= state.framesTo) return Ratio.of(state.framesTo);
		const part = new Ratio(BigInt(moved - base.start(frame)), BigInt(base.duration(frame)));
		return Ratio.of(frame).plus(part);
	}

	/** The frame the picture is on. */
	frame() {
		const position = this.position();
		const { frame, framesTo } = this.state;
		return Math.min(Number(position.n / position.d), Math.max(frame, framesTo - 1));
	}

	reading(value) {
		const line = this.lines[this.state.scene].get(value);
		return line ? line.at(this.position()) : this.bounds.get(value).begins;
	}

	at(value) {
		const { low, high } = this.bounds.get(value);
		const gliding = this.state.gliding.get(value);
		if (!gliding) return this.reading(value).within(low, high);
		const since = this.state.time - gliding.at;
		let found = gliding.to === null ? this.reading(value) : gliding.to;
		if (since < gliding.over) {
			const x = new Ratio(BigInt(since), BigInt(gliding.over));
			found = Ratio.of(1).minus(x).times(gliding.start).plus(x.times(found));
		}
		return found.within(low, high);
	}

	inside(value, range) {
		return range.has(this.at(value));
	}

	/** A value begins to move; `to` is a decimal text, or null: back to its line. */
	give(value, to, over) {
		const { state } = this;
		const start = this.at(value).grained();
		const exact = to === null ? null : Ratio.text(to);
		state.gliding.set(value, { at: state.time, start, to: exact, over });
		const number = to === null ? null : Number(to);
		state.glides.push({ at: state.time, value, from: start.number(), to: number, over });
	}
}

/** The rules of clips, hushes and queues. */
class Rules {
	constructor(film, run, state) {
		this.film = film;
		this.state = state;
		this.readings = new Readings(film, state);
		this.seed = run.seed === null ? film.seed : run.seed;
	}

	/** Start the queued clips whose turn comes up to a moment (null: as long as any do). */
	startDue(moment, inclusive = true) {
		const s = this.state;
		while (s.waitingRows.size) {
			let chosen = null;
			let soonest = 0;
			for (const row of s.waitingRows) {
				let due = row.due(s.startedTo);
				if (due === null) continue;
				due = Math.max(due, s.startedTo);
				if (!chosen || due < soonest || (due === soonest && row.key < chosen.key)) {
					[chosen, soonest] = [row, due];
				}
			}
			if (!chosen || s.pastLimit(soonest)) break;
			if (moment !== null && (soonest > moment || (soonest === moment && !inclusive))) break;
			s.startedTo = soonest;
			const waiting = chosen.waiting[0];
			s.take(chosen, waiting);
			waiting.voice = s.start(waiting.placed, chosen, soonest, "queued", waiting.visit);
		}
		if (moment !== null) s.startedTo = Math.max(s.startedTo, moment);
	}

	/** The picture leaves a clip's span. */
	leave(placed) {
		const s = this.state;
		const { clip } = placed;
		const row = s.row(placed.row);
		if (clip.sync === "locked") {
			for (const locked of row.locked.slice()) {
				if (locked.placed.clip === clip && !locked.placed.hushedAtEnd) {
					s.closeLocked(locked, s.time, "span");
				}
			}
			return;
		}
		for (const waiting of row.waiting.slice()) {
			if (waiting.placed.clip === clip) this.unqueue(row, waiting);
		}
		for (const voice of row.voices) {
			if (voice.placed.clip === clip && !voice.over(s.time)) {
				row.stale = voice.release(s.time, placed.release, "span") || row.stale;
			}
		}
	}

	unqueue(row, waiting) {
		this.state.say("unqueued", waiting.placed, waiting.visit);
		this.state.take(row, waiting);
	}

	/** A hush silences what it hits, and sends it out of its queue. */
	hush(placed) {
		const s = this.state;
		const rows = placed.target === "layer" ? [s.row(placed.row)]
			: Array.from(s.rows.values()).sort((a, b) => a.key - b.key);
		for (const row of rows) {
			for (const waiting of row.waiting.slice()) {
				if (placed.hits(waiting.placed)) this.unqueue(row, waiting);
			}
			for (const locked of row.locked) {
				if (placed.hits(locked.placed) && !locked.over(s.time)) locked.hush(s.time, placed.fade);
			}
			for (const voice of row.voices) {
				if (placed.hits(voice.placed) && !voice.over(s.time)) {
					row.stale = voice.release(s.time, placed.fade, "hush") || row.stale;
				}
			}
		}
	}

	/** A clip starts, or does not, by what it does if it is already sounding. */
	fire(placed, holds) {
		const s = this.state;
		const { clip } = placed;
		const pool = placed.choices.length > 0;
		const open = pool ? this.openParts(placed) : [];
		if (pool && !open.length) {
			s.say("nothing-open", placed);
			return;
		}
		const drawn = () => pool ? this.drawn(placed, open) : placed;
		if (clip.sync === "locked") {
			s.startLocked(drawn(), 0, false);
			return;
		}
		const row = s.row(placed.row);
		let restarted = false;
		if (clip.if_sounding === "skip") {
			if (s.busy(placed, row).some((voice) => !voice.released && !voice.over(s.time))) {
				s.say("skipped", placed);
				return;
			}
		} else if (clip.if_sounding === "restart") {
			restarted = this.restart(placed, row);
		} else if (clip.if_sounding === "queue") {
			if (row.waiting.some((waiting) => waiting.placed.clip === clip)) {
				s.say("skipped", placed);
				return;
			}
			if (row.waiting.length || row.busy(s.time)) {
				this.joinQueue(drawn(), row, holds);
				return;
			}
		}
		const voice = s.start(drawn(), row, s.time, "fired", s.visit);
		if (restarted && placed.handOver) {
			const begins = s.time + voice.placed.timing.delay;
			voice.rise = [begins, begins + placed.handOver];
		}
		if (clip.sync === "hold") this.holdBy(voice, holds);
	}

	/** What never ends does not hold the picture. */
	holdBy(voice, holds) {
		if (voice.placed.total === null) this.state.say("endless-hold", voice.placed);
		else holds.push(voice);
	}

	/** End what sounds, or hand over from it; whether there was anything. */
	restart(placed, row) {
		const s = this.state;
		let found = false;
		for (const voice of s.busy(placed, row)) {
			if (voice instanceof OpenLocked || voice.over(s.time)) continue;
			found = true;
			const ends = placed.handOver
				? voice.release(s.time, placed.handOver, "restarted") : voice.cut(s.time, "restarted");
			if (ends) s.row(voice.placed.row).stale = true;
		}
		return found;
	}

	/** The places of the parts of a pool that may be drawn now. */
	openParts(placed) {
		const found = [];
		placed.choices.forEach((part, place) => {
			if (!part.placed) return;
			if (!part.range || this.readings.inside(part.value, part.range)) found.push(place);
		});
		return found;
	}

	/** What a clip that places a pool plays: the part drawn for it. */
	drawn(placed, open) {
		const s = this.state;
		const { anchor, choices, fire } = placed;
		const pool = this.film.poolsById.get(placed.clip.sound);
		const who = anchor.layer + "/" + (fire === null ? anchor.frame : fire);
		const at = drawnAt(this.seed, pool.id, who, s.countDraw(who));
		const before = s.drawn.get(pool.id);
		if (pool.again === "other" && open.includes(before) && open.length > 1) {
			open = open.filter((place) => place !== before);
		}
		const place = open[picked(open.map((each) => choices[each].weight), at)];
		s.drawn.set(pool.id, place);
		const drawn = choices[place].placed;
		return fire === null ? drawn : drawn.changed({ anchor });
	}

	joinQueue(placed, row, holds) {
		const s = this.state;
		s.say("queued", placed);
		const waiting = new Waiting(placed, s.visit);
		s.wait(row, waiting);
		if (placed.clip.sync === "hold") this.holdBy(waiting, holds);
	}

	/** Pick up, in their middle, the locked clips whose span covers a frame from before. */
	joinLocked(table, frame) {
		const { base } = this.film;
		for (const earlier of Array.from(table.work.keys()).sort((a, b) => a - b)) {
			if (earlier >= frame) break;
			for (const placed of table.work.get(earlier).clips) {
				if (placed.clip.sync === "locked" && placed.spanEnd > frame) {
					this.join(placed, base.start(frame) - base.start(earlier));
				}
			}
		}
	}

	join(placed, position) {
		const pool = placed.choices.length > 0;
		const open = pool ? this.openParts(placed) : [];
		if (pool && !open.length) {
			this.state.say("nothing-open", placed);
			return;
		}
		const drawn = pool ? this.drawn(placed, open) : placed;
		if (drawn.total === null || position < drawn.total) {
			this.state.startLocked(drawn, position, true);
		}
	}

	/** After the film endless voices are over, and nothing starts behind one. */
	ringOut(end) {
		const s = this.state;
		for (const row of s.rows.values()) {
			if (row.voices.some((voice) => voice.end === null)) row.waiting = [];
			const endless = row.waiting.findIndex((waiting) => waiting.placed.total === null);
			if (endless >= 0) row.waiting = row.waiting.slice(0, endless);
			if (!row.waiting.length) s.waitingRows.delete(row);
			for (const voice of row.voices) if (voice.end === null) voice.cut(end, "run");
			row.stale = true;
		}
		this.startDue(null);
	}
}

/** Takes the inputs of a run and has its pads act. */
class Acting {
	constructor(film, run, rules) {
		this.film = film;
		this.run = run;
		this.rules = rules;
		this.watching = film.padsReady.filter((placed) => placed.watch);
	}

	/** What counts of some inputs, at its moments, in order. */
	static taken(film, inputs, state) {
		const pads = new Set(film.padsReady.map((placed) => placed.pad.id));
		return inputs
			.filter((given) => given.pad === null || pads.has(given.pad))
			.filter((given) => given.value === null || film.valuesById.has(given.value))
			.map((given) => ({ ...given, at: state.origin + given.at }))
			.filter((given) => !state.pastLimit(given.at))
			.sort((a, b) => a.at - b.at);
	}

	begin() {
		const s = this.rules.state;
		s.inputs = Acting.taken(this.film, this.run.inputs, s);
		s.taken = 0;
	}

	nextInput() {
		const s = this.rules.state;
		return s.taken < s.inputs.length ? s.inputs[s.taken].at : null;
	}

	/** The inputs of this moment, in order, the watches looking after each. */
	take() {
		const s = this.rules.state;
		while (s.taken < s.inputs.length && s.inputs[s.taken].at <= s.time) {
			const given = s.inputs[s.taken];
			s.taken += 1;
			if (given.value !== null) {
				this.rules.readings.give(given.value, given.to, this.film.samples(given.over));
			} else if (given.pad !== null) {
				this.act(this.film.padsReady.find((placed) => placed.pad.id === given.pad));
			}
			this.look();
		}
	}

	start() {
		for (const placed of this.film.padsReady) if (placed.pad.at_start) this.act(placed);
	}

	/** All watches look, then those act whose value has come into its range. */
	look() {
		const s = this.rules.state;
		s.looked = s.time;
		const due = [];
		for (const placed of this.watching) {
			const inside = this.rules.readings.inside(placed.watch.value, placed.watch.range);
			if (inside && !s.inside.has(placed.row)) due.push(placed);
			if (inside) s.inside.add(placed.row);
			else s.inside.delete(placed.row);
		}
		for (const placed of due) this.act(placed);
	}

	act(acting) {
		const { rules } = this;
		const s = rules.state;
		const scene = this.film.scenes[s.scene].id;
		const anchor = { scene, layer: acting.pad.id, frame: rules.readings.frame() };
		for (const deed of acting.deeds) {
			if (deed.do === "fire") rules.fire(deed.placed.changed({ anchor }), []);
			else if (deed.do === "hush") rules.hush(deed.hush);
			else if (deed.do === "glide") rules.readings.give(deed.value, deed.to, deed.over);
			else if (deed.when === "over" && s.row(acting.row).overAt(s.time) > s.time) {
				s.holding.add(acting.row);
			} else s.letGo = true;
		}
	}

	/** What was over before this moment holds the way no more. */
	settle() {
		const s = this.rules.state;
		for (const row of s.holding) if (s.row(row).overAt(s.time) < s.time) s.holding.delete(row);
	}

	/** A wait begins: what is over by now holds the way no more, and what was said is lost. */
	arrive() {
		const s = this.rules.state;
		for (const row of s.holding) if (s.row(row).overAt(s.time) <= s.time) s.holding.delete(row);
		s.letGo = false;
	}

	/** When a picture that waits goes on by what pads do; null: not yet. */
	letsGoAt() {
		const s = this.rules.state;
		if (s.letGo) return s.time;
		const ends = Array.from(s.holding, (row) => Math.max(s.time, s.row(row).overAt(s.time)));
		return ends.length ? Math.min(...ends) : null;
	}

	/** The next moment of a standstill; null if nothing will let it go on. */
	nextMoment(until, entered, every) {
		const s = this.rules.state;
		const moments = [until, this.nextInput()].filter((moment) => moment !== null);
		if (!moments.length) return null;
		if (this.watching.length && this.maySeeMore()) {
			moments.push(entered + (Math.floor((s.time - entered) / every) + 1) * every);
		}
		return Math.min(...moments);
	}

	maySeeMore() {
		const s = this.rules.state;
		return Array.from(s.gliding.values()).some((glide) => glide.at + glide.over >= s.looked);
	}

	/** What happens at a moment of a standstill, or within a frame. */
	answer(looks) {
		const { rules } = this;
		const moment = rules.state.time;
		this.settle();
		rules.startDue(moment, false);
		this.take();
		if (looks) this.look();
		rules.startDue(moment);
	}
}
