import { expect, it } from 'vitest';
import { checkTables } from '#core/checks/check';
import { readDelimited, writeCsv } from '#core/tables/delimited';
import type { TableKind } from '#core/tables/kinds';
import { readTable } from '#core/tables/table';
import { demoProject, demoTables, demoTerrain, lumpingOf, type DemoTables } from './generate';
import { plantFaults } from './planted';
import { COLUMN, EXTENT, LAYERS, truthUnit, terrainAt, sallowTrace, sallowDistance } from './truth';

const FILES: Record<string, keyof DemoTables> = {
	'collars.csv': 'collars',
	'surveys.csv': 'surveys',
	'lithology.csv': 'lithology',
	'assays.csv': 'assays',
	'orientations.csv': 'orientations',
	'levels.csv': 'levels',
	'gamma.csv': 'gamma',
	'walls.csv': 'walls',
	'magnetics.csv': 'magnetics',
	'slate.csv': 'slate'
};

function tablesOf(t: DemoTables) {
	return demoProject().tables.map((spec) => {
		const [header, ...rows] = t[FILES[spec.file]!];
		const raw = readDelimited(new TextEncoder().encode(writeCsv(header!, rows)), spec.file);
		const mapping = Object.fromEntries(raw.header.map((h) => [h, (spec.columns as unknown as Record<string, string>)[h] ?? 'leave']));
		return readTable(FILES[spec.file]!, spec.kind as TableKind, raw, mapping);
	});
}

const OPTIONS = {
	lengthUnit: 'm',
	around: { terrain: demoTerrain(), extent: EXTENT, column: COLUMN, lumping: lumpingOf(LAYERS), today: 20_500 }
};

it('finds nothing in the clean demo', () => {
	expect(checkTables(tablesOf(demoTables()), OPTIONS).findings).toEqual([]);
});

it('finds every planted fault, by kind and place, and nothing else', () => {
	const { tables, key } = plantFaults(demoTables());
	expect(Object.keys(key).length).toBeGreaterThan(20);
	const read = tablesOf(tables);
	const { findings } = checkTables(read, OPTIONS);
	const places = (list: { rule: string; file: string; line: number }[]) => list.map((f) => `${f.rule} ${f.file} ${f.line}`).sort();
	const lines = new Map(read.map((t) => [t.name, t.lines]));
	expect(places(findings.map((f) => ({ rule: f.rule, file: f.table, line: lines.get(f.table)![f.row]! })))).toEqual(
		places(Object.entries(key).flatMap(([rule, list]) => list.map((p) => ({ rule, ...p }))))
	);
});

it('is the same ground every time, with the fault trace on the fault', () => {
	expect(demoTables()).toEqual(demoTables());
	for (const [x, y] of sallowTrace()) expect(Math.abs(sallowDistance(x, y, terrainAt(x, y)))).toBeLessThan(1);
	expect(truthUnit(401000, 4992500, -400)).toBe(6);
});
