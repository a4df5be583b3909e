import { expect, it } from 'vitest';
import type { Unit } from '../units/column';
import { proposeGroups, type LoggedHole } from './propose-groups';

const unit = (id: string, name: string): Unit => ({ id, name, color: '#808080', contact: 'conformable' });
const UNITS = [unit('till', 'Till'), unit('sand', 'Fennick Sandstone'), unit('lime', 'Marrick Limestone')];
const LUMPED: Record<string, string> = { TILL: 'till', SST: 'sand', Sandstone: 'sand', LST: 'lime' };
const unitOf = (c: string) => LUMPED[c] ?? '';
const hole = (codes: string, words: Record<string, string> = {}): LoggedHole => {
	const list = codes.split(' ');
	return { codes: list, words: list.map((c) => words[c] ?? '') };
};

it('codes are put to units by their spelling', () => {
	const found = proposeGroups([hole('till sandst. lst TILL SST Sandstone LST')], UNITS, unitOf);
	expect(found).toEqual([
		{ codes: ['till'], unit: 'till', why: 'spelling', evidence: 'spelled like TILL' },
		{ codes: ['sandst.'], unit: 'sand', why: 'spelling', evidence: 'spelled like Sandstone' },
		{ codes: ['lst'], unit: 'lime', why: 'spelling', evidence: 'spelled like LST' }
	]);
});

it('by the name of the unit', () => {
	expect(proposeGroups([hole('Limestone')], UNITS, unitOf)).toEqual([
		{ codes: ['Limestone'], unit: 'lime', why: 'spelling', evidence: 'named like the unit' }
	]);
});

it('by what loggers said, where most of it names one unit', () => {
	const words = { K7: 'pale limestone with chert', K8: 'sandstone or limestone', K9: 'hard' };
	const found = proposeGroups(
		[hole('TILL K7 K8 K9', words), hole('TILL K7 K8 K9', words), hole('LST K7', { K7: 'massive limestone' })],
		UNITS,
		unitOf
	);
	expect(found.filter((f) => f.why === 'words')).toEqual([
		{ codes: ['K7'], unit: 'lime', why: 'words', evidence: '3 of 3 descriptions say "limestone"' }
	]);
});

it('by their neighbours, when they never stand beside the unit', () => {
	const holes = [
		hole('TILL SST LST'),
		hole('TILL SST LST'),
		hole('TILL X LST'),
		hole('TILL X LST'),
		hole('TILL SST Y LST'),
		hole('TILL SST Y LST')
	];
	expect(proposeGroups(holes, UNITS, unitOf)).toEqual([
		{ codes: ['X'], unit: 'sand', why: 'neighbours', evidence: 'it lies between the same units, and never beside it' }
	]);
});

it('of nothing nothing is proposed', () => {
	expect(proposeGroups([], UNITS, unitOf)).toEqual([]);
	expect(proposeGroups([hole('A B C')], [], () => '')).toEqual([]);
	expect(proposeGroups([hole('TILL SST LST')], UNITS, unitOf)).toEqual([]);
});
