// The planner: a film and the conditions of a run to a plan, frame by frame.

/** One run being worked out, from a state on. */
class Walk {
	/**
	 * It is planned up to sample `until`, whatever the run's limit; null: as far as it goes.
	 * `drawTime(scene, frame, at)` is in samples; null if the run says how long drawing takes.
	 */
	constructor(film, run, state, { drawTime = null, until = null } = {}) {
		this.film = film;
		this.run = run;
		this.state = state;
		this.until = until;
		this.base = film.base;
		this.rules = new Rules(film, run, state);
		this.acting = film.pads.length || run.inputs.length ? new Acting(film, run, this.rules) : null;
		this.drawTime = drawTime || this.givenDrawTimes();
		this.firstScene = run.scene === null ? 0
			: film.scenes.findIndex((scene) => scene.id === run.scene);
		this.beforeMoment = null;
		this.plan = null;
	}

	/** The draw times of the run's conditions; null if the machine keeps up. */
	givenDrawTimes() {
		const given = this.run.draw_time;
		const byScene = given !== null && typeof given === "object" && !Array.isArray(given);
		const times = new Map();
		for (const { id } of this.film.scenes) {
			const own = byScene ? given[id] ?? [] : given;
			const seconds = Array.isArray(own) ? own : [own];
			const samples = seconds.map((text) => this.film.samples(text));
			times.set(id, samples.length ? samples : [0]);
		}
		const shortest = Math.floor(this.film.rate * this.base.den / this.base.num);
		const slow = Array.from(times.values()).some((each) => each.some((time) => time > shortest));
		if (!slow) return null;
		return (scene, frame) => times.get(scene)[frame % times.get(scene).length];
	}

	play() {
		for (const _ of this.frames()) { /* to the end */ }
		return this.plan;
	}

	/** Every frame that is entered; `plan` is there when it is over. */
	*frames() {
		const { run, state: s } = this;
		if (s.next === null
				&& (!run.chase || ((this.firstScene === 0 || run.only_scene) && run.frame === 0))) {
			this.begin();
		}
		for (const [number, index] of this.itinerary()) {
			this.plan = yield* this.visit(number, index);
			if (this.plan) return;
		}
		this.plan = this.finish(s.time, false);
	}

	/** Pass and scene of every scene still to be gone on. */
	*itinerary() {
		const { run, firstScene } = this;
		const here = this.state.next;
		const scenes = run.only_scene ? [firstScene] : this.film.scenes.map((_, index) => index);
		let number = here === null ? 1 : here.number;
		for (; run.passes === 0 || number <= run.passes; number += 1) {
			const skip = number === 1 && !run.only_scene && !run.chase ? firstScene : 0;
			for (const index of scenes.slice(skip)) {
				if (here !== null && number === here.number && index < here.scene) continue;
				yield [number, index];
			}
		}
	}

	/** Play a scene through; the finished plan if the run is over inside it. */
	*visit(number, index) {
		const { run, state: s } = this;
		const table = this.film.tables[index];
		const { length } = table.scene;
		const startsHere = number === 1 && index === this.firstScene;
		const origin = startsHere && !(s.began && run.chase) ? run.frame : null;
		let frame;
		if (s.next !== null && s.next.number === number && s.next.scene === index) frame = s.next.frame;
		else frame = this.arrive(table, number, origin);
		while (frame < length) {
			s.next = { number, scene: index, frame };
			yield s;
			if (frame === origin && !s.began) this.begin();
			if (s.pastLimit(s.time)) return this.stop();
			const outcome = s.standing ? this.takeUp(table) : this.enter(table, frame);
			if (outcome === "stands for good") return this.finish(s.time, false);
			if (outcome === "stopped") return this.stop();
			frame += 1;
		}
		if (s.pastLimit(s.time)) return this.stop();
		this.endScene(table);
		return null;
	}

	/** A scene begins; the frame it begins on. */
	arrive(table, number, origin) {
		const s = this.state;
		const { id, length } = table.scene;
		s.visit += 1;
		s.visits.push({ scene: id, number, start: s.time, end: s.time, last: length });
		if (this.acting && s.visit === 0) {
			s.scene = table.index;
			s.frame = s.began ? origin || 0 : 0;
			this.acting.start();
		}
		if (origin === null || !s.began) return 0;
		if (origin) this.rules.joinLocked(table, origin);
		return origin;
	}

