import { execFileSync } from 'node:child_process';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import type { LogData } from '#core/logs/log-parts';
import { joinPages, logPages } from '#core/logs/pages';
import { assembleHoles } from '#core/holes/holes';
import { pathsOf } from '#core/datasets/hole-paths';
import { plainDefaults } from '#core/styles/style';
import { readDelimited } from '#core/tables/delimited';
import { guessMapping } from '#core/tables/mapping';
import { readTable } from '#core/tables/table';
import { writePdf } from '../../web/src/lib/server/threads/pdf';

// What is drawn at a scale is measured on the paper by another reader: poppler from Debian.
const folder = mkdtempSync(join(tmpdir(), 'malachite-scale-'));
const collars = readDelimited(new TextEncoder().encode('hole,x,y,z,depth\nLONG,402000,4992000,100,300\n'), 'c.csv');
const table = readTable('c', 'collars', collars, guessMapping(collars, 'collars'));
const { holes } = assembleHoles([table], { findings: [], out: { c: new Uint8Array(1) } }, null);
const data = {
	paths: pathsOf(holes),
	set: () => null,
	style: () => null as never,
	defaults: plainDefaults,
	text: () => '',
	findings: () => [],
	photographs: () => [],
	lengthUnit: 'm'
} as unknown as LogData;
const spec = (scale: number) => ({
	holes: ['LONG'],
	tracks: [{ kind: 'axis' as const, width: 20, series: [], log: false, range: [null, null] as [null, null], fill: 'none' as const }],
	axis: 'depth' as const,
	scale,
	align: null
});
const head = { project: 'Scale', author: '', date: '2026-01-01', crs: 'EPSG:32628' };

/** Pages of a PDF as drawings, by an independent reader. */
function measured(pdf: Uint8Array) {
	const file = join(folder, 'log.pdf');
	writeFileSync(file, pdf);
	const info = execFileSync('pdfinfo', [file], { encoding: 'utf8' });
	const [, width, height] = /Page size:\s+([\d.]+) x ([\d.]+) pts/.exec(info)!.map(Number) as [number, number, number];
	const words = execFileSync('pdftotext', ['-bbox', file, '-'], { encoding: 'utf8' });
	const pages = words
		.split('<page ')
		.slice(1)
		.map((p) =>
			[...p.matchAll(/yMin="([\d.]+)"[^>]*yMax="([\d.]+)">([^<]*)</g)].map((m) => ({ y: (Number(m[1]) + Number(m[2])) / 2, text: m[3]! }))
		);
	return { width: (width * 25.4) / 72, height: (height * 25.4) / 72, pages };
}

describe('a log on paper', () => {
	it.each([200, 500, 1000])('1 : %i is just that, whole, on paper of its size', async (scale) => {
		const pages = logPages(spec(scale), data, head);
		const paper = measured(await writePdf(pages, 'log', []));
		expect(paper.width).toBeCloseTo(210, 0);
		expect(paper.height).toBeCloseTo(297, 0);
		expect(paper.pages).toHaveLength(pages.length);
		// Depths that are written beside the axis: how many millimetres lie between them?
		const depths = paper.pages.map((p) =>
			p.filter((w) => /^\d{1,3}$/.test(w.text)).map((w) => ({ mm: (w.y * 25.4) / 72, depth: Number(w.text) }))
		);
		let compared = 0;
		for (const marks of depths) {
			const own = marks.filter((m) => m.depth > 0 && m.mm > 45);
			for (let i = 1; i < own.length; i++) {
				if (own[i]!.depth <= own[i - 1]!.depth) continue;
				const mm = ((own[i]!.depth - own[i - 1]!.depth) * 1000) / scale;
				expect(Math.abs(own[i]!.mm - own[i - 1]!.mm - mm)).toBeLessThan(0.2);
				compared++;
			}
		}
		expect(compared).toBeGreaterThan(4);
		// Nothing is cut off: the foot of the hole and the number of each page are there.
		const all = paper.pages.flat().map((w) => w.text);
		expect(Math.max(...depths.flat().map((m) => m.depth))).toBeGreaterThan(280);
		expect(all.filter((t) => t === 'page')).toHaveLength(pages.length);
	});
	it('as one drawing says its size in millimetres', () => {
		const svg = joinPages(logPages(spec(500), data, head));
		const [, width, height, box] = /width="([\d.]+)mm" height="([\d.]+)mm" viewBox="0 0 ([\d. ]+)"/.exec(svg)!;
		expect(`${width} ${height}`).toBe(box);
	});
});
