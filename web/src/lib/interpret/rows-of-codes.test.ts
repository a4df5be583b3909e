import { describe, expect, it } from 'vitest';
import { classes, dataSet } from '$lib/panes/for-tests';
import { newUnit } from './new-unit';
import { rowsOfCodes, sumOfRows } from './rows-of-codes';

const log = dataSet('Log', { columns: [classes('code', ['SST', 'SLT', 'SST'])] });

describe('rows of a log', () => {
	it('are found by their codes', () => {
		expect(rowsOfCodes(log, ['SST'])).toEqual([log.row[0], log.row[2]]);
		expect(rowsOfCodes(log, ['nobody'])).toEqual([]);
		expect(rowsOfCodes(log, [])).toEqual([]);
		expect(rowsOfCodes(null, ['SST'])).toEqual([]);
	});
	it('are summed up by hole, length and code', () => {
		const length = (i: number) => log.to[i]! - log.from[i]!;
		const sum = sumOfRows(log, [log.row[0]!, log.row[1]!]);
		expect(sum).toMatchObject({ rows: 2, length: length(0) + length(1) });
		expect(new Map(sum.codes)).toEqual(
			new Map([
				['SST', length(0)],
				['SLT', length(1)]
			])
		);
		expect(sumOfRows(log, [])).toEqual({ rows: 0, holes: 0, length: 0, codes: [] });
	});
});

describe('a new unit', () => {
	const unit = (id: string) => ({ id, name: id, color: '#808080', contact: 'conformable' as const });
	it('has an id that no other has, whatever it is called', () => {
		expect(newUnit('Grey Sand!', []).id).toBe('grey-sand-');
		expect(newUnit('Sand', [unit('sand'), unit('sand-2')]).id).toBe('sand-3');
		expect(newUnit('Sand', [], [{ id: 'sand' }]).id).toBe('sand-2');
		expect(newUnit('砂', [unit('a')]).id).toMatch(/^[\w-]+$/);
		expect(newUnit('  Sand ', []).name).toBe('Sand');
	});
});
