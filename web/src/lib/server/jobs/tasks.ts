import { DRAWN_PRECISION, encodeDrawnMesh } from '#core/formats/drawn-mesh';
import { encodeDrawnRaster } from '#core/formats/drawn-raster';
import { zipSync } from 'fflate';
import type { Feature } from 'geojson';
import { packValue, readPack, unpackValue, writePack, type Pack } from '#core/formats/pack';
import { writeAsc } from '#core/formats/asc';
import { writeGeoTiff } from '#core/formats/geotiff';
import type { BlockMesh } from '#core/model/blocks';
import type { Raster } from '#core/grids/raster';
import { blockNumbers, blocksOf } from '#core/model/blocks';
import { buildModel } from '#core/model/build';
import { inTasks } from '#core/model/compute';
import { compareModels, type ComparedModel } from '#core/model/compare';
import { ensemble, type Errors } from '#core/model/ensemble';
import type { FinerParts } from '#core/model/finer';
import type { Ground } from '#core/model/fit-ground';
import { listIntercepts } from '#core/model/intercepts';
import type { FaultSpec } from '#core/model/ground';
import type { Box } from '#core/geometry/box';
import type { SolidMesh } from '#core/mesh/cut-lattice';
import { checkHoles, contactsOfAll, groundOf, type AllContacts } from '#core/project/pipeline';
import type { Things } from '#core/project/shape-ground';
import type { Shaping } from '#core/project/shaping';
import { allContacts, faultsOf, unitsOf } from '#core/model/whole';
import type { CheckOptions } from '#core/checks/check';
import { flagsOf, reportOf } from '#core/project/report';
import { samplePath, positionAt } from '#core/holes/path';
import type { Lumping, StratigraphicColumn } from '#core/units/column';
import { unpackTerrain } from '../objects/terrain';
import { openTable, type TableParts } from '../objects/stored-table';
import type { Page } from '#core/logs/pages';
import { writePdf } from '../objects/pdf';
import { answer, tell, type Progress } from './answer';
import { fileOfModel, geologyOfModel, gridOfModel, sectionFile, type AboutModel, type SectionMessage } from './model-files';
import { runPiece } from './compute-pool';

/** A grid, or a stored one, as a file. */
export const writeGrid = (m: { raster: Raster | Uint8Array; format: 'tif' | 'asc'; epsg: number }) =>
	answer(async () => {
		const raster = m.raster instanceof Uint8Array ? unpackTerrain(m.raster) : m.raster;
		return m.format === 'tif' ? writeGeoTiff(raster, m.epsg || 32767) : new TextEncoder().encode(writeAsc(raster));
	});

const opened = (tables: readonly TableParts[], lengthUnit: string) => tables.map((t) => openTable(t, lengthUnit).table);

/** Hole paths and what is logged along them, as the panes draw them. */
export const buildHoles = (m: { tables: TableParts[]; options: CheckOptions }) =>
	answer(() => {
		const { holes, bent } = checkHoles(opened(m.tables, m.options.lengthUnit), m.options);
		const pathStart = new Uint32Array(holes.length + 1);
		const depths: number[] = [];
		const xyz: number[] = [];
		const codes = new Map<string, number>();
		const intervals = {
			hole: [] as number[],
			from: [] as number[],
			to: [] as number[],
			code: [] as number[],
			row: [] as number[],
			ends: [] as number[]
		};
		holes.forEach((h, i) => {
			const s = samplePath(h.path, 15);
			depths.push(...s.depths);
			xyz.push(...s.xyz);
			pathStart[i + 1] = depths.length;
			for (const v of h.intervals) {
				let code = codes.get(v.code);
				if (code === undefined) codes.set(v.code, (code = codes.size));
				intervals.hole.push(i);
				intervals.from.push(v.from);
				intervals.to.push(v.to);
				intervals.code.push(code);
				intervals.row.push(v.row);
				intervals.ends.push(...positionAt(h.path, v.from), ...positionAt(h.path, v.to));
			}
		});
		return writePack({
			info: {
				holes: holes.map((h) => ({ name: h.name, collar: h.path.collar, totalDepth: h.path.totalDepth, row: h.row })),
				codes: [...codes.keys()],
				bent
			},
			arrays: {
				pathStart,
				depths: Float64Array.from(depths),
				xyz: Float64Array.from(xyz),
				intervalHole: Uint32Array.from(intervals.hole),
				intervalFrom: Float64Array.from(intervals.from),
				intervalTo: Float64Array.from(intervals.to),
				intervalCode: Uint32Array.from(intervals.code),
				intervalRow: Uint32Array.from(intervals.row),
				intervalEnds: Float64Array.from(intervals.ends)
			}
		});
	});

