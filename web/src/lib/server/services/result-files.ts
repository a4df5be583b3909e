import { UNKNOWN } from '#core/palette';
import type { Feature } from 'geojson';
import { fileName } from '#core/formats/meshes';
import { readingsFeatures, readingsTable, unpackReadings } from '#core/datasets/readings';
import { packInfo, readPack } from '#core/formats/pack';
import { fail } from '#core/problem';
import { endingsOfForm, type FileForm } from '#core/recipes/form-files';
import { csvFile, LOCAL_SYSTEM, refuseEnding, writeAs } from '#core/formats/writers';
import type { Unit } from '#core/units/column';
import { db } from '../db/client';
import { runTask } from '../threads/threads';
import { loadGraph, type ObjectRow } from '../graph/graph';
import { objectBytes, unitsOfObject } from '../graph/inputs';
import { builtReport } from '../store/results';
import { gridFile, layerFile, type SourceFile } from './source-files';

/** What is written: a result, or what was made for the asking. */
export interface Source {
	project: { id: string; name: string; crs: number; lengthUnit: string };
	node: Pick<ObjectRow, 'name' | 'form' | 'kind' | 'modelId' | 'state'>;
	bytes: Uint8Array;
	report: Record<string, unknown>;
}
type Written = Omit<SourceFile, 'name'>;

/** How the files of a result are written, by its form. */
const WRITERS: Readonly<Record<FileForm, (s: Source, format: string) => Promise<Written>>> = {
	grid: ({ bytes, project }, format) => gridFile(bytes, format, project.crs),
	faces: writeFeatures,
	lines: writeFeatures,
	places: async ({ node, bytes, project }, format) =>
		layerFile(node.name, readingsFeatures(unpackReadings(readPack(bytes))), format, project.crs),
	solids: writeSolids,
	blocks: ({ bytes, node }, format) => writeAs('blocks', format, readPack(bytes), LOCAL_SYSTEM, node.name)
};

function writeFeatures({ node, bytes, project }: Source, format: string): Promise<Written> {
	return layerFile(node.name, readPack(bytes).info['features'] as Feature[], format, project.crs);
}

async function writeSolids({ node, bytes, project, report }: Source, format: string): Promise<Written> {
	const info = packInfo(bytes) as { units: string[]; faults: { id: string; name: string }[]; hasTerrain: boolean; described?: Unit[] };
	const known = info.described ?? unitsOfObject(await loadGraph(db(), project.id), node, report);
	const units = info.units.map((id): Unit => known.find((u) => u.id === id) ?? { id, name: id, color: UNKNOWN, contact: 'conformable' });
	const { lengthUnit, crs, name: projectName } = project;
	const about = { units, faults: info.faults, hasTerrain: info.hasTerrain, lengthUnit, crs, projectName };
	return runTask('writeModel', { pack: bytes, about, what: 'volumes', format, definition: null });
}

/** The longest list of things in a report, as a table. */
function tableOf(report: Record<string, unknown>): { header: string[]; rows: (string | number)[][] } {
	const lists = Object.values(report).filter(
		(v): v is Record<string, unknown>[] => Array.isArray(v) && v.length > 0 && v.every((x) => typeof x === 'object' && x !== null)
	);
	const list = lists.sort((a, b) => b.length - a.length)[0];
	const plain = (v: unknown) => (typeof v === 'number' || typeof v === 'string' ? v : v == null ? '' : JSON.stringify(v));
	if (!list) return { header: ['what', 'value'], rows: Object.entries(report).map(([k, v]) => [k, plain(v)]) };
	const header = [...new Set(list.flatMap((x) => Object.keys(x)))];
	return { header, rows: list.map((x) => header.map((h) => plain(x[h]))) };
}

/** A result as a file of an open format; what is said of it as JSON or as a table. @throws ProblemError `not-found`, `not-built` */
export async function exportResult(project: Source['project'], node: ObjectRow, format: string): Promise<SourceFile> {
	if (node.missing) fail('not-built', `${node.name} is not built yet`, 'Build it first.');
	refuseFormat(node, format);
	const report = (await builtReport(db(), project.id, node.contentHash))?.report ?? {};
	// What is said of it does not need what it holds.
	const bytes = format === 'json' ? new Uint8Array() : (await objectBytes(project.id, node))!;
	return resultFile({ project, node, bytes, report }, format);
}

function refuseFormat(node: Source['node'], format: string): void {
	const formats = endingsOfForm(node.form);
	if (!formats.includes(format)) refuseEnding(node.name, format, formats);
}

/** The file of what was made. @throws ProblemError where there is no such format */
export async function resultFile(source: Source, format: string): Promise<SourceFile> {
	const { node, bytes, report } = source;
	refuseFormat(node, format);
	const name = `${fileName(node.name)}.${format}`;
	if (format === 'json') return { bytes: JSON.stringify(report, null, '\t'), media: 'application/json', name };
	if (format === 'csv') {
		const isRows = node.form === 'places' || node.form === 'table';
		const { header, rows } = isRows ? readingsTable(unpackReadings(readPack(bytes))) : tableOf(report);
		return { ...csvFile(header, rows), name };
	}
	return { ...(await WRITERS[node.form as FileForm](source, format)), name };
}
