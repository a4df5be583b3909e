import { placedRows } from '#core/datasets/placed-rows';
import { writeAgs } from '#core/formats/ags-writer';
import { fail } from '#core/problem';
import { unitFactor } from '#core/tables/measures';
import { pathsOf } from '#core/datasets/hole-paths';
import { columnOf, placeTable, type DataSet } from '#core/datasets/dataset';
import { describeReadings, packReadings, readingsOf } from '#core/datasets/readings';
import { packDataSet } from '#core/datasets/transfer';
import { withUnits } from '#core/datasets/units';
import { packValue, readPack, writePack } from '#core/formats/pack';
import { meshOfPack } from '#core/recipes/opened';
import { modelLog } from '#core/logs/model-log';
import { faultsAlongHoles } from '#core/sections/along-solids';
import type { Unit } from '#core/units/column';
import type { LogData } from '#core/logs/log-parts';
import { logPages, type LogHead } from '#core/logs/pages';
import { timeIntervals, type AgeCurve } from '#core/stratigraphy/age-curve';
import { correlatedRuns, correlationPage, type CorrelationSpec } from '#core/stratigraphy/correlation';
import { correlationData, curvesOf, proposeRow, schemeOf } from '#core/stratigraphy/correlation-data';
import { holeAges, type AgeSources } from '#core/stratigraphy/hole-ages';
import type { LoggedRun } from '#core/stratigraphy/runs';
import { stepsOf, unitInHoles, type SetAbsence } from '#core/stratigraphy/units-in-holes';
import type { Tie } from '#core/stratigraphy/ties';
import type { Scheme } from '#core/units/scheme';
import type { LogSpec } from '#core/logs/spec';
import { proposedStyle, unitDefaults } from '#core/styles/propose';
import type { DataStyle } from '#core/styles/style';
import type { Box } from '#core/geometry/box';
import { pathTable, positionAt } from '#core/holes/path';
import { statedUnits } from './stored-table';
import { holesOf, type ProjectTables } from './open-tables';
import { answer } from './answer';
import { packSince } from './sent-packs';

/** Key of the state that who asks has already; null when it has none. */
interface Since {
	since: string | null;
}

/** Paths of the holes in use, as a pack, or what changed of it. */
export const paths = (m: ProjectTables & Since) =>
	answer(() => packSince('paths', m.key, m.since, () => packValue(pathsOf(holesOf(m).holes))));

/** Rows of one table in use with their places, as a pack, or what changed of it. */
export const placedTable = (m: ProjectTables & Since & { objectId: string }) =>
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
		return packSince(m.objectId, m.key, m.since, (before) => packDataSet({ ...set, name: state.name }, before));
	});

/** Rows of one table in use with all their columns in full precision, as recipes take them: a pack, and what is told of it. */
export const readings = (m: ProjectTables & { objectId: string }) =>
	answer(() => {
		const { tables, out, terrain, holes } = holesOf(m);
		const state = m.tables.find((t) => t.id === m.objectId)!;
		const table = tables.find((t) => t.name === m.objectId)!;
		const own = readingsOf(table, { out }, holes, terrain, m.options.lengthUnit, statedUnits(state.state));
		return { bytes: writePack(packReadings(own)), facts: describeReadings(own) };
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

/** What logs of holes are drawn from, besides the tables. */
interface DrawnFrom extends ProjectTables {
	styles: Record<string, DataStyle>;
	extent: Box | null;
	findings: { table: string; row: number; hole: string; severity: 'held' | 'noted'; message: string }[];
	photographs: { hole: string; from: number; to: number; href: string; name: string }[];
	/** Models beside the logs: their packs, and their units as they are called now. */
	models: { id: string; name: string; bytes: Uint8Array; units: Pick<Unit, 'id' | 'name' | 'color'>[] }[];
}

export interface LogMessage extends DrawnFrom {
	spec: LogSpec;
	head: LogHead;
	paper: [number, number];
}

export interface CorrelationMessage extends DrawnFrom {
	spec: CorrelationSpec;
	ages: AgeSources;
	ties: readonly Tie[];
	schemes: readonly Scheme[];
	head: LogHead;
}

/** Data of logs, of the holes that are named. @throws ProblemError `not-found` */
function logDataOf(m: DrawnFrom, named: readonly string[]): LogData {
	const { tables, out, terrain, holes } = holesOf(m);
	const { column = [], lumping = {} } = m.options.around ?? {};
	const missing = named.filter((n) => !holes.some((h) => h.name === n));
	if (missing.length)
		fail(
			'not-found',
			`no hole in use is called ${missing.slice(0, 20).join(', ')}`,
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
			return [x.id, { ...x, mesh: meshOfPack(pack), units: (pack.info['units'] as string[]).map((id) => units.find((u) => u.id === id)) }];
		})
	);
	return {
		paths,
		model: (id, hole) => {
			const x = models.get(id);
			return x ? modelLog(x.name, x.mesh, x.units, paths, hole) : null;
		},
		set,
		style: (s) => m.styles[s.id] ?? proposedStyle(s, m.extent),
		defaults: unitDefaults(column, lumping, m.options.around?.schemes),
		text: (table, key, row) => byName.get(table)?.text[key]?.[row] ?? '',
		findings: (hole) => places.filter((f) => f.hole === hole),
		photographs: (hole) => m.photographs.filter((p) => p.hole === hole),
		lengthUnit: m.options.lengthUnit
	};
}

/** Pages of a log at a true scale. */
export const drawLog = (m: LogMessage) => answer(() => logPages(m.spec, logDataOf(m, m.spec.holes), m.head, m.paper));

