import * as yup from 'yup';
import type { ReadingColumn, Readings } from '../datasets/readings';
import { fail } from '../problem';
import { ageAt, type AgeCurve, type DatedDepth } from '../stratigraphy/age-curve';
import { dateColumns } from '../stratigraphy/date-columns';
import { curveOrWhyNot, datedRow } from '../stratigraphy/hole-ages';
import { unitsByName, type Scheme } from '../units/scheme';
import { likelyCodes, refuseColumn } from './grids/gridded';
import { holesOf, runsIn } from './holes-of-readings';
import { numbersIn, productOfReadings } from './opened';
import { columnPerhaps, textOf } from './parameters';
import { playing, recipe, type Described, type Given } from './recipe';
import { perhapsOf, READINGS } from './roles';

const schemesOf = (inputs: readonly Described[]) => playing(inputs, 'schemes').flatMap((g) => (g.state['schemes'] ?? []) as Scheme[]);
const hasAges = (s: Scheme) => s.units.some((u) => u.top !== null || u.base !== null);

/** Numbers of an input, by what they are called. */
const numbersOf = (g: Described) => g.rows?.columns.filter((c) => c.type === 'number').map((c) => c.key) ?? [];

interface Ages {
	codes: string;
	scheme: string;
}

/** Age–depth curves of holes, as places at their knots or as ages at the rows of a table. */
export const ageCurves = recipe<Ages>({
	id: 'age-curves',
	title: 'Ages of holes',
	about:
		'Places: the age–depth curve of each hole from boundaries with an age in a scheme and from dates, with errors and rates; or the ages at the rows of a table.',
	version: 1,
	form: 'places',
	roles: {
		log: { ...READINGS, title: 'Log', prefers: ['intervals'], least: 0 },
		dates: { ...READINGS, title: 'Dates', least: 0, most: 10 },
		schemes: { title: 'Schemes', kinds: ['schemes'], least: 1, most: 1 },
		at: perhapsOf(READINGS, 'Ages at the rows of')
	},
	parameters: yup
		.object({
			codes: columnPerhaps('log', 'Codes', ['text'], { whenRole: { role: 'log', played: true } }),
			scheme: textOf('Scheme', '', { help: 'Its name. Without one, the first with ages that knows units of the log.' })
		})
		.noUnknown() as never,
	suggest: (inputs) => ({ codes: likelyCodes(playing(inputs, 'log')[0]?.rows) }),
	refuse(inputs, { codes, scheme }) {
		const log = playing(inputs, 'log')[0];
		if (!log && playing(inputs, 'dates').length === 0)
			fail('input-missing', 'nothing is there that dates holes', 'Choose a log whose units have ages, or tables of dates.', 'log');
		if (log && codes) refuseColumn(log, codes, ['text'], 'codes');
		const schemes = schemesOf(inputs);
		if (scheme && !schemes.some((s) => s.name === scheme || s.id === scheme))
			fail('unknown-scheme', `there is no scheme "${scheme}"`, `There are ${schemes.map((s) => s.name).join(', ') || 'none'}.`, 'scheme');
		for (const g of playing(inputs, 'dates'))
			if (g.rows && !dateColumns(numbersOf(g)))
				fail(
					'no-ages',
					`${g.name} has no column of ages`,
					'A column of numbers is called Age…, or two say between which ages a row lies.',
					'dates'
				);
	},
	run(inputs, { codes, scheme: wanted }, { project }) {
		const log = playing(inputs, 'log')[0];
		const runs = log ? runsIn(log, codes || likelyCodes(log.rows)) : [];
		const scheme = wanted
			? schemesOf(inputs).find((s) => s.name === wanted || s.id === wanted)!
			: (schemesOf(inputs).find((s) => {
					const byName = unitsByName(s);
					return hasAges(s) && runs.some((h) => h.runs.some((r) => byName(r.name)));
				}) ?? null);
		const dates = new Map<string, DatedDepth[]>();
		const lines = new PlacesOfHoles();
		for (const g of playing(inputs, 'dates'))
			for (const [hole, own] of datesIn(g, lines)) dates.set(hole, [...(dates.get(hole) ?? []), ...own]);
		if (log) lines.take(log);
		const runsOf = new Map(runs.map((h) => [h.hole, h.runs]));
		const curves: AgeCurve[] = [];
		const without: { hole: string; why: string }[] = [];
		for (const hole of new Set([...runsOf.keys(), ...dates.keys()])) {
			const { curve, problem } = curveOrWhyNot(hole, scheme, runsOf.get(hole) ?? [], dates.get(hole) ?? []);
			if (curve) curves.push(curve);
			else without.push({ hole, why: problem.message });
		}
		if (curves.length === 0)
			fail(
				'nothing-dated',
				'no hole is dated at two depths',
				'Give tables of dates, or a scheme with ages whose units are logged.',
				'dates'
			);
		const report = {
			holes: curves.length,
			without,
			aside: curves.flatMap((c) => c.aside.map((d) => ({ hole: c.hole, depth: d.depth, age: d.age, name: d.name }))),
			words: `Ages ${scheme ? `of boundaries by ${scheme.name}` : 'of dates alone'}, in order down each hole; medians, and the bounds of 90 of 100 draws.`
		};
		const at = playing(inputs, 'at')[0];
		return productOfReadings(at ? agedRows(at, curves) : knotsOf(curves, lines, project.lengthUnit), report);
	}
});

