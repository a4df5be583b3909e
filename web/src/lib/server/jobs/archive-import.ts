import { eq, sql } from 'drizzle-orm';
import type { Coordinates } from '#core/geometry/coordinates';
import { fail, ProblemError } from '#core/problem';
import { filesNamed, parseProjectFile, type ProjectFile } from '#core/project/project-file';
import { plainShaping } from '#core/project/shaping';
import type { TableMarks } from '#core/tables/marks';
import { benchSchema, completeBench, type BenchState } from '$lib/workbench/state';
import * as yup from 'yup';
import { db, type Executor } from '../db/client';
import { object, viewpoint, workbench } from '../db/schema';
import { enqueue } from './queue';
import { readForeign } from '../threads/readers';
import { runTask } from '../threads/threads';
import { storeFile } from '../store/files';
import { loadGraph, loadModel, modelsIn, sourceHash } from '../graph/graph';
import { insertModel, SETTINGS } from '../graph/models';
import { insertSections, sectionsIn } from '../graph/sections';
import type { Surroundings } from '../services/archive';
import { createProject, type SourceKind } from '../graph/sources';
import { result } from '../db/schema';
import { randomUUID } from 'node:crypto';
import { requireToFollow } from '../graph/followed';
import type { PayloadOf } from './payloads';
import { inProject } from '../store/projects';

/** Bytes that one archive may put into the store, counting a file as often as it is named. */
const LARGEST_STORED = 768 * 1024 * 1024;

/** Makes a new project of an archive. The sources are read in the background; when something is wrong, no project is left. */
export async function importArchive(bytes: Uint8Array): Promise<{ project: string; jobs: string[] }> {
	let files: Record<string, Uint8Array>;
	try {
		files = await readForeign('unpackArchive', { bytes, fileName: 'the archive' });
	} catch (error) {
		if (error instanceof ProblemError) throw error;
		return fail('not-an-archive', 'this is not a ZIP archive that can be read', 'Choose an archive that was exported from a project.');
	}
	return importFiles(files);
}

function parsed(files: Record<string, Uint8Array>, name: string): unknown {
	try {
		return JSON.parse(new TextDecoder().decode(files[name]));
	} catch (error) {
		return fail('bad-project-file', `${name} is not JSON: ${(error as Error).message.slice(0, 200)}`);
	}
}

const viewSchema = yup.object({
	name: yup.string().trim().min(1).max(200).required(),
	stage: yup.string().oneOf(['gather', 'check', 'interpret', 'build', 'examine', 'present']).required(),
	createdBy: yup.string().max(200).defined(),
	createdAt: yup.string().max(40).required()
});

