import { and, eq, isNull } from 'drizzle-orm';
import { isBuilt } from '#core/recipes/register';
import { db } from '../db/client';
import { object } from '../db/schema';
import { log } from '../log';
import { actAs } from '../store/actor';
import { loadGraph } from '../graph/graph';
import { upstreamOf } from '../graph/made';
import type { ProjectEvent } from '../store/events';

/** What changes in a row is built once. */
const WAIT_MS = 500;

/**
 * Builds what is set to be built by itself when it is out of date. What failed as it stands, or is made of such, waits for a change.
 * @param build puts a build into the queue
 * @returns takes in events; and stops
 */
export function autoBuilds(build: (projectId: string, title: string, objects: readonly string[]) => Promise<unknown>): {
	take(e: ProjectEvent): void;
	stop(): void;
} {
	const waiting = new Map<string, ReturnType<typeof setTimeout>>();
	const look = async (projectId: string): Promise<void> => {
		const some = and(eq(object.projectId, projectId), eq(object.auto, true), isNull(object.removedAt));
		if ((await db().$count(object, some)) === 0) return;
		const graph = await loadGraph(db(), projectId);
		const failed = new Set(graph.filter((o) => o.failure).map((o) => o.id));
		const due = graph.filter((o) => o.auto && isBuilt(o.kind) && o.outOfDate && ![...upstreamOf(graph, o.id)].some((id) => failed.has(id)));
		if (due.length)
			await build(
				projectId,
				`Build ${due.length === 1 ? due[0]!.name : `${due.length} things by themselves`}`,
				due.map((o) => o.id)
			);
	};
	return {
		take(e) {
			if (e.topic !== 'objects') return;
			clearTimeout(waiting.get(e.project));
			waiting.set(
				e.project,
				setTimeout(() => {
					waiting.delete(e.project);
					void actAs({ name: '', session: '' }, () => look(e.project)).catch((error) => log('error', 'auto', error));
				}, WAIT_MS)
			);
		},
		stop() {
			for (const t of waiting.values()) clearTimeout(t);
			waiting.clear();
		}
	};
}