/** Dated depths of a table, by hole. */
function datesIn(g: Given, lines: PlacesOfHoles): Map<string, DatedDepth[]> {
	const { readings, depth, holes } = holesOf(g);
	lines.take(g);
	const columns = dateColumns(readings.columns.flatMap((c) => (c.type === 'number' ? [c.key] : []))) ?? {};
	const of = (key: string | undefined) => (key ? numbersIn(g, readings, key) : null);
	const [age, error, low, high] = [of(columns.age), of(columns.error), of(columns.low), of(columns.high)];
	const words = readings.columns.flatMap((c) => (c.type === 'text' && c.key !== 'hole' ? [c.values] : []));
	const at = (values: Float64Array | null, i: number) => values?.[i] ?? NaN;
	return new Map(
		holes.map(({ hole, rows }) => [
			hole,
			rows.flatMap((i) =>
				datedRow(depth[i]!, words.findLast((w) => w[i])?.[i] ?? g.name, {
					age: at(age, i),
					error: at(error, i),
					low: at(low, i),
					high: at(high, i)
				})
			)
		])
	);
}

/** Where depths of holes lie, as far as rows along them tell: straight between these, and on beyond the last ones. */
class PlacesOfHoles {
	private readonly known = new Map<string, { depth: number; at: readonly [number, number, number] }[]>();

	take(g: Given): void {
		const { readings: r, depth, holes } = holesOf(g);
		const to = r.columns.find((c) => c.key === 'to');
		for (const { hole, rows } of holes) {
			const own = this.known.get(hole) ?? [];
			for (const i of rows) {
				const end = to && to.type !== 'text' ? to.values[i]! : NaN;
				// The place of an interval is its middle.
				if (Number.isFinite(r.x[i]!))
					own.push({ depth: Number.isFinite(end) ? (depth[i]! + end) / 2 : depth[i]!, at: [r.x[i]!, r.y[i]!, r.z[i]!] });
			}
			this.known.set(
				hole,
				own.sort((a, b) => a.depth - b.depth).filter((p, k) => k === 0 || p.depth > own[k - 1]!.depth)
			);
		}
	}

