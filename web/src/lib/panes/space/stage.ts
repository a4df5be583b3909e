import * as THREE from 'three';
import { OrbitControls } from 'three/addons/controls/OrbitControls.js';
import type { Box } from '#core/geometry/box';

export type Look = 'oblique' | 'above' | 'below' | 'north' | 'south' | 'east' | 'west';

/** So much of the height of a pane the block is to fill when it is seen first. */
const FILLED = 0.62;

/** Where the camera stands, in project coordinates. */
export interface CameraState {
	position: [number, number, number];
	target: [number, number, number];
	zoom: number;
}

/**
 * Renderer, cameras and light of a 3D view. x is easting, y northing, z elevation, all less the centre of the extent; the vertical
 * exaggeration is a scale of the root. Draws only when something changed.
 */
export class Stage {
	readonly renderer: THREE.WebGLRenderer;
	readonly scene = new THREE.Scene();
	readonly root = new THREE.Group();
	readonly center = new THREE.Vector3();
	readonly clip: THREE.Plane[] = [];
	/** The planes cut a corner out: what lies on the seen side of any of them stays. */
	cornerCut = false;
	readonly controls: OrbitControls;
	/** Half of the box in each direction, not exaggerated. */
	readonly half = new THREE.Vector3(500, 500, 500);
	size = 1000;
	exaggeration = 1;
	camera: THREE.PerspectiveCamera | THREE.OrthographicCamera;
	/** Runs before each frame, and after it. */
	readonly before: (() => void)[] = [];
	readonly after: (() => void)[] = [];
	/** Runs when the camera has come to rest. */
	settled: () => void = () => {};
	private readonly perspective = new THREE.PerspectiveCamera(32, 1, 10, 100000);
	private readonly parallel = new THREE.OrthographicCamera(-1, 1, 1, -1, -100000, 100000);
	private readonly sun = new THREE.DirectionalLight(0xffffff, 0.9);
	private waiting = false;
	private holding = false;
	private disposed = false;
	private resting: ReturnType<typeof setTimeout> | null = null;
	/** Whether the view is the user's: until then all there is to see is framed. */
	touched = false;
	width = 1;
	height = 1;

	/** @throws Error when the browser has no WebGL */
	constructor(private readonly host: HTMLElement) {
		// Smooth edges cost a renderer without a graphics card more than the picture gains.
		const software = rendersInSoftware();
		this.renderer = new THREE.WebGLRenderer({ antialias: !software, preserveDrawingBuffer: true });
		this.renderer.setPixelRatio(Math.min(2, devicePixelRatio));
		this.renderer.localClippingEnabled = true;
		this.renderer.domElement.style.display = 'block';
		host.append(this.renderer.domElement);
		for (const c of [this.perspective, this.parallel]) c.up.set(0, 0, 1);
		this.camera = this.perspective;
		this.controls = new OrbitControls(this.camera, this.renderer.domElement);
		this.controls.zoomToCursor = true;
		this.controls.addEventListener('start', () => (this.touched = true));
		this.controls.addEventListener('change', () => {
			this.draw();
			this.rest();
		});
		// Soft light from the north-west: colours stay near to those of the legend, and slopes are told apart.
		this.sun.position.set(-0.9, 0.75, 0.9);
		this.scene.add(this.root, new THREE.HemisphereLight(0xffffff, 0xf4f1ea, 2.55), this.sun);
	}

	private rest(): void {
		if (this.resting) clearTimeout(this.resting);
		this.resting = setTimeout(() => !this.disposed && this.settled(), 180);
	}

	background(color: string): void {
		this.scene.background = new THREE.Color(color);
		this.draw();
	}

	resize(): void {
		const { clientWidth, clientHeight } = this.host;
		if (!clientWidth || !clientHeight) return;
		this.setSize(clientWidth, clientHeight);
		if (!this.touched) this.frameAll();
		this.draw();
		this.rest();
	}

	private setSize(width: number, height: number): void {
		this.width = width;
		this.height = height;
		this.renderer.setSize(width, height);
		this.perspective.aspect = width / height;
		this.perspective.updateProjectionMatrix();
		this.frameParallel();
	}

	/** The parallel camera shows at its target what the other shows. */
	private frameParallel(): void {
		const tall = this.size * 0.5;
		const wide = (tall * this.width) / this.height;
		Object.assign(this.parallel, { left: -wide, right: wide, top: tall, bottom: -tall, near: -this.size * 8, far: this.size * 12 });
		this.parallel.updateProjectionMatrix();
	}

