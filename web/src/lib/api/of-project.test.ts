import { afterEach, beforeEach, describe, expect, expectTypeOf, it, vi } from 'vitest';
import type { AnswerOf, Given, JsonId } from './contract';
import { OfProject, type Here } from './of-project';

let asked: { url: string; method: string; body: unknown }[] = [];
beforeEach(() => {
	asked = [];
	vi.stubGlobal('fetch', async (url: string, init: RequestInit) => {
		asked.push({ url, method: init.method!, body: init.body === undefined ? undefined : JSON.parse(String(init.body)) });
		return new Response(JSON.stringify({ job: 'j' }), { headers: { 'x-malachite-snapshot': '1:1:' } });
	});
});
afterEach(() => vi.unstubAllGlobals());

describe('the operations of a project', () => {
	let model: string | null = 'm';
	const api = new OfProject(
		() => 'p',
		() => model
	);
	it('are about it, and about the model at hand where they are about one', async () => {
		model = 'm';
		await api.ask('listModels');
		await api.ask('getInterpretation');
		model = 'other';
		await api.askFollowed('getInterpretation');
		model = null;
		await api.ask('getInterpretation');
		expect(asked.map((a) => a.url)).toEqual([
			'/api/v1/projects/p/models',
			'/api/v1/projects/p/interpretation?model=m',
			'/api/v1/projects/p/interpretation?model=other',
			'/api/v1/projects/p/interpretation'
		]);
	});
	it('take another model when one is said', () => {
		model = 'm';
		expect(api.address('exportMeshes', { what: 'volumes', format: 'obj', model: 'kept' })).toBe(
			'/api/v1/projects/p/exports/volumes.obj?model=kept'
		);
	});
	it('send what is given in the body, and nothing of it in the address', async () => {
		model = 'm';
		await api.ask('relog', { object: 'l', body: { act: { do: 'move', hole: 'A', from: 1, to: 2 }, revision: 3 } });
		await api.start('build', { body: { all: true } });
		expect(asked).toEqual([
			{
				url: '/api/v1/projects/p/logs/l/relog?model=m',
				method: 'POST',
				body: { act: { do: 'move', hole: 'A', from: 1, to: 2 }, revision: 3 }
			},
			{ url: '/api/v1/projects/p/build?model=m', method: 'POST', body: { all: true } }
		]);
	});
	it('go on their way while the page is left, as changes do', () => {
		api.sendLeaving('changeWorkbench', { body: { changes: { exaggeration: 3 } } });
		expect(asked).toEqual([{ url: '/api/v1/projects/p/workbench', method: 'PATCH', body: { changes: { exaggeration: 3 } } }]);
	});
});

// These are errors of the compiler where they are not so.
it('are typed by what the server declares', () => {
	expectTypeOf<AnswerOf<'listModels'>['models'][number]['auto']>().toEqualTypeOf<boolean>();
	expectTypeOf<AnswerOf<'getHole'>['collar']>().toEqualTypeOf<[number, number, number]>();
	expectTypeOf<AnswerOf<'listJobs'>['jobs'][number]['state']>().toEqualTypeOf<AnswerOf<'getJob'>['state']>();
	// What has a value of its own need not be sent, what is needed must be.
	expectTypeOf<{ object: string; body: { name: string } }>().not.toExtend<Here<'changeModel'>>();
	expectTypeOf<{ object: string; body: { name: string; revision: number } }>().toExtend<Here<'changeModel'>>();
	expectTypeOf<{ record: string; body: { box: [number, number, number, number]; name: string } }>().toExtend<Here<'fetchFromCatalogue'>>();
	expectTypeOf<Given<'setFaults'>['project']>().toEqualTypeOf<string | number>();
	// Files and packs are no JSON.
	expectTypeOf<'getMesh'>().not.toExtend<JsonId>();
});