export interface InterpretationInput {
	tables: TableParts[];
	options: CheckOptions;
	extent: Box;
	column: StratigraphicColumn;
	lumping: Lumping;
	faults: FaultSpec[];
	terrain: Raster | null;
	shaping: Shaping;
	/** Packs of the things that the shaping names. */
	named: { kind: string; name: string; pack: Uint8Array }[];
}

/** The things that the shaping names, opened. */
function thingsOf(named: InterpretationInput['named']): Things {
	const open = <T>(kind: string, read: (p: Pack) => T) =>
		new Map(named.filter((n) => n.kind === kind).map((n) => [n.name, read(readPack(n.pack))]));
	return {
		grids: open('grid', ({ info, arrays }) => ({
			...(info as unknown as Omit<Raster, 'values'>),
			values: arrays['values'] as Float32Array
		})),
		surfaces: open('surface', ({ arrays }) => ({
			positions: arrays['positions'] as Float64Array,
			triangles: arrays['triangles'] as Uint32Array
		})),
		layers: open('layer', ({ info }) => info['features'] as Feature[])
	};
}

/** Contacts, observations and what could not be placed. */
export const buildContacts = (m: InterpretationInput) =>
	answer(() => {
		const tables = opened(m.tables, m.options.lengthUnit);
		const contacts = contactsOfAll(tables, checkHoles(tables, m.options), { ...m, things: thingsOf(m.named) });
		return { pack: writePack(packValue(contacts)), placed: contacts.points.length, faulted: contacts.faulted, findings: contacts.findings };
	});

/** Where holes cross each intrusion that may be a sheet; those that are set aside are among them. */
export const findIntercepts = (m: InterpretationInput) =>
	answer(() => {
		const tables = opened(m.tables, m.options.lengthUnit);
		const shaping: Shaping = { ...m.shaping, setAside: [] };
		const contacts = contactsOfAll(tables, checkHoles(tables, m.options), { ...m, shaping, things: thingsOf(m.named) });
		const of = (column: StratigraphicColumn, points: AllContacts['points'], observations: AllContacts['observations']) =>
			column.flatMap((u, i) =>
				u.contact === 'intrusive' && u.form !== 'body' ? [{ unit: u.id, intercepts: listIntercepts(points, observations, i) }] : []
			);
		const divided = shaping.divisions.flatMap((d) => {
			const own = contacts.divisions.find((c) => c.id === d.id);
			return own ? of(d.column, own.points, own.observations) : [];
		});
		return { units: [...of(m.column, contacts.points, contacts.observations), ...divided] };
	});

/** All fields of the ground. The terrain is left out of the pack; it is a source of its own. */
export const buildFields = (m: InterpretationInput & { contacts: Uint8Array }) =>
	answer(async () => {
		const contacts = unpackValue<AllContacts>(readPack(m.contacts));
		const tables = opened(m.tables, m.options.lengthUnit);
		const input = groundOf(tables, checkHoles(tables, m.options), contacts, { ...m, things: thingsOf(m.named) });
		const { orientations } = input;
		const ground = await inTasks(runPiece).fit(input);
		return {
			pack: writePack(packValue(withTerrain(ground, null))),
			findings: ground.findings,
			orientations: orientations.length,
			unused: orientations.filter((o) => o.unit < 0).length
		};
	});

/** A ground with another terrain: it is a source of its own, and not stored with the fields. */
const withTerrain = (g: Ground, terrain: Raster | null): Ground => ({
	...g,
	input: { ...g.input, terrain },
	divisions: g.divisions.map((d) => ({ ...d, ground: withTerrain(d.ground, terrain) }))
});

/** The solids, packed for storing and for the panes, with the report and the misfit of every contact. */
export const buildSolids = (
	m: InterpretationInput & { fields: Uint8Array; spacing: number; leastPart: number; finer?: FinerParts | undefined; port: Progress }
) =>
	answer(async () => {
		const ground = withTerrain(unpackValue<Ground>(readPack(m.fields)), m.terrain);
		const built = await buildModel(ground, {
			spacing: m.spacing,
			leastPart: m.leastPart,
			finer: m.finer,
			progress: tell(m.port),
			...inTasks(runPiece)
		});
		const tables = opened(m.tables, m.options.lengthUnit);
		const flags = await flagsOf(ground, tables, checkHoles(tables, m.options), m.lumping, m.shaping, m.spacing, inTasks(runPiece).evaluate);
		const { report, misfits } = reportOf(ground, built, m.spacing, flags);
		const { volumes, frontLeaf, backLeaf, ...arrays } = built.mesh;
		const { blocks, ofLeaf } = blocksOf(ground, built.leaves);
		const points = allContacts(ground).map((c, i) => ({ ...c, distance: misfits[i]!.distance }));
		const pack = writePack({
			info: {
				units: unitsOf(ground).map((u) => u.id),
				faults: faultsOf(ground).map((f) => ({ id: f.id, name: f.name })),
				hasTerrain: m.terrain !== null,
				volumes: [...volumes],
				blocks,
				misfits: points,
				orientations: ground.input.orientations
			},
			arrays: { ...arrays, frontBlock: blockNumbers(frontLeaf, ofLeaf), backBlock: blockNumbers(backLeaf, ofLeaf) }
		});
		return { pack, report };
	});

