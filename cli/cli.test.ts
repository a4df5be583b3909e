import { execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { beforeAll, describe, expect, it } from 'vitest';
import { layersFiles } from '#demo/generate';
import { truthUnit, terrainAt } from '#demo/truth';

const folder = mkdtempSync(join(tmpdir(), 'malachite-cli-'));
const run = (...args: string[]): { code: number; err: string; out: string } => {
	try {
		return { code: 0, err: '', out: execFileSync('node', ['dist/cli.js', ...args], { encoding: 'utf8', stdio: 'pipe' }) };
	} catch (error) {
		const e = error as { status: number; stderr: string; stdout: string };
		return { code: e.status, err: e.stderr, out: e.stdout };
	}
};

beforeAll(async () => {
	const { files } = await layersFiles();
	for (const [name, bytes] of files) {
		mkdirSync(dirname(join(folder, name)), { recursive: true });
		writeFileSync(join(folder, name), bytes);
	}
	const project = JSON.parse(readFileSync(join(folder, 'project.json'), 'utf8'));
	writeFileSync(join(folder, 'coarse.json'), JSON.stringify({ ...project, spacing: 120 }));
});

describe('the command line', () => {
	it('builds files from files and says which unit points are in', () => {
		const points: [number, number, number][] = [];
		for (let x = 401500; x < 405000; x += 500)
			for (let y = 4991000; y < 4994000; y += 500) for (const z of [-380, -200, -60]) points.push([x, y, z]);
		writeFileSync(join(folder, 'points.csv'), `x,y,z\n${points.map((p) => p.join(',')).join('\n')}\n0,0,9999\n`);
		const { code, err } = run('build', join(folder, 'coarse.json'), '--out', join(folder, 'out'), '--classify', join(folder, 'points.csv'));
		expect(err).toBe('');
		expect(code).toBe(0);
		const report = JSON.parse(readFileSync(join(folder, 'out/report.json'), 'utf8'));
		expect(report.volumeError).toBeLessThan(1e-9);
		expect(report.rows).toMatchObject({ held: 0, noted: 0 });
		expect(report.steps.map((s: { step: string }) => s.step)).toContain('fields');
		for (const file of [
			'volumes/Skerra_Slate.obj',
			'surfaces/Sallow_Fault.vtp',
			'volumes.csv',
			'misfits.csv',
			'agreement.csv',
			'mismatches.csv',
			'offsets.csv'
		])
			expect(existsSync(join(folder, 'out', file))).toBe(true);
		const units = readFileSync(join(folder, 'out/classified.csv'), 'utf8')
			.trim()
			.split('\n')
			.slice(1)
			.map((l) => l.split(',')[3]);
		expect(units.at(-1)).toBe('air');
		const ids = ['tolven', 'tuff', 'fennick', 'dorrow', 'marrick', 'conglomerate', 'slate'];
		const right = points.filter(([x, y, z], i) => (z > terrainAt(x, y) ? 'air' : ids[truthUnit(x, y, z)]) === units[i]).length;
		// Where holes are: the model must agree with the ground it was sampled from.
		expect(right / points.length).toBeGreaterThan(0.9);
	});

	it('makes the results that a project file lists, of further models, too, and names those that can not be made', () => {
		const project = JSON.parse(readFileSync(join(folder, 'coarse.json'), 'utf8'));
		const { column, lumping, faults } = project;
		const terrain = project.terrain.name ?? 'Terrain';
		const further = { name: 'Unfaulted', spacing: 200, column, lumping, faults: faults.map((f: object) => ({ ...f, on: false })) };
		const part = { rank: 1, parent: 'solid', top: null, base: null, error: null, color: '', lithology: '' };
		const members = column.slice(-3).map((u: { id: string; name: string }) => ({ ...part, id: u.id, name: u.name }));
		const group = { ...part, id: 'solid', name: 'Solid rock', rank: 0, parent: '', color: '#886644' };
		const schemes = [{ id: 'rocks', name: 'Rocks', ranks: ['Group', 'Formation'], units: [group, ...members] }];
		const recipes = [
			{
				name: 'How deep',
				recipe: 'depth-to-unit',
				inputs: { model: ['Model'], terrain: [terrain] },
				parameters: { unit: 'fennick', side: 'top', cell: 100 }
			},
			{
				name: 'Faulted by unfaulted',
				recipe: 'crossed-models',
				inputs: { first: ['Model'], second: ['Unfaulted'] },
				parameters: { spacing: 250 }
			},
			{ name: 'By groups', recipe: 'solids-at-rank', inputs: { model: ['Model'], schemes: ['Schemes'] }, parameters: { rank: 'Group' } },
			{
				name: 'Along',
				recipe: 'lines-on-sections',
				inputs: { model: ['Model'], sections: ['section:A', 'section:Across'] },
				parameters: {}
			},
			{ name: 'Off it', recipe: 'lines-on-sections', inputs: { model: ['Model'], sections: ['section:Nowhere'] }, parameters: {} },
			{ name: 'On the map', recipe: 'surface-geology', inputs: { model: ['Unfaulted'] }, parameters: {} },
			{
				name: 'Nothing',
				recipe: 'thickness',
				inputs: { model: ['Nowhere'] },
				parameters: { unit: 'fennick', measured: 'vertical', cell: 100 }
			},
			{ name: 'Wrong', recipe: 'thickness', inputs: { model: ['Model'] }, parameters: { unit: 'fennick', measured: 'vertical', cell: -1 } }
		];
		const { trace, corridor } = project.section;
		const across = trace.map(([x, y]: [number, number]) => [x, y - 300]);
		const section = { trace, corridor, lines: [{ name: 'Across', trace: across }] };
		writeFileSync(join(folder, 'results.json'), JSON.stringify({ ...project, models: [further], recipes, schemes, section }));
		const { code, err } = run('build', join(folder, 'results.json'), '--out', join(folder, 'made'));
		expect([code, err]).toEqual([0, '']);
		for (const file of ['How_deep.tif', 'How_deep.json', 'Faulted_by_unfaulted.obj', 'By_groups.obj', 'Along.dxf', 'On_the_map.dxf'])
			expect([file, existsSync(join(folder, 'made/results', file))]).toEqual([file, true]);
		expect(JSON.parse(readFileSync(join(folder, 'made/results/How_deep.json'), 'utf8')).known).toBeGreaterThan(100);
		const { volumes } = JSON.parse(readFileSync(join(folder, 'made/results/Faulted_by_unfaulted.json'), 'utf8'));
		expect(volumes.length).toBeGreaterThan(7);
		const byGroups = JSON.parse(readFileSync(join(folder, 'made/results/By_groups.json'), 'utf8'));
		expect(byGroups.volumes.map((v: { unit: string }) => v.unit)).toContain('Solid rock');
		const { areas } = JSON.parse(readFileSync(join(folder, 'made/results/Along.json'), 'utf8'));
		expect([...new Set(areas.map((a: { section: string }) => a.section))]).toEqual(['A', 'Across']);
		// What can not be made is named, and takes nothing with it.
		expect(JSON.parse(readFileSync(join(folder, 'made/report.json'), 'utf8')).notMade).toEqual([
			{ name: 'Off it', why: expect.stringContaining('"section:Nowhere" is not in the project file') },
			{ name: 'Nothing', why: expect.stringContaining('"Nowhere" is not in the project file') },
			{ name: 'Wrong', why: expect.stringContaining('cell') }
		]);
	});

	it('doubts: an ensemble with the spread of its volumes and its probabilities', () => {
		const { code, err } = run('doubt', join(folder, 'coarse.json'), '--out', join(folder, 'doubt'), '--members', '3', '--contact', '4');
		expect([err, code]).toEqual(['', 0]);
		const doubt = JSON.parse(readFileSync(join(folder, 'doubt/doubt.json'), 'utf8')) as {
			members: number;
			errors: object;
			volumes: { unit: string; p10: number; p90: number }[];
		};
		expect(doubt).toMatchObject({ members: 3, failed: 0, errors: { contact: 4, orientation: 5 } });
		expect(doubt.volumes).toHaveLength(7);
		for (const v of doubt.volumes) expect(v.p10).toBeLessThanOrEqual(v.p90);
		expect(readFileSync(join(folder, 'doubt/doubt.vti'), 'latin1')).toContain('<ImageData');
		expect(run('doubt', join(folder, 'coarse.json'), '--out', join(folder, 'doubt'), '--contact', 'much').err).toContain(
			'--contact must be a number'
		);
	});

	it('writes findings as JSON with file lines', () => {
		const { out } = run('check', join(folder, 'coarse.json'));
		expect(JSON.parse(out).findings).toEqual([]);
	});

	it('checks a project whose shape takes places from a layer, and says when that layer is not there', () => {
		const project = JSON.parse(readFileSync(join(folder, 'coarse.json'), 'utf8'));
		const outcrop = { type: 'Feature', properties: { name: 'outcrop' }, geometry: { type: 'Point', coordinates: [402500, 4992500] } };
		writeFileSync(join(folder, 'outcrops.geojson'), JSON.stringify({ type: 'FeatureCollection', features: [outcrop] }));
		const line = (layer: string) => ({ id: 'l', name: 'Outcrops', unit: 'marrick', tells: 'inside', layer: { name: layer } });
		const layers = [{ file: 'outcrops.geojson', name: 'Outcrops', how: {}, coordinates: {} }];
		const write = (layer: string) =>
			writeFileSync(join(folder, 'layered.json'), JSON.stringify({ ...project, layers, shaping: { lines: [line(layer)] } }));
		write('Outcrops');
		expect(run('check', join(folder, 'layered.json')).code).toBe(0);
		write('Nowhere');
		const { code, err } = run('check', join(folder, 'layered.json'));
		expect(code).toBeGreaterThan(0);
		expect(err).toContain('"Nowhere", which is not there');
	});

	it('builds from a version of a log, and says which log is missing', () => {
		const project = JSON.parse(readFileSync(join(folder, 'coarse.json'), 'utf8'));
		const table = project.tables.find((t: { kind: string }) => t.kind === 'intervals');
		const codes = Object.keys(project.lumping).filter((c) => project.lumping[c] === 'fennick');
		const at = '2026-01-01T00:00:00.000Z';
		const logs = [
			{
				name: 'Coarse',
				of: table.name,
				recode: Object.fromEntries(codes.map((c) => [c, 'dorrow'])),
				marks: { edits: [], excluded: [{ row: 0, by: 'me', at }], seen: [] }
			},
			{ name: 'Coarser', of: 'Coarse', recode: {} }
		];
		const write = (of: string, log: string) =>
			writeFileSync(
				join(folder, 'version.json'),
				JSON.stringify({
					...project,
					logs: [logs[0], { ...logs[1], of }],
					shaping: { ...project.shaping, log: { table: log, column: '' } }
				})
			);
		write('Coarse', 'Coarser');
		const { code, err } = run('build', join(folder, 'version.json'), '--out', join(folder, 'coarser'));
		expect([code, err]).toEqual([0, '']);
		const [own, was] = ['coarser', 'out'].map((d) => JSON.parse(readFileSync(join(folder, d, 'report.json'), 'utf8')));
		const volume = (report: { volumes: { unit: string; volume: number }[] }, unit: string) =>
			report.volumes.find((v) => v.unit === unit)?.volume ?? 0;
		// All of the one unit is logged as the other.
		expect(volume(own, 'fennick')).toBeLessThan(0.05 * volume(was, 'fennick'));
		expect(volume(own, 'dorrow')).toBeGreaterThan(1.3 * volume(was, 'dorrow'));
		write('Nobody', 'Coarser');
		expect(run('check', join(folder, 'version.json')).err).toContain('goes out from "Nobody"');
		write('Coarse', 'Nowhere');
		expect(run('build', join(folder, 'version.json'), '--out', join(folder, 'coarser')).err).toContain('no table "Nowhere"');
	});

	it.each([
		['a project file that is not there', ['check', 'nowhere.json'], 'does not exist'],
		['one that is no JSON', ['check', join(folder, 'collars.csv')], 'not JSON'],
		['a missing output folder', ['build', join(folder, 'coarse.json')], '--out']
	])('refuses %s', (_, args, message) => {
		const { code, err } = run(...args);
		expect(code).toBeGreaterThan(0);
		expect(err).toContain(message);
	});

	it('names a table file that is missing and a column that is not in it', () => {
		const project = JSON.parse(readFileSync(join(folder, 'coarse.json'), 'utf8'));
		const write = (tables: unknown[]) => writeFileSync(join(folder, 'bad.json'), JSON.stringify({ ...project, tables }));
		write([{ ...project.tables[0], file: 'gone.csv' }]);
		expect(run('check', join(folder, 'bad.json')).err).toContain('gone.csv does not exist');
		write([{ ...project.tables[0], columns: { Nope: 'hole' } }]);
		expect(run('check', join(folder, 'bad.json')).err).toContain('no column "Nope"');
		write(project.tables.slice(1));
		expect(run('check', join(folder, 'bad.json')).err).toContain('no collar table');
	});

	it('reads tables with decimal commas and terrain as an ASCII grid', () => {
		const project = JSON.parse(readFileSync(join(folder, 'coarse.json'), 'utf8'));
		writeFileSync(join(folder, 'comma.csv'), 'hole;x;y;z;depth\nA1;401000,5;4992000,5;100,0;50\nA2;401100,5;4992100,5;101,0;60\n');
		writeFileSync(join(folder, 'overlap.csv'), 'hole;from;to;lith\nA1;0,0;20,5;slate\nA1;20,0;50;slate\nA2;0;61;slate\n');
		writeFileSync(
			join(folder, 'flat.asc'),
			'ncols 3\nnrows 3\nxllcorner 400000\nyllcorner 4990000\ncellsize 2000\nNODATA_value -9999\n100 100 100\n100 100 100\n100 100 100\n'
		);
		writeFileSync(
			join(folder, 'habits.json'),
			JSON.stringify({
				...project,
				tables: [
					{ file: 'comma.csv', kind: 'collars' },
					{ file: 'overlap.csv', kind: 'intervals' }
				],
				terrain: { file: 'flat.asc' }
			})
		);
		const { out, err } = run('check', join(folder, 'habits.json'));
		expect(err).toBe('');
		const rules = (JSON.parse(out).findings as { rule: string; hole: string }[]).map((f) => `${f.hole} ${f.rule}`);
		expect(rules.sort()).toEqual(['A1 overlap', 'A2 deeper-than-hole']);
	});
});
