import type { DemoTables } from './generate';

/** How many findings of each rule the planted copy must give, and on which lines of which file. */
export type PlantedKey = Record<string, { file: string; line: number }[]>;

/** A copy of the tables with mistakes of known kind and number. Line 1 is the header. */
export function plantFaults(clean: DemoTables): { tables: DemoTables; key: PlantedKey } {
	const t = structuredClone(clean);
	const key: PlantedKey = {};
	const mark = (rule: string, file: string, line: number) => (key[rule] ??= []).push({ file, line });
	const edit = (rule: string, file: keyof DemoTables, row: number, column: number, value: string) => {
		t[file][row]![column] = value;
		mark(rule, file, row + 1);
	};
	const firstRow = (file: keyof DemoTables, hole: string) => t[file].findIndex((r) => r[0] === hole);
	const lastRow = (file: keyof DemoTables, hole: string) => t[file].findLastIndex((r) => r[0] === hole);

	/** The rows of a hole whose collar can not be used have no collar: one finding for each table. */
	const orphan = (hole: string) => {
		for (const file of ['surveys', 'lithology', 'assays', 'levels', 'gamma', 'walls', 'slate'] as const)
			if (firstRow(file, hole) > 0) mark('unknown-hole', file, firstRow(file, hole) + 1);
	};
	const cell = (file: keyof DemoTables, row: number, column: number) => Number(t[file][row]![column]);

	// A hole that was never logged; first, because later rows move up.
	t.lithology = t.lithology.filter((r) => r[0] !== 'TW-060');
	mark('missing-rows', 'collars', firstRow('collars', 'TW-060') + 1);
	// Numbers and ranges. A height that can not be read is taken from the terrain, so the hole is used.
	edit('not-a-number', 'collars', 14, 3, 'ca. 90');
	edit('not-a-number', 'lithology', firstRow('lithology', 'TW-020'), 2, '12,5');
	edit('not-a-number', 'assays', 40, 4, '<5');
	edit('not-a-number', 'assays', 41, 5, 'trace');
	edit('not-a-number', 'orientations', 9, 3, 'steep');
	edit('out-of-range', 'orientations', 20, 3, '97');
	edit('out-of-range', 'surveys', lastRow('surveys', 'TW-002'), 3, '-95.0');
	// Places: exchanged, a decimal slip, a little outside, and a height ten times too large.
	const swapped = firstRow('collars', 'TW-030');
	[t.collars[swapped]![1], t.collars[swapped]![2]] = [t.collars[swapped]![2]!, t.collars[swapped]![1]!];
	mark('misplaced-collar', 'collars', swapped + 1);
	orphan('TW-030');
	edit(
		'misplaced-collar',
		'collars',
		firstRow('collars', 'TW-044'),
		1,
		(cell('collars', firstRow('collars', 'TW-044'), 1) / 10).toFixed(2)
	);
	orphan('TW-044');
	edit('outside-extent', 'collars', firstRow('collars', 'TW-050'), 1, '406350.0');
	edit('against-terrain', 'collars', firstRow('collars', 'TW-022'), 3, (10 * cell('collars', firstRow('collars', 'TW-022'), 3)).toFixed(2));
	// Names.
	t.collars.push([...t.collars[5]!], [...t.collars[31]!]);
	mark('duplicate-collar', 'collars', t.collars.length - 1);
	mark('duplicate-collar', 'collars', t.collars.length);
	for (const hole of ['TW-901', 'tw 006']) {
		t.lithology.push([hole, '0.00', '10.00', 'SLA', 'KB', 'slate']);
		mark('unknown-hole', 'lithology', t.lithology.length);
	}
	edit(
		'code-variants',
		'lithology',
		t.lithology.findIndex((r) => r[3] === 'Sandstone' && r[0] === 'TW-052') > 0
			? t.lithology.findIndex((r) => r[3] === 'Sandstone' && r[0] === 'TW-052')
			: t.lithology.findIndex((r) => r[3] === 'Sandstone'),
		3,
		'Sandstonne'
	);
	// Surveys.
	const steep = [...new Set(t.surveys.slice(1).map((r) => r[0]!))].filter(
		(h) =>
			lastRow('surveys', h) - firstRow('surveys', h) >= 6 &&
			cell('surveys', firstRow('surveys', h), 3) > -78 &&
			!['TW-014', 'TW-030', 'TW-044'].includes(h)
	);
	t.surveys.push([...t.surveys[firstRow('surveys', steep[0]!) + 1]!]);
	mark('duplicate-station', 'surveys', t.surveys.length);
	const bent = firstRow('surveys', steep[1]!) + 3;
	edit('tight-bend', 'surveys', bent, 2, ((cell('surveys', bent, 2) + 150) % 360).toFixed(1));
	mark('tight-bend', 'surveys', bent + 2);
	const flipped = firstRow('surveys', steep[2]!) + 3;
	edit('mixed-dip-signs', 'surveys', flipped, 3, (-cell('surveys', flipped, 3)).toFixed(1));
	mark('tight-bend', 'surveys', flipped + 1);
	mark('tight-bend', 'surveys', flipped + 2);
	edit('deeper-than-hole', 'surveys', lastRow('surveys', steep[3]!), 1, '750.0');
	// Intervals.
	edit('from-not-above-to', 'lithology', lastRow('lithology', 'TW-033'), 1, '999.00');
	edit('from-not-above-to', 'assays', 12, 1, '500.00');
	edit('deeper-than-hole', 'lithology', lastRow('lithology', 'TW-041'), 2, '800.00');
	const cover = t.collars.find((r) => r[0] === 'TW-008')!;
	t.lithology.push(['TW-008', '1.00', cover[4]!, 'SLA', 'MO', 'slate']);
	mark('overlap', 'lithology', t.lithology.length);
	const gapHole = t.lithology.findIndex(
		(r, i) =>
			i > 100 && t.lithology[i + 1]?.[0] === r[0] && t.lithology[i - 1]?.[0] === r[0] && !['TW-041', 'TW-033', 'TW-044'].includes(r[0]!)
	);
	edit('gap', 'lithology', gapHole, 1, (cell('lithology', gapHole, 1) + 0.4).toFixed(2));
	edit('late-start', 'lithology', firstRow('lithology', 'TW-057'), 1, '0.50');
	const turned = t.lithology.findIndex(
		(r, i) =>
			i > 0 &&
			r[3] !== t.lithology[i + 1]?.[3] &&
			['MDST', 'Mudstone', 'mudstone'].includes(r[3]!) &&
			t.lithology[i + 1]?.[0] === r[0] &&
			/^l/i.test(t.lithology[i + 1]?.[3] ?? '') &&
			r[0] !== 'TW-014'
	);
	[t.lithology[turned]![3], t.lithology[turned + 1]![3]] = [t.lithology[turned + 1]![3]!, t.lithology[turned]![3]!];
	mark('unit-order', 'lithology', turned + 2);
	// Measured values.
	t.assays.push([...t.assays[70]!]);
	t.assays[t.assays.length - 1]![3] = 'S9001';
	t.assays[t.assays.length - 1]![4] = '1';
	mark('same-interval', 'assays', t.assays.length);
	edit('duplicate-sample', 'assays', 90, 3, t.assays[91]![3]!);
	key['duplicate-sample'] = [{ file: 'assays', line: 92 }];
	edit('outlier', 'assays', 120, 4, '9000000000');
	edit('negative-value', 'assays', 130, 5, '-5');
	edit('negative-value', 'assays', 131, 5, '0');
	t.orientations.push([...t.orientations[3]!]);
	mark('duplicate-row', 'orientations', t.orientations.length);
	// Days.
	edit('bad-date', 'levels', 5, 1, '2041-03-01');
	edit('bad-date', 'levels', 6, 1, '31/02/2025');
	return { tables: t, key };
}
