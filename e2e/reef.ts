import type { Api } from './server';

/** A made-up reef: flat-lying cover over grit, and in it a sheet that dips east; every other hole crosses a second one 40 m above it. */
const reef = (x: number, y: number, z: number) => (z - 60 + 0.5 * (x - 402_200) + 0.1 * (y - 4_992_200)) / Math.hypot(1, 0.5, 0.1);
const HOLES = Array.from({ length: 24 }, (_, i) => ({
	name: `R${i + 1}`,
	x: 402_150 + 70 * (i % 6),
	y: 4_992_100 + 80 * Math.floor(i / 6),
	z: 120,
	twice: i % 2 === 0
}));

const codeAt = (h: (typeof HOLES)[number], depth: number): string => {
	const z = h.z - depth;
	const off = reef(h.x, h.y, z);
	if (z > 95) return 'OVB';
	return Math.abs(off) < 3 || (h.twice && Math.abs(off - 40) < 1.5) ? 'QR' : 'GRW';
};

/** Intervals of all holes, from place to place where the code changes. */
function logRows(): string[] {
	return HOLES.flatMap((h) => {
		const rows: string[] = [];
		let from = 0;
		for (let n = 1; n <= 3000; n++) {
			if (n < 3000 && codeAt(h, (n + 0.5) / 10) === codeAt(h, (n - 0.5) / 10)) continue;
			rows.push(`${h.name},${from},${n / 10},${codeAt(h, (n - 0.5) / 10)}`);
			from = n / 10;
		}
		return rows;
	});
}

/** Makes a project of the reef, ready to be built. @returns its id */
export async function makeReef(api: Api): Promise<string> {
	const { id } = (await api.call<{ id: string }>('POST', '/projects', { name: 'Reef', author: 'A. Nyberg', crs: 32628 })).body;
	const path = (rest: string) => `/projects/${id}${rest}`;
	const tables = {
		Collars: ['hole,x,y,z,depth', ...HOLES.map((h) => `${h.name},${h.x},${h.y},${h.z},300`)],
		Logs: ['hole,from,to,code', ...logRows()]
	};
	for (const [name, rows] of Object.entries(tables)) {
		const { body: u } = await api.call<{ file: { id: string }; kind: string; mapping: object }>(
			'POST',
			path(`/files?name=${name}.csv`),
			new TextEncoder().encode(`${rows.join('\n')}\n`)
		);
		const { body } = await api.call<{ job: string }>('POST', path('/imports'), {
			fileId: u.file.id,
			name,
			as: 'table',
			kind: u.kind,
			mapping: u.mapping
		});
		await api.finished(id, body.job);
	}
	const unit = (key: string, name: string, color: string, contact: string, more = {}) => ({ id: key, name, color, contact, ...more });
	await api.call('PUT', path('/column'), {
		units: [
			unit('cover', 'Cover', '#c9b46a', 'erosional'),
			unit('reef', 'Reef', '#c98f86', 'intrusive', { form: 'sheet' }),
			unit('grit', 'Grit', '#7f8c74', 'conformable')
		]
	});
	await api.call('PUT', path('/lumping'), { codes: { OVB: 'cover', QR: 'reef', GRW: 'grit' } });
	await api.call('PATCH', path(''), { extent: { minX: 402_100, maxX: 402_560, minY: 4_992_050, maxY: 4_992_390, minZ: -180, maxZ: 120 } });
	await api.call('PUT', path('/spacing'), { spacing: 20 });
	return id;
}
