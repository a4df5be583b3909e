import type { Ground } from './fit-ground';
import { contactOf } from './fit-sequence';
import { inBlock, valueAt, type BlockField, type Field } from '../fields/field';
import { sampleRaster } from '../grids/raster';
import { AIR, OUTSIDE } from '../mesh/cut-lattice';
import { fail } from '../problem';
import { insideLimits, SIDE_ONLY } from './limits';

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

/** Where a leaf of the tree is: its unit, and on which sides of the faults (bit k set in the hanging wall of fault k) as far as they are there. */
export interface Leaf {
	unit: number;
	block: number;
	/** Faults that were asked on the way. */
	asked: number;
}

/**
 * The one decision that says which unit a place below the terrain is in. It is a tree: bases and intrusions from the youngest on,
 * each fault before the youngest sequence that it cuts; below a fault the fields are those of its block. Where a unit is divided,
 * the tree of its parts takes the place of its leaf. Units and faults are indexes into all of them (see `unitsOf`, `faultsOf`).
 */
export function walkOf(ground: Ground): { root: Walk; sources: FieldSource[]; questions: Question[]; leaves: Leaf[] } {
	const maker = new WalkMaker();
	let next = ground.faults.length;
	const divided = new Map<number, (block: number) => Walk>();
	for (const d of ground.divisions) {
		const firstOwn = next;
		next += d.ground.faults.length - d.shared.length;
		const part: Part = {
			ground: d.ground,
			name: `${d.id} `,
			firstUnit: d.firstUnit,
			faultOf: (k) => (k < d.shared.length ? d.shared[k]! : firstOwn + k - d.shared.length),
			divided: new Map()
		};
		divided.set(d.unit, (block) =>
			maker.from(
				part,
				0,
				d.shared.reduce((mask, k, i) => mask | (((block >>> k) & 1) << i), 0),
				2 ** d.shared.length - 1,
				0
			)
		);
	}
	return { root: maker.from({ ground, name: '', firstUnit: 0, faultOf: (k) => k, divided }, 0, 0, 0, 0), ...maker };
}

/** A ground with its place in the whole. */
interface Part {
	ground: Ground;
	/** Begins the names of its fields. */
	name: string;
	firstUnit: number;
	/** Number of its fault k among all faults. */
	faultOf: (k: number) => number;
	/** By unit of the ground: the tree of its parts in a fault block. */
	divided: ReadonlyMap<number, (block: number) => Walk>;
}

/** Leaves are numbers of 16 bits, of which a few have a meaning of their own. */
const MOST_LEAVES = 65_000;

class WalkMaker {
	readonly sources: FieldSource[] = [];
	readonly questions: Question[] = [];
	readonly leaves: Leaf[] = [];
	private readonly sourceOf = new Map<string, FieldSource>();
	private readonly idOf = new Map<string, number>();

	private source(key: string, field: Field, block: number): FieldSource {
		const name = `${key} ${block}`;
		let s = this.sourceOf.get(name);
		if (!s) {
			s = { id: this.sources.length, field, block };
			this.sources.push(s);
			this.sourceOf.set(name, s);
		}
		return s;
	}

	private ask(question: Question, above: Walk, below: Walk): Walk {
		const key = `${question.source.id} ${question.level}`;
		let id = this.idOf.get(key);
		if (id === undefined) {
			id = this.questions.length;
			this.idOf.set(key, id);
			this.questions.push(question);
		}
		return { question, id, above, below };
	}

	private leaf(part: Part, unit: number, block: number, passed: number): Walk {
		const parts = part.divided.get(unit);
		if (parts) return parts(block);
		const all = (mask: number) => {
			let out = 0;
			for (let k = 0; k < part.ground.faults.length; k++) if ((mask >>> k) & 1) out |= 1 << part.faultOf(k);
			return out;
		};
		if (this.leaves.length >= MOST_LEAVES)
			fail(
				'too-many-parts',
				`the intrusions and faults of the column cut the ground into more than ${MOST_LEAVES.toLocaleString('en')} parts`,
				'Put intrusions that are much the same together in one unit, or turn faults off.',
				'column'
			);
		this.leaves.push({ unit: part.firstUnit + unit, block: all(block), asked: all(passed) });
		return { unit: part.firstUnit + unit, leaf: this.leaves.length - 1 };
	}

	private inside(part: Part, s: number, block: number, passed: number): Walk {
		const q = part.ground.sequences[s]!;
		const build = (p: number): Walk => {
			const unit = q.present[p]!;
			const own = p === q.present.length - 1 ? null : contactOf(q, unit);
			if (!own) return this.leaf(part, unit, block, passed);
			// Contacts with a field of their own are asked from the youngest on: what would lie above a younger one is not there.
			const name = own.field === q.innerField ? `inner ${s}` : `inner ${s} ${unit}`;
			return this.ask(
				{
					source: this.source(`${part.name}${name}`, own.field, block),
					level: own.level,
					surface: { kind: 'contact', unit: part.firstUnit + unit }
				},
				this.leaf(part, unit, block, passed),
				build(p + 1)
			);
		};
		return build(0);
	}

