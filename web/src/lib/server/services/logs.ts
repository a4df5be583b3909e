import { and, eq } from 'drizzle-orm';
import type { Page } from '#core/logs/pages';
import type { LogSpec } from '#core/logs/spec';
import { db } from '../db/client';
import { finding, workbench } from '../db/schema';
import { runTableTask } from '../threads/threads';
import { loadGraph, one } from '../graph/graph';
import type { CorrelationSpec } from '#core/stratigraphy/correlation';
import type { AgeSources } from '#core/stratigraphy/hole-ages';
import { objectBytes, unitsOfObject } from '../graph/inputs';
import { builtReport } from '../store/results';
import { checkInput, tablesOf } from '../graph/check-input';
import { corePhotographs } from './pictures';
import { findProject } from '../store/projects';
import { stateOf } from '../graph/states';

/** What tracks are drawn from, in the styles that the workbench has now. @throws ProblemError `not-found` */
async function drawnFrom(projectId: string, spec: Pick<LogSpec, 'tracks' | 'holes'>, model: string | null = null) {
	const p = await findProject(db(), projectId);
	const [bench] = await db().select({ state: workbench.state }).from(workbench).where(eq(workbench.projectId, projectId));
	const found = spec.tracks.some((t) => t.kind === 'findings')
		? await db()
				.select({ table: finding.objectId, row: finding.n, hole: finding.hole, severity: finding.severity, message: finding.message })
				.from(finding)
				.where(and(eq(finding.projectId, projectId)))
		: [];
	const wanted = new Set(spec.tracks.flatMap((t) => (t.kind === 'model' ? t.series.map((x) => x.table) : [])));
	const graph = await loadGraph(db(), projectId);
	const models = [];
	for (const o of graph)
		if (wanted.has(o.id) && o.form === 'solids' && !o.missing)
			models.push({
				id: o.id,
				name: o.name,
				bytes: (await objectBytes(projectId, o))!,
				units: unitsOfObject(graph, o, (await builtReport(db(), projectId, o.contentHash))?.report ?? {})
			});
	return {
		schemes: stateOf(one(graph, 'schemes'), 'schemes').schemes,
		ties: stateOf(one(graph, 'ties'), 'ties').ties,
		drawn: {
			...(await tablesOf(await checkInput(db(), projectId, model))),
			styles: bench?.state.styles ?? {},
			extent: p.extent,
			head: { project: p.name, author: p.author, date: new Date().toISOString().slice(0, 10), crs: p.crs ? `EPSG:${p.crs}` : 'local grid' },
			models,
			photographs: spec.tracks.some((t) => t.kind === 'photographs') ? await corePhotographs(projectId, spec.holes) : [],
			findings: found.flatMap((f) =>
				f.table && f.hole && spec.holes.includes(f.hole) && f.row >= 0
					? [{ table: f.table, row: f.row, hole: f.hole, severity: f.severity as 'held' | 'noted', message: f.message }]
					: []
			)
		}
	};
}

/** Pages of a log. @throws ProblemError `not-found` */
export async function logDrawing(projectId: string, spec: LogSpec, paper: [number, number]): Promise<Page[]> {
	const { drawn } = await drawnFrom(projectId, spec);
	return runTableTask('drawLog', { ...drawn, spec, paper });
}

/** A correlation on one sheet. @throws ProblemError `not-found`, `unknown-scheme` */
export async function correlationDrawing(projectId: string, model: string | null, spec: CorrelationSpec, ages: AgeSources): Promise<Page> {
	const { drawn, schemes, ties } = await drawnFrom(projectId, spec, model);
	return runTableTask('drawCorrelation', { ...drawn, spec, ages, schemes, ties });
}
