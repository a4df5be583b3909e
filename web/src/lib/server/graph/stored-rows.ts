import { createHash } from 'node:crypto';
import { and, eq, isNull, sql } from 'drizzle-orm';
import { lasting } from '#core/lineage/key';
import { atOneTime, readAll, type Executor } from '../db/client';
import { object, objectInput, project } from '../db/schema';
import type { ProjectRow } from '../store/projects';
import { storedKeys } from '../store/results';

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

interface Versions {
	project: string | null;
	objects: [id: string, version: string][] | null;
	edges: string | null;
	keys: string | null;
}

/** How all of it stands, as one statement sees it; the objects in their order. */
async function versionsOf(on: Executor, projectId: string): Promise<Versions> {
	const { rows } = await on.execute<Versions & Record<string, unknown>>(sql`select
		(select ${VERSION('p')} from project p where p.id = ${projectId}) as project,
		(select json_agg(json_build_array(o.id, ${VERSION('o')}) order by o.position, o.created_at, o.id) from object o
			where o.project_id = ${projectId} and o.removed_at is null) as objects,
		(select md5(string_agg(concat(e.object_id, e.input_id, e.role), ',' order by e.object_id, e.input_id, e.role collate "C")) from object_input e
			join object o on o.id = e.object_id where o.project_id = ${projectId} and o.removed_at is null) as edges,
		(select md5(string_agg(r.key, ',' order by r.key collate "C")) from result r where r.project_id = ${projectId}) as keys`);
	return rows[0]!;
}

/** The same as the database makes it of what was read. */
const md5 = (texts: readonly string[]): string | null =>
	texts.length ? createHash('md5').update(texts.toSorted(byUnits).join(',')).digest('hex') : null;
const byUnits = (a: string, b: string): number => (a < b ? -1 : a > b ? 1 : 0);

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
	if (before?.rows.stamp === JSON.stringify(now)) return before.rows;
	const read = await readSince(on, projectId, before, now);
	if (read.rows.stamp === JSON.stringify(now)) return keep(projectId, read);
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
	const [[ofProject], found] = await readAll(
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
						.where(sql`${object.id} = any(${sql.param(unread)}::uuid[])`)
	);
	// After the objects: what one that was just seen is made of, and that its result is stored, is seen in any case.
	const [edges, keys] = await readAll(
		on,
		async () => known('edges')?.edges ?? (await edgesOf(on, projectId)),
		async () => known('keys')?.keys ?? (await storedKeys(on, projectId))
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
		edges: md5(edges.map((e) => e.objectId + e.inputId + e.role)),
		keys: md5([...keys])
	};
	const rows = { stamp: JSON.stringify(versions), project: lasting(ofProject?.project), objects: [...byVersion.values()], edges, keys };
	return { rows, versions, byVersion };
}

const edgesOf = (on: Executor, projectId: string): Promise<StoredEdge[]> =>
	on
		.select({ objectId: objectInput.objectId, inputId: objectInput.inputId, role: objectInput.role })
		.from(objectInput)
		.innerJoin(object, eq(object.id, objectInput.objectId))
		.where(and(eq(object.projectId, projectId), isNull(object.removedAt)));
