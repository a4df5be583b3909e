import type { Ground } from './fit-ground';
import { inBlock, valueAt, type BlockField, type Field } from '../fields/field';
import { sampleRaster } from '../grids/raster';
import { AIR } from '../mesh/cut-lattice';

/** One question on the way from a place to its unit: is the field of `source` above `level` here? */
export interface Question {
	source: FieldSource;
	level: number;
	/** What the zero set is. */
	surface: { kind: 'contact'; unit: number } | { kind: 'fault'; fault: number };
}

/** A field as seen from one fault block. One object for each pair, so that it can be evaluated once. */
export interface FieldSource {
	id: number;
	field: Field;
	block: number;
}

/** The way down through the ground: youngest first, faults where they begin to cut. */
export type Walk = { unit: number; leaf: number } | { question: Question; id: number; above: Walk; below: Walk };

/**
 * The one decision that says which unit a place below the terrain is in. It is a tree: bases and intrusions from the youngest on,
 * each fault before the youngest sequence that it cuts; below a fault the fields are those of its block.
 */
export function walkOf(ground: Ground): { root: Walk; sources: FieldSource[]; questions: Question[]; leaves: number } {
	const sources: FieldSource[] = [];
	const questions: Question[] = [];
	const sourceOf = new Map<string, FieldSource>();
	let leaves = 0;
	const { sequences, faults } = ground;

	const source = (key: string, field: Field, block: number): FieldSource => {
		const name = `${key} ${block}`;
		let s = sourceOf.get(name);
		if (!s) {
			s = { id: sources.length, field, block };
			sources.push(s);
			sourceOf.set(name, s);
		}
		return s;
	};
	const idOf = new Map<string, number>();
	const ask = (question: Question, above: Walk, below: Walk): Walk => {
		const key = `${question.source.id} ${question.level}`;
		let id = idOf.get(key);
		if (id === undefined) {
			id = questions.length;
			idOf.set(key, id);
			questions.push(question);
		}
		return { question, id, above, below };
	};
	const leaf = (unit: number): Walk => ({ unit, leaf: leaves++ });

	const inside = (s: number, block: number): Walk => {
		const q = sequences[s]!;
		const build = (p: number): Walk => {
			const unit = q.present[p]!;
			const level = q.innerField?.levels[q.units.indexOf(unit)] ?? NaN;
			if (p === q.present.length - 1 || !q.innerField || !Number.isFinite(level)) return leaf(unit);
			return ask({ source: source(`inner ${s}`, q.innerField, block), level, surface: { kind: 'contact', unit } }, leaf(unit), build(p + 1));
		};
		return build(0);
	};

	/** @param absent faults that are not in this part of the ground */
	const from = (s: number, block: number, passed: number, absent: number): Walk => {
		const q = sequences[s]!;
		const cuts = (k: number) => faults[k]!.youngestCut <= q.units[q.units.length - 1]!;
		// A fault that ends on another one comes after it.
		const fault = faults.findIndex((f, k) => !(passed & (1 << k)) && cuts(k) && (f.endsOn < 0 || !cuts(f.endsOn) || (passed & (1 << f.endsOn)) !== 0));
		if (fault >= 0) {
			const { endsOn, side } = faults[fault]!;
			if (endsOn >= 0 && cuts(endsOn) && !(absent & (1 << endsOn)) && ((block >>> endsOn) & 1) !== side) return from(s, block, passed | (1 << fault), absent | (1 << fault));
			return ask(
				{ source: source(`fault ${fault}`, faults[fault]!.field, 0), level: faults[fault]!.field.levels[0]!, surface: { kind: 'fault', fault } },
				from(s, block | (1 << fault), passed | (1 << fault), absent),
				from(s, block, passed | (1 << fault), absent)
			);
		}
		const isLast = s === sequences.length - 1;
		if (q.absent && !isLast) return from(s + 1, block, passed, absent);
		if (isLast || (q.kind === 'strata' && !q.baseField)) return inside(s, block);
		if (!q.baseField) return from(s + 1, block, passed, absent);
		if (q.walls) {
			// Above the upper wall and below the lower one is what the sheet cuts.
			const wall = source(`base ${s}`, q.baseField, block);
			const surface = { kind: 'contact', unit: q.base } as const;
			return ask({ source: wall, level: q.walls[0], surface }, from(s + 1, block, passed, absent), ask({ source: wall, level: q.walls[1], surface }, leaf(q.base), from(s + 1, block, passed, absent)));
		}
		const own = q.kind === 'intrusion' ? leaf(q.base) : inside(s, block);
		return ask(
			{ source: source(`base ${s}`, q.baseField, block), level: q.baseField.levels[0]!, surface: { kind: 'contact', unit: q.base } },
			own,
			from(s + 1, block, passed, absent)
		);
	};
	return { root: from(0, 0, 0, 0), sources, questions, leaves };
}

/**
 * The function that says which unit a point is in: an index into the column, or `AIR` above the terrain.
 * It asks the fields themselves, not their picture on a lattice.
 */
export function unitAt(ground: Ground): (x: number, y: number, z: number) => number {
	const { root, sources } = walkOf(ground);
	const prepared: BlockField[] = sources.map((s) => inBlock(s.field, s.block));
	const { terrain } = ground.input;
	return (x, y, z) => {
		if (terrain && z > sampleRaster(terrain, x, y)) return AIR;
		let at = root;
		while ('question' in at) {
			const { source, level } = at.question;
			at = valueAt(prepared[source.id]!, x, y, z) >= level ? at.above : at.below;
		}
		return at.unit;
	};
}

