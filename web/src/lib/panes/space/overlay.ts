import { INK } from '#core/palette';
import * as THREE from 'three';
import { spaced, ticks } from '#core/formats/ticks';
import { placeLabels } from '#core/scene/labels';
import type { Stage } from './stage';

/** A text at a place of the project. */
export interface PlacedText {
	x: number;
	y: number;
	z: number;
	text: string;
	rank: number;
	/** Pixels above the place. */
	lift?: number;
}

const FONT = '"IBM Plex Sans Condensed", sans-serif';

/** Texts, axes and measured lines that lie over the scene, on a canvas of their own. */
export class Overlay {
	readonly canvas = document.createElement('canvas');
	texts: readonly PlacedText[] = [];
	axes = true;
	ink = INK;
	paper = 'rgba(255,255,255,0.82)';
	/** Lines between places, for measures. */
	lines: readonly { points: [number, number, number][]; color: string }[] = [];
	private readonly widths = new Map<string, number>();

	constructor(
		private readonly stage: Stage,
		host: HTMLElement
	) {
		Object.assign(this.canvas.style, { position: 'absolute', inset: '0', width: '100%', height: '100%', pointerEvents: 'none' });
		host.append(this.canvas);
	}

	draw(): void {
		const ratio = Math.min(2, devicePixelRatio);
		const { width, height } = this.stage;
		if (this.canvas.width !== Math.round(width * ratio) || this.canvas.height !== Math.round(height * ratio)) {
			this.canvas.width = Math.round(width * ratio);
			this.canvas.height = Math.round(height * ratio);
		}
		const context = this.canvas.getContext('2d')!;
		context.setTransform(1, 0, 0, 1, 0, 0);
		context.clearRect(0, 0, this.canvas.width, this.canvas.height);
		this.paint(context, ratio);
	}

	/** Draws everything at a scale. */
	paint(context: CanvasRenderingContext2D, scale: number): void {
		context.setTransform(scale, 0, 0, scale, 0, 0);
		const { width, height } = { width: context.canvas.width / scale, height: context.canvas.height / scale };
		const k = { x: width / this.stage.width, y: height / this.stage.height };
		context.font = `12px ${FONT}`;
		context.lineJoin = 'round';
		const place = (x: number, y: number, z: number) => {
			const p = this.stage.project(this.stage.toScene(x, y, z));
			return { x: p.x * k.x, y: p.y * k.y, depth: p.depth };
		};
		const labels: { x: number; y: number; text: string; rank: number; width: number; height: number }[] = [];
		const add = (t: PlacedText) => {
			const p = place(t.x, t.y, t.z);
			if (p.depth > 1 || p.depth < -1) return;
			labels.push({ x: p.x, y: p.y - (t.lift ?? 6), text: t.text, rank: t.rank, width: this.widthOf(context, t.text), height: 12 });
		};
		if (this.axes) this.paintAxes(context, place, add);
		// What a slice cuts away has no name either.
		for (const t of this.texts) {
			const at = this.stage.toScene(t.x, t.y, t.z);
			if (this.stage.isLeft(at)) add(t);
		}
		for (const l of this.lines) {
			context.strokeStyle = l.color;
			context.fillStyle = l.color;
			context.lineWidth = 2;
			context.beginPath();
			l.points.forEach((q, i) => {
				const p = place(...q);
				if (i) context.lineTo(p.x, p.y);
				else context.moveTo(p.x, p.y);
			});
			context.stroke();
			for (const q of l.points) {
				const p = place(...q);
				context.beginPath();
				context.arc(p.x, p.y, 3.5, 0, 7);
				context.fill();
			}
		}
		context.textAlign = 'center';
		context.lineWidth = 3;
		for (const l of placeLabels(labels, width, height)) {
			context.strokeStyle = this.paper;
			context.strokeText(l.text, l.x, l.y);
			context.fillStyle = this.ink;
			context.fillText(l.text, l.x, l.y);
		}
	}

	private widthOf(context: CanvasRenderingContext2D, text: string): number {
		let w = this.widths.get(text);
		if (w === undefined) {
			if (this.widths.size > 20_000) this.widths.clear();
			this.widths.set(text, (w = context.measureText(text).width));
		}
		return w;
	}

	/** Coordinates along the three edges of the box that show best: in front below, and at the left. */
	private paintAxes(
		context: CanvasRenderingContext2D,
		place: (x: number, y: number, z: number) => { x: number; y: number; depth: number },
		add: (t: PlacedText) => void
	): void {
		const { center: c, half: h, camera, controls } = this.stage;
		const towards = new THREE.Vector3().subVectors(camera.position, controls.target);
		const front = { x: towards.x >= 0 ? 1 : -1, y: towards.y >= 0 ? 1 : -1 };
		const low = c.z - h.z;
		const edgeY = c.y + front.y * h.y;
		const edgeX = c.x + front.x * h.x;
		context.strokeStyle = this.ink;
		context.lineWidth = 1;
		const mark = (x: number, y: number, z: number, dx: number, dy: number, text: string, rank: number) => {
			const [p, q] = [place(x, y, z), place(x + dx, y + dy, z)];
			if (p.depth > 1) return;
			context.beginPath();
			context.moveTo(p.x, p.y);
			context.lineTo(q.x, q.y);
			context.stroke();
			add({ x: x + dx * 1.9, y: y + dy * 1.9, z, text, rank, lift: -5 });
		};
		const step = this.stage.size * 0.011;
		const count = (length: number) => Math.max(2, Math.min(8, (length / this.stage.size) * 9));
		for (const x of ticks(c.x - h.x, c.x + h.x, count(2 * h.x))) mark(x, edgeY, low, 0, front.y * step, spaced(x), 500);
		for (const y of ticks(c.y - h.y, c.y + h.y, count(2 * h.y))) mark(edgeX, y, low, front.x * step, 0, spaced(y), 500);
		// The upright edge that stands farthest left on the screen.
		let corner = { x: c.x - h.x, y: c.y - h.y };
		let left = Infinity;
		for (const sx of [-1, 1])
			for (const sy of [-1, 1]) {
				const p = place(c.x + sx * h.x, c.y + sy * h.y, c.z);
				if (p.x < left) {
					left = p.x;
					corner = { x: c.x + sx * h.x, y: c.y + sy * h.y };
				}
			}
		const out = { x: Math.sign(corner.x - c.x) * step * 0.7, y: Math.sign(corner.y - c.y) * step * 0.7 };
		for (const z of ticks(low, c.z + h.z, count(2 * h.z * this.stage.exaggeration)))
			mark(corner.x, corner.y, z, out.x, out.y, spaced(z), 480);
		add({ x: c.x, y: edgeY + front.y * step * 5, z: low, text: 'Easting', rank: 400, lift: -8 });
		add({ x: edgeX + front.x * step * 5, y: c.y, z: low, text: 'Northing', rank: 400, lift: -8 });
	}
}
