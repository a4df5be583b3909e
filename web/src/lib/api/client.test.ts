import { afterEach, describe, expect, it, vi } from 'vitest';
import { addressOf, ApiProblem, ask, askBytes, lineBroke, startWork, upload } from './client';

afterEach(() => {
	vi.useRealTimers();
	vi.unstubAllGlobals();
});

/** A server that gives one answer, and what it was asked. */
function answering(answer: Response | Error): { asked: { url: string; init: RequestInit | undefined }[] } {
	const asked: { url: string; init: RequestInit | undefined }[] = [];
	vi.stubGlobal('fetch', async (url: string, init?: RequestInit) => {
		asked.push({ url, init });
		if (answer instanceof Error) throw answer;
		return answer;
	});
	return { asked };
}
const json = (body: unknown, status = 200) => new Response(JSON.stringify(body), { status });
const problemOf = (run: Promise<unknown>): Promise<ApiProblem> =>
	run.then(
		() => expect.unreachable(),
		(e: unknown) => {
			expect(e).toBeInstanceOf(ApiProblem);
			return e as ApiProblem;
		}
	);

describe('what is asked of the server', () => {
	it('goes as JSON where there is something to send, and comes back as it is', async () => {
		const { asked } = answering(json({ id: 7 }));
		expect(await ask('setColumn', { project: 'p', model: 'm', body: { units: [], revision: 3 } })).toEqual({ id: 7 });
		expect(asked).toEqual([
			{
				url: '/api/v1/projects/p/column?model=m',
				init: {
					method: 'PUT',
					headers: { 'content-type': 'application/json', 'x-malachite-session': expect.stringMatching(/^[0-9a-f]{32}$/) },
					body: '{"units":[],"revision":3}'
				}
			}
		]);
	});

	it('without a body says nothing of its kind', async () => {
		const { asked } = answering(json([]));
		expect(await ask('listProjects')).toEqual([]);
		expect(asked[0]!.init).toEqual({ method: 'GET', headers: { 'x-malachite-session': expect.any(String) } });
	});

	it('says nothing in JSON where all of it may be left out', async () => {
		const { asked } = answering(json({ job: 'j' }));
		expect(await startWork('build', { project: 'p' })).toBe('j');
		expect([asked[0]!.url, asked[0]!.init!.body]).toEqual(['/api/v1/projects/p/build', '{}']);
	});

	it('puts what is given where the operation has it, and leaves out what is not said', () => {
		expect(addressOf('listRows', { project: 'p', object: 't', offset: 0, limit: 5, find: 'a&b', sort: undefined })).toBe(
			'/api/v1/projects/p/tables/t/rows?offset=0&limit=5&find=a%26b'
		);
		expect(addressOf('getHole', { project: 'p', hole: 'B 1/2?' })).toBe('/api/v1/projects/p/holes/B%201%2F2%3F');
		expect(addressOf('exportResult', { project: 'p', object: 'r', format: 'csv' })).toBe('/api/v1/projects/p/results/r/file.csv');
		// The first model is meant where none is said.
		expect(addressOf('getMesh', { project: 'p', model: null })).toBe('/api/v1/projects/p/mesh');
	});

	it('may be bytes', async () => {
		answering(new Response(Uint8Array.of(1, 2, 255)));
		expect([...(await askBytes('getMesh', { project: 'p' }))]).toEqual([1, 2, 255]);
	});
});

