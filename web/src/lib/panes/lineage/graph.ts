import type { ProjectObject } from '$lib/api/types';

/** What is looked at: everything, or what one thing is made of, or what is made of it. */
export type Focus = 'all' | 'upstream' | 'downstream';

/** A thing in the picture: an object, a model with all its parts folded into one, or a set of sections. */
export interface Node {
	object: ProjectObject;
	/** Of a folded model its parts, of a set of sections all of them. */
	parts: readonly ProjectObject[];
}
export interface Picture {
	nodes: Node[];
	/** Ids of nodes: from what, to what is made of it. */
	edges: [string, string][];
	/** Things that are left out because there are too many to be read. */
	left: number;
	/** Things that hang together with nothing: they are named, not drawn. */
	alone: readonly ProjectObject[];
}

/** So many things can be read in one picture. */
export const MOST_NODES = 220;

type Linked = Pick<ProjectObject, 'id' | 'inputs' | 'kind'>;

/** All that a thing is made of, without itself. What is made of a section takes its line, and nothing that is drawn on it. */
export function upstream(objects: readonly Linked[], id: string): Set<string> {
	const byId = new Map(objects.map((o) => [o.id, o]));
	return reach(id, (at) => (at !== id && byId.get(at)?.kind === 'section' ? [] : (byId.get(at)?.inputs ?? [])));
}

/** All that is made of a thing, without itself. */
export function downstream(objects: readonly Linked[], id: string): Set<string> {
	const users = new Map<string, string[]>();
	for (const o of objects) for (const i of o.inputs) users.set(i, [...(users.get(i) ?? []), o.id]);
	const live = new Set(objects.flatMap((o) => (o.kind === 'section' ? [o.id] : [])));
	return reach(id, (at) => (at !== id && live.has(at) ? [] : (users.get(at) ?? [])));
}

function reach(from: string, next: (id: string) => readonly string[]): Set<string> {
	const found = new Set<string>();
	const open = [from];
	for (let at = open.pop(); at !== undefined; at = open.pop())
		for (const id of next(at))
			if (!found.has(id) && id !== from) {
				found.add(id);
				open.push(id);
			}
	return found;
}

/** The first section of its set, by the id of each that is in one; one that is selected stands by itself. */
function headsOfSets(objects: readonly ProjectObject[], selected: string | null): Map<string, string> {
	const heads = new Map<string, string>();
	const first = new Map<string, string>();
	for (const o of objects) {
		const set = o.kind === 'section' && o.id !== selected ? o.state['set'] : undefined;
		if (typeof set !== 'string') continue;
		if (!first.has(set)) first.set(set, o.id);
		heads.set(o.id, first.get(set)!);
	}
	return heads;
}

/** What a node is called: a set of sections by its own name. */
export const nameOf = (n: Node): string =>
	n.object.kind === 'section' && n.parts.length > 1 ? `${String(n.object.state['set'])}, ${n.parts.length} sections` : n.object.name;

/**
 * What the lineage shows of a project.
 * @param unfolded ids of models whose parts are shown one by one
 * @param selected what a focus goes out from; without it everything is shown
 */
export function pictureOf(
	objects: readonly ProjectObject[],
	unfolded: ReadonlySet<string>,
	focus: Focus,
	selected: string | null
): Picture {
	let shown = objects;
	if (focus !== 'all' && selected) {
		const own = objects.find((o) => o.id === selected);
		// A folded model stands for its parts.
		const starts =
			own?.kind === 'model' && !unfolded.has(own.id) ? objects.filter((o) => o.modelId === own.id).map((o) => o.id) : [selected];
		const found = new Set(starts);
		for (const s of starts) for (const id of (focus === 'upstream' ? upstream : downstream)(objects, s)) found.add(id);
		shown = objects.filter((o) => found.has(o.id));
	}
	const there = new Map(shown.map((o) => [o.id, o]));
	const heads = headsOfSets(shown, selected);
	/** The node that an object is in: itself, the model that it is folded into, or the first section of its set. */
	const home = (o: ProjectObject): string => (o.modelId && !unfolded.has(o.modelId) ? o.modelId : (heads.get(o.id) ?? o.id));
	const byId = new Map(objects.map((o) => [o.id, o]));
	const nodes = new Map<string, Node>();
	for (const o of shown) {
		const id = home(o);
		const known = nodes.get(id);
		if (known) (known.parts as ProjectObject[]).push(o);
		else
			nodes.set(id, {
				object: byId.get(id) ?? o,
				parts: id === o.id && !heads.has(id) && !(o.kind === 'model' && !unfolded.has(o.id)) ? [] : [o]
			});
	}
	const edges = new Map<string, [string, string]>();
	for (const o of shown)
		for (const i of o.inputs) {
			const from = there.get(i);
			if (!from) continue;
			const [a, b] = [home(from), home(o)];
			if (a !== b) edges.set(`${a} ${b}`, [a, b]);
		}
	const linked = new Set([...edges.values()].flat());
	const isDrawn = (n: Node) => linked.has(n.object.id) || n.object.id === selected || n.object.kind === 'model';
	const alone = [...nodes.values()].filter((n) => !isDrawn(n)).map((n) => n.object);
	const list = [...nodes.values()].filter(isDrawn);
	if (list.length <= MOST_NODES) return { nodes: list, edges: [...edges.values()], left: 0, alone };
	// Too many: what the selected thing hangs together with comes first, then what others are made of.
	const near = selected ? new Set([selected, ...upstream(objects, selected), ...downstream(objects, selected)]) : new Set<string>();
	const used = new Map<string, number>();
	for (const [a] of edges.values()) used.set(a, (used.get(a) ?? 0) + 1);
	const rank = (n: Node) => (near.has(n.object.id) ? 1e6 : 0) + (used.get(n.object.id) ?? 0);
	const kept = [...list].sort((a, b) => rank(b) - rank(a)).slice(0, MOST_NODES);
	const ids = new Set(kept.map((n) => n.object.id));
	return { nodes: kept, edges: [...edges.values()].filter(([a, b]) => ids.has(a) && ids.has(b)), left: list.length - kept.length, alone };
}
