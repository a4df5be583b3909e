import { MessageChannel } from 'node:worker_threads';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { ComputeTask, Run } from '#core/model/compute';
import { piecesThrough, type PieceAsked, type PieceDone } from './pieces';

describe('pieces of a computation', () => {
	let channel: MessageChannel;
	const asked: PieceAsked[] = [];
	beforeEach(() => {
		vi.stubEnv('MALACHITE_THREADS', '2');
		channel = new MessageChannel();
		asked.length = 0;
		channel.port1.on('message', (m: PieceAsked) => asked.push(m));
	});
	afterEach(() => {
		channel.port1.close();
		vi.unstubAllEnvs();
	});
	const told = (done: PieceDone) => channel.port1.postMessage(done);
	const task = (name: string) => ({ name }) as unknown as ComputeTask;
	const named = (run: Run, name: string) => run(task(name)) as Promise<unknown>;

	it('are each answered by what came of them, in whatever order that comes', async () => {
		const run = piecesThrough(channel.port2);
		const [a, b] = [named(run, 'a'), named(run, 'b')];
		await vi.waitFor(() => expect(asked.map((m) => m.task)).toEqual([task('a'), task('b')]));
		told({ piece: asked[1]!.piece, result: Int16Array.of(2) });
		told({ piece: asked[0]!.piece, result: Int16Array.of(1) });
		expect([await a, await b]).toEqual([Int16Array.of(1), Int16Array.of(2)]);
	});

	it('that fail fail for who asked, and for nobody else; an answer that nobody waits for is none', async () => {
		const run = piecesThrough(channel.port2);
		const [a, b] = [named(run, 'a'), named(run, 'b')];
		const failed = expect(a).rejects.toThrow('no room');
		await vi.waitFor(() => expect(asked).toHaveLength(2));
		told({ piece: 99, result: Int16Array.of(0) });
		told({ piece: asked[0]!.piece, error: new RangeError('no room') });
		told({ piece: asked[1]!.piece, result: Int16Array.of(2) });
		await failed;
		expect(await b).toEqual(Int16Array.of(2));
	});

	it('are done on the spot where there is one thread, or nobody to ask', async () => {
		const rows = { gridding: true } as unknown as ComputeTask;
		vi.stubEnv('MALACHITE_THREADS', '1');
		await expect(piecesThrough(channel.port2)(rows)).rejects.toThrow();
		vi.stubEnv('MALACHITE_THREADS', '2');
		await expect(piecesThrough(null)(rows)).rejects.toThrow();
		expect(asked).toEqual([]);
	});
});