	/**
	 * The tree from a sequence on.
	 * @param passed faults that were asked or are not there
	 * @param absent faults that are not in this part of the ground
	 * @param sides by number of a sheet that was passed: whether this part lies above it
	 */
	from(part: Part, s: number, block: number, passed: number, absent: number, sides: ReadonlyMap<number, boolean> = new Map()): Walk {
		const { sequences, faults } = part.ground;
		const q = sequences[s]!;
		const cuts = (k: number) => faults[k]!.youngestCut <= q.units[q.units.length - 1]!;
		// A fault that ends on another one comes after it.
		const fault = faults.findIndex(
			(f, k) => !(passed & (1 << k)) && cuts(k) && (f.endsOn < 0 || !cuts(f.endsOn) || (passed & (1 << f.endsOn)) !== 0)
		);
		if (fault >= 0) {
			const { endsOn, side } = faults[fault]!;
			if (endsOn >= 0 && cuts(endsOn) && !(absent & (1 << endsOn)) && ((block >>> endsOn) & 1) !== side)
				return this.from(part, s, block, passed | (1 << fault), absent | (1 << fault), sides);
			return this.ask(
				{
					source: this.source(`${part.name}fault ${fault}`, faults[fault]!.field, 0),
					level: faults[fault]!.field.levels[0]!,
					surface: { kind: 'fault', fault: part.faultOf(fault) }
				},
				this.from(part, s, block | (1 << fault), passed | (1 << fault), absent, sides),
				this.from(part, s, block, passed | (1 << fault), absent, sides)
			);
		}
		const older = (above?: boolean) =>
			this.from(part, s + 1, block, passed, absent, above === undefined ? sides : new Map(sides).set(s, above));
		const isLast = s === sequences.length - 1;
		if (q.absent && !isLast) return older();
		if (isLast || (q.kind === 'strata' && !q.baseField)) return this.inside(part, s, block, passed & ~absent);
		if (!q.baseField) return older();
		const base = this.source(`${part.name}base ${s}`, q.baseField, block);
		const surface = { kind: 'contact', unit: part.firstUnit + q.base } as const;
		// Above the upper wall and below the lower one is what the sheet cuts: another of the same unit, or what is older.
		const foot = q.footField ? this.source(`${part.name}foot ${s}`, q.footField, block) : base;
		if (q.walls && q.others) {
			const sheets = [q, ...q.others];
			const from = (k: number): Walk => {
				const sheet = sheets[k];
				if (!sheet) return older();
				const upper = this.source(`${part.name}base ${s} ${k}`, sheet.baseField!, block);
				const lower = sheet.footField ? this.source(`${part.name}foot ${s} ${k}`, sheet.footField, block) : upper;
				const own = this.leaf(part, q.base, block, passed & ~absent);
				return this.ask(
					{ source: upper, level: sheet.walls![0], surface },
					from(k + 1),
					this.ask({ source: lower, level: sheet.walls![1], surface }, own, from(k + 1))
				);
			};
			return from(0);
		}
		if (q.walls) {
			// Beyond a sheet that it ends at it is not there; one that was not asked yet (an older one, or one that ends itself) is asked.
			if (q.ends?.some((e) => sides.has(e.at) && sides.get(e.at) !== e.above)) return older();
			const own = (q.ends ?? [])
				.filter((e) => !sides.has(e.at))
				.reduce<Walk>(
					(here, e) => {
						const other = sequences[e.at]!;
						const wall = e.above || !other.footField ? 'base' : 'foot';
						const source = this.source(`${part.name}${wall} ${e.at}`, wall === 'base' ? other.baseField! : other.footField!, block);
						const question: Question = { source, level: other.walls![e.above ? 0 : 1], surface };
						return e.above ? this.ask(question, here, older()) : this.ask(question, older(), here);
					},
					this.leaf(part, q.base, block, passed & ~absent)
				);
			return this.ask(
				{ source: base, level: q.walls[0], surface },
				older(true),
				this.ask({ source: foot, level: q.walls[1], surface }, own, older(false))
			);
		}
		const own = q.kind === 'intrusion' ? this.leaf(part, q.base, block, passed & ~absent) : this.inside(part, s, block, passed & ~absent);
		return this.ask({ source: base, level: q.baseField.levels[0]!, surface }, own, older());
	}
}

/**
 * The function that says which unit a point is in: an index into all units, `AIR` above the terrain, or
 * `OUTSIDE` beyond the limits of the model.
 * It asks the fields themselves, not their picture on a lattice.
 */
export function unitAt(ground: Ground): (x: number, y: number, z: number) => number {
	const { root, sources } = walkOf(ground);
	const prepared: BlockField[] = sources.map((s) => inBlock(s.field, s.block));
	const { terrain } = ground.input;
	const inside = insideLimits(ground.input, SIDE_ONLY);
	return (x, y, z) => {
		if (terrain && z > sampleRaster(terrain, x, y)) return AIR;
		if (inside && inside(x, y, z) < 0) return OUTSIDE;
		let at = root;
		while ('question' in at) {
			const { source, level } = at.question;
			at = valueAt(prepared[source.id]!, x, y, z) >= level ? at.above : at.below;
		}
		return at.unit;
	};
}
