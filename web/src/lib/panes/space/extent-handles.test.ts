import * as THREE from 'three';
import { beforeEach, describe, expect, it } from 'vitest';
import type { Box } from '#core/geometry/box';
import { SIDES_OF_BOX } from '../box-sides';
import { ExtentHandles } from './extent-handles';
import type { Stage } from './stage';

const box: Box = { minX: 0, minY: 0, minZ: -100, maxX: 400, maxY: 300, maxZ: 0 };

/** A view from above, a pixel a metre: the picture is 1000 × 800, its middle over (200, 150). */
class Above {
	readonly canvas = Object.assign(new EventTarget(), {
		getBoundingClientRect: () => ({ left: 0, top: 0, width: 1000, height: 800 }),
		setPointerCapture: () => {}
	});
	readonly scene = new THREE.Scene();
	readonly before: (() => void)[] = [];
	readonly controls = { enabled: true };
	readonly camera = new THREE.OrthographicCamera(-500, 500, 400, -400, 0, 5000);
	drawn = 0;

	constructor() {
		this.camera.position.set(200, 150, 2000);
		this.camera.updateMatrixWorld();
	}
	get stage(): Stage {
		const { canvas, scene, before, controls, camera } = this;
		return {
			scene,
			before,
			controls,
			camera,
			renderer: { domElement: canvas },
			draw: () => this.drawn++,
			pixelAt: () => 1,
			toScene: (x: number, y: number, z: number) => new THREE.Vector3(x, y, z),
			toProject: (p: THREE.Vector3) => [p.x, p.y, p.z],
			project: (p: THREE.Vector3) => ({ x: 500 + p.x - 200, y: 400 - (p.y - 150) }),
			ray: (x: number, y: number) => {
				const r = new THREE.Raycaster();
				r.setFromCamera(new THREE.Vector2(x, y), camera);
				return r;
			}
		} as unknown as Stage;
	}
	/** A pointer over a place on the map. */
	at(type: string, x: number, y: number, button = 0): void {
		this.canvas.dispatchEvent(Object.assign(new Event(type), { clientX: 500 + x - 200, clientY: 400 - (y - 150), button, pointerId: 1 }));
	}
}

describe('handles on the sides of a box', () => {
	let view: Above;
	let handles: ExtentHandles;
	let said: [Box, boolean][];
	beforeEach(() => {
		view = new Above();
		handles = new ExtentHandles(view.stage);
		said = [];
		handles.changed = (b, done) => {
			said.push([b, done]);
			handles.set(b);
		};
	});
	const drag = (from: [number, number], to: [number, number], button = 0) => {
		view.at('pointerdown', ...from, button);
		view.at('pointermove', ...to);
		view.at('pointerup', ...to);
	};

	it('lie in the middle of each side, and are none without a box', () => {
		expect(handles.onScreen()).toEqual([]);
		handles.set(box);
		const places = handles.onScreen();
		expect(places).toHaveLength(6);
		SIDES_OF_BOX.forEach(({ axis, high }, i) => {
			const x = axis === 0 ? (high ? 400 : 0) : 200;
			const y = axis === 1 ? (high ? 300 : 0) : 150;
			expect(places[i]).toEqual([500 + x - 200, 400 - (y - 150)]);
		});
		handles.set(null);
		expect(handles.onScreen()).toEqual([]);
	});

	it('move their own side along its axis, and tell when they are let go', () => {
		handles.set(box);
		drag([400, 150], [460, 190]);
		expect(said.map(([, done]) => done)).toEqual([false, true]);
		expect(said[1]![0]).toEqual({ ...box, maxX: expect.closeTo(460, 6) });
		// The others stay in the middle of their sides.
		drag([230, 0], [230, -50]);
		expect(said.at(-1)![0]).toMatchObject({ minY: expect.closeTo(-50, 6), maxX: expect.closeTo(460, 6) });
	});

	it('hold the view still while they are dragged', () => {
		handles.set(box);
		view.at('pointerdown', 400, 150);
		expect(view.controls.enabled).toBe(false);
		view.at('pointerup', 400, 150);
		expect(view.controls.enabled).toBe(true);
	});

	it('never turn the box inside out', () => {
		handles.set(box);
		drag([400, 150], [-300, 150]);
		const [last] = said.at(-1)!;
		expect(last.maxX).toBeGreaterThan(last.minX);
		expect(last.minX).toBe(0);
	});

	it('leave a press beside them, and other buttons, to the view', () => {
		handles.set(box);
		drag([400, 190], [460, 190]);
		drag([400, 150], [460, 150], 2);
		view.at('pointermove', 460, 150);
		expect(said).toEqual([]);
		expect(view.controls.enabled).toBe(true);
		handles.set(null);
		drag([400, 150], [460, 150]);
		expect(said).toEqual([]);
	});

	it('seen along their axis stay where they are: nothing tells how far they are meant', () => {
		handles.set({ ...box, minX: 150, maxX: 250 });
		// The handles of roof and floor lie over each other in the middle.
		drag([200, 150], [230, 170]);
		for (const [b] of said) expect([b.minZ, b.maxZ]).toEqual([-100, 0]);
	});

	it('are as large on the screen at any distance', () => {
		handles.set(box);
		view.before.forEach((f) => f());
		const group = view.scene.children[0] as THREE.Group;
		expect(group.visible).toBe(true);
		expect((group.children[0] as THREE.Mesh).scale.x).toBe(8);
		expect((group.getObjectByName('frame') as THREE.LineSegments).scale.toArray()).toEqual([400, 300, 100]);
	});
});
