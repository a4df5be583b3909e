/** Seeded random numbers (mulberry32): the same seed gives the same sequence everywhere. */
export function seededRandom(seed: number): { uniform(): number; normal(): number } {
	let a = seed >>> 0;
	const uniform = () => {
		a = (a + 0x6d2b79f5) >>> 0;
		let t = Math.imul(a ^ (a >>> 15), 1 | a);
		t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
		return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
	};
	return {
		uniform,
		/** Standard normal by Box and Muller (1958). */
		normal: () => Math.sqrt(-2 * Math.log(1 - uniform())) * Math.cos(2 * Math.PI * uniform())
	};
}
