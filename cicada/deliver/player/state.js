// Where a run is: everything the rules go by, apart from them. It can be kept and taken up again.

/** A free or hold voice that has started; `end` is null while nothing ends it. */
class OpenVoice {
	constructor(placed, start, why, visit) {
		this.placed = placed;
		this.number = 0;
		this.start = start;
		this.end = placed.total === null ? null : start + placed.total;
		this.ended = "finished";
		this.fades = [];
		this.released = false;
		this.why = why;
		this.visit = visit;
		this.rise = null;
	}

	copy() {
		const made = Object.assign(Object.create(OpenVoice.prototype), this);
		made.fades = this.fades.slice();
		return made;
	}

	over(moment) {
		return this.end !== null && this.end <= moment;
	}

	/** End it if it would go on longer; whether that changed anything. */
	cut(moment, ended) {
		if (this.over(moment)) return false;
		this.end = moment;
		this.ended = ended;
		return true;
	}

	/** Fade it out; whether that brought its end forward. */
	release(moment, samples, ended) {
		this.released = true;
		if (!this.cut(moment + samples, ended)) return false;
		if (samples) this.fades.push([moment, moment + samples]);
		return true;
	}
}

/** A locked voice: it moves only with the picture, so its end is not known ahead. */
class OpenLocked {
	constructor(placed, position, visit, joined) {
		this.placed = placed;
		this.number = 0;
		this.position = position;
		this.visit = visit;
		this.joined = joined;
		this.movingFrom = null;
		this.pieces = [];
		this.fades = [];
		this.released = false;
		this.hushEnd = null;
		this.ended = "finished";
		this.open = true;
	}

	copy() {
		const made = Object.assign(Object.create(OpenLocked.prototype), this);
		made.pieces = this.pieces.slice();
		made.fades = this.fades.slice();
		return made;
	}

	/** The run sample at which its open piece uses up its length. */
	runsOut() {
		const { total } = this.placed;
		if (total === null || this.movingFrom === null) return null;
		return this.movingFrom + total - this.position;
	}

	over(moment) {
		const finish = this.runsOut();
		if (finish !== null && finish <= moment) return true;
		return this.hushEnd !== null && this.hushEnd <= moment;
	}

	hush(moment, samples) {
		this.released = true;
		const end = moment + samples;
		if (this.hushEnd === null || end < this.hushEnd) {
			this.hushEnd = end;
			if (samples) this.fades.push([moment, end]);
		}
	}

	move(moment) {
		if (this.movingFrom === null) this.movingFrom = moment;
	}

	/** The picture stands still; whether the voice goes on after that. */
	pause(moment) {
		if (this.over(moment)) {
			this.close(moment, "run");
			return false;
		}
		this.endPiece(moment);
		return true;
	}

	/** End it for the reason given, or at its own earlier end. */
	close(moment, ended) {
		const finish = this.runsOut();
		if (finish !== null && finish <= moment) [moment, ended] = [finish, "finished"];
		const { hushEnd } = this;
		if (hushEnd !== null && (hushEnd < moment || (hushEnd === moment && ended !== "finished"))) {
			[moment, ended] = [hushEnd, "hush"];
		}
		this.endPiece(moment);
		this.ended = ended;
	}

	endPiece(moment) {
		if (this.movingFrom !== null && moment > this.movingFrom) {
			this.pieces.push([this.movingFrom, moment, this.position]);
			this.position += moment - this.movingFrom;
		}
		this.movingFrom = null;
	}
}

/** A clip in its layer's queue; `voice` is set when its turn has come. */
class Waiting {
	constructor(placed, visit) {
		this.placed = placed;
		this.visit = visit;
		this.voice = null;
	}
}

/** What a layer has sounding and waiting; where it is stale, `due` is worked out anew. */
class Row {
	constructor(key) {
		this.key = key;
		this.voices = [];
		this.locked = [];
		this.waiting = [];
		this.stale = true;
		this.pastEnd = 0;
		this.next = null;
	}

	/** The latest end of any free or hold voice, past or to come; null behind an endless one. */
	latestEnd(moment) {
		for (const voice of this.voices) {
			if (voice.over(moment)) this.pastEnd = Math.max(this.pastEnd, voice.end);
		}
		this.voices = this.voices.filter((voice) => !voice.over(moment));
		let latest = this.pastEnd;
		for (const voice of this.voices) {
			if (voice.end === null) return null;
			latest = Math.max(latest, voice.end);
		}
		return latest;
	}

