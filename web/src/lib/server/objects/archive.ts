import { unzipSync, zipSync, type Unzipped } from 'fflate';
import { eq, sql } from 'drizzle-orm';
import type { Feature } from 'geojson';
import { writeGeoPackage } from '#core/formats/geopackage';
import { writePly } from '#core/formats/mesh-readers';
import { readPack } from '#core/formats/pack';
import type { Raster } from '#core/grids/raster';
import { parseProjectFile, type ProjectFile } from '#core/project/project-file';
import { plainShaping, thingsNamedBy, type Shaping } from '#core/project/shaping';
import { fileName } from '#core/formats/meshes';
import type { CorePlace } from '#core/formats/picture';
import { writeCsv } from '#core/tables/delimited';
import { fail, ProblemError } from '#core/problem';
import { db } from '../db/client';
import { object } from '../db/schema';
import { fileBytes, storeFile } from './files';
import { systemOf } from './crs';
import { loadGraph, sourceHash, type ObjectRow } from './graph';
import { shownPicture } from './pictures';
import { createProject, findProject, SETTINGS } from './projects';
import type { TableState } from './stored-table';
import { rowsByNumber } from './tables';
import { resultBytes } from './results';
import { enqueue } from '../jobs/queue';
import { runTask } from '../jobs/threads';

const LARGEST_UNPACKED = 512 * 1024 * 1024;
const MOST_ENTRIES = 500;

/** The project file of a stored project with its data, as one ZIP archive that the command line and another server can read. */
export async function exportArchive(projectId: string): Promise<{ name: string; bytes: Uint8Array }> {
	const p = await findProject(db(), projectId);
	const graph = await loadGraph(db(), projectId);
	if (!p.extent) return fail('no-extent', 'the project has no extent yet', 'Set it before exporting.', 'extent');
	const files: Record<string, Uint8Array> = {};
	const tables: ProjectFile['tables'] = [];
	for (const o of graph.filter((x) => x.kind === 'table')) {
		const state = o.state as unknown as TableState;
		const rows = await rowsByNumber(db(), { id: o.id, state }, Array.from({ length: state.rowCount }, (_, n) => n));
		const name = `${fileName(o.name)}.csv`;
		files[name] = new TextEncoder().encode(writeCsv(state.header, rows.map((r) => r.cells)));
		const excluded = rows.flatMap((r, i) => (r.excluded ? [i + 2] : []));
		tables.push({
			file: name,
			name: o.name,
			kind: state.kind,
			columns: state.mapping,
			reading: { delimiter: ',', decimal: state.reading.decimal, thousands: state.reading.thousands, headerLine: 1, unitsLine: false, comment: '' },
			...(Object.keys(state.units).length ? { units: state.units } : {}),
			...(Object.keys(state.values).length ? { values: state.values } : {}),
			...(state.calculated?.length ? { calculated: state.calculated } : {}),
			...(excluded.length ? { excluded } : {})
		} as ProjectFile['tables'][number]);
	}
	const terrain = graph.find((o) => o.kind === 'terrain');
	if (terrain?.fileId) files['terrain.tif'] = await fileBytes(terrain.fileId);
	const photographs: NonNullable<ProjectFile['photographs']> = [];
	for (const o of graph) {
		const core = o.kind === 'picture' ? (o.state['core'] as CorePlace | undefined) : undefined;
		if (!core) continue;
		const { bytes, media } = await shownPicture(o);
		const file = `${fileName(o.name)}.${media === 'image/png' ? 'png' : 'jpg'}`;
		files[file] = bytes;
		photographs.push({ file, name: o.name, ...core });
	}
	const state = (kind: string) => graph.find((o) => o.kind === kind)!.state;
	const shaping = state('shaping') as unknown as Shaping;
	const things = await namedFiles(graph, thingsNamedBy(shaping), p.crs, files);
	const section = state('section') as { trace: [number, number][]; corridor: number; lines?: { name: string; trace: [number, number][] }[] };
	const document = {
		malachite: 1,
		name: p.name,
		author: p.author,
		description: p.description,
		crs: p.crs,
		lengthUnit: p.lengthUnit,
		extent: p.extent,
		spacing: state('model')['spacing'],
		leastPart: Number(state('model')['leastPart'] ?? 0),
		...(state('model')['finer'] ? { finer: state('model')['finer'] } : {}),
		tables,
		...(terrain ? { terrain: { file: 'terrain.tif' } } : {}),
		...(photographs.length ? { photographs } : {}),
		column: state('column')['units'],
		lumping: state('lumping')['codes'],
		rules: state('rules')['rules'],
		faults: state('faults')['faults'],
		...things,
		shaping,
		...(section.trace.length > 1 ? { section } : {})
	};
	files['project.json'] = new TextEncoder().encode(JSON.stringify(document, null, '\t'));
	return { name: `${fileName(p.name)}.zip`, bytes: zipSync(files, { level: 6 }) };
}

/** Writes the layers, grids and surfaces of a project that its shaping names, in project coordinates. */
async function namedFiles(graph: readonly ObjectRow[], names: ReadonlySet<string>, crs: number, files: Record<string, Uint8Array>): Promise<Pick<ProjectFile, 'layers' | 'grids' | 'surfaces'>> {
	const out: Record<'layers' | 'grids' | 'surfaces', { file: string; name: string }[]> = { layers: [], grids: [], surfaces: [] };
	for (const o of graph) {
		if (!['layer', 'grid', 'surface'].includes(o.kind) || !names.has(o.name)) continue;
		const { info, arrays } = readPack((await resultBytes(db(), o.contentHash)) ?? fail('not-found', `${o.name} holds no pack`));
		const put = (kind: keyof typeof out, ending: string, bytes: Uint8Array) => {
			const file = `${kind}/${fileName(o.name)}.${ending}`;
			files[file] = bytes;
			out[kind].push({ file, name: o.name });
		};
		if (o.kind === 'layer') put('layers', 'gpkg', await writeGeoPackage(o.name, info['features'] as Feature[], crs || -1, systemOf(crs)?.wkt ?? ''));
		else if (o.kind === 'grid') put('grids', 'tif', await runTask('writeGrid', { raster: { ...(info as unknown as Omit<Raster, 'values'>), values: arrays['values'] as Float32Array }, format: 'tif', epsg: crs }, {}));
		else put('surfaces', 'ply', writePly({ positions: arrays['positions'] as Float64Array, triangles: arrays['triangles'] as Uint32Array }));
	}
	return Object.fromEntries(Object.entries(out).filter(([, list]) => list.length));
}