	// -- where the run begins and ends

	/** The origin is here: from now on the run's own conditions hold. */
	begin() {
		const { run, state: s } = this;
		s.began = true;
		s.origin = s.drawnBy = s.time;
		if (this.until !== null) s.limit = s.origin + this.until;
		s.presses = run.presses.map((press) => s.origin + press).sort((a, b) => a - b);
		s.lastEntered = null;
		s.events = [];
		s.stretches = [];
		if (this.acting) this.acting.begin();
	}

	/** The limit is reached. */
	stop() {
		const s = this.state;
		s.time = s.limit;
		return this.finish(s.limit, true);
	}

	/** Let the tail play out and write the plan down. */
	finish(end, stopped) {
		const { run, rules, state: s } = this;
		const { limit } = s;
		rules.startDue(end, !stopped);
		if (stopped) this.stopVisit(end);
		for (const locked of Array.from(s.locked)) s.closeLocked(locked, end, "run");
		const sounding = () => s.voices.filter((voice) => voice instanceof OpenVoice);
		if (!stopped && run.tail === "ring") {
			rules.ringOut(end);
			if (limit !== null) {
				stopped = sounding().some((voice) => !voice.over(limit)) || s.waitingRows.size > 0;
				for (const voice of sounding()) voice.cut(limit, "run");
			}
		} else {
			for (const voice of sounding()) voice.cut(end, "run");
		}
		if (stopped) {
			const [scene, frame] = s.lastEntered
				|| [this.film.scenes[this.firstScene].id, run.frame];
			const { visit } = s;
			s.events.push({ at: limit, kind: "limited", scene, frame, layer: "", until: null, visit });
		}
		return written(this.film, s, end);
	}

	stopVisit(end) {
		const s = this.state;
		const stretch = s.stretches[s.stretches.length - 1];
		if (!stretch) return;
		const moved = Math.max(0, end - stretch.at - stretch.stands) + this.base.start(stretch.frame);
		s.leaveAt(Math.min(stretch.frame + stretch.length, this.base.position(moved)));
	}

	// -- entering a frame

	enter(table, frame) {
		const s = this.state;
		const entered = s.time;
		const holds = [];
		const work = table.work.get(frame);
		s.lastEntered = [table.scene.id, frame];
		Object.assign(s, { scene: table.index, frame, movesFrom: null, framesTo: frame + 1 });
		if (work) this.rules.startDue(entered, false);
		if (this.acting) this.answerEntry();
		if (work) this.work(work, holds);
		const shown = !s.began || s.drawnBy <= entered;
		if (shown && s.began && this.drawTime) {
			s.drawnBy = entered + this.drawTime(table.scene.id, frame, entered - s.origin);
		}
		if (holds.length) this.hold(holds, frame, entered, shown);
		return this.atPressPoint(table, frame, entered, shown);
	}

	/** Go on with the standstill that the state was kept in. */
	takeUp(table) {
		const here = this.state.standing;
		const { frame, entered, shown } = here;
		if (here.kind === "held") {
			this.standOn(here, () => this.heldUntil(here.holds));
			return this.atPressPoint(table, frame, entered, shown);
		}
		const goesOn = this.standOn(here, this.pressedBy(table, frame, here.began));
		return this.leave(table, frame, entered, shown, goesOn);
	}

	atPressPoint(table, frame, entered, shown) {
		let goesOn = true;
		if (table.presses.has(frame) && this.state.began && this.run.press_points === "wait") {
			if (this.acting) this.acting.arrive();
			const here = { kind: "waiting", frame, entered, began: this.state.time, shown, holds: [] };
			goesOn = this.stand(here, this.pressedBy(table, frame, here.began));
		}
		return this.leave(table, frame, entered, shown, goesOn);
	}

	leave(table, frame, entered, shown, goesOn) {
		const s = this.state;
		const stands = s.time - entered;
		if (!goesOn) {
			s.addStretch(entered, frame, shown, stands);
			s.leaveAt(frame);
			return "stands for good";
		}
		if (s.pastLimit(s.time)) {
			s.addStretch(entered, frame, shown, s.limit - entered);
			return "stopped";
		}
		for (const voice of s.locked) voice.move(s.time);
		return this.move(entered, frame, shown, stands);
	}

