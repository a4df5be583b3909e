/** Canonical texts of values that last, as far as they were asked for. */
const texts = new WeakMap<object, string>();
const lastingValues = new WeakSet<object>();

/** Freezes a value with all that it holds: it is read often, and its canonical text is made once. */
export function lasting<T>(value: T): T {
	if (typeof value !== 'object' || value === null || Object.isFrozen(value)) return value;
	Object.freeze(value);
	lastingValues.add(value);
	for (const v of Object.values(value)) lasting(v);
	return value;
}

/** JSON with keys in order, so that equal values give equal text. */
export function canonicalJson(value: unknown): string {
	if (!value || typeof value !== 'object') return JSON.stringify(value) ?? 'null';
	const known = texts.get(value);
	if (known !== undefined) return known;
	const text = Array.isArray(value)
		? `[${value.map(canonicalJson).join(',')}]`
		: `{${Object.entries(value)
				.filter(([, v]) => v !== undefined)
				.sort(([a], [b]) => (a < b ? -1 : 1))
				.map(([k, v]) => `${JSON.stringify(k)}:${canonicalJson(v)}`)
				.join(',')}}`;
	if (lastingValues.has(value)) texts.set(value, text);
	return text;
}

/** A node of the build graph as far as keys are concerned. */
export interface GraphNode {
	id: string;
	kind: string;
	/** A source's hash; of a derived object the key it was last built with. */
	contentHash: string;
	/** Recipe parameters of a derived object; null for a source. */
	recipe: unknown;
	inputs: readonly string[];
	/** Key of what others take of it, where that is not all that it is made of. */
	taken?: string;
	/** The part that each input plays; where it is left out, inputs are told apart by what they are alone. */
	roles?: readonly string[];
}

/** Counts up when the computation of a kind changes, so that cached results of older versions are not taken. */
export const RECIPE_VERSION = 7;

/**
 * Key of every node: a source has its content hash; something derived has the hash of its kind, its recipe and the keys of its
 * inputs (in the order of those keys, so that it does not depend on when an input was added).
 * @throws RangeError when the graph has a cycle
 */
export function nodeKeys(nodes: readonly GraphNode[], hash: (text: string) => string): Map<string, string> {
	const byId = new Map(nodes.map((n) => [n.id, n]));
	const keys = new Map<string, string>();
	const open = new Set<string>();
	const keyOf = (id: string): string => {
		const known = keys.get(id);
		if (known !== undefined) return known;
		const node = byId.get(id);
		if (!node) return 'missing';
		if (open.has(id)) throw new RangeError(`the build graph goes in a circle through ${node.kind}`);
		open.add(id);
		const key =
			node.recipe === null
				? node.contentHash
				: keyOver(
						node,
						node.inputs.map((i) => byId.get(i)?.taken ?? keyOf(i)),
						hash
					);
		open.delete(id);
		keys.set(id, key);
		return key;
	};
	for (const n of nodes) keyOf(n.id);
	return keys;
}

/** Keys of recipes that last, by kind and inputs: the same is asked for whenever a graph is read. */
const keysOf = new WeakMap<object, Map<string, string>>();
const MOST_KEYS = 8;

/** Key of something derived from inputs of given keys. */
export function keyOver(node: GraphNode, keys: readonly string[], hash: (text: string) => string): string {
	const inputs = keys.map((key, i) => (node.roles ? `${node.roles[i]} ${key}` : key)).sort();
	const { kind, recipe } = node;
	const make = () => hash(canonicalJson({ version: RECIPE_VERSION, kind, recipe, inputs }));
	if (typeof recipe !== 'object' || recipe === null || !lastingValues.has(recipe)) return make();
	const own = keysOf.get(recipe) ?? new Map<string, string>();
	keysOf.set(recipe, own);
	const of = JSON.stringify([kind, inputs]);
	const key = own.get(of) ?? make();
	own.delete(of);
	own.set(of, key);
	for (const old of own.keys()) if (own.size > MOST_KEYS) own.delete(old);
	return key;
}

/** Derived nodes whose key is no longer the one they were built with. */
export function outOfDate(nodes: readonly GraphNode[], hash: (text: string) => string): Set<string> {
	const keys = nodeKeys(nodes, hash);
	return new Set(nodes.filter((n) => n.recipe !== null && keys.get(n.id) !== n.contentHash).map((n) => n.id));
}

/** All nodes downstream of one. */
export function downstream(nodes: readonly GraphNode[], id: string): Set<string> {
	const found = new Set<string>();
	const visit = (at: string) => {
		for (const n of nodes)
			if (n.inputs.includes(at) && !found.has(n.id)) {
				found.add(n.id);
				visit(n.id);
			}
	};
	visit(id);
	return found;
}
