import { sql } from 'drizzle-orm';
import { db } from '../db/client';
import { unneeded } from './unneeded';

/** How much a project takes up in the store. */
export async function storeSizes(projectId: string) {
	const sum = async (query: ReturnType<typeof sql>): Promise<number> =>
		Number((await db().execute<{ bytes: string }>(query)).rows[0]?.bytes ?? 0);
	const files = await sum(sql`select coalesce(sum(size), 0) as bytes from file where project_id = ${projectId}`);
	const tables = await sum(
		sql`select coalesce(sum(octet_length(c.bytes)), 0) as bytes from table_chunk c join object o on o.id = c.object_id where o.project_id = ${projectId}`
	);
	const { rows: kinds } = await db().execute<{ kind: string; count: string; bytes: string }>(
		sql`select kind, count(*) as count, sum(octet_length(bytes)) as bytes from result where project_id = ${projectId} group by kind order by 3 desc`
	);
	const { rows: spare } = await db().execute<{ count: string; bytes: string; oldest: string | null }>(
		sql`select count(*) as count, coalesce(sum(octet_length(r.bytes)), 0) as bytes, extract(epoch from min(r.created_at)) as oldest from result r where r.project_id = ${projectId} and ${unneeded}`
	);
	const list = kinds.map((k) => ({ kind: k.kind, count: Number(k.count), bytes: Number(k.bytes) }));
	return {
		files,
		tables,
		results: list.reduce((s, k) => s + k.bytes, 0),
		kinds: list,
		spare: {
			count: Number(spare[0]!.count),
			bytes: Number(spare[0]!.bytes),
			oldest: spare[0]!.oldest === null ? null : Number(spare[0]!.oldest)
		}
	};
}
