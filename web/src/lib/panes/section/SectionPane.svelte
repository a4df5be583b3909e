<script lang="ts">
	import PaneButton from '../PaneButton.svelte';
	import { COPPER, DRAWN, DRAWN_DARK, INK, PLOT } from '#core/palette';
	import Aim from '../Aim.svelte';
	import { onMount, untrack } from 'svelte';
	import { Settings2, Waypoints } from '$lib/icons';
	import { columnOf } from '#core/datasets/dataset';
	import { ticks, spaced } from '#core/formats/ticks';
	import { holeIndex, rowAtDepth } from '#core/scene/hole-index';
	import { crossings, holesNearSection } from '#core/sections/along-section';
	import { sectionTitle } from '#core/sections/letters';
	import { sampleRaster } from '#core/grids/raster';
	import { cutSection, pointOnTrace, projectOnTrace, traceLength, type SectionPicture } from '#core/sections/section';
	import { proposePattern } from '#core/styles/patterns';
	import { settingsOf } from '$lib/workbench/bench.svelte';
	import { keptSection, stepFrom } from '$lib/workbench/section-sets';
	import { valueText } from '$lib/workbench/sets.svelte';
	import type { PaneState } from '$lib/workbench/state';
	import type { Workspace } from '$lib/workspace.svelte';
	import { sectionPicture } from '../paint';
	import { setExporter } from '../export.svelte';
	import { pinch } from '../pinch';
	import ZoomButtons from '../ZoomButtons.svelte';
	import DrawnContacts from './DrawnContacts.svelte';
	import FaceNames from './FaceNames.svelte';
	import HoleNames from './HoleNames.svelte';
	import { rowsInBox, holeAt } from './section-drawing';
	import PlaneMarks from './PlaneMarks.svelte';
	import SectionAxes from './SectionAxes.svelte';
	import SectionGround from './SectionGround.svelte';
	import SectionHoles from './SectionHoles.svelte';
	import SectionLines from './SectionLines.svelte';
	import SectionNotes from './SectionNotes.svelte';
	import SectionSteps from './SectionSteps.svelte';
	import SectionView from './SectionView.svelte';

	let { workspace, id, pane }: { workspace: Workspace; id: string; pane: PaneState } = $props();
	untrack(() => workspace.need('holes', 'terrain', 'model', 'things'));
	const my = settingsOf(
		untrack(() => pane),
		'section',
		{
			zoom: 1,
			shift: [0, 0] as [number, number],
			grid: true,
			barWidth: 5,
			dips: true,
			names: true,
			units: true,
			line: null as string | number | null,
			solids: null as string | null,
			over: null as string | null
		}
	);
	let box: HTMLDivElement;
	let drawing: SVGSVGElement | undefined = $state();
	let width = $state(600);
	let height = $state(300);
	let open = $state<'' | 'view' | 'lines'>('');
	/** The head of the pane has room for icons only. */
	const narrow = $derived(width < 440);

	onMount(() => {
		const watch = new ResizeObserver(([entry]) => {
			width = entry!.contentRect.width;
			height = entry!.contentRect.height;
		});
		watch.observe(box);
		return () => watch.disconnect();
	});

	const bench = $derived(workspace.bench.state);
	const sets = $derived(workspace.sets);
	/** The section that this pane keeps to, or the one that all look at. */
	const section = $derived(my.line === null ? workspace.section : (keptSection(workspace.sections, my.line) ?? null));
	/** A section that is selected in a list or in the lineage is shown, once: steps go on from it. */
	let followed: unknown = null;
	$effect(() => {
		const s = workspace.selection;
		if (s?.kind !== 'object' || s === followed || !workspace.sections.some((x) => x.id === s.id)) return;
		followed = s;
		// A pane that keeps one keeps it.
		if (untrack(() => my.line === null)) workspace.bench.state.section = s.id;
	});
	const trace = $derived(section?.trace ?? []);
	const length = $derived(trace.length > 1 ? traceLength(trace) : 0);
	/** The model that this pane shows, and another one whose lines lie over it. */
	const solids = $derived(workspace.solids(my.solids));
	const overlaid = $derived(my.over === null ? null : workspace.solids(my.over));
	$effect(() => {
		workspace.needSolids(my.solids);
		workspace.needSolids(my.over);
	});
	const mesh = $derived(solids?.mesh);
	const picture = $derived<SectionPicture | null>(mesh && length > 0 ? cutSection(mesh, trace) : null);
	const isOwn = $derived(solids === workspace.ownSolids);
	/** What fills space with numbers, as a picture of the section. */
	const painted = $derived.by(() => {
		const at = isOwn ? workspace.paint?.at : null;
		return at && length > 0
			? sectionPicture(
					workspace.paint!.scale,
					(s, z) => {
						const [x, y] = pointOnTrace(trace, s);
						return workspace.terrain && z > sampleRaster(workspace.terrain, x, y) ? NaN : at(x, y, z);
					},
					length,
					range
				)
			: null;
	});
	const unitOf = $derived(solids?.units ?? []);
	const holes = $derived(sets.paths && length > 0 ? holesNearSection(sets.paths, trace, section!.corridor) : []);
	const along = $derived(sets.of(workspace.along));
	const range = $derived.by((): [number, number] => {
		const e = workspace.project?.extent;
		if (e) return [e.minZ, e.maxZ];
		const z = holes.flatMap((h) => [h.points[1]!, h.points[h.points.length - 1]!]);
		return z.length ? [Math.min(...z) - 10, Math.max(...z) + 10] : [-500, 500];
	});

	const left = 56;
	const bottom = 30;
	const top = 38;
	const right = 14;
	const exaggeration = $derived(section?.exaggeration ?? bench.exaggeration);
	const sx = $derived(
		(my.zoom * Math.min(width - left - right, (height - top - bottom) * (length / ((range[1] - range[0]) * exaggeration) || 1))) /
			(length || 1)
	);
	const sz = $derived(sx * exaggeration);
	const middle = $derived({ x: left + (width - left - right) / 2, y: top + (height - top - bottom) / 2 });
	const X = $derived((v: number) => middle.x + (v - length / 2) * sx + my.shift[0]);
	const Y = $derived((v: number) => middle.y - (v - (range[0] + range[1]) / 2) * sz + my.shift[1]);
	const frame = $derived({
		x0: Math.max(left, X(0)),
		x1: Math.min(width - right, X(length)),
		y0: Math.max(top, Y(range[1])),
		y1: Math.min(height - bottom, Y(range[0]))
	});
	const seen = $derived({ w: Math.max(0, frame.x1 - frame.x0), h: Math.max(0, frame.y1 - frame.y0) });

	const place = $derived({ X, Y });
	/** What is seen of the units of the model, from the picture of the section. */
	const faces = $derived(
		picture && bench.filled && workspace.shown('volumes')
			? [...picture.fills].flatMap(([u, rings]) => {
					const info = unitOf[u];
					return info && workspace.shown(`unit:${info.id}`) ? [{ info, rings, pattern: proposePattern(info.name) }] : [];
				})
			: []
	);
	const alongOf = (x: number) => (x - my.shift[0] - middle.x) / sx + length / 2;
	const elevationOf = (y: number) => (range[0] + range[1]) / 2 - (y - my.shift[1] - middle.y) / sz;
	const crossed = $derived(
		length > 0
			? workspace.sections.flatMap((s) => (s.trace === trace ? [] : crossings(trace, s.trace).map((at) => ({ at, name: s.name }))))
			: []
	);

	const marker = $derived.by(() => {
		const p = workspace.probe;
		if (!p || p.from === id || length === 0) return null;
		const at = projectOnTrace(trace, p.x, p.y);
		return { x: X(at.along), y: p.z === null ? null : Y(p.z), off: at.off };
	});

	let dragging: { x: number; y: number; moved: boolean } | null = null;
	const at = (event: MouseEvent): [number, number] => {
		const r = box.getBoundingClientRect();
		return [alongOf(event.clientX - r.left), elevationOf(event.clientY - r.top)];
	};
	const near = (s: number, z: number) => (workspace.shown('holes') ? holeAt(holes, X(s), Y(z), place) : null);
	const rowOn = (hole: number, depth: number) =>
		along && sets.paths ? rowAtDepth(along, holeIndex(along, sets.paths.holes.length), hole, depth) : -1;

	/** A box that is swept over the holes with Shift: its corners, distance and elevation. */
	let sweep = $state<[number, number, number, number] | null>(null);
	function endSweep(event: PointerEvent) {
		const box = sweep;
		sweep = null;
		if (!box || !along || !sets.paths) return;
		const [low, high] = [
			[Math.min(box[0], box[2]), Math.min(box[1], box[3])],
			[Math.max(box[0], box[2]), Math.max(box[1], box[3])]
		];
		const rows = rowsInBox(along, holes, sets.paths.holes.length, [low[0]!, low[1]!, high[0]!, high[1]!]);
		if (rows.length) workspace.pressRows(along.id, rows, event);
	}

	function move(event: PointerEvent) {
		if (sweep) {
			const [s, z] = at(event);
			sweep = [sweep[0], sweep[1], s, z];
			return;
		}
		if (dragging) {
			if (Math.hypot(event.clientX - dragging.x, event.clientY - dragging.y) > 3) dragging.moved = true;
			if (dragging.moved) {
				my.shift = [my.shift[0] + event.clientX - dragging.x, my.shift[1] + event.clientY - dragging.y];
				dragging = { x: event.clientX, y: event.clientY, moved: true };
			}
			return;
		}
		const [s, z] = at(event);
		if (s < 0 || s > length) return;
		const [x, y] = pointOnTrace(trace, s);
		const found = near(s, z);
		const element = event.target as Element;
		let what = element.getAttribute('data-what') ?? '';
		if (found) {
			const row = rowOn(found.h.hole, found.depth);
			const column = along ? columnOf(along, sets.style(along).by) : null;
			what = `${found.h.name} at ${spaced(found.depth, 1)} ${unit}${row >= 0 && column ? `: ${valueText(column, row) || 'no value'}` : ''}, projected ${spaced(found.h.off[0])} – ${spaced(found.h.off[1])} ${unit}`;
		}
		workspace.probe = { x, y, z, what, from: id };
	}
	const drawingContact = $derived(workspace.draw?.what === 'contact on section');
	/** Distance and elevation of the vertices of the contact that is being drawn. */
	let drawn = $state<[number, number][]>([]);
	$effect(() => {
		if (!drawingContact) drawn = [];
	});
	function endContact() {
		const task = workspace.draw;
		if (!task || drawn.length === 0) return;
		const round = (v: number) => Math.round(v * 10) / 10;
		const places = drawn.map(([s]) => pointOnTrace(trace, s).map(round) as [number, number]);
		workspace.draw = null;
		task.done(
			places,
			drawn.map(([, z]) => round(z))
		);
	}
	function choose(event: MouseEvent) {
		if (dragging?.moved) return;
		const [s, z] = at(event);
		if (drawingContact) {
			if (event.detail < 2) drawn = [...drawn, [Math.min(length, Math.max(0, s)), z]];
			else endContact();
			return;
		}
		const found = near(s, z);
		if (found) {
			const row = rowOn(found.h.hole, found.depth);
			if (row >= 0) workspace.pressRows(along!.id, [along!.row[row]!], event);
			else workspace.selection = { kind: 'hole', name: found.h.name };
			return;
		}
		const target = event.target as Element;
		const own = target.getAttribute('data-unit');
		const row = target.getAttribute('data-row');
		if (row) workspace.pressRows(target.getAttribute('data-table')!, [Number(row)], event);
		else if (own) workspace.selectUnit(own, solids);
	}

	/** @param x, y what stays where it is, client pixels */
	function zoomBy(factor: number, x?: number, y?: number) {
		const next = Math.min(80, Math.max(0.8, my.zoom * factor));
		const r = box.getBoundingClientRect();
		const [px, py] = [(x ?? r.left + middle.x) - r.left - middle.x, (y ?? r.top + middle.y) - r.top - middle.y];
		my.shift = [px - ((px - my.shift[0]) * next) / my.zoom, py - ((py - my.shift[1]) * next) / my.zoom];
		my.zoom = next;
	}
	function wheel(event: WheelEvent) {
		event.preventDefault();
		zoomBy(Math.exp(-event.deltaY * 0.0012), event.clientX, event.clientY);
	}
	function showAll() {
		my.zoom = 1;
		my.shift = [0, 0];
	}

	/** The pane has the focus of the keyboard: a cross marks its middle. */
	let aiming = $state(false);
	/** Does to what lies in the middle what the pointer would do. */
	function atMiddle(event: (at: MouseEventInit) => Event) {
		const r = box.getBoundingClientRect();
		const at = { clientX: r.left + r.width / 2, clientY: r.top + r.height / 2, bubbles: true };
		document.elementFromPoint(at.clientX, at.clientY)?.dispatchEvent(event(at));
	}

	function keys(event: KeyboardEvent) {
		if (event.target !== box || event.ctrlKey || event.altKey || event.metaKey) return;
		// Who draws with the pointer ends by Enter; who has the keyboard only sets vertices with it.
		if (drawingContact && event.key === 'Enter' && (!aiming || event.shiftKey)) return endContact();
		aiming ||= ['Enter', ' ', 'Backspace', '+', '-', '0'].includes(event.key) || event.key.startsWith('Arrow');
		const step = { ArrowLeft: [40, 0], ArrowRight: [-40, 0], ArrowUp: [0, 40], ArrowDown: [0, -40] }[event.key];
		if (step) my.shift = [my.shift[0] + step[0]!, my.shift[1] + step[1]!];
		else if (event.key === '+') zoomBy(1.25);
		else if (event.key === '-') zoomBy(1 / 1.25);
		else if (event.key === '0') showAll();
		else if (event.key === 'Enter') atMiddle((at) => new MouseEvent('click', { ...at, detail: 1 }));
		else if (event.key === ' ') atMiddle((at) => new PointerEvent('pointermove', at));
		else if (event.key === 'Backspace' && drawingContact) drawn = drawn.slice(0, -1);
		else if (event.key === 'PageDown') stepTo(1);
		else if (event.key === 'PageUp') stepTo(-1);
		else return;
		event.preventDefault();
	}
	function show(to: string | null) {
		if (my.line === null) workspace.bench.state.section = to;
		else my.line = to;
	}
	function stepTo(by: 1 | -1) {
		const to = stepFrom(workspace.sections, section?.id, by);
		if (to !== null) show(to);
	}
	const unit = $derived(workspace.project?.lengthUnit ?? 'm');

	setExporter(() => id, {
		name: 'section',
		svg: () => {
			if (!drawing) throw new Error('There is no section to save.');
			const copy = drawing.cloneNode(true) as SVGSVGElement;
			copy.setAttribute('xmlns', 'http://www.w3.org/2000/svg');
			copy.setAttribute('font-family', 'IBM Plex Sans Condensed, IBM Plex Sans, sans-serif');
			copy.setAttribute('font-size', '12');
			copy.removeAttribute('class');
			for (const e of copy.querySelectorAll('[data-probe]')) e.remove();
			return copy.outerHTML;
		}
	});
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
<div
	bind:this={box}
	class="absolute inset-0 touch-none overflow-hidden on-paper"
	role="application"
	tabindex="0"
	aria-label="Section {section ? sectionTitle(section.name) : ''}, {spaced(
		length
	)} {unit} long, with {holes.length} holes in the corridor. Arrow keys move it, plus and minus zoom, 0 shows all, Shift and a drag select intervals, page keys step through the set."
	onpointermove={move}
	onpointerdown={(e) => {
		aiming = false;
		if (e.shiftKey && e.isPrimary && along?.place === 'interval' && !drawingContact) {
			const [s, z] = at(e);
			sweep = [s, z, s, z];
			box.setPointerCapture(e.pointerId);
			// The press that ends it chooses nothing besides.
			dragging = { x: e.clientX, y: e.clientY, moved: true };
			return;
		}
		// A second finger pinches; it does not drag.
		dragging = e.isPrimary ? { x: e.clientX, y: e.clientY, moved: false } : null;
	}}
	onpointerup={(e) => {
		endSweep(e);
		setTimeout(() => (dragging = null));
	}}
	onpointerleave={() => (dragging = null)}
	onclick={choose}
	onwheel={wheel}
	onkeydown={keys}
	onfocus={() => (aiming = box.matches(':focus-visible'))}
	onblur={() => (aiming = false)}
	use:pinch={zoomBy}
