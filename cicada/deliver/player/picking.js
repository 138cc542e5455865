// Which part of a pool is drawn. BLAKE2b: RFC 7693, here unkeyed and of 8 bytes.

const BLAKE_START = [
	0x6a09e667f3bcc908n, 0xbb67ae8584caa73bn, 0x3c6ef372fe94f82bn, 0xa54ff53a5f1d36f1n,
	0x510e527fade682d1n, 0x9b05688c2b3e6c1fn, 0x1f83d9abfb41bd6bn, 0x5be0cd19137e2179n,
];
const BLAKE_ORDER = [
	"0123456789abcdef", "ea489fd61c02b753", "b8c052fdae367194", "7931dcbe265a40f8",
	"905724afe1bc683d", "2c6a0b834d75fe19", "c51fed4a0763928b", "db7ec13950f4862a",
	"6fe9b308c2d714a5", "a2847615fb9e3cd0", "0123456789abcdef", "ea489fd61c02b753",
].map((row) => Array.from(row, (digit) => parseInt(digit, 16)));
const BLAKE_COLUMNS = [
	[0, 4, 8, 12], [1, 5, 9, 13], [2, 6, 10, 14], [3, 7, 11, 15],
	[0, 5, 10, 15], [1, 6, 11, 12], [2, 7, 8, 13], [3, 4, 9, 14],
];
const WORD = (1n << 64n) - 1n;

function turned(word, bits) {
	return (word >> bits) | ((word << (64n - bits)) & WORD);
}

function compress(hash, block, counted, last) {
	const v = [...hash, ...BLAKE_START];
	v[12] ^= BigInt(counted);
	if (last) v[14] ^= WORD;
	for (const order of BLAKE_ORDER) {
		BLAKE_COLUMNS.forEach(([a, b, c, d], column) => {
			const first = block[order[2 * column]];
			const second = block[order[2 * column + 1]];
			v[a] = (v[a] + v[b] + first) & WORD;
			v[d] = turned(v[d] ^ v[a], 32n);
			v[c] = (v[c] + v[d]) & WORD;
			v[b] = turned(v[b] ^ v[c], 24n);
			v[a] = (v[a] + v[b] + second) & WORD;
			v[d] = turned(v[d] ^ v[a], 16n);
			v[c] = (v[c] + v[d]) & WORD;
			v[b] = turned(v[b] ^ v[c], 63n);
		});
	}
	for (let i = 0; i < 8; i += 1) hash[i] ^= v[i] ^ v[i + 8];
}

/** The 8 bytes of BLAKE2b of a text's UTF-8, as a big-endian whole number. */
function blake2b(text) {
	const bytes = new TextEncoder().encode(text);
	const hash = BLAKE_START.slice();
	hash[0] ^= 0x01010008n;
	const blocks = Math.max(1, Math.ceil(bytes.length / 128));
	for (let number = 0; number < blocks; number += 1) {
		const padded = new Uint8Array(128);
		const end = Math.min(bytes.length, 128 * (number + 1));
		padded.set(bytes.subarray(128 * number, end));
		const view = new DataView(padded.buffer);
		const block = Array.from({ length: 16 }, (_, i) => view.getBigUint64(8 * i, true));
		compress(hash, block, end, number === blocks - 1);
	}
	const view = new DataView(new ArrayBuffer(8));
	view.setBigUint64(0, hash[0], true);
	return view.getBigUint64(0, false);
}

/** Where, from 0 to 1, the draw number `draw` of `who` falls. */
function drawnAt(seed, pool, who, draw) {
	return new Ratio(blake2b(seed + "/" + pool + "/" + who + "/" + draw), 1n << 64n);
}

/** The first place whose running sum of weights, of all of them, is above `at`. */
function picked(weights, at) {
	const nothing = Ratio.of(0);
	const wanted = at.times(weights.reduce((sum, weight) => sum.plus(weight), nothing));
	let running = nothing;
	for (let place = 0; place < weights.length; place += 1) {
		running = running.plus(weights[place]);
		if (running.compare(wanted) > 0) return place;
	}
	return weights.length - 1;
}
