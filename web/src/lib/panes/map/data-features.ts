import Feature from 'ol/Feature';
import { LineString, Point } from 'ol/geom';
import { columnOf, numberOf, type DataSet } from '#core/datasets/dataset';
import type { HolePaths } from '#core/datasets/hole-paths';
import { spaced } from '#core/formats/ticks';
import { sharesByHole } from '#core/scene/shares';
import { classStyle } from '#core/styles/style';
import { valueText } from '$lib/workbench/sets.svelte';
import type { Workspace } from '$lib/workspace.svelte';
import { symbolKind } from './styles';

/** A hole that leads aside by less is a dot, project units. */
const STRAIGHT_DOWN = 0.5;

/** Rows of a table with places: orientations as symbols, all others as dots. */
export function rowFeatures(workspace: Workspace, table: string, set: DataSet): Feature[] {
	const { sets, selection } = workspace;
	const style = sets.style(set);
	const painter = sets.painter(set);
	const color = columnOf(set, style.by);
	const label = columnOf(set, style.labels);
	const chosen = new Set(selection?.kind === 'rows' && selection.table === set.id ? selection.rows : []);
	const values = (key: string) => numberOf(set, key)?.values;
	const [dip, dipAzimuth, polarity, plunge, trend] = [
		values('dip'),
		values('dipAzimuth'),
		values('polarity'),
		values('plunge'),
		values('trend')
	];
	const feature = columnOf(set, 'feature');
	const made: Feature[] = [];
	const planes = set.kind === 'orientations';
	for (let i = 0; i < set.rowCount; i++) {
		if (!painter.shown(i)) continue;
		const geometry = new Point([set.xyz[3 * i]!, set.xyz[3 * i + 1]!]);
		const common = {
			geometry,
			select: { kind: 'rows', table: set.id, rows: [set.row[i]!] },
			color: painter.css(i),
			chosen: chosen.has(set.row[i]!),
			text: label ? valueText(label, i) : undefined
		};
		if (planes) {
			const line = plunge !== undefined && trend !== undefined && !Number.isNaN(plunge[i]!) && !Number.isNaN(trend[i]!);
			const [d, a] = line ? [plunge[i]!, trend[i]!] : [dip?.[i] ?? NaN, dipAzimuth?.[i] ?? NaN];
			if (Number.isNaN(d) || Number.isNaN(a)) continue;
			const word = feature ? valueText(feature, i) : '';
			made.push(
				new Feature({
					...common,
					dip: d,
					dipAzimuth: a,
					symbol: line ? 'line' : symbolKind(word, d, polarity?.[i] ?? 1),
					scale: chosen.has(set.row[i]!) ? 1.5 : painter.size(i) === 1 ? 1 : Math.min(2, Math.max(0.6, painter.size(i))),
					label: `${word ? `${word} ` : ''}${Math.round(d)}° to ${String(Math.round(a) % 360).padStart(3, '0')}°${color ? `, ${valueText(color, i)}` : ''}`
				})
			);
		} else
			made.push(
				new Feature({
					...common,
					radius: Math.max(1.5, (style.size.unit === 'px' ? style.size.value / 2 : 3.5) * painter.size(i)),
					label: `${table}${color ? `: ${valueText(color, i)}` : ''}`
				})
			);
	}
	return made;
}

/** Which classes the holes meet, for how much of their length in a range of depths, as parts of a circle at each collar. */
export function shareFeatures(workspace: Workspace, my: { pies: string; pieFrom: number; pieTo: number; pieSize: number }): Feature[] {
	const { sets } = workspace;
	const unit = workspace.project?.lengthUnit ?? 'm';
	const set = my.pies === 'none' ? null : sets.of(workspace.along);
	const p = sets.paths;
	if (!set || !p || set.place !== 'interval') return [];
	const style = sets.style(set);
	const column = columnOf(set, style.by);
	const painter = sets.painter(set);
	if (column?.type !== 'category') return [];
	const shares = sharesByHole(set, column, p, my.pieFrom, my.pieTo > my.pieFrom ? my.pieTo : Infinity, painter.shown);
	const most = Math.max(1e-9, ...shares.map((s) => s.logged));
	const colors = column.categories.map((c) => classStyle(column, c, style, sets.defaults).color);
	return shares.flatMap((s, h) => {
		if (s.shares.length === 0) return [];
		const hole = p.holes[h]!;
		const text = s.shares.map((x) => `${column.categories[x.category]} ${Math.round(100 * x.share)} %`).join(', ');
		return [
			new Feature({
				geometry: new Point([hole.collar[0], hole.collar[1]]),
				parts: s.shares.map((x) => ({ color: colors[x.category]!, share: x.share })),
				radius: my.pies === 'sized' ? Math.max(3, my.pieSize * Math.sqrt(s.logged / most)) : my.pieSize,
				label: `${hole.name}: ${text} of ${spaced(s.logged, 1)} ${unit}`,
				select: { kind: 'hole', name: hole.name }
			})
		];
	});
}

/** Collars of holes as dots, coloured as their table says, and traces of those that lead aside. */
export function holeFeatures(p: HolePaths, set: DataSet | null, sets: Workspace['sets']): { holes: Feature[]; traces: Feature[] } {
	const style = set ? sets.style(set) : null;
	const painter = set ? sets.painter(set) : null;
	const rowOf = new Map(set ? Array.from(set.row, (r, i) => [r, i]) : []);
	const holes: Feature[] = [];
	const traces: Feature[] = [];
	p.holes.forEach((h, n) => {
		const i = rowOf.get(h.row);
		if (painter && i !== undefined && !painter.shown(i)) return;
		const named = style?.by && painter && i !== undefined ? { color: painter.css(i) } : {};
		const radius =
			style && i !== undefined && style.size.by && painter ? { radius: Math.max(2, (style.size.value / 2) * painter.size(i)) } : {};
		holes.push(
			new Feature({
				geometry: new Point([h.collar[0], h.collar[1]]),
				name: h.name,
				label: h.name,
				select: { kind: 'hole', name: h.name },
				...named,
				...radius
			})
		);
		const line: number[][] = [];
		for (let v = p.start[n]!; v < p.start[n + 1]!; v++) line.push([p.xyz[3 * v]!, p.xyz[3 * v + 1]!]);
		const [a, b] = [line[0], line.at(-1)];
		if (a && b && line.length > 1 && Math.hypot(a[0]! - b[0]!, a[1]! - b[1]!) > STRAIGHT_DOWN)
			traces.push(new Feature(new LineString(line)));
	});
	return { holes, traces };
}
