import { sql } from 'drizzle-orm';
import type { Box } from '#core/geometry/box';
import { type Executor, unheld } from '../db/client';
import { object, project } from '../db/schema';
import { actor } from '../store/actor';
import { insertFirstObjects, tieSource } from './models';

interface NewProject {
	name: string;
	author?: string;
	description?: string;
	crs?: number;
	lengthUnit?: 'm' | 'ft';
	decimal?: '.' | ',';
	extent?: Box | null;
}

export async function createProject(values: NewProject): Promise<string> {
	return unheld(async (tx) => {
		const [p] = await tx.insert(project).values(values).returning({ id: project.id });
		await insertFirstObjects(tx, p!.id);
		return p!.id;
	});
}

/** Kinds of source that come from a file. */
export const SOURCE_KINDS = ['table', 'terrain', 'grid', 'layer', 'surface', 'picture'] as const;
export type SourceKind = (typeof SOURCE_KINDS)[number];

/**
 * Adds a source to the graph and ties it to what is made from it.
 * @param jobId what brings it in: sources stand in the order in which they were asked for, whichever was read first
 */
export async function addSource(
	tx: Executor,
	projectId: string,
	jobId: string,
	kind: SourceKind,
	values: { id?: string; name: string; state: object; fileId: string; contentHash: string }
): Promise<string> {
	const asked = sql`(select created_at from job where id = ${jobId})`;
	const [row] = await tx
		.insert(object)
		.values({ projectId, kind, ...values, state: { ...values.state }, createdBy: actor().name, createdAt: asked })
		.returning({ id: object.id });
	await tieSource(tx, projectId, { id: row!.id, kind, state: { ...values.state } });
	return row!.id;
}