/** Sizes are checked before anything is unpacked; names that leave the archive are never written anywhere. */
function unpack(bytes: Uint8Array): Unzipped {
	let total = 0;
	let entries = 0;
	return unzipSync(bytes, {
		filter: (f) => {
			total += f.originalSize;
			if (++entries > MOST_ENTRIES || total > LARGEST_UNPACKED) fail('archive-too-large', `the archive unpacks to more than ${LARGEST_UNPACKED / 1048576} MiB or ${MOST_ENTRIES} files`, 'It was not read.');
			return !f.name.endsWith('/');
		}
	});
}

/** Makes a new project of an archive. The tables are read in the background; when something is wrong, no project is left. */
export async function importArchive(bytes: Uint8Array): Promise<{ project: string; jobs: string[] }> {
	let files: Unzipped;
	try {
		files = unpack(bytes);
	} catch (error) {
		if (error instanceof ProblemError) throw error;
		return fail('not-an-archive', 'this is not a ZIP archive that can be read', 'Choose an archive that was exported from a project.');
	}
	return importFiles(files);
}

/** Makes a new project of a project file and the files that it names. */
export async function importFiles(files: Record<string, Uint8Array>): Promise<{ project: string; jobs: string[] }> {
	const text = files['project.json'];
	if (!text) return fail('not-an-archive', 'the archive holds no project.json', 'Choose an archive that was exported from a project.');
	let json: unknown;
	try {
		json = JSON.parse(new TextDecoder().decode(text));
	} catch (error) {
		return fail('bad-project-file', `project.json is not JSON: ${(error as Error).message}`);
	}
	const file = parseProjectFile(json, 'project.json');
	const wanted = [...file.tables.map((t) => t.file), ...(file.terrain ? [file.terrain.file] : []), ...[...(file.photographs ?? []), ...(file.layers ?? []), ...(file.grids ?? []), ...(file.surfaces ?? [])].map((p) => p.file)];
	for (const name of wanted) if (!files[name]) fail('missing-file', `the archive does not hold ${name}, which project.json names`, undefined, name);
	const { name, author, description, crs, lengthUnit, extent } = file;
	const projectId = await createProject({ name, author, description, crs, lengthUnit, extent });
	const jobs: string[] = [];
	try {
		await setStates(projectId, file);
		for (const t of file.tables) {
			const stored = await storeFile(projectId, t.file, files[t.file]!);
			jobs.push(await enqueue(projectId, 'import', `Read ${t.name ?? t.file}`, { fileId: stored.id, name: t.name ?? t.file, as: 'table', kind: t.kind, mapping: t.columns, reading: t.reading, units: t.units, values: t.values, calculated: t.calculated, excluded: t.excluded }));
		}
		if (file.terrain) {
			const stored = await storeFile(projectId, file.terrain.file, files[file.terrain.file]!);
			jobs.push(await enqueue(projectId, 'import', 'Read the terrain', { fileId: stored.id, name: 'Terrain', as: 'terrain' }));
		}
		for (const p of file.photographs ?? []) {
			const stored = await storeFile(projectId, p.file, files[p.file]!);
			const name = p.name ?? p.file;
			jobs.push(await enqueue(projectId, 'import', `Read ${name}`, { fileId: stored.id, name, as: 'picture', core: { hole: p.hole, from: p.from, to: p.to } }));
		}
		for (const [as, list] of [['layer', file.layers], ['grid', file.grids], ['surface', file.surfaces]] as const)
			for (const t of list ?? []) {
				const stored = await storeFile(projectId, t.file.replace(/^.*\//, ''), files[t.file]!);
				jobs.push(await enqueue(projectId, 'import', `Read ${t.name ?? t.file}`, { fileId: stored.id, name: t.name ?? t.file, as }));
			}
	} catch (error) {
		await db().execute(sql`delete from project where id = ${projectId}`);
		throw error;
	}
	return { project: projectId, jobs };
}

async function setStates(projectId: string, file: ProjectFile): Promise<void> {
	await db().transaction(async (tx) => {
		const graph = await loadGraph(tx, projectId);
		const states: Record<string, Record<string, unknown>> = {
			column: { units: file.column },
			lumping: { codes: file.lumping },
			rules: { rules: file.rules ?? {} },
			faults: { faults: file.faults },
			model: { spacing: file.spacing, leastPart: file.leastPart, ...(file.finer ? { finer: file.finer } : {}) },
			shaping: { ...(file.shaping ?? plainShaping()) },
			...(file.section ? { section: { trace: file.section.trace, corridor: file.section.corridor, ...(file.section.lines?.length ? { lines: file.section.lines } : {}) } } : {})
		};
		for (const [kind, state] of Object.entries(states)) {
			const source = SETTINGS.includes(kind);
			await tx.update(object).set({ state, ...(source ? { contentHash: sourceHash(kind, state) } : {}) }).where(eq(object.id, graph.find((o) => o.kind === kind)!.id));
		}
	});
}