	setParallel(on: boolean): void {
		if (on === (this.camera === this.parallel)) return;
		const from = this.camera;
		const to = on ? this.parallel : this.perspective;
		const distance = from.position.distanceTo(this.controls.target);
		const tan = Math.tan((this.perspective.fov * Math.PI) / 360);
		to.position.copy(from.position);
		if (on) this.parallel.zoom = (this.size * 0.5) / (distance * tan);
		else {
			const wanted = (this.size * 0.5) / this.parallel.zoom / tan;
			to.position.sub(this.controls.target).setLength(wanted).add(this.controls.target);
		}
		this.camera = to;
		this.controls.object = to;
		to.updateProjectionMatrix();
		this.controls.update();
		this.draw();
		this.rest();
	}

	get isParallel(): boolean {
		return this.camera === this.parallel;
	}

	/** Size of a pixel at distance 1 (perspective) or everywhere (parallel), scene units. */
	get pixel(): number {
		if (this.camera === this.parallel) return this.size / this.parallel.zoom / this.height;
		return (2 * Math.tan((this.perspective.fov * Math.PI) / 360)) / this.height;
	}

	/** Size of a pixel at a place of the scene, scene units. */
	pixelAt(p: THREE.Vector3): number {
		return this.camera === this.parallel ? this.pixel : this.pixel * Math.max(this.size * 1e-4, p.distanceTo(this.camera.position));
	}

	/** Nothing is drawn while the data is on its way. */
	set paused(on: boolean) {
		this.holding = on;
		if (!on) this.draw();
	}

	/** Draws with the next frame. */
	draw(): void {
		if (this.waiting || this.disposed || this.holding) return;
		this.waiting = true;
		requestAnimationFrame(() => {
			this.waiting = false;
			if (!this.disposed) this.render();
		});
	}

	render(): void {
		this.reach();
		for (const f of this.before) f();
		this.renderer.render(this.scene, this.camera);
		for (const f of this.after) f();
	}

	/**
	 * What is drawn begins at a hundredth of the way to what one looks at: the nearer it begins, the less the depth buffer can tell apart
	 * farther on (its steps grow with the square of the distance over this), and faces within the block show through its sides.
	 */
	private reach(): void {
		const near = Math.max(this.size * 1e-6, this.camera.position.distanceTo(this.controls.target) / 100);
		const far = Math.max(this.size * 14, near * 400);
		if (near === this.perspective.near && far === this.perspective.far) return;
		Object.assign(this.perspective, { near, far }).updateProjectionMatrix();
	}

	setExtent(e: Box): void {
		this.center.set((e.minX + e.maxX) / 2, (e.minY + e.maxY) / 2, (e.minZ + e.maxZ) / 2);
		this.size = Math.max(1e-6, Math.hypot(e.maxX - e.minX, e.maxY - e.minY));
		this.half.set(e.maxX - e.minX, e.maxY - e.minY, e.maxZ - e.minZ).multiplyScalar(0.5);
		this.frameParallel();
		if (!this.touched && this.width > 1) this.frameAll();
	}

	/** Room above the box that is framed with it, project units. */
	setHeadroom(v: number): void {
		if (v === this.headroom) return;
		this.headroom = v;
		if (!this.touched && this.width > 1) this.frameAll();
	}
	private headroom = 0;

	setExaggeration(v: number): void {
		this.exaggeration = v;
		this.root.scale.z = v;
		if (!this.touched && this.width > 1) this.frameAll();
		this.draw();
	}

	/** Places less the centre of the extent, as the geometries under `root` have them. */
	local(positions: ArrayLike<number>): Float32Array {
		const { center } = this;
		const out = new Float32Array(positions.length);
		for (let i = 0; i < out.length; i += 3) {
			out[i] = positions[i]! - center.x;
			out[i + 1] = positions[i + 1]! - center.y;
			out[i + 2] = positions[i + 2]! - center.z;
		}
		return out;
	}

	/** Scene coordinates of a place, exaggerated. */
	toScene(x: number, y: number, z: number): THREE.Vector3 {
		return new THREE.Vector3(x - this.center.x, y - this.center.y, (z - this.center.z) * this.exaggeration);
	}

	toProject(p: THREE.Vector3): [number, number, number] {
		return [p.x + this.center.x, p.y + this.center.y, p.z / this.exaggeration + this.center.z];
	}

	/** Frames all there is to see from where it is seen first. */
	private frameAll(): void {
		this.lookFrom('oblique');
	}

	look(from: Look): void {
		this.touched = true;
		this.lookFrom(from);
	}

	private lookFrom(from: Look): void {
		const towards = {
			oblique: this.oblique(),
			above: [0, -0.0005, 1],
			below: [0, -0.0005, -1],
			north: [0, 1, 0.02],
			south: [0, -1, 0.02],
			east: [1, 0, 0.02],
			west: [-1, 0, 0.02]
		}[from];
		this.lookAlong(new THREE.Vector3(towards[0], towards[1], towards[2]));
	}

