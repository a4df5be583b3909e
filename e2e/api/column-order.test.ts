import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { client, startServer, type TestServer } from '../server';

let server: TestServer;
let api: ReturnType<typeof client>;

beforeAll(async () => {
	server = await startServer();
	api = client(server);
});
afterAll(async () => server?.stop());

describe('what the holes say of the column', () => {
	it('names the holes that have neighbours the other way round, and proposes the order of most; an intrusion is left where it is', async () => {
		const p = (await api.call<{ id: string }>('POST', '/projects', { name: 'Order' })).body.id;
		const hole = (n: number, codes: string) => codes.split('').map((c, i) => `H${n},${10 * i},${10 * i + 10},${c}`);
		await api.bring(
			p,
			'Holes',
			'holes.csv',
			['hole,easting,northing,elevation,depth', ...Array.from({ length: 9 }, (_, i) => `H${i},${100 * i},0,50,60`)].join('\n')
		);
		await api.bring(
			p,
			'Log',
			'log.csv',
			['hole,from,to,lith', ...Array.from({ length: 7 }, (_, n) => hole(n, 'ABCG')).flat(), ...hole(7, 'ACB'), ...hole(8, 'GAB')].join('\n')
		);
		const unit = (id: string, contact = 'conformable') => ({ id, name: `Unit ${id}`, color: '#808080', contact });
		const units = [unit('A'), unit('C'), unit('G', 'intrusive'), unit('B')];
		await api.call('PUT', `/projects/${p}/column`, { units });
		type Evidence = {
			holes: number;
			evidence: { above: string; below: string; holes: number; against: string[] }[];
			proposed: { unit: string }[];
		};
		const { body } = await api.call<Evidence>('GET', `/projects/${p}/column/evidence`);
		expect(body.holes).toBe(9);
		expect(body.evidence).toEqual([
			{ above: 'A', below: 'C', holes: 8, against: [] },
			{ above: 'C', below: 'B', holes: 1, against: ['H0', 'H1', 'H2', 'H3', 'H4', 'H5', 'H6'] }
		]);
		expect(body.proposed.map((u) => u.unit)).toEqual(['A', 'B', 'C']);
		// An empty column, and one that no hole meets, have nothing said of them.
		await api.call('PUT', `/projects/${p}/column`, { units: [unit('X'), unit('Y')] });
		expect((await api.call<Evidence>('GET', `/projects/${p}/column/evidence`)).body).toMatchObject({ holes: 0, proposed: [] });
		await api.call('PUT', `/projects/${p}/column`, { units: [] });
		expect((await api.call<Evidence>('GET', `/projects/${p}/column/evidence`)).body).toMatchObject({ holes: 0, evidence: [] });
	});
});
