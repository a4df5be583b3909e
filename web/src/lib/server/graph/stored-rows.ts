import { and, eq, isNull, sql } from 'drizzle-orm';
import { lasting } from '#core/lineage/key';
import { atOneTime, readAll, type Executor } from '../db/client';
import { object, objectInput, project, result } from '../db/schema';
import type { ProjectRow } from '../store/projects';

type StoredObject = typeof object.$inferSelect;
interface StoredEdge {
	objectId: string;
	inputId: string;
	role: string;
}

/** All that the graph of a project is read from, as it was read. It does not change; what is written later is in another one. */
export interface StoredRows {
	/** Differs whenever anything of this was written. */
	stamp: string;
	/** Nothing where there is no such project. */
	project: ProjectRow | undefined;
	/** What is in the project, in its order. */
	objects: readonly StoredObject[];
	/** What the objects are made of. */
	edges: readonly StoredEdge[];
	/** Keys of the results that are stored. */
	keys: ReadonlySet<string>;
}

/** How a row was written last: one that was written again has another one, also within the same transaction. */
const VERSION = (row: string) => sql.raw(`concat(${row}.xmin, ' ', ${row}.ctid)`);
const writtenLast = (table: typeof project | typeof object) => sql<string>`concat(${table}.xmin, ' ', ${table}.ctid)`;
/** Of many small rows: how many, and a sum of them that does not depend on their order. */
const sumOfEdges = (projectId: string) =>
	sql<string>`(select concat(count(*), ' ', bit_xor(uuid_hash_extended(e.object_id, uuid_hash_extended(e.input_id, hashtextextended(e.role, 0)))))
		from object_input e join object o on o.id = e.object_id where o.project_id = ${projectId} and o.removed_at is null)`;
const sumOfKeys = (projectId: string) =>
	sql<string>`(select concat(count(*), ' ', bit_xor(hashtextextended(r.key, 0))) from result r where r.project_id = ${projectId})`;
/** Those of none. */
const NONE = '0 ';

interface Written {
	project: string | null;
	objects: [id: string, version: string][] | null;
}
interface Versions extends Written {
	edges: string;
	keys: string;
}

const writtenOf = (projectId: string) => sql`
	(select ${VERSION('p')} from project p where p.id = ${projectId}) as project,
	(select json_agg(json_build_array(o.id, ${VERSION('o')}) order by o.position, o.created_at, o.id) from object o
		where o.project_id = ${projectId} and o.removed_at is null) as objects`;

/** How all of it stands, as one statement sees it; the objects in their order. */
async function versionsOf(on: Executor, projectId: string): Promise<Versions> {
	const { rows } = await on.execute<Versions & Record<string, unknown>>(
		sql`select ${writtenOf(projectId)}, ${sumOfEdges(projectId)} as edges, ${sumOfKeys(projectId)} as keys`
	);
	return rows[0]!;
}

/** Whether the project or an object of it was written since it was read. */
export async function isWrittenSince(on: Executor, projectId: string, stamp: string): Promise<boolean> {
	const { rows } = await on.execute<Written & Record<string, unknown>>(sql`select ${writtenOf(projectId)}`);
	return !stamp.startsWith(stampOf(rows[0]!));
}

/** Stamps of all, and of what is written by changes, which the other begins with. */
const stampOf = ({ project: p, objects, ...more }: Written | Versions): string =>
	JSON.stringify([p, objects]) + ('edges' in more ? JSON.stringify([more.edges, more.keys]) : '');

interface Kept {
	rows: StoredRows;
	versions: Versions;
	byVersion: ReadonlyMap<string, StoredObject>;
}

/** What was read last of the projects that were read last. */
const kept = new Map<string, Kept>();
const MOST_KEPT = 8;

/** Reads a project with all that its graph is made of, as it stands at one time; what was not written since it was read last is not read again. */
export async function storedRows(on: Executor, projectId: string): Promise<StoredRows> {
	const before = kept.get(projectId);
	const now = await versionsOf(on, projectId);
	if (before?.rows.stamp === stampOf(now)) return before.rows;
	const read = await readSince(on, projectId, before, now);
	if (read.rows.stamp === stampOf(now)) return keep(projectId, read);
	// It was written to while it was read.
	return atOneTime(on, async (still) => keep(projectId, await readSince(still, projectId, undefined, await versionsOf(still, projectId))));
}

function keep(projectId: string, read: Kept): StoredRows {
	kept.delete(projectId);
	kept.set(projectId, read);
	for (const old of kept.keys()) if (kept.size > MOST_KEPT) kept.delete(old);
	return read.rows;
}

/** Reads what was written since it was read before. Its stamp is another one than what was listed where something was written meanwhile. */
async function readSince(on: Executor, projectId: string, before: Kept | undefined, now: Versions): Promise<Kept> {
	const listed = now.objects ?? [];
	const unread = listed.flatMap(([id, version]) => (before?.byVersion.has(`${id} ${version}`) ? [] : [id]));
	const known = (part: 'project' | 'edges' | 'keys') => (before && before.versions[part] === now[part] ? before.rows : null);
	// Within a transaction the objects come first: what one that was just seen is made of, and that its result is stored, is seen in any case.
	const [[ofProject], found, edges, keys] = await readAll(
		on,
		async () =>
			known('project')
				? [{ project: known('project')!.project, version: now.project }]
				: await on
						.select({ project, version: writtenLast(project) })
						.from(project)
						.where(eq(project.id, projectId)),
		async () =>
			unread.length === 0
				? []
				: await on
						.select({ object, version: writtenLast(object) })
						.from(object)
						.where(sql`${object.id} = any(${sql.param(unread)}::uuid[])`),
		async () => (known('edges') ? { list: before!.rows.edges, sum: now.edges } : await edgesOf(on, projectId)),
		async () => (known('keys') ? { list: before!.rows.keys, sum: now.keys } : await keysOf(on, projectId))
	);
	const fresh = new Map(found.map((f) => [f.object.id, f]));
	const byVersion = new Map<string, StoredObject>();
	const objects: [string, string][] = [];
	for (const [id, listedAs] of listed) {
		const own = fresh.get(id);
		const o = own?.object ?? before?.byVersion.get(`${id} ${listedAs}`);
		if (!o || o.removedAt) continue;
		const version = own?.version ?? listedAs;
		byVersion.set(`${id} ${version}`, lasting(o));
		objects.push([id, version]);
	}
	const versions: Versions = {
		project: ofProject?.version ?? null,
		objects: objects.length ? objects : null,
		edges: edges.sum,
		keys: keys.sum
	};
	const rows = {
		stamp: stampOf(versions),
		project: lasting(ofProject?.project),
		objects: [...byVersion.values()],
		edges: edges.list,
		keys: keys.list
	};
	return { rows, versions, byVersion };
}

async function edgesOf(on: Executor, projectId: string): Promise<{ list: StoredEdge[]; sum: string }> {
	const list = await on
		.select({ objectId: objectInput.objectId, inputId: objectInput.inputId, role: objectInput.role, sum: sumOfEdges(projectId) })
		.from(objectInput)
		.innerJoin(object, eq(object.id, objectInput.objectId))
		.where(and(eq(object.projectId, projectId), isNull(object.removedAt)));
	return { list, sum: list[0]?.sum ?? NONE };
}

async function keysOf(on: Executor, projectId: string): Promise<{ list: Set<string>; sum: string }> {
	const rows = await on
		.select({ key: result.key, sum: sumOfKeys(projectId) })
		.from(result)
		.where(eq(result.projectId, projectId));
	return { list: new Set(rows.map((r) => r.key)), sum: rows[0]?.sum ?? NONE };
}
