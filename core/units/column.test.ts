import { describe, expect, it } from 'vitest';
import { plainCode, proposeLumping, sequencesOf, unitOfCode, validateColumn, type ContactKind, type Unit } from './column';

const unit = (id: string, contact: ContactKind = 'conformable', name = id): Unit => ({ id, name, color: '#808080', contact });
const shape = (...units: Unit[]) =>
	sequencesOf(units).map((s) => `${s.kind[0]} ${s.units.map((u) => units[u]!.id).join('+')} ${s.base < 0 ? '-' : units[s.base]!.id}`);

describe('sequences of a column', () => {
	it('a conformable column is one', () => expect(shape(unit('a'), unit('b'), unit('c'))).toEqual(['s a+b+c -']));
	it('end below an erosional or onlapping base', () => {
		expect(shape(unit('a'), unit('b', 'erosional'), unit('c'), unit('d', 'onlapping'), unit('e'))).toEqual(['s a+b b', 's c+d d', 's e -']);
	});
	it('an intrusion stands on its own, at its age', () => {
		expect(shape(unit('dyke', 'intrusive'), unit('a'), unit('b'))).toEqual(['i dyke dyke', 's a+b -']);
	});
	it('one inside a conformable run cuts the run and what is older', () => {
		expect(shape(unit('a'), unit('sill', 'intrusive'), unit('b', 'erosional'), unit('c'))).toEqual(['i sill sill', 's a+b b', 's c -']);
	});
	it("the kind of the basement's contact says nothing: it has no base", () => {
		for (const kind of ['conformable', 'erosional', 'onlapping'] as const)
			expect(shape(unit('a', 'erosional'), unit('z', kind))).toEqual(['s a a', 's z -']);
	});
	it('hold every unit exactly once, for any mixture of contacts', () => {
		const kinds: ContactKind[] = ['conformable', 'erosional', 'onlapping', 'intrusive'];
		for (let n = 0; n < 4 ** 4; n++) {
			const units = [0, 1, 2, 3].map((i) => unit(`u${i}`, kinds[Math.floor(n / 4 ** i) % 4]));
			units.push(unit('basement'));
			expect(
				sequencesOf(units)
					.flatMap((s) => s.units)
					.sort()
			).toEqual([0, 1, 2, 3, 4]);
			expect(sequencesOf(units).at(-1)).toMatchObject({ kind: 'strata', base: -1 });
		}
	});
});

describe('a column that can not be used', () => {
	it.each<[string, Unit[], string]>([
		['of one unit', [unit('a')], 'at least two units'],
		['with a unit twice', [unit('a'), unit('b'), unit('a')], '"a" stands in the column twice'],
		['on an intrusion', [unit('a'), unit('b', 'intrusive')], 'can not be an intrusion']
	])('%s is refused', (_, column, message) => expect(() => validateColumn(column)).toThrow(message));
	it('a sound one is not', () => expect(() => validateColumn([unit('a', 'intrusive'), unit('b')])).not.toThrow());
});

describe('units of codes', () => {
	const column = [unit('sst', 'conformable', 'Fennick Sandstone'), unit('lst', 'conformable', 'Marrick Limestone')];
	it('are proposed by id, name and words of the name, without case and punctuation', () => {
		expect(proposeLumping(['SST', 'fennick', 'Sandstone.', 'Marrick-Limestone', 'clay', ''], column)).toEqual({
			SST: 'sst',
			fennick: 'sst',
			'Sandstone.': 'sst',
			'Marrick-Limestone': 'lst'
		});
	});
	it('what is decided already counts, and is taken for its other spellings', () => {
		expect(proposeLumping(['SST', 'Grey1', 'grey 1'], column, { SST: 'lst', Grey1: 'sst' })).toEqual({
			SST: 'lst',
			Grey1: 'sst',
			'grey 1': 'sst'
		});
	});
	it('a code that means nothing yet has none, nor has one that every object knows', () => {
		expect(unitOfCode({ S: 'sst', x: '' }, 'S')).toBe('sst');
		for (const code of ['x', 'y', '', 'constructor', 'toString', '__proto__']) expect(unitOfCode({ S: 'sst', x: '' }, code)).toBeNull();
		expect(proposeLumping(['constructor', '__proto__'], column)).toEqual({});
	});
	it('plain codes keep letters and digits only', () => expect(['S-1', 's 1', 'S.1', 'Ä!'].map(plainCode)).toEqual(['s1', 's1', 's1', '']));
});
