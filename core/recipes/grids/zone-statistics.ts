import * as yup from 'yup';
import type { Feature } from 'geojson';
import { frameBox, requireOverlap } from '../../grids/frame';
import { insideOf } from '../../grids/mask';
import { resample } from '../../grids/resample';
import { zoneStatistics, type ZoneStatistics } from '../../grids/zones';
import { fail } from '../../problem';
import { featuresOf, gridOf, productOfReadings } from '../opened';
import { numberFrom, textOf } from '../parameters';
import { playing, recipe, theOne } from '../recipe';
import { GRID, LINES, perhapsOf } from '../roles';

const MOST_ZONES = 2000;

/** What a grid is like within faces, or within the classes of another grid. */
export const zoneTable = recipe<{ name: string; width: number }>({
	id: 'zone-statistics',
	title: 'Statistics by zones',
	about: 'A table: least, greatest, mean, median, spread and sum of a grid within each face of a layer, or each class of another grid.',
	version: 1,
	form: 'table',
	roles: { grid: GRID, faces: perhapsOf(LINES, 'Faces'), classes: perhapsOf(GRID, 'or classes of') },
	parameters: yup
		.object({
			name: textOf('Named by', '', {
				whenRole: { role: 'faces', played: true },
				help: 'Property of the faces; those with the same one are one zone.'
			}),
			width: numberFrom('Width of a class', 1, 1e-9, 1e9, { whenRole: { role: 'classes', played: true } })
		})
		.noUnknown() as never,
	refuse(inputs) {
		if (playing(inputs, 'faces').length + playing(inputs, 'classes').length !== 1)
			fail('input-missing', 'zones are either faces or the classes of a grid', 'Choose one of the two.', 'faces');
	},
	run(inputs, { name, width }) {
		const given = theOne(inputs, 'grid');
		const r = gridOf(given);
		const zones = new Int32Array(r.values.length).fill(-1);
		const names: string[] = [];
		const numberOf = (zone: string): number => {
			const known = names.indexOf(zone);
			if (known < 0 && names.length >= MOST_ZONES)
				fail('too-many-zones', `there are more than ${MOST_ZONES} zones`, 'Take wider classes, or another name.', 'width');
			return known >= 0 ? known : names.push(zone) - 1;
		};
		let doubled = 0;
		const faces = playing(inputs, 'faces')[0];
		if (faces) {
			const features = featuresOf(faces);
			features.forEach((f, i) => {
				const inside = insideOf([f], r);
				if (!inside) return;
				const zone = numberOf(wordsOf(f, name) ?? String(i + 1));
				inside.forEach((yes, k) => {
					if (!yes) return;
					if (zones[k]! >= 0 && zones[k] !== zone) doubled++;
					else zones[k] = zone;
				});
			});
			if (names.length === 0) fail('no-face', `${faces.name} holds no face and no closed line`, 'Choose one with faces.', 'faces');
		} else {
			const other = theOne(inputs, 'classes');
			const o = gridOf(other);
			requireOverlap(frameBox(r), frameBox(o), [given.name, other.name], 'classes');
			const found = resample(o, r, 'nearest').values;
			const classes = [...new Set(Array.from(found, (v) => (Number.isFinite(v) ? Math.floor(v / width) : NaN)))]
				.filter(Number.isFinite)
				.sort((a, b) => a - b);
			const word = (c: number) =>
				width === 1 ? String(c) : `${Number((c * width).toPrecision(9))} to ${Number(((c + 1) * width).toPrecision(9))}`;
			classes.forEach((c) => numberOf(word(c)));
			const at = new Map(classes.map((c, i) => [c, i]));
			found.forEach((v, k) => {
				if (Number.isFinite(v)) zones[k] = at.get(Math.floor(v / width))!;
			});
		}
		const table = zoneStatistics(r.values, zones, names, Math.abs(r.dx * r.dy));
		const number = (key: Exclude<keyof ZoneStatistics, 'zone'>) => ({
			key,
			label: key,
			type: 'number' as const,
			unit: '',
			values: Float64Array.from(table, (t) => t[key])
		});
		const none = () => new Float64Array(table.length).fill(NaN);
		return productOfReadings(
			{
				rowCount: table.length,
				row: Uint32Array.from(table, (_, i) => i),
				x: none(),
				y: none(),
				z: none(),
				columns: [
					{ key: 'zone', label: 'zone', type: 'text', values: names },
					...(['count', 'area', 'least', 'greatest', 'mean', 'median', 'deviation', 'sum'] as const).map(number)
				]
			},
			{ zones: table, ...(doubled ? { doubled } : {}), words: `${given.name} within ${(faces ?? theOne(inputs, 'classes')).name}.` }
		);
	}
});

/** The value of a property, or of the first that looks like a name; null without any. */
function wordsOf(f: Feature, name: string): string | null {
	const p = f.properties ?? {};
	const key = name && Object.hasOwn(p, name) ? name : ['name', 'unit', 'id', 'value'].find((k) => Object.hasOwn(p, k));
	return key && p[key] !== null && p[key] !== '' ? String(p[key]) : null;
}