	/** What stands on a frame; `holds` takes in what holds the picture. */
	work(work, holds) {
		const { rules, state: s } = this;
		for (const placed of work.left) rules.leave(placed);
		rules.startDue(s.time);
		for (const hush of work.hushes) rules.hush(hush);
		rules.startDue(s.time);
		for (const placed of work.clips) rules.fire(placed, holds);
		rules.startDue(s.time);
	}

	/** The inputs of the moment a frame is entered, and the look of the watches. */
	answerEntry() {
		const { acting, state: s } = this;
		acting.settle();
		if (acting.watching.length || acting.nextInput() === s.time) {
			this.rules.startDue(s.time, false);
			acting.take();
			acting.look();
		}
	}

	// -- standing still

	hold(holds, frame, entered, shown) {
		const s = this.state;
		const kept = holds.filter((hold) => {
			if (!(hold instanceof Waiting) || hold.voice) return true;
			if (s.row(hold.placed.row).turnOver(hold, s.time) !== null) return true;
			s.say("blocked-hold", hold.placed);
			return false;
		});
		const here = { kind: "held", frame, entered, began: s.time, shown, holds: kept };
		this.stand(here, () => this.heldUntil(kept));
	}

	/** When the last of the holds is over, as things stand. */
	heldUntil(holds) {
		const s = this.state;
		let until = s.time;
		for (const hold of holds) {
			const voice = hold instanceof Waiting ? hold.voice : hold;
			let over = null;
			if (voice) over = voice.end;
			else {
				const row = s.row(hold.placed.row);
				if (row.waiting.includes(hold)) over = row.turnOver(hold, s.time);
			}
			until = Math.max(until, over || 0);
		}
		return until;
	}

	/** Until when, as things stand, the picture waits at a press point. */
	pressedBy(table, frame, began) {
		const { after } = table.presses.get(frame);
		const ends = this.state.presses.filter((press) => press > began).slice(0, 1);
		if (after !== null) ends.push(began + this.film.samples(after));
		return () => {
			const letsGo = this.acting ? this.acting.letsGoAt() : null;
			const all = letsGo === null ? ends : [...ends, letsGo];
			return all.length ? Math.min(...all) : null;
		};
	}

	/** The picture stands still, and locked voices with it; false if it is for good. */
	stand(here, over) {
		const s = this.state;
		const { began } = here;
		const until = over();
		if (s.pastLimit(began) || (until === began && here.kind === "held")) return true;
		const place = s.events.length;
		const { scene } = s.visits[s.visits.length - 1];
		s.events.push({
			at: began, kind: here.kind, scene, frame: here.frame, layer: "", until: null, visit: s.visit,
		});
		if (until === null || until > began) {
			for (const voice of Array.from(s.locked)) {
				if (!voice.pause(began)) s.dropLocked(voice);
			}
		}
		s.standing = { ...here, place };
		return this.standOn(s.standing, over);
	}

	standOn(here, over) {
		const { acting, state: s } = this;
		const every = this.base.duration(here.frame);
		for (let until = over(); until === null || until > s.time; until = over()) {
			const moment = acting ? acting.nextMoment(until, here.entered, every) : until;
			if (this.beforeMoment) this.beforeMoment(moment);
			if (moment === null) {
				for (const voice of Array.from(s.locked)) s.closeLocked(voice, s.time, "run");
				s.standing = null;
				return false;
			}
			if (!acting || s.pastLimit(moment)) {
				s.time = until;
				break;
			}
			s.time = moment;
			acting.answer((moment - here.entered) % every === 0);
		}
		for (const voice of Array.from(s.locked)) {
			if (voice.over(s.time)) s.closeLocked(voice, s.time, "run");
		}
		const shown = s.limit === null ? s.time : Math.min(s.time, s.limit);
		s.events[here.place] = { ...s.events[here.place], until: shown };
		s.standing = null;
		return true;
	}

	// -- the frame lasts

	move(entered, frame, shown, stands) {
		const s = this.state;
		const duration = this.base.duration(frame);
		let over = s.time + duration;
		let late = 0;
		if (s.began && this.drawTime && shown && s.drawnBy > over && !this.soundLeads(s.time)) {
			late = s.drawnBy - over;
			over = s.drawnBy;
		}
		if (this.acting) this.answerOnTheWay(over, frame);
		const stopped = s.limit !== null && over > s.limit;
		s.addStretch(entered, frame, shown, stands, late);
		s.time = stopped ? s.limit : over;
		return stopped ? "stopped" : "on";
	}

