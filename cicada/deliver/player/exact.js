// Exact numbers: what decides when, or which, is never rounded.

/** Numerator and denominator (10^n) of a decimal text such as "2.005" or "1e-05". */
function decimalRatio(text) {
	const found = /^(-?)(\d+)(?:\.(\d+))?(?:e([+-]?\d+))?$/.exec(String(text));
	if (!found) throw new Error("“" + text + "” is no number");
	const [, sign, whole, part = "", power = "0"] = found;
	let numerator = BigInt(whole + part);
	let denominator = 1n;
	const places = Number(power) - part.length;
	if (places >= 0) numerator *= 10n ** BigInt(places);
	else denominator = 10n ** BigInt(-places);
	return [sign ? -numerator : numerator, denominator];
}

/** Seconds, as a decimal text, in samples at a rate; halves go up. */
function toSamples(text, rate) {
	const [numerator, denominator] = decimalRatio(text);
	return Number((2n * numerator * BigInt(rate) + denominator) / (2n * denominator));
}

/** Whole numbers divided, whose result goes down also where it is below 0. */
function floorDivBig(a, b) {
	const whole = a / b;
	return a % b < 0n ? whole - 1n : whole;
}

/** A rational number. */
class Ratio {
	constructor(numerator, denominator = 1n) {
		let a = numerator < 0n ? -numerator : numerator;
		let b = denominator;
		while (b) [a, b] = [b, a % b];
		this.n = a > 1n ? numerator / a : numerator;
		this.d = a > 1n ? denominator / a : denominator;
	}

	static of(number) {
		return new Ratio(BigInt(number));
	}

	static text(text) {
		return new Ratio(...decimalRatio(text));
	}

	plus(other) {
		return new Ratio(this.n * other.d + other.n * this.d, this.d * other.d);
	}

	minus(other) {
		return new Ratio(this.n * other.d - other.n * this.d, this.d * other.d);
	}

	times(other) {
		return new Ratio(this.n * other.n, this.d * other.d);
	}

	/** Divided by one above 0. */
	over(other) {
		return new Ratio(this.n * other.d, this.d * other.n);
	}

	/** Below 0, 0 or above 0, as this is less than, equal to or more than the other. */
	compare(other) {
		const difference = this.n * other.d - other.n * this.d;
		return difference < 0n ? -1 : difference > 0n ? 1 : 0;
	}

	within(low, high) {
		if (this.compare(low) < 0) return low;
		return this.compare(high) > 0 ? high : this;
	}

	/** The nearest whole number of 2^-32; halves go up. */
	grained() {
		const grain = 1n << 32n;
		return new Ratio(floorDivBig(2n * this.n * grain + this.d, 2n * this.d), grain);
	}

	/** As a number; of a whole number of 2^-32 the nearest there is. */
	number() {
		return Number(this.n) / Number(this.d);
	}
}

/** Frames against samples. */
class Timebase {
	constructor(fps, rate) {
		[this.num, this.den] = fps;
		this.rate = rate;
	}

	/** The sample, in the scene's own time, at which a frame starts. */
	start(frame) {
		const { num, den, rate } = this;
		const top = 2 * frame * rate * den + num;
		if (top < 2 ** 53) return Math.floor(top / (2 * num));
		const exact = 2n * BigInt(frame) * BigInt(rate) * BigInt(den) + BigInt(num);
		return Number(exact / BigInt(2 * num));
	}

	duration(frame) {
		return this.start(frame + 1) - this.start(frame);
	}

	/** The frame that covers a sample of the scene's own time. */
	frameAt(sample) {
		let frame = Math.floor(sample / this.rate * this.num / this.den);
		while (frame > 0 && this.start(frame) > sample) frame -= 1;
		while (this.start(frame + 1) <= sample) frame += 1;
		return frame;
	}

	/** A sample as a place on the axis of frames, in proportion within its frame. */
	position(sample) {
		const frame = this.frameAt(sample);
		return frame + (sample - this.start(frame)) / this.duration(frame);
	}
}

/** A line's points, to be read at any rational place. */
class ExactLine {
	constructor(points) {
		this.places = points.map((point) => Ratio.text(point[0]));
		this.values = points.map((point) => Ratio.text(point[1]));
		this.shapes = points.map((point) => point[2] || "");
	}

	at(place) {
		const { places, values } = this;
		let after = 0;
		while (after < places.length && places[after].compare(place) <= 0) after += 1;
		if (after === 0 || after === places.length) return values[Math.max(0, after - 1)];
		const before = after - 1;
		if (this.shapes[before] === "step") return values[before];
		let x = place.minus(places[before]).over(places[after].minus(places[before]));
		if (this.shapes[before] === "smooth") {
			x = x.times(x).times(Ratio.of(3).minus(Ratio.of(2).times(x)));
		}
		return values[before].plus(x.times(values[after].minus(values[before])));
	}
}

/** From a number up to another, which belongs to it only if the value goes no higher. */
class ExactRange {
	constructor([low, high], highest) {
		this.low = Ratio.text(low);
		this.high = Ratio.text(high);
		this.closed = this.high.compare(Ratio.text(highest)) === 0;
	}

	has(number) {
		const below = number.compare(this.high);
		return number.compare(this.low) >= 0 && (below < 0 || (this.closed && below === 0));
	}
}
