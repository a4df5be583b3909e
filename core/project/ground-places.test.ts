import { describe, expect, it } from 'vitest';
import { checkHoles, extentOfHoles } from './pipeline';
import { table, unit, collars, lithology, options, ground, terrain } from './for-tests';

describe('the top of a unit', () => {
	const column = [unit('till', 'erosional'), unit('dyke', 'intrusive'), unit('cover'), unit('slate')];
	const top = (of: string) =>
		ground(
			{ lines: [{ id: 'l', name: 'Top', unit: of, tells: 'top', on: true, error: 0, vertices: [[500, 500, -30]] }] },
			[collars, lithology],
			{ column, lumping: { cover: 'cover', slate: 'slate' } }
		)
			.contacts.filter((c) => c.table === 'Top')
			.map((c) => column[c.surface]!.id);

	it('is the base of the unit above it in its sequence', () => expect(top('slate')).toEqual(['cover']));
	it('of the first unit of a sequence is the base of the layers over it, whatever cuts through between', () =>
		expect(top('cover')).toEqual(['till']));
	it('of an intrusion is its boundary', () => expect(top('dyke')).toEqual(['dyke']));
});

describe('what was measured in the field and in holes', () => {
	const planes = table(
		'planes',
		'orientations',
		'easting,northing,elevation,dip,dip azimuth,polarity,unit\n100,100,12,30,90,1,cover\n200,200,,40,180,-1,slate\n300,300,5,,,1,cover\n400,400,5,20,10,1,nonsense\n'
	);
	it('has elevations of its own or those of the terrain, units as far as they are known, and no planes without a dip', () => {
		const { orientations } = ground({}, [collars, lithology, planes], { terrain });
		expect(orientations.map((o) => [o.x, o.dip, o.dipAzimuth, o.polarity, o.unit])).toEqual([
			[100, 30, 90, 1, 0],
			[200, 40, 180, -1, 1],
			[400, 20, 10, 1, -1]
		]);
		expect(orientations[0]!.z).toBe(12);
		expect(orientations[1]!.z).toBeCloseTo(24, 6);
		// Without a terrain they lie on the roof of the box.
		expect(ground({}, [collars, lithology, planes]).orientations[1]!.z).toBe(50);
	});

	it('leaves out what its data set is turned off for, by unit', () => {
		const off = ground({ dataSets: [{ table: 'planes', on: true, off: ['slate'], error: 0 }] }, [collars, lithology, planes]);
		expect(off.orientations.map((o) => o.unit)).toEqual([0, -1]);
		expect(ground({ dataSets: [{ table: 'planes', on: false, off: [], error: 0 }] }, [collars, lithology, planes]).orientations).toEqual(
			[]
		);
	});
});

describe('a box for a new project', () => {
	const { holes } = checkHoles([collars], options);
	it('holds collars and ends of holes, with a margin, in round numbers', () => {
		const box = extentOfHoles(holes)!;
		expect(box).toEqual({ minX: 20, minY: 20, minZ: -190, maxX: 980, maxY: 980, maxZ: 40 });
		const wide = extentOfHoles(holes, 0.5)!;
		expect(wide.minX).toBeLessThan(box.minX);
		for (const v of Object.values(wide)) expect(Math.abs(v % 10)).toBe(0);
	});
	it('is none without holes, and has a volume for a single one', () => {
		expect(extentOfHoles([])).toBeNull();
		const one = extentOfHoles([holes[0]!])!;
		expect(one.maxX).toBeGreaterThan(one.minX);
		expect(one.maxY).toBeGreaterThan(one.minY);
	});
});