	/** Whether some locked voice sounds from that moment on. */
	soundLeads(moment) {
		const s = this.state;
		for (const voice of Array.from(s.locked)) {
			if (voice.over(moment)) s.closeLocked(voice, moment, "run");
		}
		return s.locked.size > 0;
	}

	/** The inputs while the picture moves on from a frame. */
	answerOnTheWay(arrives, frame) {
		const { acting, state: s } = this;
		Object.assign(s, { movesFrom: s.time, frame, framesTo: frame + 1 });
		for (let moment = acting.nextInput(); moment !== null && moment < arrives;
			moment = acting.nextInput()) {
			s.time = moment;
			acting.answer(false);
		}
	}

	/** The picture leaves a scene, after its last frame. */
	endScene(table) {
		const { rules, state: s } = this;
		s.leaveAt(table.scene.length);
		if (this.acting) this.acting.settle();
		rules.startDue(s.time, false);
		for (const placed of table.leftAtEnd) rules.leave(placed);
		for (const voice of Array.from(s.locked)) s.closeLocked(voice, s.time, "span");
		for (const key of table.cutRows) {
			const row = s.row(key);
			for (const waiting of row.waiting.slice()) rules.unqueue(row, waiting);
			for (const voice of row.voices) row.stale = voice.cut(s.time, "scene") || row.stale;
		}
		rules.startDue(s.time);
	}
}

/** The plan of a state that has come to its end, counted from the run's origin. */
function written(film, state, end) {
	const { origin } = state;
	const compared = (a, b) => a < b ? -1 : a > b ? 1 : 0;
	const voices = state.voices
		.map((open) => [open, voiceOf(open, origin)])
		.filter(([, voice]) => voice)
		.sort(([a, one], [b, other]) => one.pieces[0][0] - other.pieces[0][0]
			|| compared(one.scene, other.scene) || compared(one.layer, other.layer)
			|| one.frame - other.frame || a.number - b.number)
		.map(([, voice]) => voice);
	let length = end - origin;
	for (const { pieces } of voices) length = Math.max(length, pieces[pieces.length - 1][1]);
	const moved = (moment) => moment === null ? null : moment - origin;
	return {
		rate: film.rate,
		end: end - origin,
		length,
		voices,
		events: state.events.map((e) => ({ ...e, at: e.at - origin, until: moved(e.until) })),
		firstVisit: state.firstVisit,
		visits: state.visits.map((v) => ({ ...v, start: v.start - origin, end: v.end - origin })),
		stretches: state.stretches.map((s) => ({ ...s, at: s.at - origin })),
		glides: state.glides.map((glide) => ({ ...glide, at: glide.at - origin })),
	};
}

/** A voice as it is heard from the origin on; null if it never is. */
function voiceOf(open, origin) {
	const { placed } = open;
	let joined;
	let pieces;
	if (open instanceof OpenVoice) {
		joined = open.start < origin;
		const began = Math.max(open.start, origin);
		pieces = open.end > began ? [[began - origin, open.end - origin, began - open.start]] : [];
	} else {
		joined = open.joined || (open.pieces.length > 0 && open.pieces[0][0] < origin);
		pieces = open.pieces
			.filter(([, end]) => end > origin)
			.map(([start, end, clip]) =>
				[Math.max(start, origin) - origin, end - origin, clip + Math.max(0, origin - start)]);
	}
	if (!pieces.length) return null;
	const over = pieces[pieces.length - 1][1];
	const { clip, timing, total, fadeLength, fire, picked: drawn } = placed;
	return {
		...placed.anchor,
		sound: clip.sound,
		sync: clip.sync,
		why: joined ? "joined" : open.why || "fired",
		ended: open.ended,
		pieces,
		fades: open.fades.map(([a, b]) => [a - origin, b - origin]).filter(([a]) => a < over),
		rise: open.rise ? open.rise.map((moment) => moment - origin) : null,
		picked: drawn, fire, total, fadeLength, visit: open.visit, clip, timing,
	};
}
