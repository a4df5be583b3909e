import { readPack } from '#core/formats/pack';
import { fail } from '#core/problem';
import { volumeFindings } from '#core/model/verdict';
import type { FinerParts } from '#core/model/finer';
import type { FaultSpec } from '#core/model/ground';
import { shapingSchema, thingsNamedBy, type Shaping } from '#core/project/shaping';
import type { Unit } from '#core/units/column';
import { db } from '../db/client';
import { announce } from '../objects/events';
import { BUILT_KINDS, loadGraph, type BuiltKind, type ObjectRow } from '../objects/graph';
import { findProject } from '../objects/projects';
import { builtReport, hasResult, markBuilt, resultBytes, storeResult } from '../objects/results';
import { checkInput } from '../objects/check';
import { sourcePack } from '../objects/source-packs';
import { terrainOf } from '../objects/terrain';
import { allParts } from '../objects/tables';
import type { TableKind } from '#core/tables/kinds';
import type { JobContext } from './queue';
import type { InterpretationInput } from './tasks';
import { runTask } from './threads';

const NAMES: Record<BuiltKind, string> = { holes: 'hole paths', contacts: 'contacts', fields: 'fields', model: 'solids' };
/** Where each step begins on the way from 0 to 1. */
const STARTS: Record<BuiltKind, number> = { holes: 0, contacts: 0.05, fields: 0.1, model: 0.25 };

/**
 * Builds what is out of date, in order, up to the model. A step whose key already has a result takes that; so a job that is run
 * again after a crash goes on where it was.
 */
export async function runBuild(c: JobContext): Promise<Record<string, unknown>> {
	const started = performance.now();
	const steps: { step: string; seconds: number; cached: boolean }[] = [];
	for (const kind of BUILT_KINDS) {
		c.signal.throwIfAborted();
		const graph = await loadGraph(db(), c.projectId);
		const node = graph.find((o) => o.kind === kind)!;
		if (!node.outOfDate) continue;
		const at = performance.now();
		c.progress(NAMES[kind], STARTS[kind]);
		const cached = await hasResult(db(), c.projectId, node.key);
		if (!cached) await buildStep(c, kind, node, graph);
		await markBuilt(db(), node.id, node.key);
		steps.push({ step: NAMES[kind], seconds: (performance.now() - at) / 1000, cached });
		await announce(db(), { project: c.projectId, topic: 'objects' });
	}
	return { steps, seconds: (performance.now() - started) / 1000 };
}

async function buildStep(c: JobContext, kind: BuiltKind, node: ObjectRow, graph: ObjectRow[]): Promise<void> {
	const started = performance.now();
	const options = {
		signal: c.signal,
		progress: (w: string, s: number) => c.progress(w, STARTS[kind] + s * (kind === 'model' ? 0.75 : 0.05))
	};
	const built = (k: BuiltKind) => graph.find((o) => o.kind === k)!.contentHash;
	let pack: Uint8Array;
	let report: Record<string, unknown> = {};
	if (kind === 'holes') {
		const { options: check } = await checkInput(db(), c.projectId);
		pack = await runTask(
			'buildHoles',
			{ tables: await allParts(db(), c.projectId, ['collars', 'surveys', 'intervals']), options: check },
			options
		);
	} else if (kind === 'contacts') {
		const { pack: bytes, ...rest } = await runTask(
			'buildContacts',
			await interpretation(c.projectId, graph, ['collars', 'surveys', 'intervals', 'contactPoints']),
			options
		);
		pack = bytes;
		report = rest;
	} else if (kind === 'fields') {
		const contacts = await resultBytes(db(), c.projectId, built('contacts'));
		const { pack: bytes, ...rest } = await runTask(
			'buildFields',
			{ ...(await interpretation(c.projectId, graph, ['collars', 'surveys', 'orientations', 'holeOrientations'])), contacts },
			options
		);
		pack = bytes;
		report = rest;
	} else {
		const fields = await resultBytes(db(), c.projectId, built('fields'));
		const { pack: bytes, report: r } = await runTask(
			'buildSolids',
			{
				...(await interpretation(c.projectId, graph, ['collars', 'surveys', 'intervals'])),
				fields,
				terrain: await terrainOf(db(), c.projectId, graph),
				spacing: node.state['spacing'] as number,
				leastPart: Number(node.state['leastPart'] ?? 0),
				finer: node.state['finer'] as FinerParts | undefined
			},
			options
		);
		pack = bytes;
		// In another box all volumes are others.
		const before = node.contentHash ? (await builtReport(db(), c.projectId, node.contentHash))?.report : undefined;
		const volumes = before?.['box'] === r.box ? (before['volumes'] as { unit: string; volume: number }[]) : [];
		report = { ...r, findings: [...r.findings, ...volumeFindings(volumes, r.volumes)] };
	}
	c.signal.throwIfAborted();
	await storeResult(db(), {
		key: node.key,
		projectId: c.projectId,
		kind,
		report,
		seconds: (performance.now() - started) / 1000,
		pack: readPack(pack)
	});
}

/** A shaping names tables as people do; in the engine room a table goes by its id. A name that is not there stays, and is complained about. */
function byTableId(s: Shaping, graph: readonly ObjectRow[]): Shaping {
	const idOf = (name: string) => graph.find((o) => o.kind === 'table' && o.name === name)?.id ?? name;
	const log = <T extends { table: string }>(l: T | null | undefined) => (l ? { ...l, table: idOf(l.table) } : l);
	return {
		...s,
		log: log(s.log),
		dataSets: s.dataSets.map((d) => ({ ...d, table: idOf(d.table) })),
		divisions: s.divisions.map((d) => ({ ...d, log: log(d.log) }))
	};
}

/** What an interpretation is made of, with the tables of some kinds. @throws ProblemError `no-extent` */
export async function interpretation(projectId: string, graph: readonly ObjectRow[], kinds: TableKind[]): Promise<InterpretationInput> {
	const p = await findProject(db(), projectId);
	if (!p.extent)
		return fail(
			'no-extent',
			'the project has no extent yet',
			'Set it under Build: by hand, from the terrain or from the collars.',
			'extent'
		);
	const { options: check } = await checkInput(db(), projectId);
	const state = (kind: string) => graph.find((o) => o.kind === kind)!.state;
	const shaping = shapingSchema.cast(state('shaping')) as Shaping;
	const names = thingsNamedBy(shaping);
	const logKinds = graph.filter((o) => o.kind === 'table' && names.has(o.name)).map((o) => o.state['kind'] as TableKind);
	const named = [];
	for (const o of graph)
		if (['grid', 'layer', 'surface'].includes(o.kind) && names.has(o.name))
			named.push({ kind: o.kind, name: o.name, pack: await sourcePack(db(), projectId, o) });
	return {
		tables: await allParts(db(), projectId, [...kinds, ...logKinds]),
		options: check,
		extent: p.extent,
		column: state('column')['units'] as Unit[],
		lumping: state('lumping')['codes'] as Record<string, string>,
		faults: state('faults')['faults'] as FaultSpec[],
		terrain: check.around?.terrain ?? null,
		shaping: byTableId(shaping, graph),
		named
	};
}
