import * as THREE from 'three';
import type { Box } from '#core/geometry/box';
import { dragSide, SIDES_OF_BOX } from '../box-sides';
import type { Stage } from './stage';

/** A box with a handle on each of its six sides, to be dragged along its axis. */
export class ExtentHandles {
	private readonly group = new THREE.Group();
	private readonly handles: THREE.Mesh[];
	private box: Box | null = null;
	private dragged = -1;
	/** The box while it is dragged, and when the handle is let go. */
	changed: (box: Box, done: boolean) => void = () => {};

	constructor(private readonly stage: Stage) {
		const material = new THREE.MeshBasicMaterial({ color: 0x0f7b5f, depthTest: false });
		this.handles = SIDES_OF_BOX.map(() => {
			const m = new THREE.Mesh(new THREE.SphereGeometry(1, 20, 14), material);
			m.renderOrder = 11;
			this.group.add(m);
			return m;
		});
		const frame = new THREE.LineSegments(
			new THREE.EdgesGeometry(new THREE.BoxGeometry(1, 1, 1)),
			new THREE.LineBasicMaterial({ color: 0x0f7b5f, depthTest: false })
		);
		frame.name = 'frame';
		frame.renderOrder = 10;
		this.group.add(frame);
		this.group.visible = false;
		stage.scene.add(this.group);
		stage.before.push(() => {
			for (const h of this.handles) h.scale.setScalar(stage.pixelAt(h.position) * 8);
		});
		const canvas = stage.renderer.domElement;
		canvas.addEventListener('pointerdown', (e) => this.press(e), { capture: true });
		canvas.addEventListener('pointermove', (e) => this.drag(e));
		canvas.addEventListener('pointerup', () => this.release());
	}

	set(box: Box | null): void {
		this.box = box;
		this.group.visible = box !== null;
		if (box) {
			const low = this.stage.toScene(box.minX, box.minY, box.minZ);
			const high = this.stage.toScene(box.maxX, box.maxY, box.maxZ);
			const middle = low.clone().add(high).multiplyScalar(0.5);
			const frame = this.group.getObjectByName('frame')!;
			frame.position.copy(middle);
			frame.scale.copy(high.clone().sub(low));
			SIDES_OF_BOX.forEach(({ axis, high: upper }, i) =>
				this.handles[i]!.position.copy(middle).setComponent(axis, (upper ? high : low).getComponent(axis))
			);
		}
		this.stage.draw();
	}

	/** Where the handles are in the picture, px from its upper left corner; none while the box is not shown. */
	onScreen(): [number, number][] {
		if (!this.box) return [];
		return this.handles.map((h) => {
			const { x, y } = this.stage.project(h.position);
			return [Math.round(x), Math.round(y)];
		});
	}

	private ray(e: PointerEvent): THREE.Ray {
		const r = this.stage.renderer.domElement.getBoundingClientRect();
		return this.stage.ray((2 * (e.clientX - r.left)) / r.width - 1, 1 - (2 * (e.clientY - r.top)) / r.height).ray;
	}

	private press(e: PointerEvent): void {
		if (!this.box || e.button !== 0) return;
		const ray = this.ray(e);
		const near = this.handles.map((h) => ray.distanceToPoint(h.position) / this.stage.pixelAt(h.position));
		const best = near.indexOf(Math.min(...near));
		if (near[best]! > 12) return;
		this.dragged = best;
		this.stage.controls.enabled = false;
		this.stage.renderer.domElement.setPointerCapture(e.pointerId);
	}

	private drag(e: PointerEvent): void {
		if (this.dragged < 0 || !this.box) return;
		const { axis } = SIDES_OF_BOX[this.dragged]!;
		const ray = this.ray(e);
		const handle = this.handles[this.dragged]!.position;
		// The place on the axis through the handle that is nearest to the line of sight.
		const d = new THREE.Vector3().setComponent(axis, 1);
		const b = d.dot(ray.direction);
		if (Math.abs(b) > 0.999) return;
		const w = handle.clone().sub(ray.origin);
		const t = (b * ray.direction.dot(w) - d.dot(w)) / (1 - b * b);
		const at = this.stage.toProject(handle.clone().addScaledVector(d, t));
		this.changed(dragSide(this.box, this.dragged, at[axis]!), false);
	}

	private release(): void {
		if (this.dragged < 0) return;
		this.dragged = -1;
		this.stage.controls.enabled = true;
		if (this.box) this.changed(this.box, true);
	}
}
