import * as yup from 'yup';
import { fail } from '../problem';
import { proposeColumn } from '../units/propose-column';
import { likelyCodes, refuseColumn } from './grids/gridded';
import { runsIn } from './holes-of-readings';
import { productOfReadings } from './opened';
import { columnOf } from './parameters';
import { recipe, theOne } from './recipe';
import { READINGS } from './roles';

const MOST_CODES = 400;
const MOST_NAMED = 30;

/** The order of the codes of a log with the evidence of its holes, as a proposal for a column. */
export const orderOfCodes = recipe<{ codes: string }>({
	id: 'order-of-codes',
	title: 'Order of the codes of a log',
	about: 'A table: codes from the youngest to the oldest with the kind of contact below each, how many holes say so, and which contradict.',
	version: 1,
	form: 'table',
	roles: { log: { ...READINGS, title: 'Log', prefers: ['intervals'] } },
	parameters: yup.object({ codes: columnOf('log', 'Codes', ['text']) }).noUnknown() as never,
	suggest: (inputs) => ({ codes: likelyCodes(theOne(inputs, 'log').rows) }),
	refuse: (inputs, { codes }) => refuseColumn(theOne(inputs, 'log'), codes, ['text'], 'codes'),
	run(inputs, { codes }) {
		const log = theOne(inputs, 'log');
		const holes = runsIn(log, codes);
		const found = new Map<string, { holes: Set<string>; length: number }>();
		for (const { hole, runs } of holes)
			for (const { name, from, to } of runs) {
				const own = found.get(name) ?? { holes: new Set(), length: 0 };
				own.holes.add(hole);
				own.length += to - from;
				found.set(name, own);
			}
		if (found.size === 0) fail('nothing-logged', `no row of ${log.name} has a code and two depths`, 'Choose another column.', 'codes');
		if (found.size > MOST_CODES)
			fail(
				'too-many-codes',
				`${found.size} codes are more than ${MOST_CODES}`,
				'Lump them first: a version of the log with fewer.',
				'codes'
			);
		const { units, evidence, contradicting } = proposeColumn(holes.map(({ hole, runs }) => ({ hole, units: runs.map((r) => r.name) })));
		const none = () => new Float64Array(units.length).fill(NaN);
		const number = (key: string, label: string, of: (i: number) => number, unit = '') => ({
			...{ key, label, type: 'number' as const, unit },
			values: Float64Array.from(units, (_, i) => of(i))
		});
		const text = (key: string, label: string, values: string[]) => ({ key, label, type: 'text' as const, values });
		const unit = log.rows?.columns.find((c) => c.key === 'to')?.unit ?? '';
		return productOfReadings(
			{
				rowCount: units.length,
				row: Uint32Array.from(units, (_, i) => i),
				...{ x: none(), y: none(), z: none() },
				columns: [
					text(
						'code',
						'Code',
						units.map((u) => u.unit)
					),
					text(
						'contact',
						'Contact below',
						units.map((u) => u.contact)
					),
					number('holes', 'Holes', (i) => found.get(units[i]!.unit)!.holes.size),
					number('length', 'Logged', (i) => found.get(units[i]!.unit)!.length, unit),
					number('above', 'Holes with it above the next', (i) => evidence[i]?.holes ?? NaN),
					number('against', 'Holes with it below the next', (i) => evidence[i]?.against.length ?? NaN),
					text(
						'contradict',
						'These contradict',
						units.map((_, i) => evidence[i]?.against.slice(0, MOST_NAMED).join(', ') ?? '')
					)
				]
			},
			{
				codes: units.length,
				holes: holes.length,
				contradicting: contradicting.length,
				...(contradicting.length
					? {
							finding: `${contradicting.length} of ${holes.length} holes contradict the order of codes: ${contradicting.slice(0, 8).join(', ')}${contradicting.length > 8 ? ' …' : ''}`
						}
					: {}),
				words: `The order of codes of ${log.name} that breaks the fewest of what holes say.`
			}
		);
	}
});
