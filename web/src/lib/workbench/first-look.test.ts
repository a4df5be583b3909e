import { describe, expect, it } from 'vitest';
import { showInTurn } from './first-look';

/** A model of so many triangles, and what was asked for and shown of it. */
function model(triangles: number, more: { seen?: boolean; wanted?: () => boolean; fails?: boolean } = {}) {
	const asked: (number | undefined)[] = [];
	const shown: { light: boolean; triangles: number }[] = [];
	const read = async (most?: number) => {
		asked.push(most);
		if (more.fails && most === undefined) throw new Error('the line is cut');
		const light = most !== undefined && triangles > most;
		return { light, triangles: light ? most! : triangles };
	};
	const done = showInTurn(read, (s) => shown.push(s), { seen: more.seen ?? false, wanted: more.wanted ?? (() => true) });
	return { asked, shown, done };
}

describe('a model on its way', () => {
	it('is read once when it is small', async () => {
		const { asked, shown, done } = model(5000);
		await done;
		expect([asked, shown]).toEqual([[100_000], [{ light: false, triangles: 5000 }]]);
	});
	it('is looked at with few triangles, then as a whole, when it is large', async () => {
		const { asked, shown, done } = model(2e6);
		await done;
		expect([asked, shown.map((s) => s.triangles)]).toEqual([
			[100_000, undefined],
			[100_000, 2e6]
		]);
	});
	it('takes the place of what is seen as a whole only', async () => {
		const { asked, shown, done } = model(2e6, { seen: true });
		await done;
		expect([asked, shown.map((s) => s.triangles)]).toEqual([[undefined], [2e6]]);
	});
	it('does not come back when another was built meanwhile', async () => {
		const { shown, done } = model(2e6, { wanted: () => false });
		await done;
		expect(shown.map((s) => s.light)).toEqual([true]);
	});
	it('that breaks off says so, and the first look stays', async () => {
		const { shown, done } = model(2e6, { fails: true });
		await expect(done).rejects.toThrow('the line is cut');
		expect(shown.map((s) => s.light)).toEqual([true]);
	});
});