	at(hole: string, depth: number): [number, number, number] {
		const list = this.known.get(hole) ?? [];
		if (list.length === 0) return [NaN, NaN, NaN];
		if (list.length === 1) return [list[0]!.at[0], list[0]!.at[1], list[0]!.at[2] - (depth - list[0]!.depth)];
		const next = list.findIndex((p) => p.depth >= depth);
		const k = next < 0 ? list.length - 1 : Math.max(1, next);
		const [a, b] = [list[k - 1]!, list[k]!];
		const t = (depth - a.depth) / (b.depth - a.depth);
		return [0, 1, 2].map((c) => a.at[c]! + t * (b.at[c]! - a.at[c]!)) as [number, number, number];
	}
}

/** The knots of curves as rows with their places; rates hold from a knot to the next one below. */
function knotsOf(curves: readonly AgeCurve[], lines: PlacesOfHoles, lengthUnit: string): Readings {
	const knots = curves.flatMap((c) => c.knots.map((k, i) => ({ ...k, hole: c.hole, rate: c.rates[i] ?? null })));
	const places = knots.map((k) => lines.at(k.hole, k.depth));
	const perMa = `${lengthUnit}/Ma`;
	const number = (key: string, label: string, unit: string, of: (knot: (typeof knots)[number]) => number): ReadingColumn => ({
		...{ key, label, type: 'number', unit },
		values: Float64Array.from(knots, of)
	});
	return {
		rowCount: knots.length,
		row: Uint32Array.from(knots, (_, i) => i),
		x: Float64Array.from(places, (p) => p[0]),
		y: Float64Array.from(places, (p) => p[1]),
		z: Float64Array.from(places, (p) => p[2]),
		columns: [
			{ key: 'hole', label: 'Hole', type: 'text', values: knots.map((k) => k.hole) },
			number('depth', 'Depth', lengthUnit, (k) => k.depth),
			number('age', 'Age', 'Ma', (k) => k.age),
			number('ageLow', 'Age, 5 of 100', 'Ma', (k) => k.low),
			number('ageHigh', 'Age, 95 of 100', 'Ma', (k) => k.high),
			number('rate', 'Accumulation below', perMa, (k) => k.rate?.rate ?? NaN),
			number('rateLow', 'Accumulation, 5 of 100', perMa, (k) => k.rate?.low ?? NaN),
			number('rateHigh', 'Accumulation, 95 of 100', perMa, (k) => k.rate?.high ?? NaN),
			{ key: 'from', label: 'Dated by', type: 'text', values: knots.map((k) => k.from) },
			{ key: 'name', label: 'Name', type: 'text', values: knots.map((k) => k.name) }
		]
	};
}

/** Rows of a table with the age of each: of an interval that of its middle. */
function agedRows(g: Given, curves: readonly AgeCurve[]): Readings {
	const { readings: r, depth, holes } = holesOf(g);
	const byHole = new Map(curves.map((c) => [c.hole, c]));
	const ends = r.columns.find((c) => c.key === 'to');
	const [age, low, high] = [0, 1, 2].map(() => new Float64Array(r.rowCount).fill(NaN)) as [Float64Array, Float64Array, Float64Array];
	for (const { hole, rows } of holes) {
		const curve = byHole.get(hole);
		if (!curve) continue;
		const bound = (of: 'low' | 'high') => ({ knots: curve.knots.map((k) => ({ ...k, age: k[of] })) });
		for (const i of rows) {
			const to = ends && ends.type !== 'text' ? ends.values[i]! : NaN;
			const at = Number.isFinite(to) ? (depth[i]! + to) / 2 : depth[i]!;
			age[i] = ageAt(curve, at);
			low[i] = ageAt(bound('low'), at);
			high[i] = ageAt(bound('high'), at);
		}
	}
	const column = (key: string, label: string, values: Float64Array): ReadingColumn => ({ key, label, type: 'number', unit: 'Ma', values });
	const mine = ['age', 'ageLow', 'ageHigh'];
	return {
		...r,
		columns: [
			...r.columns.filter((c) => !mine.includes(c.key)),
			column('age', 'Age', age),
			column('ageLow', 'Age, 5 of 100', low),
			column('ageHigh', 'Age, 95 of 100', high)
		]
	};
}
