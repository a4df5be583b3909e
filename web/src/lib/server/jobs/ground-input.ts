import { fail } from '#core/problem';
import { thingsNamedBy, type Shaping } from '#core/project/shaping';
import type { TableKind } from '#core/tables/kinds';
import { db } from '../db/client';
import { checkInputOf } from '../graph/check-input';
import { requireFollowed } from '../graph/followed';
import { one, seenByModel, type ObjectRow, type SeenProject } from '../graph/graph';
import { sourcePack } from '../graph/source-packs';
import { allParts } from '../store/tables';
import type { InterpretationInput } from '../threads/tasks';
import { stateOf, type StoredKind } from '../graph/states';
import { tableState } from '../threads/stored-table';

/** A shaping names tables as people do; in the engine room a table goes by its id. A name that is not there stays, and is complained about. */
function byTableId(s: Shaping, graph: readonly ObjectRow[]): Shaping {
	const idOf = (name: string) => graph.find((o) => o.kind === 'table' && o.name === name)?.id ?? name;
	const log = <T extends { table: string }>(l: T | null | undefined) => (l ? { ...l, table: idOf(l.table) } : l);
	return {
		...s,
		log: log(s.log),
		dataSets: s.dataSets.map((d) => ({ ...d, table: idOf(d.table) })),
		divisions: s.divisions.map((d) => ({ ...d, log: log(d.log) }))
	};
}

/** The tables that a shaping names, and those that named versions of logs go out from. */
function namedTables(graph: readonly ObjectRow[], names: ReadonlySet<string>): ObjectRow[] {
	const found = graph.filter((o) => o.kind === 'table' && names.has(o.name));
	for (const o of found) {
		const source = graph.find((x) => x.id === o.state['versionOf']);
		if (source && !found.includes(source)) found.push(source);
	}
	return found;
}

/**
 * What an interpretation is made of, with the tables of some kinds.
 * @param model whose; the first one when none is said
 * @throws ProblemError `no-extent`
 */
export async function interpretation(seen: SeenProject, model: string | null, kinds: readonly TableKind[]): Promise<InterpretationInput> {
	const p = seen.project;
	const graph = seenByModel(seen.graph, model);
	if (!p.extent)
		return fail(
			'no-extent',
			'the project has no extent yet',
			'Set it under Build: by hand, from the terrain or from the collars.',
			'extent'
		);
	const { options: check } = await checkInputOf(db(), seen, model);
	const faults = one(graph, 'faults');
	if (stateOf(faults, 'faults').follows) requireFollowed(seen.graph, faults);
	const state = <K extends StoredKind>(kind: K) => stateOf(one(graph, kind), kind);
	const shaping = state('shaping');
	const names = thingsNamedBy(shaping);
	const logs = namedTables(graph, names);
	const named = [];
	for (const o of graph)
		if (['grid', 'layer', 'surface'].includes(o.kind) && names.has(o.name))
			named.push({ kind: o.kind, name: o.name, pack: await sourcePack(db(), p.id, o) });
	return {
		tables: (await allParts(db(), p.id, [...kinds, ...logs.map((o) => tableState(o.state).kind)])).filter(
			// A version of a log counts only where it is asked for.
			(t) => !t.state.versionOf || logs.some((o) => o.id === t.id)
		),
		options: check,
		extent: p.extent,
		column: state('column').units,
		lumping: state('lumping').codes,
		faults: state('faults').faults,
		terrain: check.around?.terrain ?? null,
		shaping: byTableId(shaping, graph),
		named
	};
}

/** The tables of some kinds, and how they are checked: all that hole paths are made of. */
export async function checkedTables(
	seen: SeenProject,
	model: string | null,
	kinds: readonly TableKind[]
): Promise<Pick<InterpretationInput, 'tables' | 'options'>> {
	const { options } = await checkInputOf(db(), seen, model);
	return { tables: await allParts(db(), seen.project.id, kinds), options };
}