	/** From the south-west and above: the steeper, the taller the pane is for the block, so that it fills it. */
	private oblique(): [number, number, number] {
		const heights = [0.46, 0.58, 0.7, 0.82];
		const fills = (z: number) => {
			const direction = new THREE.Vector3(-0.42, -0.78, z).normalize();
			return this.tallOf(direction) / this.distanceFor(direction) >= FILLED * Math.tan((this.perspective.fov * Math.PI) / 360);
		};
		return [-0.42, -0.78, heights.find(fills) ?? heights.at(-1)!];
	}

	/** Half of the height of the box as it is seen along a direction, about. */
	private tallOf(direction: THREE.Vector3): number {
		const flat = Math.hypot(direction.x, direction.y);
		const deep = (Math.abs(direction.x) * this.half.x + Math.abs(direction.y) * this.half.y) / (flat || 1);
		return deep * direction.z + (this.half.z + this.headroom / 2) * this.exaggeration * flat;
	}

	/** Square to a vertical plane of the given azimuth, from its right-hand side. */
	lookAtSection(azimuth: number): void {
		this.touched = true;
		const a = (azimuth * Math.PI) / 180;
		this.lookAlong(new THREE.Vector3(Math.cos(a), -Math.sin(a), 0.02));
	}

	private lookAlong(direction: THREE.Vector3): void {
		direction.normalize();
		const target = new THREE.Vector3(0, 0, (this.headroom / 2) * this.exaggeration);
		this.controls.target.copy(target);
		this.put(target.addScaledVector(direction, this.distanceFor(direction)));
	}

	/** Turns by the arrow keys, comes nearer by plus, goes away by minus, looks at all by 0. @returns whether the key means something */
	key(key: string): boolean {
		const { controls, camera } = this;
		const d = camera.position.clone().sub(controls.target);
		const turn = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[key];
		if (turn) {
			const radius = d.length();
			const flat = Math.atan2(d.y, d.x) + turn[0]! * 0.1;
			const steep = Math.min(1.56, Math.max(-1.56, Math.asin(d.z / radius) + turn[1]! * 0.08));
			camera.position
				.set(Math.cos(flat) * Math.cos(steep), Math.sin(flat) * Math.cos(steep), Math.sin(steep))
				.multiplyScalar(radius)
				.add(controls.target);
		} else if (key === '+' || key === '-') {
			if (this.isParallel) {
				camera.zoom *= key === '+' ? 1.2 : 1 / 1.2;
				camera.updateProjectionMatrix();
			} else camera.position.copy(controls.target).add(d.multiplyScalar(key === '+' ? 1 / 1.2 : 1.2));
		} else if (key === '0') this.look('oblique');
		else return false;
		// Looking at all gives the view back.
		this.touched = key !== '0';
		controls.update();
		this.draw();
		return true;
	}

	/** Whether a place of the scene is on the side that a cut leaves. */
	isLeft(p: THREE.Vector3): boolean {
		const left = (plane: THREE.Plane) => plane.distanceToPoint(p) >= 0;
		return this.cornerCut ? this.clip.some(left) : this.clip.every(left);
	}

	/** Looks at a box from where the camera looks now. */
	lookAtBox(low: THREE.Vector3, high: THREE.Vector3): void {
		this.touched = true;
		const direction = this.camera.position.clone().sub(this.controls.target).normalize();
		const target = low.clone().add(high).multiplyScalar(0.5);
		const radius = Math.max(low.distanceTo(high) / 2, this.size * 0.01);
		const distance = (radius * 1.25) / Math.tan((this.perspective.fov * Math.PI) / 360);
		this.controls.target.copy(target);
		this.put(target.clone().addScaledVector(direction, distance));
	}

	private put(position: THREE.Vector3): void {
		this.camera.position.copy(position);
		if (this.camera === this.parallel) {
			const distance = position.distanceTo(this.controls.target);
			this.parallel.zoom = (this.size * 0.5) / (distance * Math.tan((this.perspective.fov * Math.PI) / 360));
		}
		this.camera.updateProjectionMatrix();
		this.controls.update();
		this.draw();
		this.rest();
	}

	get cameraState(): CameraState {
		return { position: this.toProject(this.camera.position), target: this.toProject(this.controls.target), zoom: this.parallel.zoom };
	}

	set cameraState(s: CameraState) {
		this.touched = true;
		this.controls.target.copy(this.toScene(...s.target));
		this.put(this.toScene(...s.position));
		this.parallel.zoom = s.zoom;
		this.camera.updateProjectionMatrix();
		this.draw();
	}