	busy(moment) {
		return this.voices.some((voice) => !voice.over(moment));
	}

	/** When the first in the queue may start, as things stand; null for never. */
	due(moment) {
		if (this.stale) {
			const latest = this.latestEnd(moment);
			this.next = latest === null ? null : latest + this.waiting[0].placed.gap;
			this.stale = false;
		}
		return this.next;
	}

	/** When nothing sounds or waits here any more, leaving aside what never ends or starts. */
	overAt(moment) {
		let latest = this.latestEnd(moment);
		if (latest === null) {
			const ends = this.voices.map((voice) => voice.end).filter((end) => end !== null);
			return Math.max(this.pastEnd, ...ends);
		}
		for (const { placed } of this.waiting) {
			if (placed.total === null) break;
			latest = Math.max(latest + placed.gap, moment) + placed.total;
		}
		return latest;
	}

	/** When the turn of one that waits will be over; null for never. */
	turnOver(waiting, moment) {
		let latest = this.latestEnd(moment);
		for (const ahead of this.waiting) {
			const { total, gap } = ahead.placed;
			if (latest === null || total === null) return null;
			latest = Math.max(latest + gap, moment) + total;
			if (ahead === waiting) break;
		}
		return latest;
	}
}

/** The state of one run; times count from where planning began, `origin` is taken off later. */
class State {
	constructor() {
		Object.assign(this, {
			next: null, time: 0, startedTo: 0, origin: 0, began: false, limit: null, presses: [],
			drawnBy: 0, scene: 0, frame: 0, movesFrom: null, framesTo: 0, lastEntered: null,
			standing: null, rows: new Map(), waitingRows: new Set(), bySound: new Map(),
			locked: new Set(), visit: -1, inputs: [], taken: 0, gliding: new Map(), glides: [],
			draws: new Map(), drawn: new Map(), inside: new Set(), holding: new Set(), letGo: false,
			looked: 0, fired: 0, voices: [], events: [], visits: [], firstVisit: 0, stretches: [],
		});
	}

	row(key) {
		if (!this.rows.has(key)) this.rows.set(key, new Row(key));
		return this.rows.get(key);
	}

	pastLimit(moment) {
		return this.limit !== null && moment >= this.limit;
	}

	/** The voices that count as "it" for skip and restart; some may be over. */
	busy(placed, row) {
		if (placed.clip.busy === "layer") return [...row.voices, ...row.locked];
		const sounding = this.bySound.get(placed.clip.sound) || [];
		const kept = sounding.filter((voice) => !voice.over(this.time));
		this.bySound.set(placed.clip.sound, kept);
		return kept;
	}

	note(voice) {
		const { sound } = voice.placed.clip;
		if (!this.bySound.has(sound)) this.bySound.set(sound, []);
		this.bySound.get(sound).push(voice);
		this.voices.push(voice);
	}

	countDraw(who) {
		const before = this.draws.get(who) || 0;
		this.draws.set(who, before + 1);
		return before;
	}

	start(placed, row, at, why, visit) {
		const voice = new OpenVoice(placed, at, why, visit);
		if (placed.fire !== null) {
			this.fired += 1;
			voice.number = this.fired;
		}
		row.voices.push(voice);
		row.stale = true;
		this.note(voice);
		return voice;
	}

	startLocked(placed, position, joined) {
		const voice = new OpenLocked(placed, position, this.visit, joined);
		this.row(placed.row).locked.push(voice);
		this.locked.add(voice);
		this.note(voice);
	}

	closeLocked(voice, moment, ended) {
		voice.close(moment, ended);
		this.dropLocked(voice);
	}

	dropLocked(voice) {
		const { clip, row } = voice.placed;
		voice.open = false;
		this.locked.delete(voice);
		const others = (voices) => voices.filter((other) => other !== voice);
		this.row(row).locked = others(this.row(row).locked);
		this.bySound.set(clip.sound, others(this.bySound.get(clip.sound) || []));
	}

