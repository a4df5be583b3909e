import { DRAWN } from '#core/palette';
import type { Feature } from 'geojson';
import { writeGeoPackage } from '#core/formats/geopackage';
import { layerDxf } from '#core/formats/layer-dxf';
import { writeLas } from '#core/formats/las';
import { collection, mapPositions } from '#core/formats/layer';
import { writePly } from '#core/formats/mesh-readers';
import { fileName, writeGltf, writeObj, writeStl } from '#core/formats/meshes';
import { readPack } from '#core/formats/pack';
import { writeShapefiles } from '#core/formats/shapefile';
import { writeXlsx } from '#core/formats/xlsx';
import { placing } from '#core/geometry/coordinates';
import { numberReader } from '#core/tables/numbers';
import { writeCsv } from '#core/tables/delimited';
import { fail } from '#core/problem';
import { db } from '../db/client';
import { systemOf } from '../store/crs';
import type { ObjectRow } from '../graph/graph';
import { sourcePack } from '../graph/source-packs';
import { runTableTask, runTask } from '../threads/threads';
import { checkInput, tablesOf } from '../graph/check-input';
import { formatName, formatsOf } from '$lib/gather/save-as';
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
	if (!formats.includes(format))
		return fail(
			'not-found',
			`${o.name} can not be saved as ${formatName(format)}`,
			`It can be saved as ${formats.join(', ') || 'nothing'}.`
		);
	const name = `${fileName(o.name)}.${format}`;
	if (format === 'ags')
		return {
			bytes: await runTableTask('agsText', {
				...(await tablesOf(await checkInput(db(), projectId))),
				objectId: o.id,
				project: project.name
			}),
			media: 'text/plain; charset=utf-8',
			name
		};
	if (o.kind === 'table')
		return ['csv', 'xlsx', 'las'].includes(format) ? { ...(await tableFile(o, format)), name } : placedFile(projectId, o, format, crs);
	const bytes = await sourcePack(db(), projectId, o);
	if (o.form === 'grid') return { ...(await gridFile(bytes, format, crs)), name };
	if (o.form === 'lines') return { ...(await layerFile(o.name, readPack(bytes).info['features'] as Feature[], format, crs)), name };
	return { ...(await surfaceFile(o.name, bytes, format)), name };
}

export async function gridFile(raster: Uint8Array, format: string, crs: number): Promise<Omit<SourceFile, 'name'>> {
	return {
		bytes: await runTask('writeGrid', { raster, format: format as 'tif' | 'asc', epsg: crs }),
		media: format === 'tif' ? 'image/tiff' : 'text/plain'
	};
}

async function surfaceFile(name: string, bytes: Uint8Array, format: string): Promise<Omit<SourceFile, 'name'>> {
	const { arrays } = readPack(bytes);
	const mesh = { positions: arrays['positions'] as Float64Array, triangles: arrays['triangles'] as Uint32Array };
	const named = [{ name, color: DRAWN, mesh }];
	const origin = [Math.floor(mesh.positions[0]!), Math.floor(mesh.positions[1]!), 0] as const;
	switch (format) {
		case 'obj':
			return { bytes: writeObj(named), media: 'model/obj' };
		case 'stl':
			return { bytes: writeStl(named, origin), media: 'model/stl' };
		case 'ply':
			return { bytes: writePly(mesh), media: 'application/octet-stream' };
		default:
			return { bytes: await writeGltf(named, origin), media: 'model/gltf-binary' };
	}
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
	if (format === 'csv') return { bytes: writeCsv(state.header, rows), media: 'text/csv; charset=utf-8' };
	const read = numberReader(state.reading);
	if (format === 'xlsx') {
		const typed = rows.map((r) => r.map((c) => (c !== '' && !Number.isNaN(read(c)) && String(read(c)) === c ? read(c) : c)));
		return {
			bytes: await writeXlsx([{ name: o.name, header: state.header, rows: typed }]),
			media: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet'
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
		media: 'text/plain'
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
	return { bytes: writeCsv(header, rows), media: 'text/csv; charset=utf-8', name: `${name}.csv` };
}

export async function layerFile(name: string, features: Feature[], format: string, crs: number): Promise<Omit<SourceFile, 'name'>> {
	const system = systemOf(crs);
	switch (format) {
		case 'gpkg':
			return { bytes: await writeGeoPackage(name, features, crs, system?.wkt ?? ''), media: 'application/geopackage+sqlite3' };
		case 'zip':
			return { bytes: writeShapefiles(fileName(name), features, system?.wkt ?? ''), media: 'application/zip' };
		case 'dxf':
			return { bytes: layerDxf(name, features), media: 'image/vnd.dxf' };
		default: {
			// GeoJSON knows longitude and latitude only (RFC 7946).
			const map = system ? placing({ from: system.definition, to: systemOf(4326)!.definition }) : null;
			const out = map ? mapPositions({ features, epsg: crs }, ([x, y, ...z]) => [...map(x!, y!), ...z]).features : features;
			return { bytes: JSON.stringify(collection(out)), media: 'application/geo+json' };
		}
	}
}
