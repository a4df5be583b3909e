import { beforeAll, describe, expect, it } from 'vitest';
import { p3 } from '../../bench/problems';
import { sectionDxf } from './section-dxf';
import type { SectionDrawing } from './section-drawing';
import { sectionSvg } from './section-svg';
import { geologyGeoJson } from './geology-geojson';
import { cutLattice, FAULT, type SolidMesh } from '../mesh/cut-lattice';
import { sampledOn } from '../mesh/for-tests';
import { latticeOf } from '../mesh/lattice';
import { buildModel } from '../model/build';
import { fitGround } from '../model/fit-ground';
import { unitAt } from '../model/walk';
import { faultsAlongHoles, unitsAlongHole } from './along-solids';
import { geologyAtSurface, polygonsOf, ringArea } from './geology-map';
import { cutPlane, cutSection, onPlane, planeThrough, pointOnTrace, projectOnTrace, type Trace } from './section';

let mesh: SolidMesh;
const ground = fitGround(p3().input);
const trace: Trace = [
	[130, 310],
	[1200, 900],
	[1873, 1500]
];

beforeAll(async () => {
	({ mesh } = await buildModel(ground, { spacing: 50 }));
});

describe('a hole through a model', () => {
	const along = (places: [number, number, number][]) => {
		const xyz = Float64Array.from(places.flat());
		const depths = new Float64Array(places.length);
		for (let i = 1; i < places.length; i++)
			depths[i] = depths[i - 1]! + Math.hypot(...[0, 1, 2].map((c) => places[i]![c]! - places[i - 1]![c]!));
		const paths = {
			holes: [{ name: 'A', collar: places[0]!, totalDepth: depths.at(-1)!, row: 0 }],
			start: Uint32Array.of(0, places.length),
			depths,
			xyz
		};
		return unitsAlongHole(mesh, paths, 0);
	};

	it('has the units that the model has at its depths, one after the other', () => {
		const at = unitAt(ground);
		for (const [x, y, dx, dy] of [
			[412.3, 733.1, 0, 0],
			[1530.7, 391.9, 0.4, -0.2],
			[990.2, 1410.4, -0.6, 0.5]
		] as const) {
			const place = (d: number): [number, number, number] => [x + d * dx, y + d * dy, -1 - d];
			const runs = along(Array.from({ length: 100 }, (_, i) => place(9 * i)));
			expect(runs.length).toBeGreaterThan(0);
			runs.slice(1).forEach((r, i) => expect(r.from).toBeCloseTo(runs[i]!.to, 6));
			const long = Math.hypot(dx, dy, 1);
			for (let d = 5; d < 880; d += 7) {
				const [px, py, pz] = place(d);
				if (new Set([-5, 0, 5].map((o) => at(px, py, pz + o))).size > 1) continue;
				expect(runs.find((r) => r.from <= d * long && d * long < r.to)?.label).toBe(at(px, py, pz));
			}
		}
	});

	it('meets the faults that it goes through, at their depths', async () => {
		// A fault that dips 45° to the east, through (0, 0, 0), with one unit on both sides; sides of the box are no faults.
		const lattice = latticeOf({ minX: -100, minY: -50, minZ: -100, maxX: 100, maxY: 50, maxZ: 100 }, 20);
		const one = await cutLattice(
			lattice,
			{ function: 0, above: { leaf: 0, label: 0 }, below: { leaf: 1, label: 0 } },
			[sampledOn(lattice, FAULT, (x, _y, z) => x + z)],
			1e-3
		);
		const holes = [
			[
				[30.3, 7, 150],
				[30.3, 7, -150]
			],
			[
				[-60, 3, 90],
				[-60, 3, 70],
				[60, 3, -80]
			],
			[
				[80, 3, 90],
				[80, 3, 0]
			]
		] as [number, number, number][][];
		const lengths = holes.map((h) => h.map((p, i) => (i ? Math.hypot(...p.map((v, c) => v - h[i - 1]![c]!)) : 0)));
		const paths = {
			holes: holes.map((h, k) => ({ name: `H${k}`, collar: h[0]!, totalDepth: 300, row: k })),
			start: Uint32Array.of(0, 2, 5, 7),
			depths: Float64Array.from(lengths.flatMap((l) => l.map((_, i) => l.slice(0, i + 1).reduce((a, b) => a + b, 0)))),
			xyz: Float64Array.from(holes.flat(2))
		};
		const met = faultsAlongHoles(one, paths);
		expect(met.map((m) => m.length)).toEqual([1, 1, 0]);
		expect(met[0]![0]).toBeCloseTo(180.3, 3);
		// From (−60, 70) to (60, −80): x + z is 10 − 30 s.
		expect(met[1]![0]).toBeCloseTo(20 + Math.hypot(120, 150) / 3, 1);
		expect(faultsAlongHoles({ ...mesh, surface: mesh.surface.map(() => 1) }, paths)).toEqual([[], [], []]);
	});

	it('says nothing of what lies outside, and is one run where it stays in one unit', () => {
		expect(
			along([
				[-500, -500, 100],
				[-500, -500, -900]
			])
		).toEqual([]);
		const [only, ...others] = along([
			[700.5, 700.5, -999],
			[700.5, 700.5, -2000]
		]);
		expect(others).toEqual([]);
		expect(only).toMatchObject({ from: 0 });
		expect(only!.to).toBeCloseTo(1, 6);
		expect(along([[5, 5, -5]])).toEqual([]);
	});
});