	/** Distance along a direction from which all corners of the box are in the picture, with a small margin. */
	private distanceFor(direction: THREE.Vector3): number {
		const right = new THREE.Vector3().crossVectors(new THREE.Vector3(0, 0, 1), direction).normalize();
		if (right.lengthSq() === 0) right.set(1, 0, 0);
		const up = new THREE.Vector3().crossVectors(direction, right);
		const tall = Math.tan((this.perspective.fov * Math.PI) / 360);
		const wide = tall * this.perspective.aspect;
		let distance = 0;
		for (const sx of [-1, 1])
			for (const sy of [-1, 1])
				for (const sz of [-1, 1]) {
					const corner = new THREE.Vector3(sx * this.half.x, sy * this.half.y, sz * (this.half.z + this.headroom / 2) * this.exaggeration);
					const ahead = corner.dot(direction);
					distance = Math.max(distance, ahead + Math.abs(corner.dot(right)) / wide, ahead + Math.abs(corner.dot(up)) / tall);
				}
		return distance * 1.08;
	}

	ray(nx: number, ny: number): THREE.Raycaster {
		const ray = new THREE.Raycaster();
		ray.setFromCamera(new THREE.Vector2(nx, ny), this.camera);
		return ray;
	}

	/** Pixels of a place of the scene, from the upper left; `depth` beyond 1 is behind. */
	project(p: THREE.Vector3): { x: number; y: number; depth: number } {
		const q = p.clone().project(this.camera);
		return { x: ((q.x + 1) / 2) * this.width, y: ((1 - q.y) / 2) * this.height, depth: q.z };
	}

	/** As `project`, of very many places of the project: it gives the same object each time, and holds until the view moves. */
	projector(): (x: number, y: number, z: number) => { x: number; y: number; depth: number } {
		const m = new THREE.Matrix4().multiplyMatrices(this.camera.projectionMatrix, this.camera.matrixWorldInverse).elements;
		const { center, exaggeration, width, height } = this;
		const out = { x: 0, y: 0, depth: 0 };
		return (px, py, pz) => {
			const x = px - center.x;
			const y = py - center.y;
			const z = (pz - center.z) * exaggeration;
			const w = m[3]! * x + m[7]! * y + m[11]! * z + m[15]!;
			out.x = (((m[0]! * x + m[4]! * y + m[8]! * z + m[12]!) / w + 1) / 2) * width;
			out.y = ((1 - (m[1]! * x + m[5]! * y + m[9]! * z + m[13]!) / w) / 2) * height;
			// Behind the camera w turns round.
			out.depth = w > 0 ? (m[2]! * x + m[6]! * y + m[10]! * z + m[14]!) / w : Infinity;
			return out;
		};
	}

	/** The view as a picture of any size. @param overlay draws what lies over the scene, at the scale of the picture */
	async picture(
		width: number,
		height: number,
		overlay: (context: CanvasRenderingContext2D, scale: number) => void
	): Promise<HTMLCanvasElement> {
		const was = [this.width, this.height, this.renderer.getPixelRatio()] as const;
		const canvas = document.createElement('canvas');
		canvas.width = width;
		canvas.height = height;
		const scale = width / was[0];
		try {
			this.renderer.setPixelRatio(1);
			this.setSize(width, height);
			this.render();
			const context = canvas.getContext('2d')!;
			context.drawImage(this.renderer.domElement, 0, 0, width, height);
			overlay(context, scale);
		} finally {
			this.renderer.setPixelRatio(was[2]);
			this.setSize(was[0], was[1]);
			this.render();
		}
		return canvas;
	}

	dispose(): void {
		this.disposed = true;
		if (this.resting) clearTimeout(this.resting);
		this.controls.dispose();
		this.scene.traverse((o) => {
			const m = o as Partial<THREE.Mesh>;
			m.geometry?.dispose();
			for (const material of m.material ? [m.material].flat() : []) material.dispose();
		});
		this.renderer.dispose();
		this.renderer.domElement.remove();
	}
}

let software: boolean | null = null;

/** Whether the browser draws 3D with the processor alone. */
function rendersInSoftware(): boolean {
	if (software !== null) return software;
	const context = document.createElement('canvas').getContext('webgl2');
	const info = context?.getExtension('WEBGL_debug_renderer_info');
	const name = info ? String(context!.getParameter(info.UNMASKED_RENDERER_WEBGL)) : '';
	context?.getExtension('WEBGL_lose_context')?.loseContext();
	return (software = /swiftshader|llvmpipe|software|basic render/i.test(name));
}
