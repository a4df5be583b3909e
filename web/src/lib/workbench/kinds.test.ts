import { expect, it } from 'vitest';
import { TABLE_KINDS } from '#core/tables/kinds';
import { hasMarks, hasTracks, kindOf } from './kinds';

const table = (kind: unknown) => ({ state: { kind } });
const those = (test: (t: { state: Record<string, unknown> }) => unknown) =>
	TABLE_KINDS.filter((k) => test(table(k.kind))).map((k) => k.kind);

it('tables whose rows can stand in tracks are those along holes and at depths of them, and levels', () => {
	expect(those(hasTracks)).toEqual(['intervals', 'assays', 'readings', 'holeOrientations', 'levels', 'other']);
});

it('tables whose rows are marks in space are those on the map, starts of holes, and directions', () => {
	expect(those(hasMarks)).toEqual(['collars', 'holeOrientations', 'orientations', 'contactPoints', 'places', 'stations']);
});

it('a table stands where its roles can put it', () => {
	for (const { kind, at, roles } of TABLE_KINDS) {
		const has = (key: string) => roles.some((r) => r.key === key);
		if (at === 'map' || at === 'start') expect([kind, has('easting') && has('northing')]).toEqual([kind, true]);
		if (at !== 'map') expect([kind, has('hole')]).toEqual([kind, true]);
		if (at === 'depth' || at === 'path') expect([kind, has('depth')]).toEqual([kind, true]);
	}
});

it('one of a kind that is not known is like any other table', () => {
	expect(kindOf(table('songs')).kind).toBe('other');
	expect(kindOf(table(undefined)).kind).toBe('other');
});
