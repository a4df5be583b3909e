import { placedRows } from '#core/datasets/placed-rows';
import { writeAgs } from '#core/formats/ags-writer';
import { fail } from '#core/problem';
import { unitFactor } from '#core/tables/measures';
import { pathsOf } from '#core/datasets/hole-paths';
import { placeTable, type DataSet } from '#core/datasets/dataset';
import { packDataSet } from '#core/datasets/transfer';
import { withUnits } from '#core/datasets/units';
import { readPack } from '#core/formats/pack';
import { meshOfPack } from '#core/recipes/opened';
import { modelLog } from '#core/logs/model-log';
import type { Unit } from '#core/units/column';
import { logPages, type LogHead } from '#core/logs/pages';
import type { LogSpec } from '#core/logs/spec';
import { proposedStyle, unitDefaults } from '#core/styles/propose';
import type { DataStyle } from '#core/styles/style';
import { packValue, writePack } from '#core/formats/pack';
import type { Box } from '#core/geometry/box';
import { pathTable, positionAt } from '#core/holes/path';
import { statedUnits } from './stored-table';
import { holesOf, type ProjectTables } from './open-tables';
import { answer } from './answer';

/** Paths of the holes in use, as a pack. */
export const paths = (m: ProjectTables) => answer(() => writePack(packValue(pathsOf(holesOf(m).holes))));

/** Rows of one table in use with their places, as a pack. */
export const placedTable = (m: ProjectTables & { objectId: string }) =>
	answer(() => {
		const { tables, out, terrain, holes } = holesOf(m);
		const state = m.tables.find((t) => t.id === m.objectId)!;
		const set = placeTable(
			tables.find((t) => t.name === m.objectId)!,
			{ out },
			holes,
			terrain,
			m.options.lengthUnit,
			statedUnits(state.state)
		);
		return writePack(packDataSet({ ...set, name: state.name }));
	});

/** The same rows as features. */
export const placedFeatures = (m: ProjectTables & { objectId: string }) =>
	answer(() => {
		const { tables, out, terrain, holes } = holesOf(m);
		return placedRows(
			tables.find((t) => t.name === m.objectId)!,
			out[m.objectId]!,
			holes,
			terrain
		);
	});

/** Collars, or logged intervals with the collars of their holes, as AGS. */
export const agsText = (m: ProjectTables & { objectId: string; project: string }) =>
	answer(() => {
		const { tables, out } = holesOf(m);
		const table = tables.find((t) => t.name === m.objectId)!;
		const collars = table.kind === 'collars' ? table : tables.find((t) => t.kind === 'collars');
		if (!collars)
			return fail('no-collars', 'there are no collars', 'AGS holds logs together with the places of their holes. Bring collars in first.');
		return writeAgs(
			m.project,
			collars,
			table === collars ? null : table,
			out,
			unitFactor('length', m.options.lengthUnit, 'm'),
			new Date().toISOString().slice(0, 10)
		);
	});

/** Everything about one hole: its path table and, by table, its rows in use. */
export const holeDetails = (m: ProjectTables & { hole: string }) =>
	answer(() => {
		const { tables, out, holes } = holesOf(m);
		const hole = holes.find((h) => h.name === m.hole);
		if (!hole)
			return fail('not-found', `no hole in use is called ${m.hole}`, 'Look under Check whether its collar is held back or left out.');
		const rows = tables.flatMap((t) => {
			const names = t.text['hole'];
			if (!names) return [];
			let count = 0;
			let left = 0;
			names.forEach((n, r) => {
				if (n !== m.hole) return;
				if (out[t.name]![r]) left++;
				else count++;
			});
			return count + left ? [{ table: t.name, count, left }] : [];
		});
		return {
			name: hole.name,
			collar: hole.path.collar,
			totalDepth: hole.path.totalDepth,
			end: positionAt(hole.path, hole.path.totalDepth),
			path: pathTable(hole.path),
			rows
		};
	});

export interface LogMessage extends ProjectTables {
	spec: LogSpec;
	styles: Record<string, DataStyle>;
	extent: Box | null;
	head: LogHead;
	paper: [number, number];
	findings: { table: string; row: number; hole: string; severity: 'held' | 'noted'; message: string }[];
	photographs: { hole: string; from: number; to: number; href: string; name: string }[];
	/** Models beside the logs: their packs, and their units as they are called now. */
	models: { id: string; name: string; bytes: Uint8Array; units: Pick<Unit, 'id' | 'name' | 'color'>[] }[];
}

/** Pages of a log at a true scale. */
export const drawLog = (m: LogMessage) =>
	answer(() => {
		const { tables, out, terrain, holes } = holesOf(m);
		const { column = [], lumping = {} } = m.options.around ?? {};
		const missing = m.spec.holes.filter((n) => !holes.some((h) => h.name === n));
		if (missing.length)
			fail(
				'not-found',
				`no hole in use is called ${missing.join(', ')}`,
				'Look under Check whether its collar is held back or left out.',
				'holes'
			);
		const byName = new Map(tables.map((t) => [t.name, t]));
		const states = new Map(m.tables.map((t) => [t.id, t]));
		const sets = new Map<string, DataSet>();
		const set = (id: string): DataSet | null => {
			const table = byName.get(id);
			if (!table) return null;
			let s = sets.get(id);
			if (!s)
				sets.set(
					id,
					(s = {
						...withUnits(
							placeTable(table, { out }, holes, terrain, m.options.lengthUnit, statedUnits(states.get(id)!.state)),
							column,
							lumping
						),
						name: states.get(id)!.name
					})
				);
			return s;
		};
		const places = m.findings.flatMap((f) => {
			const numbers = byName.get(f.table)?.numbers;
			const depth = numbers?.['from']?.[f.row] ?? numbers?.['depth']?.[f.row] ?? 0;
			return Number.isNaN(depth) ? [] : [{ ...f, depth }];
		});
		const paths = pathsOf(holes);
		const models = new Map(
			m.models.map(({ bytes, units, ...x }) => {
				const pack = readPack(bytes);
				return [
					x.id,
					{ ...x, mesh: meshOfPack(pack), units: (pack.info['units'] as string[]).map((id) => units.find((u) => u.id === id)) }
				];
			})
		);
		return logPages(
			m.spec,
			{
				paths,
				model: (id, hole) => {
					const x = models.get(id);
					return x ? modelLog(x.name, x.mesh, x.units, paths, hole) : null;
				},
				set,
				style: (s) => m.styles[s.id] ?? proposedStyle(s, m.extent),
				defaults: unitDefaults(column, lumping),
				text: (table, key, row) => byName.get(table)?.text[key]?.[row] ?? '',
				findings: (hole) => places.filter((f) => f.hole === hole),
				photographs: (hole) => m.photographs.filter((p) => p.hole === hole),
				lengthUnit: m.options.lengthUnit
			},
			m.head,
			m.paper
		);
	});
