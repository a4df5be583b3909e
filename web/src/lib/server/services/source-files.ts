import { DRAWN } from '#core/palette';
import type { Feature } from 'geojson';
import { writeLas } from '#core/formats/las';
import { FORMATS } from '#core/formats/known';
import { fileName } from '#core/formats/meshes';
import { csvFile, LOCAL_SYSTEM, refuseEnding, writeAs } from '#core/formats/writers';
import { readPack } from '#core/formats/pack';
import { writeXlsx } from '#core/formats/xlsx';
import { placing } from '#core/geometry/coordinates';
import { numberReader } from '#core/tables/numbers';
import { fail } from '#core/problem';
import { db } from '../db/client';
import { systemOf } from '../store/crs';
import type { ObjectRow } from '../graph/graph';
import { sourcePack } from '../graph/source-packs';
import { runTableTask, runTask } from '../threads/threads';
import { checkInput, tablesOf } from '../graph/check-input';
import { formatsOf } from '$lib/gather/save-as';
import { placedTable } from '#core/datasets/placed-rows';
import { rowsByNumber } from '../store/tables';
import { tableState } from '../threads/stored-table';

/** A file to be saved. */
export interface SourceFile {
	bytes: string | Uint8Array;
	media: string;
	name: string;
}

/** A source as a file of an open format, with its edits, in the system of the project. */
export async function sourceFile(project: { id: string; name: string; crs: number }, o: ObjectRow, format: string): Promise<SourceFile> {
	const { id: projectId, crs } = project;
	const formats = formatsOf(o.kind, o.state['kind']);
	if (!formats.includes(format)) return refuseEnding(o.name, format, formats);
	const name = `${fileName(o.name)}.${format}`;
	if (format === 'ags')
		return {
			bytes: await runTableTask('agsText', {
				...(await tablesOf(await checkInput(db(), projectId))),
				objectId: o.id,
				project: project.name
			}),
			media: FORMATS.ags.media,
			name
		};
	if (o.kind === 'table')
		return ['csv', 'xlsx', 'las'].includes(format) ? { ...(await tableFile(o, format)), name } : placedFile(projectId, o, format, crs);
	const bytes = await sourcePack(db(), projectId, o);
	if (o.form === 'grid') return { ...(await gridFile(bytes, format, crs)), name };
	if (o.form === 'lines') return { ...(await layerFile(o.name, readPack(bytes).info['features'] as Feature[], format, crs)), name };
	return { ...(await surfaceFile(o.name, bytes, format)), name };
}

/** A stored grid, written in a thread. */
export const gridFile = (raster: Uint8Array, format: string, crs: number): Promise<Omit<SourceFile, 'name'>> =>
	runTask('writeGrid', { raster, format, epsg: crs });

async function surfaceFile(name: string, bytes: Uint8Array, format: string): Promise<Omit<SourceFile, 'name'>> {
	const { arrays } = readPack(bytes);
	const mesh = { positions: arrays['positions'] as Float64Array, triangles: arrays['triangles'] as Uint32Array };
	return writeAs('surface', format, { name, color: DRAWN, mesh }, LOCAL_SYSTEM, name);
}

async function tableFile(o: ObjectRow, format: string): Promise<Omit<SourceFile, 'name'>> {
	const state = tableState(o.state);
	const rows = (
		await rowsByNumber(
			db(),
			{ id: o.id, version: o.version, state },
			Array.from({ length: state.rowCount }, (_, n) => n)
		)
	)
		.filter((r) => !r.excluded)
		.map((r) => r.cells);
	if (format === 'csv') return csvFile(state.header, rows);
	const read = numberReader(state.reading);
	if (format === 'xlsx') {
		const typed = rows.map((r) => r.map((c) => (c !== '' && !Number.isNaN(read(c)) && String(read(c)) === c ? read(c) : c)));
		return {
			bytes: await writeXlsx([{ name: o.name, header: state.header, rows: typed }]),
			media: FORMATS.xlsx.media
		};
	}
	const position = (role: string) => state.header.findIndex((h) => state.mapping[h] === role);
	const [hole, depth] = [position('hole'), position('depth')];
	if (state.kind !== 'readings' || hole < 0 || depth < 0)
		return fail('not-found', `${o.name} can not be saved as LAS`, 'LAS holds readings along one hole.');
	const wells = new Set(rows.map((r) => r[hole]!));
	if (wells.size !== 1)
		return fail('several-holes', `${o.name} holds ${wells.size} holes; a LAS file holds one`, 'Save it as CSV or XLSX.');
	const columns = [depth, ...state.header.flatMap((h, i) => (state.mapping[h] === 'value' ? [i] : []))];
	return {
		bytes: writeLas({
			well: [{ mnemonic: 'WELL', unit: '', value: [...wells][0]!, description: 'Name' }],
			curves: columns.map((i) => ({
				mnemonic: state.header[i]!.replace(/[\s.]+/g, '_'),
				unit: state.stated?.[i] || (i === depth ? (state.units[state.header[i]!] ?? 'm') : ''),
				value: '',
				description: state.header[i]!
			})),
			parameters: [],
			columns: columns.map((i) => rows.map((r) => (Number.isNaN(read(r[i]!)) ? '' : String(read(r[i]!)))))
		}),
		media: FORMATS.las.media
	};
}

/** The rows of a table in use, where they lie in space. */
async function placedFile(projectId: string, o: ObjectRow, format: string, crs: number): Promise<SourceFile> {
	const features = await runTableTask('placedFeatures', { ...(await tablesOf(await checkInput(db(), projectId))), objectId: o.id });
	if (features.length === 0)
		return fail('empty-file', `no row of ${o.name} has a place`, 'Look under Check: their holes may be held back, or lack a collar.');
	const name = `${fileName(o.name)}_placed`;
	if (format !== 'placed') return { ...(await layerFile(o.name, features, format, crs)), name: `${name}.${format}` };
	const { header, rows } = placedTable(features);
	return { ...csvFile(header, rows), name: `${name}.csv` };
}

/** Points, lines and polygons in the system of a project. */
export async function layerFile(name: string, features: Feature[], format: string, crs: number): Promise<Omit<SourceFile, 'name'>> {
	const system = systemOf(crs);
	const toDegrees = system && placing({ from: system.definition, to: systemOf(4326)!.definition });
	return writeAs('layer', format, { name, features }, { crs, wkt: system?.wkt ?? '', toDegrees: toDegrees ?? null }, name);
}
