import type { PackedArray, Pack } from '../formats/pack';
import { NO_CLASS, type CategoryColumn, type Column, type DataSet } from './dataset';

/**
 * A data set as a pack that is small to send: rows that follow each other are a first number, holes are runs, and an upper depth that is
 * the lower depth of the row before is left out.
 * @param before the pack of an earlier state: classes keep their numbers where all of them are still there, so that little changes
 */
export function packDataSet(set: DataSet, before: Pack | null = null): Pack {
	const { row, hole, from, to, xyz, ...rest } = set;
	const known = new Map(((before?.info['columns'] ?? []) as Column[]).map((c) => [c.key, c]));
	const columns = rest.columns.map((c) => {
		const old = known.get(c.key);
		return c.type === 'category' && old?.type === 'category' ? withClassesOf(c, old.categories) : c;
	});
	const n = set.rowCount;
	const arrays: Record<string, PackedArray> = { xyz };
	const consecutive = n > 0 && row.every((r, i) => r === row[0]! + i);
	if (!consecutive) arrays['row'] = row;
	const runs: number[] = [];
	for (let i = 0; i < hole.length; i++)
		if (i === 0 || hole[i] !== hole[i - 1]) runs.push(hole[i]!, 1);
		else runs[runs.length - 1]!++;
	arrays['runs'] = Uint32Array.from(runs);
	if (set.place === 'interval') {
		arrays['to'] = to;
		const open: number[] = [];
		for (let i = 0; i < n; i++) if (i === 0 || hole[i] !== hole[i - 1] || from[i] !== to[i - 1]) open.push(i);
		// Where most rows begin anew, it is shorter to send the depths.
		if (open.length < n / 2) {
			arrays['open'] = Uint32Array.from(open);
			arrays['openFrom'] = Float32Array.from(open, (i) => from[i]!);
		} else arrays['from'] = from;
	} else arrays['from'] = from;
	columns.forEach((c, i) => (arrays[`c${i}`] = c.values));
	return { info: { ...rest, firstRow: consecutive ? row[0]! : null, columns: columns.map(({ values: _, ...c }) => c) }, arrays };
}

/** A column with the classes numbered as they were, new ones behind; as it is when one of them is gone. */
function withClassesOf(column: CategoryColumn, before: readonly string[]): CategoryColumn {
	const own = new Set(column.categories);
	if (before.some((c) => !own.has(c))) return column;
	const categories = [...new Set([...before, ...column.categories])];
	const at = new Map(categories.map((c, i) => [c, i]));
	const number = Uint16Array.from(column.categories, (c) => at.get(c)!);
	return { ...column, categories, values: column.values.map((v) => (v === NO_CLASS ? NO_CLASS : number[v]!)) };
}

/** The data set of a pack. */
export function unpackDataSet({ info, arrays }: Pack): DataSet {
	const {
		firstRow,
		columns,
		key: _,
		...rest
	} = info as unknown as Omit<DataSet, 'row' | 'hole' | 'from' | 'to' | 'xyz' | 'columns'> & {
		key?: string;
		firstRow: number | null;
		columns: Omit<DataSet['columns'][number], 'values'>[];
	};
	const n = rest.rowCount;
	let row = arrays['row'] as Uint32Array | undefined;
	if (!row) {
		row = new Uint32Array(n);
		for (let i = 0; i < n; i++) row[i] = firstRow! + i;
	}
	const runs = arrays['runs'] as Uint32Array;
	const hole = new Uint32Array(runs.length ? n : 0);
	let at = 0;
	for (let k = 0; k < runs.length; k += 2) {
		hole.fill(runs[k]!, at, at + runs[k + 1]!);
		at += runs[k + 1]!;
	}
	const to = (arrays['to'] ?? arrays['from']) as Float32Array;
	let from = arrays['from'] as Float32Array | undefined;
	if (!from) {
		from = new Float32Array(n);
		from.set(to.subarray(0, Math.max(0, n - 1)), n ? 1 : 0);
		const open = arrays['open'] as Uint32Array;
		const openFrom = arrays['openFrom'] as Float32Array;
		for (let k = 0; k < open.length; k++) from[open[k]!] = openFrom[k]!;
	}
	return {
		...rest,
		row,
		hole,
		from,
		to,
		xyz: arrays['xyz'] as Float64Array,
		columns: columns.map((c, i) => ({ ...c, values: arrays[`c${i}`] }) as DataSet['columns'][number])
	};
}
