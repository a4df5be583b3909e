import { and, desc, eq, getTableColumns, isNotNull, isNull, sql } from 'drizzle-orm';
import { fail } from '#core/problem';
import { plainShaping } from '#core/project/shaping';
import type { Box } from '#core/geometry/box';
import type { TableKind } from '#core/tables/kinds';
import { db, type Executor } from '../db/client';
import { object, objectInput, project } from '../db/schema';
import { sourceHash } from './graph';

export interface NewProject {
	name: string;
	author?: string;
	description?: string;
	crs?: number;
	lengthUnit?: string;
	decimal?: string;
	extent?: Box | null;
}

/** Sources that hold only their state. */
export const SETTINGS: readonly string[] = ['column', 'lumping', 'faults', 'rules', 'shaping'];

/** Objects that every project has, in the order of the work. */
const FIRST_OBJECTS: { kind: string; name: string; state: Record<string, unknown>; inputs: string[] }[] = [
	{ kind: 'column', name: 'Stratigraphic column', state: { units: [] }, inputs: [] },
	{ kind: 'lumping', name: 'Codes to units', state: { codes: {} }, inputs: [] },
	{ kind: 'faults', name: 'Faults', state: { faults: [] }, inputs: [] },
	{ kind: 'rules', name: 'Rules of the checks', state: { rules: {} }, inputs: [] },
	{ kind: 'shaping', name: 'Shape of the ground', state: { ...plainShaping() }, inputs: [] },
	{ kind: 'holes', name: 'Hole paths', state: {}, inputs: ['rules'] },
	{ kind: 'contacts', name: 'Contacts', state: {}, inputs: ['holes', 'column', 'lumping', 'faults', 'shaping'] },
	{ kind: 'fields', name: 'Fields', state: {}, inputs: ['contacts', 'column', 'faults', 'lumping', 'holes', 'shaping'] },
	{ kind: 'model', name: 'Model', state: { spacing: 50 }, inputs: ['fields'] },
	{ kind: 'section', name: 'Section A–A′', state: { trace: [], corridor: 100 }, inputs: ['model', 'holes'] }
];

export async function createProject(values: NewProject): Promise<string> {
	return db().transaction(async (tx) => {
		const [p] = await tx.insert(project).values(values).returning({ id: project.id });
		const ids = new Map<string, string>();
		for (const o of FIRST_OBJECTS) {
			const source = SETTINGS.includes(o.kind);
			const [row] = await tx
				.insert(object)
				.values({ projectId: p!.id, kind: o.kind, name: o.name, state: o.state, contentHash: source ? sourceHash(o.kind, o.state) : '' })
				.returning({ id: object.id });
			ids.set(o.kind, row!.id);
			if (o.inputs.length) await tx.insert(objectInput).values(o.inputs.map((i) => ({ objectId: row!.id, inputId: ids.get(i)! })));
		}
		return p!.id;
	});
}

/** @throws ProblemError `not-found`, also of one that lies in the bin */
export async function findProject(on: Executor, id: string) {
	const [p] = await on.select().from(project).where(eq(project.id, id));
	if (p?.removedAt) return fail('not-found', `the project ${p.name} lies in the bin`, 'Take it back on the page of projects.');
	return p ?? fail('not-found', 'there is no such project');
}

/** Projects, or those in the bin, the last worked on first. Work is any change of a project, an object of it, or a job. */
export function listProjects(bin = false) {
	const lastWork = sql<string>`greatest(${project.updatedAt}, (select max(o.updated_at) from object o where o.project_id = "project"."id"), (select max(j.created_at) from job j where j.project_id = "project"."id"))`;
	return db()
		.select({ ...getTableColumns(project), lastWork })
		.from(project)
		.where(bin ? isNotNull(project.removedAt) : isNull(project.removedAt))
		.orderBy(desc(lastWork));
}

/** Puts a project into the bin, or takes it back. */
export async function binProject(id: string, removed: boolean): Promise<void> {
	const rows = await db()
		.update(project)
		.set({ removedAt: removed ? new Date() : null })
		.where(and(eq(project.id, id), removed ? isNull(project.removedAt) : isNotNull(project.removedAt)))
		.returning({ id: project.id });
	if (rows.length === 0) fail('not-found', removed ? 'there is no such project' : 'there is no such project in the bin');
}

/** Deletes a project with everything in it, for good. */
export async function deleteProject(id: string): Promise<void> {
	await db().transaction(async (tx) => {
		await tx.update(object).set({ fileId: null }).where(eq(object.projectId, id));
		await tx.delete(project).where(eq(project.id, id));
	});
}

/** Kinds of source that come from a file. */
export const SOURCE_KINDS = ['table', 'terrain', 'grid', 'layer', 'surface', 'picture'] as const;
export type SourceKind = (typeof SOURCE_KINDS)[number];

/** Which derived objects a new source feeds. */
const FEEDS: Record<TableKind | Exclude<SourceKind, 'table'>, string[]> = {
	collars: ['holes'],
	surveys: ['holes'],
	intervals: ['holes'],
	assays: [],
	readings: [],
	holeOrientations: ['fields'],
	orientations: ['fields'],
	contactPoints: ['contacts'],
	levels: [],
	places: [],
	stations: [],
	other: [],
	terrain: ['holes', 'contacts', 'fields', 'model'],
	grid: [],
	layer: [],
	surface: [],
	picture: []
};

/** Adds a source to the graph and ties it to what is made from it. */
export async function addSource(
	tx: Executor,
	projectId: string,
	kind: SourceKind,
	feedsAs: TableKind | Exclude<SourceKind, 'table'>,
	values: { id?: string; name: string; state: object; fileId: string; contentHash: string }
): Promise<string> {
	const [row] = await tx
		.insert(object)
		.values({ projectId, kind, ...values, state: { ...values.state } })
		.returning({ id: object.id });
	const targets = await tx.select({ id: object.id, kind: object.kind }).from(object).where(eq(object.projectId, projectId));
	const fed = targets.filter((t) => FEEDS[feedsAs].includes(t.kind));
	if (fed.length) await tx.insert(objectInput).values(fed.map((t) => ({ objectId: t.id, inputId: row!.id })));
	return row!.id;
}