/** Many models from data moved within their errors. */
export const runEnsemble = (m: {
	fields: Uint8Array;
	terrain: Raster | null;
	members: number;
	spacing: number;
	seed: number;
	errors: Errors;
	port: Progress;
}) =>
	answer(async () => {
		const { input } = unpackValue<Ground>(readPack(m.fields));
		const { probability, entropy, volumes, ...rest } = await ensemble(
			{ ...input, terrain: m.terrain },
			{ members: m.members, spacing: m.spacing, seed: m.seed, errors: m.errors, progress: tell(m.port), ...inTasks(runPiece) }
		);
		const units = input.column.map((u) => u.id);
		const pack = writePack({ info: { ...rest, units }, arrays: { probability, entropy } });
		return { pack, failed: rest.failed, volumes: volumes.map((v, i) => ({ unit: units[i]!, ...v })) };
	});

/** What is different between two built models. */
export const compareBuilt = (m: { before: Uint8Array; after: Uint8Array }) =>
	answer(() => {
		const open = (bytes: Uint8Array): ComparedModel => {
			const { info, arrays } = readPack(bytes);
			const i = info as unknown as {
				units: string[];
				faults: { id: string }[];
				volumes: [number, number][];
				misfits: ComparedModel['contacts'];
			};
			return {
				mesh: { ...(arrays as unknown as Omit<SolidMesh, 'volumes'>), volumes: new Map(i.volumes) },
				units: i.units,
				faults: i.faults.map((f) => f.id),
				contacts: i.misfits
			};
		};
		const { moved, ...report } = compareModels(open(m.before), open(m.after));
		return { pack: writePack({ info: {}, arrays: { moved } }), report };
	});

/** A section as a file. */
export const writeSection = (m: SectionMessage) => answer(() => sectionFile(m));

/** A model, or what follows from it, as a file. */
export const writeModel = (m: { pack: Uint8Array; about: AboutModel; what: string; format: string; definition: string | null }) =>
	answer(() => fileOfModel(m.pack, m.about, m.what, m.format, m.definition));

/** A grid over a model as a file. */
export const writeModelGrid = (m: {
	pack: Uint8Array;
	about: AboutModel;
	what: string;
	unit: number;
	cell: number | undefined;
	format: 'tif' | 'asc';
}) =>
	answer(async () => {
		const raster = gridOfModel(m.pack, m.about, m.what, m.unit, m.cell);
		return m.format === 'tif' ? writeGeoTiff(raster, m.about.crs || 32767) : new TextEncoder().encode(writeAsc(raster));
	});

/** Geology at the surface of a model. */
export const geology = (m: { pack: Uint8Array; about: AboutModel }) => answer(() => geologyOfModel(m.pack, m.about));

/** The model as panes draw it; what is said of it, without what only its report needs. */
export const drawnMesh = (m: { pack: Uint8Array; spacing: number }) =>
	answer(() => {
		const { info, arrays } = readPack(m.pack);
		const { misfits: _m, orientations: _o, ...said } = info;
		const pack = encodeDrawnMesh(arrays as unknown as BlockMesh, m.spacing * DRAWN_PRECISION);
		return writePack({ info: { ...said, ...pack.info }, arrays: pack.arrays });
	});

/** A grid as panes draw it. */
export const drawnRaster = (m: { pack: Uint8Array }) =>
	answer(() => {
		const { info, arrays } = readPack(m.pack);
		return writePack(encodeDrawnRaster({ ...(info as unknown as Raster), values: arrays['values'] as Float32Array }));
	});

/** Files as one ZIP archive. */
export const zip = (m: { files: Record<string, Uint8Array> }) => answer(() => zipSync(m.files, { level: 6 }));

/** A pack in which some ids stand for others. */
export const renamePack = (m: { bytes: Uint8Array; ids: [string, string][] }) =>
	answer(() => {
		const { info, arrays } = readPack(m.bytes);
		let text = JSON.stringify(info);
		for (const [was, is] of m.ids) text = text.replaceAll(was, is);
		return writePack({ info: JSON.parse(text) as Record<string, unknown>, arrays });
	});

/** Pages of drawings in mm as one PDF. @param fonts files of the regular and the bold face */
export const pagesToPdf = (m: { pages: Page[]; title: string; fonts: string[] }) => answer(() => writePdf(m.pages, m.title, m.fonts));