	wait(row, waiting) {
		if (!row.waiting.length) {
			row.stale = true;
			this.waitingRows.add(row);
		}
		row.waiting.push(waiting);
	}

	take(row, waiting) {
		row.waiting = row.waiting.filter((other) => other !== waiting);
		row.stale = true;
		if (!row.waiting.length) this.waitingRows.delete(row);
	}

	say(kind, placed, visit = this.visit) {
		this.events.push({ at: this.time, kind, ...placed.anchor, until: null, visit });
	}

	addStretch(at, frame, shown, stands, late = 0) {
		const { visit, stretches } = this;
		const before = stretches[stretches.length - 1];
		if (before && !stands && before.visit === visit && before.shown === shown && !before.late) {
			stretches[stretches.length - 1] = { ...before, length: before.length + 1, late };
		} else {
			stretches.push({ at, visit, frame, length: 1, shown, stands, late });
		}
	}

	leaveAt(last) {
		const place = this.visits.length - 1;
		this.visits[place] = { ...this.visits[place], end: this.time, last };
	}

	isOver(voice) {
		return voice instanceof OpenLocked ? !voice.open : voice.over(this.startedTo);
	}

	/** Let go of what is over: it is heard no more, and nothing depends on it. */
	forget(since) {
		this.voices = this.voices.filter((voice) => !this.isOver(voice));
		for (const [sound, voices] of this.bySound) {
			const left = voices.filter((voice) => !this.isOver(voice));
			if (left.length) this.bySound.set(sound, left);
			else this.bySound.delete(sound);
		}
		for (const row of this.rows.values()) row.latestEnd(this.startedTo);
		this.events = this.standing ? [this.events[this.standing.place]] : [];
		if (this.standing) this.standing = { ...this.standing, place: 0 };
		// Of glides given before, the last of each value.
		const last = new Map();
		const recent = this.glides.filter((glide) => glide.at >= since);
		for (const glide of this.glides) {
			if (glide.at >= since) continue;
			last.delete(glide.value);
			last.set(glide.value, glide);
		}
		this.glides = [...last.values(), ...recent];
		const visits = [this.visit - 1, ...this.voices.map((voice) => voice.visit)];
		for (const row of this.waitingRows) visits.push(...row.waiting.map((each) => each.visit));
		const first = Math.max(this.firstVisit, Math.min(...visits));
		this.visits = this.visits.slice(first - this.firstVisit);
		this.stretches = this.stretches.filter((stretch) => stretch.visit >= first);
		this.firstVisit = first;
	}

	/** The state as it is now, whatever becomes of this one. */
	kept() {
		const made = Object.assign(new State(), this);
		const copies = new Map();
		const copy = (voice) => {
			if (!copies.has(voice)) copies.set(voice, this.isOver(voice) ? voice : voice.copy());
			return copies.get(voice);
		};
		const copyWaiting = (waiting) => {
			if (!copies.has(waiting)) {
				const other = new Waiting(waiting.placed, waiting.visit);
				if (waiting.voice) other.voice = copy(waiting.voice);
				copies.set(waiting, other);
			}
			return copies.get(waiting);
		};
		made.rows = new Map();
		for (const [key, row] of this.rows) {
			const other = Object.assign(new Row(key), row);
			other.voices = row.voices.map(copy);
			other.locked = row.locked.map(copy);
			other.waiting = row.waiting.map(copyWaiting);
			made.rows.set(key, other);
		}
		made.waitingRows = new Set(Array.from(this.waitingRows, (row) => made.rows.get(row.key)));
		made.locked = new Set(Array.from(this.locked, copy));
		made.voices = this.voices.map(copy);
		made.bySound = new Map();
		for (const [sound, voices] of this.bySound) made.bySound.set(sound, voices.map(copy));
		if (this.standing) {
			const holds = this.standing.holds.map((hold) =>
				hold instanceof Waiting ? copyWaiting(hold) : copy(hold));
			made.standing = { ...this.standing, holds };
		}
		for (const name of ["presses", "events", "visits", "stretches", "glides"]) {
			made[name] = this[name].slice();
		}
		for (const name of ["gliding", "draws", "drawn"]) made[name] = new Map(this[name]);
		for (const name of ["inside", "holding"]) made[name] = new Set(this[name]);
		return made;
	}
}
