import { describe, expect, it } from 'vitest';
import { writePack } from '#core/formats/pack';
import { ApiProblem } from '$lib/api/client';
import { showInTurn, type Wanted } from './on-its-way';

interface Line {
	seen?: boolean;
	wanted?: () => boolean;
	/** Whether what is asked for does not arrive, the n-th time that it is asked for. */
	breaks?: (wanted: Wanted, times: number) => boolean;
	/** Which build answers. */
	of?: (asked: number) => string;
	fails?: Error;
}

/** A model of so many triangles in parts of 200 000, and what was asked for and shown of it. */
function model(triangles: number, { seen = false, wanted = () => true, breaks = () => false, of = () => 'a', fails }: Line = {}) {
	const asked: string[] = [];
	const shown: { light: boolean; parts: string[] }[] = [];
	const pauses: number[] = [];
	const arrival = { share: 0 };
	const shares: number[] = [];
	const parts = Math.max(1, Math.ceil(triangles / 200_000));
	const read = async (what: Wanted) => {
		const name = 'most' in what ? `most ${what.most}` : `${what.part}`;
		asked.push(name);
		shares.push(Math.round(100 * arrival.share));
		if (fails && 'part' in what) throw fails;
		if (breaks(what, asked.filter((a) => a === name).length)) throw new ApiProblem(0, { type: 'offline', title: 'the line was cut' });
		const light = 'most' in what && triangles > what.most;
		const part = 'part' in what ? what.part : 0;
		return writePack({ info: { light, of: of(asked.length), name, drawn: { part, parts: 'part' in what ? parts : 1 } }, arrays: {} });
	};
	const done = showInTurn({
		read,
		open: (packs, light) => {
			return { light, parts: packs.map((p) => String(p.info['name'])).sort() };
		},
		show: (s) => shown.push(s),
		seen,
		wanted,
		arrival,
		pause: async (seconds) => void pauses.push(seconds)
	});
	return { asked, shown, shares, pauses, done };
}

describe('a model on its way', () => {
	it('is read once when it is small', async () => {
		const { asked, shown, done } = model(5000);
		await done;
		expect([asked, shown]).toEqual([['most 100000'], [{ light: false, parts: ['most 100000'] }]]);
	});

	it('is looked at with few triangles, then comes in parts, when it is large', async () => {
		const { asked, shown, shares, done } = model(7e5);
		await done;
		expect(asked).toEqual(['most 100000', '0', '1', '2', '3']);
		expect(shown).toEqual([
			{ light: true, parts: ['most 100000'] },
			{ light: false, parts: ['0', '1', '2', '3'] }
		]);
		// How much of it had come whenever more was asked for.
		expect(shares).toEqual([0, 0, 25, 25, 50]);
	});

	it('takes the place of what is seen as a whole only', async () => {
		const { asked, shown, done } = model(3e5, { seen: true });
		await done;
		expect([asked, shown]).toEqual([['0', '1'], [{ light: false, parts: ['0', '1'] }]]);
	});

	it('of which a part was cut is asked for that part alone, after longer and longer pauses', async () => {
		const { asked, shown, pauses, done } = model(5e5, { breaks: (what, times) => 'part' in what && what.part === 1 && times < 4 });
		await done;
		expect(asked.filter((a) => a === '1')).toHaveLength(4);
		expect(asked.filter((a) => a !== '1').sort()).toEqual(['0', '2', 'most 100000']);
		expect(pauses).toEqual([1, 2, 4]);
		expect(shown.at(-1)).toEqual({ light: false, parts: ['0', '1', '2'] });
	});

	it('says so when the line stays broken, and the first look stays', async () => {
		const { shown, pauses, done } = model(5e5, { breaks: (what) => 'part' in what });
		await expect(done).rejects.toThrow('the line was cut');
		expect([pauses, shown]).toEqual([[1, 2, 4, 8], [{ light: true, parts: ['most 100000'] }]]);
	});

	it('that the server refuses is not asked for again', async () => {
		const { asked, done } = model(5e5, { fails: new ApiProblem(404, { type: 'not-found', title: 'it was deleted' }) });
		await expect(done).rejects.toThrow('it was deleted');
		expect(asked).toEqual(['most 100000', '0']);
	});

	it('does not come back when another was built meanwhile', async () => {
		const { asked, shown, done } = model(2e6, { wanted: () => false });
		await done;
		expect([asked, shown.map((s) => s.light)]).toEqual([['most 100000', '0'], [true]]);
	});

	it('is read anew when its parts are of two builds', async () => {
		const { asked, shown, done } = model(5e5, { of: (n) => (n < 3 ? 'a' : 'b') });
		await done;
		expect(asked).toEqual(['most 100000', '0', '1', '2', '0', '1', '2']);
		expect(shown.map((s) => s.light)).toEqual([true, false]);
	});
});
