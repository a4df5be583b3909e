import { INK, MOSS } from '#core/palette';
import Feature, { type FeatureLike } from 'ol/Feature';
import { LineString, MultiPoint, Point, Polygon } from 'ol/geom';
import { Circle, Fill, Stroke, Style } from 'ol/style';
import { sectionTitle } from '#core/sections/letters';
import { WALLS, wordsOf } from '#core/project/shaping';
import type { Workspace } from '$lib/workspace.svelte';

/** What the pane says while a line of each kind is drawn. */
export const DRAWING = {
	fault: 'Draw the trace of the fault',
	section: 'Draw the section line',
	contact: 'Draw the contact',
	outline: 'Draw the outline of the model',
	'contact on section': 'Draw the contact on a section pane'
} as const;

/** Contacts that were drawn or typed, in the colour of their unit, and the outlines that limit the model. */
export function shapeFeatures(workspace: Workspace): Feature[] {
	const shaping = workspace.interpretation?.shaping;
	if (!shaping) return [];
	const lines = shaping.lines.flatMap((l) => {
		if (!l.on || !l.vertices?.length) return [];
		const unit = workspace.allUnits.find((u) => u.id === l.unit);
		const places = l.vertices.map((v) => [v[0], v[1]]);
		return [
			new Feature({
				geometry:
					l.tells === 'base' || l.tells === 'top' || WALLS[l.tells] !== undefined
						? places.length > 1
							? new LineString(places)
							: new MultiPoint(places)
						: new MultiPoint(places),
				color: unit?.color ?? MOSS,
				label: `${l.name}: ${wordsOf(l.tells)} of ${unit?.name ?? l.unit}`
			})
		];
	});
	const outlines = shaping.limits.flatMap((l) =>
		l.on && l.kind === 'outline' && (l.trace?.length ?? 0) > 2
			? [new Feature({ geometry: new Polygon([[...l.trace!, l.trace![0]!]]), outline: true, label: 'Limit of the model' })]
			: []
	);
	return [...lines, ...outlines];
}

export function shapeStyle(f: FeatureLike): Style[] {
	if (f.get('outline')) return [new Style({ stroke: new Stroke({ color: INK, width: 1.6, lineDash: [9, 4, 2, 4] }) })];
	const color = f.get('color') as string;
	return [
		new Style({
			stroke: new Stroke({ color: INK, width: 4 }),
			image: new Circle({ radius: 4.4, fill: new Fill({ color }), stroke: new Stroke({ color: INK, width: 1.4 }) })
		}),
		new Style({ stroke: new Stroke({ color, width: 2.2 }) })
	];
}

/** Traces of the faults that are shown, with all their pieces; the name stands at the first. */
export const faultFeatures = (workspace: Workspace): Feature[] =>
	(workspace.interpretation?.faults.faults ?? []).flatMap((f) =>
		workspace.shown(`fault:${f.id}`)
			? [f.trace, ...(f.pieces ?? [])].map(
					(line, k) =>
						new Feature({
							geometry: new LineString(line),
							id: f.id,
							name: k ? '' : f.name,
							label: f.name,
							dipAzimuth: f.dipAzimuth,
							select: { kind: 'fault', id: f.id }
						})
				)
			: []
	);

/** Lines of the sections; the one that is looked at with its ends. */
export function sectionFeatures(workspace: Workspace): Feature[] {
	const now = workspace.section;
	return workspace.sections.flatMap((s) => {
		const main = s.id === now?.id;
		const line = new Feature({ geometry: new LineString(s.trace), label: `Section ${sectionTitle(s.name)}`, faint: !main });
		if (!main) return [line];
		return [
			line,
			new Feature({ geometry: new Point(s.trace[0]!), end: s.name }),
			new Feature({ geometry: new Point(s.trace[s.trace.length - 1]!), end: `${s.name}′` })
		];
	});
}