const unitsInOrder = (m: ProjectTables) => (m.options.around?.column ?? []).map(({ name, contact }) => ({ name, contact }));

/** A correlation on one sheet at a true scale. */
export const drawCorrelation = (m: CorrelationMessage) =>
	answer(() => {
		const data = logDataOf(m, m.spec.holes);
		return correlationPage(m.spec, correlationData(data, m.spec, { ...m, order: unitsInOrder(m) }), m.head);
	});

/** A log without a table of its own: what of the tables says of holes, for reckoning only. */
const plainData = (m: ProjectTables, named: readonly string[]): LogData =>
	logDataOf({ ...m, styles: {}, extent: null, findings: [], photographs: [], models: [] }, named);

type OfHoles = ProjectTables & { holes: readonly string[] | null; log: CorrelationSpec['log'] };

/** Numbers of the holes that are asked for, or of all, with what the log says of each. @throws ProblemError `not-found`, `unknown-column` */
function loggedHoles(m: OfHoles, data: LogData): { number: number; name: string; runs: LoggedRun[] }[] {
	const set = data.set(m.log.table);
	const column = set ? columnOf(set, m.log.column) : null;
	if (!set || set.place !== 'interval' || column?.type !== 'category')
		return fail(
			'unknown-column',
			set ? `${set.name} has no column of classes along holes that is called ${m.log.column}` : 'there is no such log',
			set
				? `It has: ${
						set.columns
							.filter((c) => c.type === 'category')
							.map((c) => c.key)
							.join(', ') || 'none'
					}.`
				: undefined,
			'log'
		);
	const wanted = m.holes && new Set(m.holes);
	const all = data.paths.holes.flatMap((h, number) =>
		!wanted || wanted.has(h.name) ? [{ number, name: h.name, runs: correlatedRuns(data, m.log, number) }] : []
	);
	return m.holes ? m.holes.map((n) => all.find((h) => h.name === n)!) : all;
}

/** Ties between neighbours of a row of holes, by what is logged, or by the likeness of a curve. */
export const proposedTies = (
	m: OfHoles & { ties: readonly Tie[]; curve: { table: string; column: string } | null; reach: number | null }
) =>
	answer(() => {
		const data = plainData(m, m.holes ?? []);
		const holes = loggedHoles(m, data);
		return proposeRow(holes, m.ties, m.curve ? curvesOf(data, m.curve) : null, m.reach ?? Infinity);
	});

/** A unit in every hole. @throws ProblemError `unknown-unit` */
export const unitInAllHoles = (
	m: OfHoles & { scheme: Scheme | null; unit: string; set: readonly SetAbsence[]; solids: Uint8Array | null }
) =>
	answer(() => {
		const data = plainData(m, []);
		const column = m.options.around?.column ?? [];
		const steps = stepsOf(m.scheme, column);
		const target =
			steps.units.find((u) => u.id === m.unit || u.name === m.unit) ??
			fail(
				'unknown-unit',
				`there is no unit ${m.unit}`,
				`Units: ${steps.units
					.slice(0, 12)
					.map((u) => u.name)
					.join(', ')}.`,
				'unit'
			);
		const faults = m.solids ? faultsAlongHoles(meshOfPack(readPack(m.solids)), data.paths) : [];
		const holes = loggedHoles(m, data).map((h) => ({
			...h,
			totalDepth: data.paths.holes[h.number]!.totalDepth,
			faults: faults[h.number]
		}));
		return { unit: target.name, holes: unitInHoles(target, m.scheme, column, holes, m.set) };
	});

/** Age–depth curves of holes, and why others have none. */
export const agesOfHoles = (m: OfHoles & { ages: AgeSources; schemes: readonly Scheme[] }) =>
	answer(() => {
		const data = plainData(m, m.holes ?? []);
		const scheme = schemeOf(m.ages, m.schemes);
		const curves: AgeCurve[] = [];
		const without: { hole: string; why: string }[] = [];
		for (const h of loggedHoles(m, data)) {
			const { curve, problem } = holeAges(data, m.ages, scheme, h, h.runs);
			if (curve) curves.push(curve);
			else without.push({ hole: h.name, why: problem.message });
		}
		return { curves, without };
	});

/** Stretches of holes that belong to units of a rank of a scheme by the ages of the holes. @throws ProblemError `nothing-dated` */
export const stretchesByAge = (m: OfHoles & { ages: AgeSources; schemes: readonly Scheme[]; units: string; rank: number }) =>
	answer(() => {
		const data = plainData(m, m.holes ?? []);
		const scheme = schemeOf(m.ages, m.schemes);
		const units = schemeOf({ ...m.ages, scheme: m.units }, m.schemes);
		if (!units?.ranks[m.rank]) return fail('unknown-rank', 'say which scheme and rank the units of time are of', undefined, 'rank');
		const stretches = loggedHoles(m, data).flatMap((h) => {
			const { curve } = holeAges(data, m.ages, scheme, h, h.runs);
			return curve ? timeIntervals(units, m.rank, curve).map((r) => ({ hole: h.name, from: r.from, to: r.to, code: r.name })) : [];
		});
		if (stretches.length === 0)
			fail('nothing-dated', 'no hole is dated at two depths', 'Give tables of dates, or a scheme with ages whose units are logged.');
		// What is not dated has no age: it is as if it had not been sampled.
		return [...data.paths.holes.map((h) => ({ hole: h.name, from: -1e6, to: 1e6, code: '' })), ...stretches];
	});
