import { fail } from '#core/problem';
import type { FaultSpec } from '#core/model/ground';
import { stateIfWhole, stateOf } from './states';

interface Row {
	id: string;
	kind: string;
	name: string;
	modelId: string | null;
	state: Record<string, unknown>;
	contentHash: string;
}

/** Faults as they are for another column: they cut from the youngest unit on that both columns have of those that they cut, else everything. */
function forUnits(faults: readonly FaultSpec[], theirs: readonly { id: string }[], units: readonly { id: string }[]): FaultSpec[] {
	const own = new Set(units.map((u) => u.id));
	return faults.map((f) => {
		const cut = theirs.slice(
			Math.max(
				0,
				theirs.findIndex((u) => u.id === f.youngestCut)
			)
		);
		return { ...f, youngestCut: cut.find((u) => own.has(u.id))?.id ?? units[0]?.id ?? f.youngestCut };
	});
}

const ofModel = <T extends Row>(rows: readonly T[], kind: string, model: unknown): T | undefined =>
	rows.find((r) => r.kind === kind && r.modelId === model && model !== null);

/**
 * Objects of a project in which models that follow the faults of another have these, as they are there. What stood there when they
 * began to follow stays where the other is gone: see `requireFollowed`.
 * @param hash of a source that holds only its state
 */
export function withFollowedFaults<T extends Row>(rows: readonly T[], hash: (kind: string, state: Record<string, unknown>) => string): T[] {
	return rows.map((r) => {
		if (r.kind !== 'faults' || typeof r.state['follows'] !== 'string') return r;
		const model = r.state['follows'];
		const theirs = ofModel(rows, 'faults', model);
		const columns = [ofModel(rows, 'column', model), ofModel(rows, 'column', r.modelId)];
		const [units, own] = columns.map((c) => c && stateIfWhole(c, 'column')?.units);
		const faults = theirs && stateIfWhole(theirs, 'faults')?.faults;
		if (!faults || !units || !own) return r;
		const state = { ...r.state, faults: forUnits(faults, units, own) };
		return { ...r, state, contentHash: hash('faults', state) };
	});
}

/** The object whose faults these are, where they follow another model's. */
export const followedBy = <T extends Row>(rows: readonly T[], r: Row): T | undefined =>
	r.kind === 'faults' ? ofModel(rows, 'faults', r.state['follows']) : undefined;

/**
 * Looks whether the faults that a model follows are those that it was given.
 * @throws ProblemError `faults-lost` when the other model is not there any more, or follows a third; `damaged-state` when it can not be read
 */
export function requireFollowed(rows: readonly Row[], faults: Row): void {
	if (!stateOf(faults, 'faults').follows) return;
	const theirs = followedBy(rows, faults);
	if (!theirs || stateOf(theirs, 'faults').follows)
		fail(
			'faults-lost',
			theirs
				? 'its faults were those of a model that follows another itself'
				: 'its faults were those of another model, which is not in the project any more',
			'Under Interpret, Faults: keep them as its own, or follow those of another model.',
			'faults'
		);
}

/**
 * Whether a model may follow the faults of another.
 * @throws ProblemError `not-found`, `follows-itself`
 */
export function requireToFollow(rows: readonly Row[], model: string, other: string): void {
	const name = (id: string | null) => rows.find((r) => r.id === id)?.name ?? '';
	const theirs = ofModel(rows, 'faults', other);
	if (!theirs) return fail('not-found', 'the model whose faults are to be followed is not in this project', undefined, 'follows');
	if (other === model) fail('follows-itself', 'a model can not follow its own faults', 'Choose another one.', 'follows');
	if (stateOf(theirs, 'faults').follows)
		fail('follows-itself', `${name(other)} follows the faults of another model itself`, 'Follow that one.', 'follows');
	const behind = rows.find((r) => r.kind === 'faults' && r.state['follows'] === model);
	if (behind) fail('follows-itself', `${name(behind.modelId)} follows the faults of this model`, 'Let that go first.', 'follows');
}
