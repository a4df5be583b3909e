import { sql } from 'drizzle-orm';

/**
 * Which results `r` nothing refers to: no object of their project has them, also none that was taken out and can come back, and no
 * job that has not ended is about to.
 */
export const unneeded = sql`not exists (select 1 from object o where o.project_id = r.project_id and (o.content_hash = r.key or 'summary ' || o.content_hash = r.key))
	and not exists (select 1 from job j where j.project_id = r.project_id and j.ended_at is null and j.payload->>'key' = r.key)`;
