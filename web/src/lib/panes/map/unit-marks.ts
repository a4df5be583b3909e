import Feature from 'ol/Feature';
import Point from 'ol/geom/Point';
import { columnOf } from '#core/datasets/dataset';
import type { HolePaths } from '#core/datasets/hole-paths';
import type { SolidMesh } from '#core/mesh/cut-lattice';
import { faultsAlongHoles } from '#core/sections/along-solids';
import { spaced } from '#core/formats/ticks';
import { classStyle } from '#core/styles/style';
import { BLANK } from '#core/palette';
import type { Absence } from '#core/stratigraphy/absences';
import { runsOf } from '#core/stratigraphy/runs';
import { stepsOf, unitInHoles, type Steps, type StepUnit, type UnitInHole } from '#core/stratigraphy/units-in-holes';
import type { Scheme } from '#core/units/scheme';
import type { Workspace } from '$lib/workspace.svelte';

export type UnitAs = 'thickness' | 'top' | 'parts';

export const ABSENCE_WORDS: Record<Absence, string> = {
	removed: 'removed at an unconformity',
	'not-deposited': 'not deposited',
	'cut-out': 'cut out by a fault',
	'not-reached': 'not reached by the hole',
	'not-logged': 'not logged'
};

/** A unit in every hole, with what one can step to. */
export interface UnitMarks {
	steps: Steps;
	target: StepUnit;
	scheme: Scheme | null;
	/** The table and the column that were looked at. */
	log: string;
	holes: UnitInHole[];
	colorOf: (name: string) => string;
}

/** The scheme that is stepped through: the one that is chosen, none when an empty one is, else the first. */
export const schemeAt = (workspace: Workspace, chosen: string | null): Scheme | null => {
	const { schemes } = workspace.stratigraphy;
	return chosen === '' ? null : (schemes.find((s) => s.id === chosen) ?? schemes[0] ?? null);
};

/** What was found last: neither holes nor the model change while one steps through units. */
let known: { mesh: SolidMesh; paths: HolePaths; faults: number[][] } | null = null;

/** Depths at which the holes go through the faults of a model. */
function faultsOf(mesh: SolidMesh, paths: HolePaths): number[][] {
	if (known?.mesh !== mesh || known.paths !== paths) known = { mesh, paths, faults: faultsAlongHoles(mesh, paths) };
	return known.faults;
}

/** A unit by its id in every hole of the log that is shown; null until that has come, or without any unit. */
export function marksOf(workspace: Workspace, unit: string, chosen: string | null): UnitMarks | null {
	const { sets } = workspace;
	const set = sets.of(workspace.along);
	const { paths } = sets;
	const scheme = schemeAt(workspace, chosen);
	const steps = stepsOf(scheme, workspace.units);
	const target = steps.units.find((u) => u.id === unit) ?? steps.units[0];
	if (!set || !paths || !target || set.place !== 'interval') return null;
	// The column of words that knows most of the units.
	const names = new Set(steps.units.map((u) => u.name));
	const columns = set.columns.filter((c) => c.type === 'category');
	const known = (c: (typeof columns)[number]) => (c.type === 'category' ? c.categories.filter((x) => names.has(x)).length : 0);
	const best = [...columns].sort((a, b) => known(b) - known(a))[0];
	const column = columnOf(
		set,
		columns.some((c) => c.key === 'unit') && known(columns.find((c) => c.key === 'unit')!) > 0 ? 'unit' : (best?.key ?? null)
	);
	if (column?.type !== 'category') return null;
	const style = sets.style(set);
	const faults = workspace.model && faultsOf(workspace.model.mesh, paths);
	const colors = new Map(scheme?.units.flatMap((u) => (u.color ? [[u.name, u.color] as const] : [])));
	return {
		steps,
		target,
		scheme,
		log: `${set.name}: ${column.label}`,
		holes: unitInHoles(
			target,
			scheme,
			workspace.units,
			paths.holes.map((h, n) => ({
				name: h.name,
				totalDepth: h.totalDepth,
				runs: runsOf(set, column, paths.holes.length, n),
				faults: faults?.[n]
			})),
			workspace.stratigraphy.absences
		),
		colorOf: (name) => colors.get(name) ?? (column.categories.includes(name) ? classStyle(column, name, style, sets.defaults).color : BLANK)
	};
}

/** What stands at a hole in words. */
export function markText(h: UnitInHole, unit: string, length: string): string {
	if (!h.absence) return `${h.hole}: ${spaced(h.thickness, 1)} ${length} of ${unit}, from ${spaced(h.top ?? 0, 1)} ${length}`;
	const at = h.absence.between ? `, at ${spaced(h.absence.depth, 1)} ${length} between ${h.absence.between}` : '';
	return `${h.hole}: ${unit} ${ABSENCE_WORDS[h.absence.why]}${h.absence.reason ? ` (${h.absence.reason})` : at}`;
}

/** Symbols at collars: size by thickness, by depth, or what the unit is made of; a mark where it is not there. */
export function unitFeatures(workspace: Workspace, marks: UnitMarks, as: UnitAs): Feature[] {
	const { paths } = workspace.sets;
	const unit = workspace.project?.lengthUnit ?? 'm';
	const place = new Map(paths?.holes.map((h) => [h.name, h.collar]));
	const most = Math.max(1e-9, ...marks.holes.map((h) => (as === 'top' ? (h.top ?? 0) : h.thickness)));
	return marks.holes.flatMap((h) => {
		const at = place.get(h.hole);
		if (!at) return [];
		const size = as === 'top' ? (h.top ?? 0) : h.thickness;
		const parts =
			as === 'parts'
				? h.parts.map((p) => ({ color: marks.colorOf(p.name), share: p.share }))
				: [{ color: marks.colorOf(marks.target.name), share: 1 }];
		return [
			new Feature({
				geometry: new Point([at[0], at[1]]),
				absence: h.absence?.why ?? null,
				byHand: Boolean(h.absence?.reason),
				parts,
				radius: as === 'parts' ? 10 : 4 + 10 * Math.sqrt(size / most),
				label: markText(h, marks.target.name, unit),
				select: { kind: 'hole', name: h.hole }
			})
		];
	});
}
