import { readdirSync, readFileSync } from 'node:fs';
import { expect, it } from 'vitest';
import { anchorOf, MANUAL } from './pages';

it('every page of the manual has a title and headings that can be led to', () => {
	expect(MANUAL.map((m) => m.name)).toEqual([
		'tour',
		'gather',
		'check',
		'workbench',
		'logs',
		'stratigraphy',
		'grids',
		'modelling',
		'results',
		'expressions',
		'command-line',
		'api'
	]);
	for (const m of MANUAL) {
		expect(m.title).not.toBe('');
		expect(new Set(m.headings.map((h) => h.id)).size).toBe(m.headings.length);
	}
});
it('links between documents lead somewhere', () => {
	const docs = new Set(readdirSync('docs'));
	for (const m of MANUAL)
		for (const [, file, anchor] of m.text.matchAll(/\]\(([\w-]+\.md)?(?:#([\w-]+))?\)/g)) {
			if (file) expect(docs.has(file), `${m.name}: ${file}`).toBe(true);
			if (!anchor) continue;
			const text = readFileSync(`docs/${file ?? `${m.name}.md`}`, 'utf8');
			const anchors = [...text.matchAll(/^#{1,4} (.+)$/gm)].map((h) => anchorOf(h[1]!));
			expect(anchors, `${m.name}: ${file}#${anchor}`).toContain(anchor);
		}
});
