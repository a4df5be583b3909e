import { rasterOf } from '#core/formats/raster-pack';
import { DRAWN_PRECISION, encodeDrawnMesh, PART_TRIANGLES } from '#core/formats/drawn-mesh';
import { encodeDrawnRaster } from '#core/formats/drawn-raster';
import { zipSync } from 'fflate';
import type { Feature } from 'geojson';
import { readPack, writePack, type Pack } from '#core/formats/pack';
import type { Rectangle } from '#core/grids/frame';
import { partOf } from '#core/grids/overview';
import { lightMesh } from '#core/mesh/light-mesh';
import type { BlockMesh } from '#core/model/blocks';
import type { Raster } from '#core/grids/raster';
import { inTasks } from '#core/model/compute';
import { listIntercepts } from '#core/model/intercepts';
import type { FaultSpec } from '#core/model/ground';
import type { Box } from '#core/geometry/box';
import { checkHoles, contactsOfAll, type AllContacts } from '#core/project/pipeline';
import type { Things } from '#core/project/shape-ground';
import type { Shaping } from '#core/project/shaping';
import type { CheckOptions } from '#core/checks/check';
import type { Lumping, StratigraphicColumn } from '#core/units/column';
import { readDelimited } from '#core/tables/delimited';
import { readScheme } from '#core/units/scheme';
import { openTable, type TableParts } from './stored-table';
import type { Page } from '#core/logs/pages';
import { fail } from '#core/problem';
import { withFirstValues } from '#core/recipes/parameters';
import { recipeOf } from '#core/recipes/register';
import type { Given, ProjectFacts } from '#core/recipes/recipe';
import { answer, tell, type Progress } from './answer';
import type { AboutModel, SectionMessage } from './model-files';
import { piecesThrough } from './pieces';

// What writes files is asked for when one is written: it is most of the code, and a thread that builds has no use for it.

/** A grid, or a stored one, as a file. */
export const writeGrid = (m: { raster: Uint8Array; format: string; epsg: number }) =>
	answer(async () => {
		const { LOCAL_SYSTEM, writeAs } = await import('#core/formats/writers');
		return writeAs('grid', m.format, rasterOf(readPack(m.raster)), { ...LOCAL_SYSTEM, crs: m.epsg });
	});

const opened = (tables: readonly TableParts[], lengthUnit: string) => tables.map((t) => openTable(t, lengthUnit).table);

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

/** An input of a recipe, closed. */
export type GivenBytes = Omit<Given, 'pack'> & { bytes: Uint8Array | null };

/** Makes a result by its recipe. */
export const runRecipe = (m: {
	recipe: string;
	inputs: GivenBytes[];
	parameters: Record<string, unknown>;
	project: ProjectFacts;
	ground: InterpretationInput | Pick<InterpretationInput, 'tables' | 'options'> | null;
	preview?: boolean;
	port: Progress;
}) =>
	answer(async () => {
		const made = recipeOf(m.recipe) ?? fail('unknown-recipe', `this worker knows no recipe "${m.recipe}"`, 'Start it anew.');
		const inputs = m.inputs.map(({ bytes, ...g }) => ({ ...g, pack: bytes && readPack(bytes) }));
		const ground = m.ground && {
			tables: opened(m.ground.tables, m.ground.options.lengthUnit),
			options: m.ground.options,
			interpretation: 'extent' in m.ground ? { ...m.ground, things: thingsOf(m.ground.named) } : null
		};
		// What was made before the recipe had a parameter goes by the first value of that.
		const { pack, report } = await made.run(inputs, withFirstValues(made.parameters, m.parameters), {
			project: m.project,
			ground,
			progress: tell(m.port),
			tasks: inTasks(piecesThrough(m.port)),
			...(m.preview ? { preview: true } : {})
		});
		return { bytes: writePack(pack), report };
	});

/** A section as a file. */
export const writeSection = (m: SectionMessage) => answer(async () => (await import('./model-files')).sectionFile(m));

/** A model, or what follows from it, as a file. */
export const writeModel = (m: { pack: Uint8Array; about: AboutModel; what: string; format: string; definition: string | null }) =>
	answer(async () => (await import('./model-files')).fileOfModel(m.pack, m.about, m.what, m.format, m.definition));

/**
 * The model as panes draw it, in one part or in those of a large one. What is said of it, without what only its report needs, stands in the first.
 * @param m of: which build it is; each part says it
 */
export const drawnMesh = (m: { of: string; pack: Uint8Array; spacing: number; most?: number | undefined; inParts: boolean }) =>
	answer(() => {
		const { info, arrays } = readPack(m.pack);
		const { misfits: _m, orientations: _o, ...said } = info;
		const whole = arrays as unknown as BlockMesh;
		const mesh = lightMesh(whole, m.most ?? Infinity);
		const parts = encodeDrawnMesh(mesh, m.spacing * DRAWN_PRECISION, m.inParts ? PART_TRIANGLES : Infinity);
		return parts.map(({ info: drawn, arrays }, i) =>
			writePack({ info: { ...(i ? {} : { ...said, light: mesh !== whole }), ...drawn, of: m.of }, arrays })
		);
	});

/** A grid as panes draw it: no finer than wanted. */
export const drawnRaster = (m: { pack: Uint8Array; most?: number }) =>
	answer(() => {
		const r = rasterOf(readPack(m.pack));
		return writePack(encodeDrawnRaster(m.most ? partOf(r, null, m.most)! : r));
	});

/** Part of a grid, or all with wider cells; nothing where the rectangle lies beside it. */
export const gridPart = (m: { pack: Uint8Array; box: Rectangle | null; most: number }) =>
	answer(() => {
		const r = rasterOf(readPack(m.pack));
		const part = partOf(r, m.box, m.most) ?? { ...r, nx: 0, ny: 0, values: new Float32Array(0), every: 1 };
		const { values, ...info } = part;
		return writePack({ info: { ...info, whole: { nx: r.nx, ny: r.ny } }, arrays: { values } });
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
export const pagesToPdf = (m: { pages: Page[]; title: string; fonts: string[] }) =>
	answer(async () => (await import('./pdf')).writePdf(m.pages, m.title, m.fonts));

/** A scheme from the text of a table. */
export const readSchemeText = (m: { id: string; name: string; text: string }) =>
	answer(() => {
		const raw = readDelimited(new TextEncoder().encode(m.text), m.name);
		const rows = Array.from({ length: raw.rowCount }, (_, i) => raw.columns.map((c) => c[i] ?? ''));
		return readScheme(m.id, m.name, raw.header, rows, raw.reading.decimal);
	});