describe('what goes wrong', () => {
	it('is told as the server tells it', async () => {
		answering(
			json({ type: 'bad-spacing', title: 'the spacing must be greater than 0', hint: 'Give a number above 0.', where: 'spacing' }, 400)
		);
		const e = await problemOf(ask('restoreProject', { project: 'x' }));
		expect([e.status, e.body.type, e.body.where]).toEqual([400, 'bad-spacing', 'spacing']);
		expect(e.text).toBe('the spacing must be greater than 0. Give a number above 0.');
		expect(e.message).toBe('the spacing must be greater than 0');
	});

	it('names each field that is wrong', () => {
		const e = new ApiProblem(422, {
			type: 'bad-body',
			title: 'two fields are wrong.',
			fields: [
				{ path: 'dip', message: 'must be at most 90' },
				{ path: 'name', message: 'is missing' }
			]
		});
		expect(e.text).toBe('two fields are wrong. dip must be at most 90; name is missing');
	});

	it('in a server that answers with something else is told by its number', async () => {
		answering(new Response('<html>Bad gateway</html>', { status: 502 }));
		expect((await problemOf(ask('listProjects'))).text).toBe('the server answered 502');
	});

	it('while the answer comes is the line as well, for JSON and for bytes', async () => {
		const cut = () =>
			new Response(
				new ReadableStream({
					start(c) {
						c.enqueue(new TextEncoder().encode('[{"id":'));
						c.error(new TypeError('network error'));
					}
				})
			);
		for (const run of [() => ask('listProjects'), () => askBytes('getMesh', { project: 'p' })]) {
			answering(cut());
			const e = await problemOf(run());
			expect([lineBroke(e), e.text]).toEqual([true, 'the line was cut while the answer came. Load the page again to see what was stored']);
		}
	});

	it('is not the line when it was given up', async () => {
		const given = new AbortController();
		given.abort();
		answering(new DOMException('given up', 'AbortError'));
		await expect(askBytes('getMesh', { project: 'p' }, given.signal)).rejects.toThrow('given up');
	});

	it('when work is begun is asked again with the same key, also when only its answer was cut', async () => {
		vi.useFakeTimers();
		const keys: unknown[] = [];
		const answers = [new Response('{"jo'), json({ job: 'j' })];
		vi.stubGlobal('fetch', async (_url: string, init: RequestInit) => {
			keys.push((init.headers as Record<string, string>)['idempotency-key']);
			return answers.shift()!;
		});
		const begun = startWork('build', { project: 'p' });
		await vi.advanceTimersByTimeAsync(1000);
		expect(await begun).toBe('j');
		expect(keys).toEqual([expect.any(String), keys[0]]);
	});

	it('on the way says that nothing was stored', async () => {
		answering(new TypeError('fetch failed'));
		const e = await problemOf(ask('restoreProject', { project: 'x' }));
		expect([e.status, e.body.type]).toEqual([0, 'offline']);
		expect(e.text).toContain('was not stored');
	});
});

describe('a file that is sent', () => {
	/** The sending end of a page, led by hand. */
	class FakeRequest {
		static last: FakeRequest;
		readonly headers: Record<string, string> = {};
		readonly upload: { onprogress?: (e: { loaded: number; total: number }) => void } = {};
		opened: [string, string] | null = null;
		sent: unknown = null;
		status = 0;
		response: unknown = null;
		responseType = '';
		onload?: () => void;
		onerror?: () => void;
		constructor() {
			FakeRequest.last = this;
		}
		open(method: string, url: string) {
			this.opened = [method, url];
		}
		setRequestHeader(name: string, value: string) {
			this.headers[name] = value;
		}
		send(body: unknown) {
			this.sent = body;
		}
		answer(status: number, response: unknown) {
			Object.assign(this, { status, response });
			this.onload!();
		}
	}
	const start = () => {
		vi.stubGlobal('XMLHttpRequest', FakeRequest);
		const shares: number[] = [];
		const file = new Blob(['hole,x\n']);
		return { shares, file, done: upload('uploadFile', { project: 'p', name: 'a.csv' }, file, (s) => shares.push(s)) };
	};

	it('goes as it is, with the share that is on its way', async () => {
		const { shares, file, done } = start();
		const { last } = FakeRequest;
		expect([last.opened, last.headers, last.sent]).toEqual([
			['POST', '/api/v1/projects/p/files?name=a.csv'],
			{ 'content-type': 'application/octet-stream', 'x-malachite-session': expect.any(String) },
			file
		]);
		last.upload.onprogress!({ loaded: 25, total: 100 });
		last.upload.onprogress!({ loaded: 0, total: 0 });
		last.answer(200, { id: 'f' });
		expect(await done).toEqual({ id: 'f' });
		expect(shares).toEqual([0.25, 0]);
	});

	it.each<[string, (r: FakeRequest) => void, string, string]>([
		[
			'is refused',
			(r) => r.answer(413, { type: 'too-large', title: 'the file is larger than 512 MB' }),
			'too-large',
			'the file is larger than 512 MB'
		],
		['is refused without a word', (r) => r.answer(500, null), 'internal', 'the server answered 500'],
		['is cut off', (r) => r.onerror!(), 'offline', 'Nothing was stored']
	])('and %s says so', async (_, act, type, words) => {
		const { done } = start();
		act(FakeRequest.last);
		const e = await problemOf(done);
		expect(e.body.type).toBe(type);
		expect(e.text).toContain(words);
	});
});