/** Makes a new project of a project file and the files that it names. */
export async function importFiles(files: Record<string, Uint8Array>): Promise<{ project: string; jobs: string[] }> {
	if (!files['project.json'])
		fail('not-an-archive', 'the archive holds no project.json', 'Choose an archive that was exported from a project.');
	const file = parseProjectFile(parsed(files, 'project.json'), 'project.json');
	const around = (files['surroundings.json'] ? parsed(files, 'surroundings.json') : {}) as Partial<Surroundings>;
	const wanted = filesNamed(file);
	for (const name of wanted)
		if (!Object.hasOwn(files, name)) fail('missing-file', `the archive does not hold ${name}, which project.json names`, undefined, name);
	// A workbook with several tables is named by each, and stored once.
	if ([...new Set(wanted)].reduce((sum, n) => sum + files[n]!.length, 0) > LARGEST_STORED)
		fail(
			'archive-too-large',
			`the files that project.json names are larger than ${LARGEST_STORED / 1048576} MiB together`,
			'It was not read.'
		);
	const names = new Set<string>();
	const requireOwn = (name: string) =>
		names.has(name)
			? fail('doubled-name', `two sources are called "${name}"`, 'Give each a name of its own.', 'project.json')
			: names.add(name);
	const { name, author, description, crs, lengthUnit, decimal, extent } = file;
	const projectId = await createProject({ name, author, description, crs, lengthUnit, decimal, extent: extent ?? null });
	const jobs: string[] = [];
	/** New ids of sources by the ids that they had. */
	const ids = new Map<string, string>();
	const stored = new Map<string, string>();
	const storeOnce = async (name: string): Promise<string> => {
		const known = stored.get(name);
		if (known) return known;
		const { id } = await storeFile(projectId, name.replace(/^.*\//, ''), files[name]!);
		stored.set(name, id);
		return id;
	};
	const bring = async (file: string, title: string, payload: Omit<PayloadOf<'import'>, 'fileId' | 'name' | 'objectId'>) => {
		requireOwn(title);
		const objectId = randomUUID();
		const was = around.ids && typeof around.ids === 'object' ? around.ids[title] : undefined;
		if (typeof was === 'string') ids.set(was, objectId);
		const appended: string[] = [];
		for (const more of payload.appended ?? []) appended.push(await storeOnce(more));
		jobs.push(
			await enqueue(projectId, 'import', `Read ${title}`, {
				...payload,
				...(appended.length ? { appended } : {}),
				fileId: await storeOnce(file),
				name: title,
				objectId
			})
		);
	};
	try {
		const sections = await setStates(projectId, file);
		if (Array.isArray(around.sections))
			for (const [i, was] of around.sections.entries()) if (typeof was === 'string' && sections[i]) ids.set(was, sections[i]);
		await bringModels(projectId, file);
		for (const t of file.tables) {
			const { file: from, name: title, columns, ...rest } = t;
			await bring(from, title ?? from, { as: 'table', mapping: columns, written: {}, ...rest, marks: t.marks as TableMarks | undefined });
		}
		if (file.terrain) await bring(file.terrain.file, file.terrain.name ?? 'Terrain', thingPayload('terrain', file.terrain));
		for (const p of file.photographs ?? [])
			await bring(p.file, p.name ?? p.file, { as: 'picture', core: { hole: p.hole, from: p.from, to: p.to } });
		for (const p of file.pictures ?? []) await bring(p.file, p.name, { as: 'picture', ...p.state, given: {} });
		for (const [as, list] of [
			['layer', file.layers],
			['grid', file.grids],
			['surface', file.surfaces]
		] as const)
			for (const t of list ?? []) await bring(t.file, t.name ?? t.file, thingPayload(as, t));
		// Versions go out from tables, or from each other in the order in which they stand.
		if (file.logs?.length) {
			const logs = file.logs.map((l) => {
				requireOwn(l.name);
				const was = around.ids && typeof around.ids === 'object' ? around.ids[l.name] : undefined;
				const id = randomUUID();
				if (typeof was === 'string') ids.set(was, id);
				return { ...l, id };
			});
			jobs.push(await enqueue(projectId, 'logs', 'Bring in versions of logs', { logs }, { after: [...jobs] }));
		}
		await inProject(projectId, (tx) => restoreSurroundings(tx, projectId, around, ids, files));
		// They are made of what is being read: they come when all of that has come, or could not.
		const auto = [{ name: file.model ?? 'Model', auto: file.auto }, ...(file.models ?? [])].filter((m) => m.auto).map((m) => m.name);
		if (file.recipes?.length || auto.length)
			jobs.push(await enqueue(projectId, 'results', 'Bring in results', { recipes: file.recipes ?? [], auto }, { after: [...jobs] }));
	} catch (error) {
		await db().execute(sql`delete from project where id = ${projectId}`);
		throw error;
	}
	return { project: projectId, jobs };
}

const thingPayload = (as: SourceKind, t: { coordinates?: Coordinates | undefined; how?: object | undefined }) => ({
	as,
	...t.how,
	given: t.coordinates ?? {},
	trustFile: true
});

/** Puts looks, viewpoints and kept models back; what names a source by its old id names the new one. */
async function restoreSurroundings(
	tx: Executor,
	projectId: string,
	around: Partial<Surroundings>,
	ids: ReadonlyMap<string, string>,
	files: Record<string, Uint8Array>
): Promise<void> {
	const renamed = <T>(value: T): T => {
		let text = JSON.stringify(value);
		for (const [was, is] of ids) text = text.replaceAll(was, is);
		return JSON.parse(text) as T;
	};
	const state = (value: unknown): BenchState | null => {
		const whole = completeBench(renamed(value) as Partial<BenchState>);
		return benchSchema.isValidSync(whole, { strict: true }) ? whole : null;
	};
	const bench = around.workbench ? state(around.workbench) : null;
	if (bench) await tx.insert(workbench).values({ projectId, state: bench, updatedAt: new Date() });
	for (const v of Array.isArray(around.viewpoints) ? around.viewpoints.slice(0, 500) : []) {
		const own = viewSchema.isValidSync(v) ? state(v.state) : null;
		if (own)
			await tx
				.insert(viewpoint)
				.values({ projectId, name: v.name, stage: v.stage, state: own, createdBy: v.createdBy, createdAt: new Date(v.createdAt) })
				.onConflictDoNothing();
	}
	for (const k of Array.isArray(around.keptModels) ? around.keptModels.slice(0, 100) : []) {
		const bytes = typeof k.file === 'string' && Object.hasOwn(files, k.file) ? files[k.file] : undefined;
		if (!bytes || typeof k.resultKey !== 'string' || typeof k.name !== 'string' || typeof k.parts !== 'object') continue;
		const pack = await runTask('renamePack', { bytes, ids: [...ids] });
		await tx
			.insert(result)
			.values({
				projectId,
				key: k.resultKey,
				kind: 'model',
				report: k.report ?? {},
				seconds: Number(k.seconds) || 0,
				bytes: Buffer.from(pack.buffer, pack.byteOffset, pack.byteLength)
			})
			.onConflictDoNothing();
		await tx
			.insert(object)
			.values({
				projectId,
				kind: 'kept-model',
				name: k.name.slice(0, 200),
				contentHash: k.resultKey,
				state: { parts: k.parts },
				createdBy: String(k.createdBy ?? '').slice(0, 200),
				createdAt: new Date(k.createdAt)
			})
			.onConflictDoNothing();
	}
}

/** Names the first model, and brings in the others. */
async function bringModels(projectId: string, file: ProjectFile): Promise<void> {
	await inProject(projectId, async (tx) => {
		const [first] = modelsIn(await loadGraph(tx, projectId));
		if (file.model) await tx.update(object).set({ name: file.model }).where(eq(object.id, first!.id));
		const names = new Set([file.model ?? first!.name]);
		for (const [i, m] of (file.models ?? []).entries()) {
			if (names.has(m.name)) fail('doubled-name', `two models are called "${m.name}"`, 'Give each a name of its own.', 'project.json');
			names.add(m.name);
			await insertModel(
				tx,
				projectId,
				m.name,
				{
					column: { units: m.column },
					lumping: { codes: m.lumping },
					faults: { faults: m.faults },
					shaping: m.shaping ?? plainShaping(),
					model: { spacing: m.spacing, leastPart: m.leastPart, ...(m.finer ? { finer: m.finer } : {}) }
				},
				{ position: i + 1 }
			);
		}
		await followFaults(tx, projectId, file);
	});
}

/** Ties models to those whose faults they follow, by their names. */
async function followFaults(tx: Executor, projectId: string, file: ProjectFile): Promise<void> {
	const graph = await loadGraph(tx, projectId);
	const models = modelsIn(graph);
	for (const m of [{ name: models[0]!.name, faultsOf: file.faultsOf }, ...(file.models ?? [])]) {
		if (!m.faultsOf) continue;
		const [own, other] = [models.find((x) => x.name === m.name)!, models.find((x) => x.name === m.faultsOf)];
		if (!other)
			return fail('unknown-model', `${m.name} follows the faults of "${m.faultsOf}", which is no model of it`, undefined, 'project.json');
		const rows = await loadGraph(tx, projectId);
		requireToFollow(rows, own.id, other.id);
		const faults = rows.find((o) => o.kind === 'faults' && o.modelId === own.id)!;
		await tx
			.update(object)
			.set({ state: { ...faults.state, follows: other.id } })
			.where(eq(object.id, faults.id));
	}
}

/** Sets what a new project begins with as the file says. @returns ids of its sections, the main one first */
async function setStates(projectId: string, file: ProjectFile): Promise<string[]> {
	return inProject(projectId, async (tx) => {
		const graph = await loadModel(tx, projectId);
		const states: Record<string, Record<string, unknown>> = {
			column: { units: file.column },
			lumping: { codes: file.lumping },
			rules: { rules: file.rules ?? {} },
			schemes: { schemes: file.schemes ?? [] },
			ties: { ties: file.ties ?? [] },
			absences: { absences: file.absences ?? [] },
			faults: { faults: file.faults },
			model: { spacing: file.spacing, leastPart: file.leastPart, ...(file.finer ? { finer: file.finer } : {}) },
			shaping: { ...(file.shaping ?? plainShaping()) },
			...(file.section
				? {
						section: { trace: file.section.trace, corridor: file.section.corridor }
					}
				: {})
		};
		for (const [kind, state] of Object.entries(states)) {
			const source = SETTINGS.includes(kind);
			await tx
				.update(object)
				.set({ state, ...(source ? { contentHash: sourceHash(kind, state) } : {}) })
				.where(eq(object.id, graph.find((o) => o.kind === kind)!.id));
		}
		const { id: main, name: asBegun } = sectionsIn(graph)[0]!;
		const mainName = file.section?.name ?? asBegun;
		if (mainName !== asBegun) await tx.update(object).set({ name: mainName }).where(eq(object.id, main));
		const lines = file.section?.lines ?? [];
		// Earlier versions let two sections have one name: the second gets a letter.
		const taken = new Set([mainName]);
		const list = lines.map(({ name, ...state }) => (taken.has(name) ? state : (taken.add(name), { name, ...state })));
		return [main, ...(list.length ? await insertSections(tx, projectId, list) : [])];
	});
}