>
	{#if aiming && length > 0}<Aim />{/if}
	{#if length > 0 && solids && (!isOwn || overlaid)}<p class="absolute bottom-8 left-16 z-10 bg-white/85 px-1.5 text-sm" data-probe>
			{solids.name}{#if overlaid}, with <span class="border-b-2 border-dashed border-(--drawn-dark)">{overlaid.name}</span> over it{/if}
		</p>{/if}
	{#if length === 0}
		<p class="p-6 pt-12">
			No section yet. Press <b>Draw section</b> under Examine and draw its line on the map, or make one under <b>Sections</b> above.
		</p>
	{:else}
		<svg bind:this={drawing} {width} {height} viewBox="0 0 {width} {height}" class="font-condensed block text-[12px]">
			<clipPath id="clip-{id}"><rect x={frame.x0} y={frame.y0} width={seen.w} height={seen.h} /></clipPath>
			<g clip-path="url(#clip-{id})">
				<rect x={frame.x0} y={frame.y0} width={seen.w} height={seen.h} fill={PLOT} />
				<SectionGround {workspace} {id} {trace} {picture} {faces} {painted} {solids} {overlaid} {place} {range} {length} />
				{#if my.grid}
					<g stroke={INK} stroke-opacity=".18" stroke-width=".7">
						{#each ticks(range[0], range[1], Math.max(3, (sz * (range[1] - range[0])) / 60)) as z (z)}<path
								d="M{frame.x0} {Y(z)}H{frame.x1}"
							/>{/each}
						{#each ticks(0, length, Math.max(2, (sx * length) / 90)) as x (x)}<path d="M{X(x)} {frame.y0}V{frame.y1}" />{/each}
					</g>
				{/if}
				{#each crossed as c (c.name + c.at)}
					<path d="M{X(c.at)} {frame.y0}V{frame.y1}" stroke={DRAWN} stroke-width="1" stroke-dasharray="6 4" /><text
						x={X(c.at) + 3}
						y={frame.y0 + 12}
						fill={DRAWN_DARK}>{c.name}</text
					>
				{/each}
				{#if workspace.shown('holes')}<SectionHoles {workspace} {holes} {along} {trace} {place} {width} barWidth={my.barWidth} />{/if}
				{#if my.units && !painted}<FaceNames {faces} {frame} {place} {alongOf} {elevationOf} />{/if}
				{#if my.dips && section}<PlaneMarks {workspace} {section} {place} {exaggeration} top={range[1]} />{/if}
			</g>
			{#if sweep}<rect
					data-probe="yes"
					x={Math.min(X(sweep[0]), X(sweep[2]))}
					y={Math.min(Y(sweep[1]), Y(sweep[3]))}
					width={Math.abs(X(sweep[2]) - X(sweep[0]))}
					height={Math.abs(Y(sweep[3]) - Y(sweep[1]))}
					fill={DRAWN}
					fill-opacity=".12"
					stroke={DRAWN}
				/>{/if}
			<g clip-path="url(#clip-{id})"><DrawnContacts {workspace} {trace} corridor={section?.corridor ?? 0} {X} {Y} {drawn} /></g>
			<rect x={frame.x0} y={frame.y0} width={seen.w} height={seen.h} fill="none" stroke={INK} />
			{#if workspace.shown('holes') && my.names}<HoleNames {workspace} {holes} {frame} {place} />{/if}
			<SectionAxes {frame} {place} {range} {length} {sx} {sz} {unit} name={section?.name ?? ''} />
			{#if marker}
				<g data-probe="yes"
					><path d="M{marker.x} {frame.y0}V{frame.y1}" stroke={COPPER} stroke-dasharray="3 3" />
					{#if marker.y !== null}<circle cx={marker.x} cy={marker.y} r="5" fill="none" stroke="#fff" stroke-width="4" /><circle
							cx={marker.x}
							cy={marker.y}
							r="5"
							fill="none"
							stroke={COPPER}
							stroke-width="2"
						/>{/if}</g
				>
			{/if}
		</svg>
		<SectionNotes {workspace} {drawingContact} hasModel={picture !== null} />
	{/if}
</div>
<div class="absolute top-1 right-2 flex items-center gap-1">
	{#if length > 0}<ZoomButtons by={zoomBy} all={showAll} />{/if}
	{#if workspace.sections.length > 1 && section}<SectionSteps sections={workspace.sections} {section} {my} {narrow} step={stepTo} />{/if}
	<PaneButton active={open === 'view'} expanded={open === 'view'} title="View" press={() => (open = open === 'view' ? '' : 'view')}
		><Settings2 size={13} /><span class={narrow ? 'sr-only' : ''}>View</span></PaneButton
	>
	<PaneButton active={open === 'lines'} expanded={open === 'lines'} title="Sections" press={() => (open = open === 'lines' ? '' : 'lines')}
		><Waypoints size={13} /><span class={narrow ? 'sr-only' : ''}>Sections</span></PaneButton
	>
</div>
{#if open === 'view'}<SectionView {workspace} {my} />
{:else if open === 'lines'}
	<SectionLines {workspace} shown={section?.id ?? ''} {show} />
{/if}
