import { describe, expect, it } from 'vitest';
import type { RawTable } from './raw-table';
import { readTable } from './table';
import { asVersion, CHANGE, followEdits, NOTE, overlay, versionHeader, versionMapping, type HeldLayer } from './version';

const raw = (): RawTable => ({
	header: ['Hole', 'From', 'To', 'Rock', 'Grade'],
	units: null,
	columns: [
		['A', 'A', 'B'],
		['0', '10', '0'],
		['10', '20', '5'],
		['S', 's.', 'T'],
		['I', 'II', 'I']
	],
	rowCount: 3,
	lines: Int32Array.of(2, 3, 4),
	reading: { delimiter: ',', decimal: '.', thousands: '', headerLine: 1, unitsLine: false, comment: '' }
});
const layer = (l: Partial<HeldLayer> = {}): HeldLayer => ({ recode: {}, added: [], edits: [], excluded: [], ...l });
const header = versionHeader(raw().header);

describe('a version of a log', () => {
	it('has the columns of its table and one for notes; of another column than the codes, that one is the log', () => {
		expect(header).toEqual(['Hole', 'From', 'To', 'Rock', 'Grade', NOTE]);
		expect(versionHeader(header)).toEqual(header);
		const roles = { Hole: 'hole', From: 'from', To: 'to', Rock: 'code', Grade: 'value', Other: 'leave' };
		expect(versionMapping(roles, raw().header, undefined)).toMatchObject({ Rock: 'code', Grade: 'keep', [NOTE]: 'keep' });
		expect(versionMapping(roles, raw().header, 'Grade')).toMatchObject({ Rock: 'keep', Grade: 'code' });
	});

	it('takes codes for others before edits, adds rows behind, and leaves what it goes out from untouched', () => {
		const given = raw();
		const over = overlay(
			given,
			Uint8Array.of(0, 0, 1),
			header,
			3,
			layer({
				recode: { 's.': 'S' },
				added: [{ of: 1, cells: ['A', '15', '20', 'X', 'II', ''] }],
				edits: [
					{ n: 1, position: 2, value: '15', original: '20' },
					{ n: 0, position: 3, value: 'G', original: 'Q' },
					{ n: 99, position: 3, value: 'lost', original: '' },
					{ n: 0, position: -1, value: 'no column', original: '' }
				],
				excluded: [0]
			})
		);
		expect(over.raw.columns).toEqual([
			['A', 'A', 'B', 'A'],
			['0', '10', '0', '15'],
			['10', '15', '5', '20'],
			['G', 'S', 'T', 'X'],
			['I', 'II', 'I', 'II'],
			['', '', '', '']
		]);
		expect([...over.excluded]).toEqual([1, 0, 1, 0]);
		expect([...over.changed]).toEqual([1, 1, 0, 1]);
		expect(over.before).toEqual(['S', 's.', 'T', '']);
		// The first edit was made when the log said Q there.
		expect(over.outdated).toEqual([{ row: 0, position: 3, was: 'Q', now: 'S' }]);
		expect(given).toEqual(raw());
	});

	it('a part that was cut off and is out again leaves nothing behind', () => {
		const over = overlay(raw(), new Uint8Array(3), header, 3, layer({ added: [{ of: 1, cells: [] }], excluded: [3] }));
		expect([...over.changed]).toEqual([0, 0, 0, 0]);
	});

	it('lies on another version', () => {
		const first = overlay(raw(), new Uint8Array(3), header, 3, layer({ recode: { 's.': 'S' } }));
		const second = overlay(first.raw, first.excluded, header, 3, layer({ recode: { S: 'Sand' } }));
		expect(second.raw.columns[3]).toEqual(['Sand', 'Sand', 'T']);
		expect(second.before).toEqual(['S', 'S', 'T']);
	});

	it('says what was done to each row, and follows edits in memory back to where it was', () => {
		const own = layer({ recode: { 's.': 'S' } });
		const over = overlay(raw(), new Uint8Array(3), header, 3, own);
		const mapping = versionMapping({ Hole: 'hole', From: 'from', To: 'to', Rock: 'code' }, raw().header, undefined);
		const version = asVersion(readTable('v', 'intervals', over.raw, mapping, { excluded: over.excluded }), {
			of: 'log',
			unplaced: [],
			...over
		});
		expect(version.text[CHANGE]).toEqual(['as logged', 'lumped', 'as logged']);
		const put = (value: string, before: string) => {
			version.text['code']![0] = value;
			followEdits(version, own, [{ n: 0, position: 3, value, before }], []);
		};
		put('G', 'S');
		put('H', 'G');
		expect([version.text[CHANGE]![0], [...version.changed!], own.edits]).toEqual([
			'relogged',
			[1, 0, 0],
			[{ n: 0, position: 3, value: 'H', original: 'S' }]
		]);
		put('S', 'H');
		expect([version.text[CHANGE]![0], [...version.changed!], own.edits]).toEqual(['as logged', [0, 0, 0], []]);
		followEdits(version, own, [], [{ n: 2, excluded: true }]);
		expect([...version.changed!]).toEqual([0, 0, 1]);
		followEdits(version, own, [], [{ n: 2, excluded: false }]);
		expect([...version.changed!]).toEqual([0, 0, 0]);
	});
});
