import { fail } from '#core/problem';
import { and, eq, isNull } from 'drizzle-orm';
import { thingsNamedBy, type Shaping } from '#core/project/shaping';
import { canonicalJson, nodeKeys, type GraphNode } from '#core/lineage/key';
import type { Executor } from '../db/client';
import { object, objectInput, project } from '../db/schema';
import { storedKeys } from './results';
import { sha256 } from './hash';

/** Derived kinds in the order in which they are built. The section is cut from the model whenever it is looked at. */
export const BUILT_KINDS = ['holes', 'contacts', 'fields', 'model'] as const;
export type BuiltKind = (typeof BUILT_KINDS)[number];
const isBuilt = (kind: string): boolean => (BUILT_KINDS as readonly string[]).includes(kind);

export interface ObjectRow {
	id: string;
	kind: string;
	name: string;
	revision: number;
	contentHash: string;
	state: Record<string, unknown>;
	fileId: string | null;
	/** Of a table: which of its stored versions counts. */
	version: number;
	updatedAt: Date;
	inputs: string[];
	/** The key it would have if it were built now. */
	key: string;
	outOfDate: boolean;
	/** Never built. */
	missing: boolean;
}

/** The build graph of a project with keys. */
export async function loadGraph(on: Executor, projectId: string): Promise<ObjectRow[]> {
	const [p] = await on.select().from(project).where(eq(project.id, projectId));
	const rows = await on
		.select()
		.from(object)
		.where(and(eq(object.projectId, projectId), isNull(object.removedAt)))
		.orderBy(object.createdAt, object.id);
	const there = new Set(rows.map((r) => r.id));
	const edges = await on
		.select({ objectId: objectInput.objectId, inputId: objectInput.inputId })
		.from(objectInput)
		.innerJoin(object, eq(object.id, objectInput.objectId))
		.where(eq(object.projectId, projectId));
	const inputs = new Map<string, string[]>();
	for (const e of edges) if (there.has(e.inputId)) inputs.set(e.objectId, [...(inputs.get(e.objectId) ?? []), e.inputId]);
	const named = namedThings(rows);
	const stored = await storedKeys(on, projectId);
	const tables = new Set(rows.filter((r) => r.kind === 'table').map((r) => r.id));
	const nodes: GraphNode[] = rows.map((r) => ({
		id: r.id,
		kind: r.kind,
		contentHash: r.contentHash,
		recipe: recipeOf(r.kind, r.state, p!, named, (inputs.get(r.id) ?? []).filter((i) => tables.has(i)).sort()),
		inputs: inputs.get(r.id) ?? []
	}));
	const keys = nodeKeys(nodes, sha256);
	// A result that is not stored any more is as good as never built.
	const lost = (r: (typeof rows)[number]) => isBuilt(r.kind) && !stored.has(r.contentHash);
	const stale = new Map(rows.map((r, i) => [r.id, nodes[i]!.recipe !== null && (keys.get(r.id) !== r.contentHash || lost(r))]));
	return rows.map((r) => {
		const own = inputs.get(r.id) ?? [];
		const isSection = r.kind === 'section';
		return {
			...r,
			inputs: own,
			key: keys.get(r.id)!,
			outOfDate: isSection ? own.some((i) => stale.get(i)) : stale.get(r.id)!,
			missing: isBuilt(r.kind) && lost(r)
		};
	});
}

/** Contents of the tables, layers, grids and surfaces that the shaping of the ground names. */
function namedThings(rows: readonly { kind: string; name: string; contentHash: string; state: Record<string, unknown> }[]): string[] {
	const shaping = rows.find((r) => r.kind === 'shaping')?.state as Shaping | undefined;
	if (!shaping) return [];
	const names = thingsNamedBy(shaping);
	return rows
		.filter((r) => ['table', 'grid', 'layer', 'surface'].includes(r.kind) && names.has(r.name))
		.map((r) => `${r.name} ${r.contentHash}`)
		.sort();
}

/** What a derived object's result depends on besides its inputs; null for a source. Results name rows by their table, so the tables are part of it. */
function recipeOf(
	kind: string,
	state: Record<string, unknown>,
	p: typeof project.$inferSelect,
	named: string[],
	tables: readonly string[]
): unknown {
	switch (kind) {
		case 'holes':
			return { lengthUnit: p.lengthUnit, extent: p.extent, tables };
		case 'contacts':
			return { named, tables };
		case 'fields':
			return { extent: p.extent, named, tables };
		case 'model':
			return { spacing: state['spacing'], leastPart: state['leastPart'] ?? 0, finer: state['finer'] ?? null };
		case 'section':
			return { trace: state['trace'], corridor: state['corridor'] };
		default:
			return null;
	}
}

/** Hash of a source that holds only its state. Names and colours of units do not change any computation. */
export function sourceHash(kind: string, state: Record<string, unknown>): string {
	if (kind === 'shaping')
		state = {
			...state,
			divisions: (state['divisions'] as { column: object[] }[]).map((d) => ({
				...d,
				name: '',
				column: d.column.map((u) => ({ ...u, name: '', color: '' }))
			}))
		};
	if (kind === 'column')
		return sha256(
			JSON.stringify(
				(state['units'] as { id: string; contact: string; form?: string }[]).map((u) => [u.id, u.contact, ...(u.form ? [u.form] : [])])
			)
		);
	return sha256(canonicalJson(state));
}

/** The one object of a kind that every project has. @throws ProblemError `not-found` when there is no such project */
export const one = <T extends { kind: string }>(graph: readonly T[], kind: string): T =>
	graph.find((o) => o.kind === kind) ?? fail('not-found', 'there is no such project');
