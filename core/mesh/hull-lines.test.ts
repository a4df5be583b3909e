import { describe, expect, it } from 'vitest';
import { FAULT, SIDE, type SolidMesh } from './cut-lattice';
import { hullLines } from './hull-lines';

/** Two boxes beside each other that share a wall: unit 0 on the left, unit 1 on the right. Twelve vertices, four at each x. */
function twoBoxes(wall: number): SolidMesh {
	const positions = Float64Array.from([0, 1, 2].flatMap((x) => [[x, 0, 0], [x, 1, 0], [x, 1, 1], [x, 0, 1]].flat())); // prettier-ignore
	const triangles: number[] = [];
	const [front, back, surface]: number[][] = [[], [], []];
	const quad = (v: number[], f: number, b: number, s: number) => {
		triangles.push(v[0]!, v[1]!, v[2]!, v[0]!, v[2]!, v[3]!);
		for (let i = 0; i < 2; i++) {
			front!.push(f);
			back!.push(b);
			surface!.push(s);
		}
	};
	for (const [unit, at] of [
		[0, 0],
		[1, 4]
	] as const)
		// prettier-ignore
		for (let k = 0; k < 4; k++) quad([at + k, at + ((k + 1) % 4), at + 4 + ((k + 1) % 4), at + 4 + k], -1, unit, SIDE + k);
	quad([0, 1, 2, 3], -1, 0, SIDE + 4);
	quad([8, 9, 10, 11], -1, 1, SIDE + 5);
	quad([4, 5, 6, 7], 0, 1, wall);
	return { positions, triangles: Uint32Array.from(triangles), front: Int16Array.from(front!), back: Int16Array.from(back!), surface: Int16Array.from(surface!), volumes: new Map() } as unknown as SolidMesh; // prettier-ignore
}
const length = (mesh: SolidMesh, lines: Uint32Array) => {
	let sum = 0;
	for (let i = 0; i < lines.length; i += 2)
		sum += Math.hypot(...[0, 1, 2].map((c) => mesh.positions[3 * lines[i]! + c]! - mesh.positions[3 * lines[i + 1]! + c]!));
	return sum;
};

describe('the lines of a block diagram', () => {
	it('run round where two units meet on the faces, along the edges of the block, and not over faces', () => {
		const mesh = twoBoxes(0);
		const lines = hullLines(mesh, [true, true]);
		expect(length(mesh, lines.contacts)).toBeCloseTo(4, 9);
		expect(length(mesh, lines.rims)).toBeCloseTo(4 * 2 + 8, 9);
		expect(lines.faults.length).toBe(0);
	});
	it('are those of a fault where it is one, and of the contact when its line is not wanted', () => {
		const mesh = twoBoxes(FAULT);
		expect(length(mesh, hullLines(mesh, [true, true]).faults)).toBeCloseTo(4, 9);
		const without = hullLines(mesh, [true, true], [false]);
		expect([without.faults.length, length(mesh, without.contacts)]).toEqual([0, 4]);
	});
	it('follow what is seen: a unit that is hidden leaves the wall of the other bare', () => {
		const mesh = twoBoxes(0);
		const lines = hullLines(mesh, [true, false]);
		expect(lines.contacts.length).toBe(0);
		expect(length(mesh, lines.rims)).toBeCloseTo(12, 9);
		expect(hullLines(mesh, [false, false])).toEqual({ contacts: new Uint32Array(), faults: new Uint32Array(), rims: new Uint32Array() });
	});
});
