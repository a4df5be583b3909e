import type { Api } from '../e2e/server';

export const HOLES = 5000;
export const ROWS_EACH = 200;
/** 5 000 holes of 200 intervals each with two assays, as CSV. */
function tables(): { collars: string; rows: string } {
	const collars = ['HoleID,Easting,Northing,Elevation,Depth,Azimuth,Inclination'];
	const rows = ['HoleID,From,To,Cu_ppm,Au_ppb,Rock'];
	let s = 4711;
	const random = () => (s = (s * 48271) % 2147483647) / 2147483647;
	for (let h = 0; h < HOLES; h++) {
		collars.push(
			`H${h},${400000 + (h % 100) * 60},${4990000 + Math.floor(h / 100) * 60},${(100 + 40 * Math.sin(h / 90)).toFixed(1)},400,${(360 * random()).toFixed(0)},${(-90 + 30 * random()).toFixed(0)}`
		);
		for (let i = 0; i < ROWS_EACH; i++)
			rows.push(
				`H${h},${2 * i},${2 * i + 2},${Math.exp(4 + 2 * Math.sin(i / 17 + h / 40) + random()).toFixed(0)},${Math.exp(2 + 2 * random()).toFixed(1)},${['SST', 'MDST', 'LST', 'GRA', 'CGL'][Math.floor(i / 23 + h / 7) % 5]}`
			);
	}
	return { collars: `${collars.join('\n')}\n`, rows: `${rows.join('\n')}\n` };
}

/** A project with these holes. @returns its id, that of the table with the rows, and how many bytes the files have */
export async function manyHoles(api: Api): Promise<{ project: string; table: string; raw: number }> {
	const project = (
		await api.call<{ id: string }>('POST', '/projects', {
			name: 'Many holes',
			extent: { minX: 399500, minY: 4989500, minZ: -400, maxX: 406500, maxY: 4993500, maxZ: 200 }
		})
	).body.id;
	const data = tables();
	const bring = async (name: string, text: string, kind: string, mapping: object) => {
		const { body } = await api.call<{ file: { id: string } }>(
			'POST',
			`/projects/${project}/files?name=${name}.csv`,
			new TextEncoder().encode(text)
		);
		const { body: b } = await api.call<{ job: string }>('POST', `/projects/${project}/imports`, {
			fileId: body.file.id,
			name,
			as: 'table',
			kind,
			mapping
		});
		await api.finished(project, b.job);
	};
	await bring('Collars', data.collars, 'collars', {
		HoleID: 'hole',
		Easting: 'easting',
		Northing: 'northing',
		Elevation: 'elevation',
		Depth: 'totalDepth',
		Azimuth: 'azimuth',
		Inclination: 'inclination'
	});
	await bring('Assays', data.rows, 'assays', { HoleID: 'hole', From: 'from', To: 'to', Cu_ppm: 'value', Au_ppb: 'value', Rock: 'keep' });
	const { body } = await api.call<{ objects: { id: string; name: string }[] }>('GET', `/projects/${project}`);
	const table = body.objects.find((o) => o.name === 'Assays')!.id;
	return { project, table, raw: data.rows.length + data.collars.length };
}
