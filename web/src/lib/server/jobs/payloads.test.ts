import { expect, it } from 'vitest';
import { ProblemError } from '#core/problem';
import { payloadOf } from './payloads';

const id = '0f0f0f0f-0000-4000-8000-00000000000a';

it('what a job was given is read as its kind takes it', () => {
	const given = { fileId: id, name: 'Collars', as: 'table', kind: 'collars', mapping: { A: 'hole' }, marks: { edits: [] } };
	expect(payloadOf({ payload: given }, 'import')).toMatchObject(given);
	expect(payloadOf({ payload: { recipes: [] } }, 'results')).toEqual({ recipes: [] });
});

it.each([
	['import', { name: 'x', as: 'table' }],
	['import', { fileId: id, name: 'x', as: 'song' }],
	['import', { fileId: id, name: 'x', as: 'grid', clip: [0, 1, 2] }],
	['version', { objectId: id, fileId: id, how: 'guess', conflicts: 'edits', dropLost: false, revision: 1 }],
	['catalogue', { record: 'r', box: [1, 2, 3, 'x'], every: 1, name: 'x' }],
	['logs', {}]
] as const)('and what it can not do is refused: %s of %o', (kind, payload) => {
	const run = () => payloadOf({ payload }, kind);
	expect(run).toThrow(ProblemError);
	expect(run).toThrow('was not given what it needs');
});
