/** A colour as lightness and two opponent axes of Oklab (Ottosson 2020). */
type Lab = readonly [number, number, number];

const toLinear = (v: number): number => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4);
const fromLinear = (v: number): number => (v <= 0.0031308 ? 12.92 * v : 1.055 * v ** (1 / 2.4) - 0.055);

function labOfLinear([r, g, b]: readonly [number, number, number]): Lab {
	const l = Math.cbrt(0.4122214708 * r + 0.5363325363 * g + 0.0514459929 * b);
	const m = Math.cbrt(0.2119034982 * r + 0.6806995451 * g + 0.1073969566 * b);
	const s = Math.cbrt(0.0883024619 * r + 0.2817188376 * g + 0.6299787005 * b);
	return [
		0.2104542553 * l + 0.793617785 * m - 0.0040720468 * s,
		1.9779984951 * l - 2.428592205 * m + 0.4505937099 * s,
		0.0259040371 * l + 0.7827717662 * m - 0.808675766 * s
	];
}

/** @returns linear parts of red, green and blue; outside of 0 to 1 where a screen can not show it */
function linearOfLab([L, a, b]: Lab): [number, number, number] {
	const l = (L + 0.3963377774 * a + 0.2158037573 * b) ** 3;
	const m = (L - 0.1055613458 * a - 0.0638541728 * b) ** 3;
	const s = (L - 0.0894841775 * a - 1.291485548 * b) ** 3;
	return [
		4.0767416621 * l - 3.3077115913 * m + 0.2309699292 * s,
		-1.2684380046 * l + 2.6097574011 * m - 0.3413193965 * s,
		-0.0041960863 * l - 0.7034186147 * m + 1.707614701 * s
	];
}

const linearOfHex = (hex: string) =>
	[1, 3, 5].map((i) => toLinear(parseInt(hex.slice(i, i + 2), 16) / 255)) as unknown as [number, number, number];
const hexOfLinear = (c: readonly number[]): string =>
	`#${c
		.map((v) =>
			Math.round(255 * fromLinear(Math.min(1, Math.max(0, v))))
				.toString(16)
				.padStart(2, '0')
		)
		.join('')}`;

/** How the two common kinds of colour-blind readers see linear colours (Viénot, Brettel & Mollon 1999). */
const SEEN_BY = [
	[0.11238, 0.88762, 0, 0.11238, 0.88762, 0, 0.00401, -0.00401, 1],
	[0.29275, 0.70725, 0, 0.29275, 0.70725, 0, -0.02234, 0.02234, 1]
] as const;
const seen = (m: (typeof SEEN_BY)[number], [r, g, b]: readonly [number, number, number]): [number, number, number] => [
	m[0] * r + m[1] * g + m[2] * b,
	m[3] * r + m[4] * g + m[5] * b,
	m[6] * r + m[7] * g + m[8] * b
];

/** How a colour looks to all three kinds of readers. */
const looks = (linear: readonly [number, number, number]): Lab[] => [
	labOfLinear(linear),
	...SEEN_BY.map((m) => labOfLinear(seen(m, linear).map((v) => Math.max(0, v)) as [number, number, number]))
];
const apart = (p: Lab, q: Lab): number => Math.hypot(p[0] - q[0], p[1] - q[1], p[2] - q[2]);
const leastApart = (p: Lab[], q: Lab[]): number => Math.min(...p.map((l, i) => apart(l, q[i]!)));

/** How far two colours are apart for the reader who tells them apart worst; in Oklab, where black and white are 1 apart. */
export const colorsApart = (a: string, b: string): number => leastApart(looks(linearOfHex(a)), looks(linearOfHex(b)));

/** Hues (degrees in Oklab) and lightness that maps give to kinds of rock, by words that name them. */
const ROCKS: [RegExp, number, number][] = [
	[/peat|coal|lignite|humus|topsoil|organic/i, 60, 0.42],
	[/till|moraine|diamict|drift|colluv|talus|fill|made ground|waste/i, 75, 0.72],
	[/gravel|cobble|conglom|breccia/i, 55, 0.74],
	[/sand|arenit|arkose|quartz/i, 92, 0.84],
	[/silt|loess|loam/i, 100, 0.78],
	[/clay|mud|marl|shale|slate|phyllit|argill/i, 155, 0.66],
	[/lime|dolom|carbon|chalk|marble|calc/i, 235, 0.76],
	[/salt|halit|gyps|anhydr|evapor/i, 320, 0.8],
	[/granit|syenit|aplit|pegmat|rhyol|felsic|porphyr/i, 10, 0.68],
	[/dior|tonalit|andesit|dacit|intermed/i, 340, 0.62],
	[/basalt|gabbro|doler|diabas|mafic|dyke|dike|sill|amphibol|green/i, 300, 0.48],
	[/gneis|schist|migmat|basement/i, 20, 0.56],
	[/tuff|ash|volcan|lava|ignimbr/i, 125, 0.76],
	[/skarn|ore|vein|miner|lode|sulph|sulf/i, 35, 0.55]
];

const CANDIDATES = (() => {
	const list: { hex: string; looks: Lab[]; hue: number; lightness: number }[] = [];
	for (const lightness of [0.56, 0.63, 0.7, 0.77, 0.84, 0.9])
		for (const chroma of [0.03, 0.06, 0.09])
			for (let hue = 0; hue < 360; hue += 15) {
				const angle = ((hue + (chroma === 0.06 ? 7.5 : 0)) * Math.PI) / 180;
				const linear = linearOfLab([lightness, chroma * Math.cos(angle), chroma * Math.sin(angle)]);
				if (linear.every((v) => v >= 0 && v <= 1)) list.push({ hex: hexOfLinear(linear), looks: looks(linear), hue, lightness });
			}
	return list;
})();

/** Distance from which on two neighbours are told apart at a glance; more of it gains little. */
const ENOUGH = 0.2;
const CLEARLY = 0.13;

/**
 * Muted colours for units in the order of their column: each far from those of its neighbours, also for colour-blind readers, and
 * as far as that allows from all others and near to what maps give to the rock that its name speaks of.
 * @param units names youngest first; a unit that has a colour keeps it
 */
export function unitColors(units: readonly { name: string; color?: string | undefined }[]): string[] {
	const given = units.map((u) => (u.color ? looks(linearOfHex(u.color)) : null));
	const colors = units.map((u) => u.color ?? '');
	units.forEach((u, i) => {
		if (u.color) return;
		const rock = ROCKS.find(([words]) => words.test(u.name));
		let [best, most] = [CANDIDATES[0]!, -Infinity];
		for (const c of CANDIDATES) {
			let score = 0;
			if (rock) {
				const turn = Math.abs(((c.hue - rock[1] + 540) % 360) - 180) / 180;
				score -= 0.25 * turn + 0.25 * Math.abs(c.lightness - rock[2]);
			}
			let nearest = Infinity;
			given.forEach((g, k) => {
				if (!g) return;
				const d = leastApart(c.looks, g);
				// A neighbour must differ clearly, whatever it costs; one far away in the column may be nearer.
				if (Math.abs(k - i) <= 1) score -= 10 * Math.max(0, CLEARLY - d);
				nearest = Math.min(nearest, d * (Math.abs(k - i) <= 1 ? 1 : Math.abs(k - i) <= 3 ? 1.6 : 2.4));
			});
			score += 2 * Math.min(nearest, ENOUGH) + 0.05 * Math.min(nearest, 1);
			if (score > most) [best, most] = [c, score];
		}
		given[i] = best.looks;
		colors[i] = best.hex;
	});
	return colors;
}