describe('a section', () => {
	it('fills the whole rectangle under its trace with units, each closed', () => {
		const s = cutSection(mesh, trace);
		let area = 0;
		for (const rings of s.fills.values()) for (const r of rings) area += Math.abs(ringArea([...r, r[0]!, r[1]!]));
		// Rings of one unit do not lie in each other here, so areas add up.
		expect(area).toBeCloseTo(s.length * 1000, 3);
		expect(s.bends).toHaveLength(1);
	});

	it('shows at each place the unit that the model has there', () => {
		const s = cutSection(mesh, trace);
		const at = unitAt(ground);
		let checked = 0;
		for (let d = 20; d < s.length; d += 53)
			for (let z = -985; z < 0; z += 61) {
				const inside = [...s.fills].filter(([, rings]) => rings.filter((r) => contains(r, d, z)).length % 2 === 1).map(([u]) => u);
				const [x, y] = pointOnTrace(trace, d);
				// Within a few metres of a contact the picture on the lattice may differ from the fields.
				if (new Set([at(x, y, z), at(x, y, z + 4), at(x, y, z - 4), at(x + 4, y, z), at(x - 4, y, z)]).size > 1) continue;
				expect(inside).toEqual([at(x, y, z)]);
				checked++;
			}
		expect(checked).toBeGreaterThan(300);
	});

	it('by a level or a tilted plane shows the unit that the model has at each place of it', () => {
		const at = unitAt(ground);
		for (const [normal, want] of [
			[[0, 0, 1], 4e6],
			[[0.3, -0.2, 1], 4e6 * Math.hypot(0.3, 0.2, 1)],
			[[1, 0, 0], 2e6]
		] as const) {
			const plane = planeThrough([1000, 1000, -500], normal);
			const fills = cutPlane(mesh, plane);
			let area = 0;
			for (const rings of fills.values()) for (const r of rings) area += Math.abs(ringArea([...r, r[0]!, r[1]!]));
			expect(area).toBeCloseTo(want, 0);
			let checked = 0;
			for (let a = -700; a <= 700; a += 83)
				for (let b = -450; b <= 450; b += 71) {
					const [x, y, z] = onPlane(plane, a, b);
					if (new Set([at(x, y, z), at(x, y, z + 4), at(x, y, z - 4), at(x + 4, y, z), at(x - 4, y, z)]).size > 1) continue;
					expect([...fills].filter(([, rings]) => rings.filter((r) => contains(r, a, b)).length % 2 === 1).map(([u]) => u)).toEqual([
						at(x, y, z)
					]);
					checked++;
				}
			expect(checked).toBeGreaterThan(80);
		}
	});

	it('projects points onto the nearest leg and back', () => {
		const p = projectOnTrace(trace, 1200, 900);
		expect(p.off).toBeCloseTo(0, 9);
		pointOnTrace(trace, p.along).forEach((v, c) => expect(v).toBeCloseTo([1200, 900][c]!, 9));
		expect(
			projectOnTrace(
				[
					[0, 0],
					[100, 0]
				],
				40,
				30
			)
		).toMatchObject({ along: 40, off: 30 });
	});

	it('refuses a line without length', () => {
		expect(() => cutSection(mesh, [[1, 1]])).toThrow('at least two');
		expect(() =>
			cutSection(mesh, [
				[1, 1],
				[1, 1]
			])
		).toThrow('at least two');
	});

	it('is drawn as SVG and DXF with names that are harmless', () => {
		const picture = cutSection(mesh, trace);
		const d: SectionDrawing = {
			title: '<script>alert(1)</script>',
			picture,
			units: ground.input.column.map((u) => ({ name: `${u.name} & "co"`, color: u.color })),
			surfaces: new Map(
				[...picture.lines.keys()].map((s) => [s, { name: `s${s}`, kind: s >= 2000 ? ('fault' as const) : ('contact' as const) }])
			),
			holes: [100, 101, 102, 1900].map((x, i) => ({
				name: `A<b>${i}`,
				points: new Float64Array([x, 0, x + 20, -300]),
				units: new Int16Array([0, -1]),
				off: 10 * i
			})),
			minZ: -1000,
			maxZ: 0,
			lengthUnit: 'm',
			exaggeration: 2,
			ends: ['T', 'T′'],
			filled: true
		};
		const svg = sectionSvg(d);
		expect(svg).not.toContain('<script');
		expect(svg.match(/data-unit=/g)).toHaveLength(picture.fills.size);
		expect(svg).toContain('vertical exaggeration 2×');
		expect([...svg.matchAll(/font-weight="600">(T′?)</g)].map((m) => m[1])).toEqual(['T', 'T′']);
		// No name lies on another, though three holes do.
		const names = [...svg.matchAll(/<text x="([\d.]+)"[^>]*>A&#60;b&#62;(\d)</g)]
			.map((m) => [Number(m[2]), Number(m[1])])
			.sort((a, b) => a[0]! - b[0]!);
		expect(names.map(([n]) => n)).toEqual([0, 1, 2, 3]);
		for (const [i, [, x]] of names.slice(1).entries()) expect(x! - names[i]![1]!).toBeGreaterThan(30);
		const dxf = sectionDxf(d);
		expect(dxf).toContain('LWPOLYLINE');
		expect(dxf.trimEnd().endsWith('EOF')).toBe(true);
		const lines = [...picture.fills.values(), ...picture.lines.values()].reduce((n, l) => n + l.length, 0) + d.holes.length;
		expect(dxf.match(/^LWPOLYLINE$/gm)).toHaveLength(lines);
	});
});

describe('geology at the surface', () => {
	it('covers the map once, with holes cut out', () => {
		const rings = geologyAtSurface(mesh, false);
		let area = 0;
		for (const list of rings.values()) for (const r of list) area += ringArea(r);
		expect(area).toBeCloseTo(4e6, 3);
		for (const list of rings.values())
			for (const polygon of polygonsOf(list)) {
				expect(ringArea(polygon[0]!)).toBeGreaterThan(0);
				for (const hole of polygon.slice(1)) expect(ringArea(hole)).toBeLessThan(0);
			}
	});

	it('is written as GeoJSON with closed rings', () => {
		const g = geologyGeoJson(geologyAtSurface(mesh, false), ground.input.column, (x, y) => [x / 1000, y / 1000]);
		for (const f of g.features) for (const p of f.geometry.coordinates) for (const r of p) expect(r[0]).toEqual(r.at(-1));
		expect(g.features.map((f) => f.properties.unit).sort()).toEqual([...geologyAtSurface(mesh, false).keys()].map((u) => `u${u}`).sort());
	});
});

function contains(ring: Float64Array, x: number, y: number): boolean {
	let inside = false;
	for (let i = 0; i < ring.length; i += 2) {
		const j = (i + 2) % ring.length;
		const [ax, ay, bx, by] = [ring[i]!, ring[i + 1]!, ring[j]!, ring[j + 1]!];
		if (ay > y !== by > y && x < ((bx - ax) * (y - ay)) / (by - ay) + ax) inside = !inside;
	}
	return inside;
}
