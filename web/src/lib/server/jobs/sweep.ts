import { sql, type SQL } from 'drizzle-orm';
import { type Executor, unheld } from '../db/client';
import { unneeded } from '../store/unneeded';

/** Jobs of a project that are kept after they ended, and for how long. */
const MOST_JOBS = 200;
const JOB_DAYS = 30;
/** Results of a kind that are kept although nothing refers to them now: those of the last states, for going back; and for how long. */
const MOST_SPARE = 3;
const SPARE_HOURS = 24;
/** A file that nothing refers to may be on its way into the project for so long. */
const FILE_HOURS = 24;

/** Projects lie in the bin for so long. */
export const BIN_DAYS = 30;

/** Steps of a kind in the changes that can be undone or done again. */
const steps = (kind: string) => sql`(select jsonb_path_query(c.steps, ${`$[*] ? (@.kind == "${kind}")`}::jsonpath) as s from change c)`;

/** What the store no longer needs, in the order in which it can go. */
const SWEEPS: ((tx: Executor) => Promise<unknown>)[] = [
	(tx) =>
		tx.execute(sql`delete from job j where j.ended_at is not null and (j.ended_at < now() - make_interval(days => ${JOB_DAYS})
		or j.id in (select id from (select id, row_number() over (partition by project_id order by created_at desc) as n from job where ended_at is not null) x where x.n > ${MOST_JOBS}))`),
	async (tx) => {
		const old = sql`select id from project where removed_at < now() - make_interval(days => ${BIN_DAYS})`;
		// As whoever changes them: the projects first.
		await tx.execute(sql`${old} order by id for no key update`);
		await tx.execute(sql`update object set file_id = null where project_id in (${old})`);
		await tx.execute(sql`delete from project where id in (${old})`);
	},
	// What was taken out and can not be taken back in any more, because no change that is kept knows of it.
	...['object', 'viewpoint'].map(
		(table) => (tx: Executor) =>
			tx.execute(
				sql`delete from ${sql.identifier(table)} t where t.removed_at < now() - interval '1 minute' and not exists (select 1 from ${steps('removed')} r where r.s->>'id' = t.id::text)`
			)
	),
	// Versions of tables that are neither the one that counts nor one that can be gone back to.
	...['table_chunk', 'cell_edit', 'row_exclusion', 'seen_finding'].map(
		(table) => (tx: Executor) =>
			tx.execute(sql`delete from ${sql.identifier(table)} t using object o where o.id = t.object_id and t.version <> o.version
				and not exists (select 1 from ${steps('version')} v where v.s->>'object' = o.id::text and ((v.s->'before'->>'version')::int = t.version or (v.s->'after'->>'version')::int = t.version))`)
	),
	(tx) => clearResults(tx, sql`true`),
	(tx) =>
		tx.execute(sql`delete from file f where f.created_at < now() - make_interval(hours => ${FILE_HOURS})
		and not exists (select 1 from object o where o.file_id = f.id)
		and not exists (select 1 from object o where o.project_id = f.project_id and o.state->'appended' ? f.id::text)
		and not exists (select 1 from incoming i where i.file_id = f.id)
		and not exists (select 1 from job j where j.project_id = f.project_id and j.ended_at is null and j.payload->>'fileId' = f.id::text)
		and not exists (select 1 from ${steps('version')} v where f.id::text in (v.s->'before'->>'fileId', v.s->'after'->>'fileId') or v.s->'before'->'state'->'appended' ? f.id::text or v.s->'after'->'state'->'appended' ? f.id::text)`)
];

/** Results of the projects that are meant which nothing refers to, but for the last few of a kind. */
const clearResults = (tx: Executor, which: SQL) =>
	tx.execute(sql`delete from result r where ${which} and ${unneeded} and (r.created_at < now() - make_interval(hours => ${SPARE_HOURS})
		or (r.project_id, r.key) in (select project_id, key from (select project_id, key, row_number() over (partition by project_id, kind order by created_at desc) as n from result r where ${which}) x where x.n > ${MOST_SPARE}))`);

/** Clears away the results of a project that its last build made superfluous. */
export const sweepResults = (projectId: string): Promise<unknown> => unheld((tx) => clearResults(tx, sql`r.project_id = ${projectId}`));

/** Clears away what nothing refers to any more, so that the store does not grow with every build, reload and removal. One worker at a time. */
export async function sweepStore(): Promise<void> {
	for (const sweep of SWEEPS)
		await unheld(async (tx) => {
			const { rows } = await tx.execute<{ mine: boolean }>(sql`select pg_try_advisory_xact_lock(58101) as mine`);
			if (rows[0]?.mine) await sweep(tx);
		});
}
