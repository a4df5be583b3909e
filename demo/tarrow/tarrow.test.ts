import { existsSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { execFileSync } from 'node:child_process';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { beforeAll, describe, expect, it } from 'vitest';
import { RADIANS } from '#core/geometry/angles';
import { readAgs } from '#core/formats/ags';
import { filesNamed, parseProjectFile, type ProjectFile } from '#core/project/project-file';
import { seededRandom } from '#core/statistics/random';
import { readDelimited } from '#core/tables/delimited';
import { parseDate } from '#core/tables/dates';
import { truthLog } from '../generate';
import { sallowDistance, terrainAt } from '../truth';
import { dykeHoles, oreHoles, tunnelHoles, waterWells, placeAt } from './holes';
import { FAILED_BATCHES, STANDARDS } from './laboratory';
import { tarrowFiles } from './project';
import { SCHEME } from './region';
import { driftAt } from './surveys';
import {
	bouguerAt,
	coverThickness,
	gradeAt,
	magneticAt,
	rockhead,
	TARROW,
	TARROW_COLUMN,
	tarrowUnit,
	waterTableAt,
	WEATHERING_COLUMN,
	weatheringAt,
	WICK,
	wickDistance,
	wickTrace
} from './truth';
import { WATER_SLIPS } from './water';

let files: Map<string, Uint8Array>;
let project: ProjectFile;
const folder = mkdtempSync(join(tmpdir(), 'tarrow-'));
const rowsOf = (name: string) => {
	const { header, columns, rowCount } = readDelimited(files.get(name)!, name);
	return Array.from({ length: rowCount }, (_, r) => Object.fromEntries(header.map((h, c) => [h, columns[c]![r]!])));
};
const unitAt = (x: number, y: number, z: number) => TARROW_COLUMN[tarrowUnit(x, y, z)]!.id;

beforeAll(async () => {
	files = await tarrowFiles();
	project = parseProjectFile(JSON.parse(new TextDecoder().decode(files.get('project.json')!)), 'project.json');
	for (const [name, bytes] of files) writeFileSync(join(folder, name), bytes);
});

describe('the ground of Tarrow', () => {
	it('has cover above rock, weathering below rockhead, and every unit somewhere', () => {
		const random = seededRandom(1);
		const met = new Set<string>();
		for (let i = 0; i < 40_000; i++) {
			const [x, y] = [401000 + 4400 * random.uniform(), 4990600 + 3800 * random.uniform()];
			const z = terrainAt(x, y) - 480 * random.uniform();
			met.add(unitAt(x, y, z));
			expect(unitAt(x, y, z) === 'cover').toBe(z >= rockhead(x, y));
			// Deeper is never more weathered.
			expect(weatheringAt(x, y, z - 5)).toBeGreaterThanOrEqual(weatheringAt(x, y, z));
			expect(coverThickness(x, y)).toBeLessThanOrEqual(25);
		}
		expect([...met].sort()).toEqual(TARROW_COLUMN.map((u) => u.id).sort());
	});

	it('has the ore on the eastern contact of the granite, richer than all round it', () => {
		const [x, y] = [403150, 4992350];
		const z = Array.from({ length: 400 }, (_, i) => terrainAt(x, y) - i).find((h) => unitAt(x, y, h) === 'skarn')!;
		expect(z).toBeDefined();
		expect(gradeAt(x, y, z).wo3).toBeGreaterThan(2000);
		expect(gradeAt(x + 700, y, z).wo3).toBeLessThan(20);
		for (let a = 2; a < 4.3; a += 0.1)
			for (let out = 380; out < 620; out += 10)
				expect(unitAt(402650 + out * Math.cos(a), 4992350 + out * Math.sin(a), 60)).not.toBe('skarn');
	});

	it('draws the Wick Fault on the fault, up to the Sallow Fault, and lets it die out', () => {
		const trace = wickTrace();
		for (const [x, y] of trace) expect(Math.abs(wickDistance(x, y, terrainAt(x, y)))).toBeLessThan(0.2);
		const [ex, ey] = trace.at(-1)!;
		expect(sallowDistance(ex, ey, terrainAt(ex, ey))).toBeLessThan(0);
		// Across its middle the layers jump by its throw; past its tip they do not.
		const base = (x: number, y: number) => {
			for (let z = -300; z < 300; z += 0.5) if (unitAt(x, y, z) === 'marrick') return z;
			return NaN;
		};
		// The largest step between places 24 m apart on a line across the fault: the heave lies between them.
		const across = (s: number) => {
			const at = (off: number): [number, number] => {
				const [along, dip] = [WICK.strike * RADIANS, WICK.dipAzimuth * RADIANS];
				return [WICK.through[0] + s * Math.sin(along) + off * Math.sin(dip), WICK.through[1] + s * Math.cos(along) + off * Math.cos(dip)];
			};
			const bases = Array.from({ length: 200 }, (_, i) => base(...at(2 * i - 150)));
			return Math.max(...bases.slice(12).map((b, i) => Math.abs(b - bases[i]!) || 0));
		};
		expect(across(0)).toBeGreaterThan(28);
		expect(across(-1150)).toBeLessThan(across(0) / 2);
	});

	it('keeps water below the ground, higher in winter, and fields that instruments can tell apart', () => {
		for (let x = 401200; x < 405000; x += 200)
			for (let y = 4990900; y < 4994000; y += 200) {
				expect(waterTableAt(x, y, 19_800)).toBeLessThan(terrainAt(x, y));
				expect(waterTableAt(x, y, 19_768)).toBeGreaterThanOrEqual(waterTableAt(x, y, 19_950));
			}
		expect(bouguerAt(402650, 4992350)).toBeLessThan(bouguerAt(405000, 4993500) - 4);
		expect(magneticAt(402650 + 430, 4992350)).toBeGreaterThan(magneticAt(402650, 4992350) + 80);
	});
});

describe('the files of Tarrow', () => {
	it('are those that the project names, small, and the same every time', async () => {
		expect(filesNamed(project).filter((n) => !files.has(n))).toEqual([]);
		expect([...files.values()].reduce((n, b) => n + b.length, 0)).toBeLessThan(15e6);
		const again = await tarrowFiles();
		for (const [name, bytes] of files) expect([name, Buffer.compare(Buffer.from(bytes), Buffer.from(again.get(name)!))]).toEqual([name, 0]);
		expect([project.model, ...project.models!.map((m) => m.name)]).toEqual(['Tarrow geology', 'Weathering']);
	});

	it('log what the truth has: the ore, the dyke on both sides of the fault, weathering of its own', () => {
		expect(
			oreHoles().filter((h) => truthLog(h.path, tarrowUnit).some((r) => TARROW_COLUMN[r.unit]!.id === 'skarn')).length
		).toBeGreaterThan(11);
		const dykes = dykeHoles();
		expect(dykes).toHaveLength(10);
		const sides = dykes.map((h) => {
			const met = truthLog(h.path, tarrowUnit).find((r) => TARROW_COLUMN[r.unit]!.id === 'dyke')!;
			return sallowDistance(...placeAt(h, met.from)) > 0;
		});
		expect(new Set(sides)).toEqual(new Set([true, false]));
		const codes = Object.fromEntries(Object.entries(TARROW.spellings).flatMap(([unit, list]) => list.map((c) => [c, unit])));
		const holes = new Map([...oreHoles(), ...dykes].map((h) => [h.name, h]));
		for (const r of rowsOf('lithology.csv')) {
			const hole = holes.get(r['HoleID']!);
			if (hole) expect(unitAt(...placeAt(hole, (Number(r['From']) + Number(r['To'])) / 2))).toBe(codes[r['Lithology']!]);
		}
		expect(new Set(rowsOf('weathering.csv').map((r) => project.models![0]!.lumping[r['Grade']!]))).toEqual(
			new Set(WEATHERING_COLUMN.map((u) => u.id))
		);
	});

	it('hold the tunnel as AGS 4 that passes the checks, with holes to below its invert', () => {
		const { groups, notes } = readAgs(files.get('tunnel.ags')!, 'tunnel.ags');
		expect(notes).toEqual([]);
		expect(groups.find((g) => g.name === 'LOCA')!.rows).toHaveLength(14);
		const alignment = rowsOf('alignment.csv');
		expect(Number(alignment.at(-1)!['Chainage'])).toBeGreaterThan(1100);
		for (const h of tunnelHoles()) {
			const [x, y, z] = placeAt(h, h.path.totalDepth);
			const near = alignment.reduce((a, b) =>
				Math.hypot(Number(b['Easting']) - x, Number(b['Northing']) - y) < Math.hypot(Number(a['Easting']) - x, Number(a['Northing']) - y)
					? b
					: a
			);
			expect(z).toBeLessThan(Number(near['Invert']));
		}
	});

	it('hold assays with controls: two batches fail, arsenic is below detection in places', () => {
		const rows = rowsOf('assays.csv');
		const off = new Set<string>();
		for (const r of rows) {
			const standard = STANDARDS[r['SampleType']!.replace('standard ', '')];
			if (standard && Math.abs(Number(r['WO3_ppm']) / standard[0] - 1) > 0.12) off.add(r['Batch']!);
			if (r['SampleType'] === 'blank' && Number(r['WO3_ppm']) > 20) off.add(r['Batch']!);
		}
		expect([...off].sort()).toEqual(Object.values(FAILED_BATCHES).sort());
		expect(rows.filter((r) => r['As_ppm'] === '<5').length).toBeGreaterThan(50);
		const left = new Set(project.tables.find((t) => t.name === 'Assays')!.excluded as number[]);
		rows.forEach((r, i) => expect(left.has(i + 2)).toBe(r['SampleType'] !== 'original'));
	});

	it('hold readings that give the truth back once they are corrected', () => {
		for (const r of rowsOf('levels.csv')) {
			const well = waterWells().find((w) => w.name === r['HoleID'])!;
			const [x, y, z] = well.path.collar;
			const off = Math.abs(z - Number(r['DepthToWater']) - waterTableAt(x, y, parseDate(r['Date']!)));
			if (off > 1) expect(WATER_SLIPS.map((s) => s.well)).toContain(r['HoleID']);
		}
		const hourOf = (time: string) => (parseDate(time) % 1) * 24;
		const lines = rowsOf('magnetics.csv');
		const residual = lines.map(
			(r) => Number(r['TotalField_nT']) - driftAt(hourOf(r['Time']!)) - magneticAt(Number(r['Easting']), Number(r['Northing']))
		);
		const mean = (list: number[]) => list.reduce((a, b) => a + b, 0) / list.length;
		expect(mean(residual.filter((_, i) => Number(lines[i]!['Line']) % 20 === 0))).toBeCloseTo(4, 0);
		expect(mean(residual.filter((_, i) => Number(lines[i]!['Line']) % 20 === 10))).toBeCloseTo(-4, 0);
		expect(mean(residual.filter((_, i) => lines[i]!['Line']!.startsWith('T')))).toBeCloseTo(0, 0);
		// Height reduced to a plate of 2.67 g/cm³ gives the anomaly and a constant.
		const gravity = rowsOf('gravity.csv').map(
			(r) =>
				Number(r['Reading_mGal']) + (0.3086 - 0.0419 * 2.67) * Number(r['Height']) - bouguerAt(Number(r['Easting']), Number(r['Northing']))
		);
		expect(Math.max(...gravity) - Math.min(...gravity)).toBeLessThan(0.4);
	});

	it('name ages that are in order, parents round their children', () => {
		for (const [, unit, parent, top, base] of SCHEME) {
			expect(base).toBeGreaterThan(top);
			const above = SCHEME.find((s) => s[1] === parent);
			if (above) expect([unit, above[3] <= top && above[4] >= base]).toEqual([unit, true]);
		}
		const tops = rowsOf('tops.csv');
		expect(new Set(tops.map((r) => r['Well'])).size).toBe(8);
		expect(tops.some((r) => r['AgeTop_Ma'] !== '')).toBe(true);
	});

	it('give findings only where something is wrong on purpose, and a model that is the ground', () => {
		const cli = (...args: string[]) => execFileSync('node', ['dist/cli.js', ...args], { encoding: 'utf8', stdio: 'pipe', maxBuffer: 1e8 });
		const { findings } = JSON.parse(cli('check', join(folder, 'project.json'))) as { findings: { rule: string; hole: string }[] };
		expect(findings.map((f) => `${f.rule} ${f.hole}`).sort()).toEqual(
			['deeper-than-hole MW-11', ...['RW-01', 'RW-02', 'RW-06', 'RW-07', 'RW-08'].map((w) => `outside-extent ${w}`)].sort()
		);
		const random = seededRandom(3);
		const places = Array.from({ length: 6000 }, () => {
			const [x, y] = [401300 + 4000 * random.uniform(), 4990800 + 3400 * random.uniform()];
			return [x, y, terrainAt(x, y) - 320 * random.uniform()] as const;
		});
		writeFileSync(join(folder, 'places.csv'), `x,y,z\n${places.map((p) => p.map((v) => v.toFixed(2)).join(',')).join('\n')}\n`);
		const coarse = { ...project, spacing: 100, finer: undefined, recipes: [], models: [] };
		const further = { ...coarse, ...project.models![0]!, name: project.name, spacing: 100 };
		const share = (name: string, document: object, column: typeof TARROW_COLUMN, at: typeof tarrowUnit) => {
			writeFileSync(join(folder, `${name}.json`), JSON.stringify(document));
			cli('build', join(folder, `${name}.json`), '--out', join(folder, name), '--classify', join(folder, 'places.csv'));
			const told = readFileSync(join(folder, name, 'classified.csv'), 'utf8')
				.trim()
				.split('\n')
				.slice(1);
			return told.filter((line, i) => line.split(',')[3] === column[at(...places[i]!)]!.id).length / places.length;
		};
		expect(share('geology', coarse, TARROW_COLUMN, tarrowUnit)).toBeGreaterThan(0.97);
		expect(share('weathering', further, WEATHERING_COLUMN, weatheringAt)).toBeGreaterThan(0.97);
		for (const u of TARROW_COLUMN)
			expect([u.id, existsSync(join(folder, 'geology/volumes', `${u.name.replace(/ /g, '_')}.obj`))]).toEqual([u.id, true]);
	}, 120_000);
});
