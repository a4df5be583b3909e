import { fail } from '../problem';
import type { BuildPlan } from './build';
import type { Ground } from './fit-ground';
import { allContacts, faultsOf, unitsOf } from './whole';
import { walkOf, type FieldSource, type Leaf, type Question, type Walk } from './walk';

/** Leaves of a crossed tree have numbers of 16 bits. */
const MOST_LEAVES = 60_000;

/**
 * The plan of two models at once: every place is asked by the tree of the first, then by that of the second, so that each solid
 * of what is built is where one unit of either is, with nothing counted twice. Its units are pairs: `a · (units of b) + b`.
 * Surfaces of the second have numbers after those of the first. A field that both have is asked once.
 * Terrain and extent are those of the first; it ends where either of the two ends.
 * @throws ProblemError `too-many-units` when the pairs do not fit
 */
export function crossedPlan(a: Ground, b: Ground): BuildPlan {
	const [first, second] = [walkOf(a), walkOf(b)];
	const [unitsA, unitsB] = [unitsOf(a).length, unitsOf(b).length];
	const faultsA = faultsOf(a);
	const sources = [...first.sources];
	const questions = [...first.questions];
	const leaves: Leaf[] = [];
	if (first.leaves.length * second.leaves.length > MOST_LEAVES)
		fail('too-many-units', 'the two models have too many units and fault blocks to be crossed', 'Lump units, or switch faults off in one.');

	/** By source and question of the second tree, what it is in the whole. */
	const sourceOf = second.sources.map((s): FieldSource => {
		const same = first.sources.find((f) => f.block === s.block && equal(f.field, s.field));
		if (same) return same;
		const own = { ...s, id: sources.length };
		sources.push(own);
		return own;
	});
	const numberOf = second.questions.map((q): number => {
		const source = sourceOf[q.source.id]!;
		const same = questions.findIndex((f) => f.source === source && f.level === q.level);
		if (same >= 0) return same;
		const surface: Question['surface'] =
			q.surface.kind === 'fault'
				? { kind: 'fault', fault: faultsA.length + q.surface.fault }
				: { kind: 'contact', unit: unitsA + q.surface.unit };
		return questions.push({ source, level: q.level, surface }) - 1;
	});

	/** @param known answers of the questions that were asked on the way: above or not */
	const graft = (walk: Walk, unitA: number, known: ReadonlyMap<number, boolean>): Walk => {
		if (!('question' in walk)) {
			leaves.push({ unit: unitA * unitsB + walk.unit, block: 0, asked: 0 });
			return { unit: unitA * unitsB + walk.unit, leaf: leaves.length - 1 };
		}
		const id = numberOf[walk.id]!;
		const answer = known.get(id);
		if (answer !== undefined) return graft(answer ? walk.above : walk.below, unitA, known);
		return {
			question: questions[id]!,
			id,
			above: graft(walk.above, unitA, new Map(known).set(id, true)),
			below: graft(walk.below, unitA, new Map(known).set(id, false))
		};
	};
	const copy = (walk: Walk, known: ReadonlyMap<number, boolean>): Walk =>
		'question' in walk
			? {
					...walk,
					above: copy(walk.above, new Map(known).set(walk.id, true)),
					below: copy(walk.below, new Map(known).set(walk.id, false))
				}
			: graft(second.root, walk.unit, known);
	return {
		input: { ...a.input, limits: [...(a.input.limits ?? []), ...(b.input.limits ?? [])] },
		walk: { root: copy(first.root, new Map()), sources, questions, leaves },
		contacts: [...allContacts(a), ...allContacts(b).map((c) => ({ ...c, surface: c.surface + unitsA }))],
		faults: [...faultsA, ...faultsOf(b)]
	};
}

/** Whether two plain values with typed arrays say the same. */
function equal(a: unknown, b: unknown): boolean {
	if (Object.is(a, b)) return true;
	if (typeof a !== 'object' || typeof b !== 'object' || a === null || b === null) return false;
	if (ArrayBuffer.isView(a) && ArrayBuffer.isView(b)) {
		const [x, y] = [a as unknown as ArrayLike<number>, b as unknown as ArrayLike<number>];
		return x.length === y.length && Array.prototype.every.call(x, (v, i) => Object.is(v, y[i]));
	}
	const [own, others] = [Object.keys(a), Object.keys(b)];
	return own.length === others.length && own.every((k) => equal(a[k as keyof typeof a], b[k as keyof typeof b]));
}
