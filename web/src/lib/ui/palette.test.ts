import { readFileSync } from 'node:fs';
import { expect, it } from 'vitest';
import { DRAWN_DARK, INK, NOTED_TEXT, SEA } from '#core/palette';

it('the colours of pictures that markup names are those of the palette', () => {
	const css = readFileSync(new URL('../../app.css', import.meta.url), 'utf8');
	const named = Object.fromEntries(
		[...css.matchAll(/--(ink|drawn-dark|noted|sea): (#[0-9a-f]{6});/g)].map((m) => [m[1], m[2]!.toUpperCase()])
	);
	expect(named).toEqual({ ink: INK, 'drawn-dark': DRAWN_DARK, noted: NOTED_TEXT, sea: SEA });
});
