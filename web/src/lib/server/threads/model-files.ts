import { NAMELESS } from '#core/palette';
import proj4 from 'proj4';
import { fail } from '#core/problem';
import { Resvg } from '@resvg/resvg-js';
import { geologyGeoJson, type Project } from '#core/sections/geology-geojson';
import { FORMATS } from '#core/formats/known';
import type { NamedMesh } from '#core/formats/meshes';
import { csvFile, LOCAL_SYSTEM, writeAs } from '#core/formats/writers';
import { readPack } from '#core/formats/pack';
import { sectionDxf } from '#core/sections/section-dxf';
import { sectionSvg, sheetHeight } from '#core/sections/section-svg';
import type { SolidMesh } from '#core/mesh/cut-lattice';
import { surfaceName } from '#core/model/surface-name';
import { solidOf, surfaceOf, surfacesIn, unitsIn } from '#core/mesh/extract';
import { geologyAtSurface } from '#core/sections/geology-map';
import { holeLines, holesOnSection, type HoleScene } from '#core/sections/hole-lines';
import { cutSection, type Trace } from '#core/sections/section';
import { unitOrCode, type Lumping, type Unit } from '#core/units/column';

/** What is said of a model besides its mesh. */
export interface AboutModel {
	units: Unit[];
	faults: { id: string; name: string }[];
	hasTerrain: boolean;
	lengthUnit: string;
	crs: number;
	projectName: string;
}

/** The mesh of a stored model. */
function meshOf(pack: Uint8Array): SolidMesh {
	const { info, arrays } = readPack(pack);
	return {
		...(arrays as unknown as Omit<SolidMesh, 'volumes'>),
		volumes: new Map((info as unknown as { volumes: [number, number][] }).volumes)
	};
}

function namedMeshes(mesh: SolidMesh, m: AboutModel, what: string): NamedMesh[] {
	if (what === 'volumes') return unitsIn(mesh).map((u) => ({ name: m.units[u]!.name, color: m.units[u]!.color, mesh: solidOf(mesh, u) }));
	return surfacesIn(mesh).map((s) => ({
		name: surfaceName(m.units, m.faults, s).name,
		color: m.units[s]?.color ?? NAMELESS,
		mesh: surfaceOf(mesh, s)
	}));
}

/** To longitude and latitude, or unchanged on a local grid. */
function toGeographic(definition: string | null): Project {
	if (!definition) return (x, y) => [x, y];
	const transform = proj4(definition, 'EPSG:4326');
	return (x, y) => {
		const [lon, lat] = transform.forward([x, y]);
		return [Number(lon!.toFixed(8)), Number(lat!.toFixed(8))];
	};
}

/** A model, or what follows from it, as a file. */
export async function fileOfModel(
	pack: Uint8Array,
	m: AboutModel,
	what: string,
	format: string,
	definition: string | null
): Promise<{ bytes: string | Uint8Array; media: string }> {
	const mesh = meshOf(pack);
	if (what === 'geology')
		return {
			bytes: JSON.stringify(geologyGeoJson(geologyAtSurface(mesh, m.hasTerrain), m.units, toGeographic(definition))),
			media: FORMATS.geojson.media
		};
	if (format === 'csv')
		return csvFile(
			['unit', 'name', `volume_${m.lengthUnit}3`],
			m.units.map((u, i) => [u.id, u.name, mesh.volumes.get(i) ?? 0])
		);
	return writeAs('solids', format, namedMeshes(mesh, m, what), LOCAL_SYSTEM);
}

export interface SectionMessage {
	pack: Uint8Array;
	about: AboutModel;
	/** Holes as they were last built. */
	holes: Uint8Array;
	lumping: Lumping;
	trace: Trace;
	corridor: number;
	title: string;
	/** What the section is called, at its ends. */
	name: string;
	exaggeration: number;
	filled: boolean;
	format: 'svg' | 'png' | 'dxf';
	/** Pixels. */
	width: number;
	fonts: string[];
}

/** Dots of a picture, at most: its memory is four bytes for each; and the height of any sheet, pixels. */
const MOST_DOTS = 80e6;
const HIGHEST = 50_000;

/** The section of a model as a drawing: the model cut along the trace and the holes within the corridor. @throws ProblemError `picture-too-large` */
export function sectionFile(m: SectionMessage): string | Uint8Array {
	const mesh = meshOf(m.pack);
	const picture = cutSection(mesh, m.trace);
	const p = mesh.positions;
	let [minZ, maxZ] = [Infinity, -Infinity];
	for (let i = 2; i < p.length; i += 3) {
		if (p[i]! < minZ) minZ = p[i]!;
		if (p[i]! > maxZ) maxZ = p[i]!;
	}
	const { info, arrays } = readPack(m.holes);
	const scene = { ...info, ...arrays } as unknown as HoleScene;
	const index = new Map(m.about.units.map((u, i) => [u.id, i]));
	const lines = holeLines(scene, (code) => index.get(unitOrCode(m.lumping, code)) ?? -1);
	const drawing = {
		title: m.title,
		picture,
		units: m.about.units,
		surfaces: new Map([...picture.lines.keys()].sort((a, b) => a - b).map((s) => [s, surfaceName(m.about.units, m.about.faults, s)])),
		holes: holesOnSection(scene, lines, m.trace, m.corridor),
		minZ,
		maxZ,
		lengthUnit: m.about.lengthUnit,
		exaggeration: m.exaggeration,
		ends: [m.name, `${m.name}′`] as [string, string],
		filled: m.filled
	};
	if (m.format === 'dxf') return sectionDxf(drawing);
	// Before anything is drawn: a sheet that is thousands of times as high as it is wide has millions of marks at its sides.
	const height = sheetHeight(picture.length, maxZ - minZ, m.exaggeration, m.width);
	if (height > HIGHEST || (m.format === 'png' && m.width * height > MOST_DOTS))
		return fail(
			'picture-too-large',
			`the sheet would be ${m.width} × ${height} dots`,
			'Choose a longer section, less exaggeration or a smaller width, or save it as DXF.',
			'exaggeration'
		);
	const svg = sectionSvg(drawing, m.width);
	if (m.format === 'svg') return svg;
	return new Uint8Array(
		new Resvg(svg, { font: { fontFiles: m.fonts, loadSystemFonts: false, defaultFontFamily: 'IBM Plex Sans' } }).render().asPng()
	);
}
