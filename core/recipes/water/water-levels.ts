import * as yup from 'yup';
import type { ReadingColumn } from '../../datasets/readings';
import { fail } from '../../problem';
import { hydrographs, levelAt, type When } from '../../water/levels';
import { likelyColumn, refuseColumn } from '../grids/gridded';
import { numbersIn, productOfReadings, readingsIn, textsIn } from '../opened';
import { columnOf, dayNumber, dayPerhaps, numberFrom, oneOfWords } from '../parameters';
import { recipe, theOne } from '../recipe';
import { READINGS } from '../roles';

interface Levels {
	well: string;
	date: string;
	column: string;
	measures: 'depth' | 'elevation';
	when: 'day' | 'month' | 'period' | 'all' | 'last';
	day: string;
	from: string;
	to: string;
	less: string;
	reach: number;
	outliers: 'out' | 'in';
	threshold: number;
	least: number;
}

const is = (...words: string[]) => ({ when: { parameter: 'when', is: words } });

/** Level of each well at a time, from levels with dates. */
export const waterLevels = recipe<Levels>({
	id: 'water-levels',
	title: 'Water levels at a time',
	about: 'Places: the level of each well on a day, in a month or a period, as depth and as elevation; readings that stand out are named.',
	version: 1,
	previews: true,
	form: 'places',
	roles: { readings: { ...READINGS, title: 'Levels', prefers: ['levels'] } },
	parameters: yup
		.object({
			well: columnOf('readings', 'Well', ['text']),
			date: columnOf('readings', 'Date', ['date', 'number']),
			column: columnOf('readings', 'Level'),
			measures: oneOfWords('It is', { depth: 'depth below the collar', elevation: 'elevation' }, 'depth'),
			when: oneOfWords(
				'When',
				{ day: 'on a day', month: 'mean of a month', period: 'mean of a period', all: 'mean of all', last: 'last reading' },
				'all'
			),
			day: dayPerhaps('Day', { ...is('day', 'month'), help: 'Of a month any day of it.' }),
			from: dayPerhaps('From', is('period')),
			to: dayPerhaps('To', is('period')),
			less: dayPerhaps('Less that of', { ...is('day', 'month'), help: 'The difference from another day or month, where one is given.' }),
			reach: numberFrom('Readings within', 45, 0, 3660, {
				...is('day'),
				unit: 'days',
				help: 'Of the day; between two readings it is straight.'
			}),
			outliers: oneOfWords('Readings that stand out', { out: 'are left out', in: 'count' }, 'out'),
			threshold: numberFrom('Stands out at', 6, 1, 100, { help: 'Times the usual distance from what the readings before and after tell.' }),
			least: numberFrom('and by', 0.5, 0, 1e4, { unit: 'length' })
		})
		.noUnknown() as never,
	suggest(inputs) {
		const rows = theOne(inputs, 'readings').rows;
		const has = (key: string) => rows?.columns.some((c) => c.key === key) ?? false;
		return {
			well: has('hole') ? 'hole' : likelyColumn(rows, 'text'),
			date: has('date') ? 'date' : likelyColumn(rows, 'date'),
			column: has('waterDepth') ? 'waterDepth' : has('elevation') ? 'elevation' : likelyColumn(rows),
			measures: has('waterDepth') || !has('elevation') ? 'depth' : 'elevation',
			when: 'all'
		};
	},
	refuse(inputs, p) {
		const given = theOne(inputs, 'readings');
		refuseColumn(given, p.well, ['text'], 'well');
		refuseColumn(given, p.date, ['date', 'number'], 'date');
		refuseColumn(given, p.column, ['number']);
		if (['day', 'month'].includes(p.when) && !p.day) fail('no-day', 'no day is given', 'Type one, or take the mean of all.', 'day');
		if (p.when === 'period' && (!p.from || !p.to)) fail('no-day', 'a period needs its first and its last day', 'Type both.', 'from');
		if (p.when === 'period' && p.from > p.to) fail('no-day', 'the period ends before it begins', 'Swap the days.', 'to');
	},
	run(inputs, p, { project }) {
		const given = theOne(inputs, 'readings');
		const r = readingsIn(given);
		const own = hydrographs(textsIn(given, r, p.well), numbersIn(given, r, p.date), numbersIn(given, r, p.column), p);
		if (own.length === 0)
			fail('no-readings', `no row of ${given.name} has a date and a level`, 'Choose other columns, or see under Check.', 'column');
		const monthOf = (day: string): When => {
			const [year, month] = day.split('-').map(Number) as [number, number];
			return { when: 'period', from: Date.UTC(year, month - 1, 1) / 86_400_000, to: Date.UTC(year, month, 1) / 86_400_000 - 1 };
		};
		const at = (day: string): When => (p.when === 'month' ? monthOf(day) : { when: 'day', day: dayNumber(day), reach: p.reach });
		const time: When =
			p.when === 'all' || p.when === 'last'
				? { when: p.when }
				: p.when === 'period'
					? { when: 'period', from: dayNumber(p.from), to: dayNumber(p.to) }
					: at(p.day);
		const difference = p.less && (p.when === 'day' || p.when === 'month') ? at(p.less) : null;
		const withOut = p.outliers === 'in';
		const found = own.flatMap((h) => {
			const level = levelAt(h, time, withOut);
			const before = difference ? levelAt(h, difference, withOut) : null;
			if (Number.isNaN(level.value) || (before && Number.isNaN(before.value))) return [];
			const k = h.rows[0]!;
			const collar = p.measures === 'depth' ? r.z[k]! : NaN;
			const ground = r.z[k]!;
			const elevation = p.measures === 'depth' ? collar - level.value : level.value;
			const depth = p.measures === 'depth' ? level.value : ground - level.value;
			// A level that rises is a difference above 0, however it is measured.
			const rise = before ? (p.measures === 'depth' ? before.value - level.value : level.value - before.value) : NaN;
			return [{ h, k, depth, elevation, rise, count: level.count, out: h.outlier.reduce((a, b) => a + b, 0) }];
		});
		const left = own.length - found.length;
		if (found.length === 0)
			fail(
				'no-readings',
				'no well has a reading at that time',
				'Take another time, or let readings count that are farther from the day.',
				p.when === 'period' ? 'from' : 'day'
			);
		const unit = project.lengthUnit;
		const number = (key: string, label: string, of: (f: (typeof found)[number]) => number, u = unit): ReadingColumn => ({
			key,
			label,
			type: 'number',
			unit: u,
			values: Float64Array.from(found, of)
		});
		const stand = own.flatMap((h) =>
			h.rows.flatMap((row, k) =>
				h.outlier[k]
					? [
							{
								well: h.well,
								row: r.row[row]! + 1,
								date: new Date(h.days[k]! * 86_400_000).toISOString().slice(0, 10),
								level: h.values[k]!
							}
						]
					: []
			)
		);
		const above = found.filter((f) => f.depth < 0).map((f) => f.h.well);
		return productOfReadings(
			{
				rowCount: found.length,
				row: Uint32Array.from(found, (f) => r.row[f.k]!),
				x: Float64Array.from(found, (f) => r.x[f.k]!),
				y: Float64Array.from(found, (f) => r.y[f.k]!),
				z: Float64Array.from(found, (f) => f.elevation),
				columns: [
					{ key: 'well', label: 'Well', type: 'text', values: found.map((f) => f.h.well) },
					number('elevation', 'Elevation of the water', (f) => f.elevation),
					number('depth', 'Depth to water', (f) => f.depth),
					...(difference ? [number('rise', 'Rise', (f) => f.rise)] : []),
					number('readings', 'Readings', (f) => f.count, ''),
					number('standOut', 'Stand out', (f) => f.out, '')
				]
			},
			{
				wells: found.length,
				...(left ? { withoutLevel: left } : {}),
				standOut: stand,
				...(above.length
					? {
							finding: `the water of ${above.length === 1 ? `well ${above[0]}` : `${above.length} wells`} stands above the ground${above.length > 1 ? `: ${above.slice(0, 8).join(', ')}${above.length > 8 ? ' …' : ''}` : ''}`
						}
					: {}),
				words: `Levels of ${given.name}, ${p.when === 'all' ? 'mean of all readings' : p.when === 'last' ? 'last reading' : p.when === 'period' ? `mean from ${p.from} to ${p.to}` : `${p.when === 'month' ? 'month of' : 'on'} ${p.day}`}${difference ? ` less ${p.less}` : ''}; readings that stand out ${withOut ? 'count' : 'are left out'}.`
			}
		);
	}
});
