<script lang="ts">
	import { untrack } from 'svelte';
	import { DRAWN, INK } from '#core/palette';
	import { columnOf } from '#core/datasets/dataset';
	import { spaced } from '#core/formats/ticks';
	import { holesNearSection } from '#core/sections/along-section';
	import { projectOnTrace } from '#core/sections/section';
	import type { LogTrack } from '#core/logs/spec';
	import { correlationData, schemeOf } from '#core/stratigraphy/correlation-data';
	import {
		correlatedRuns,
		drawCorrelation,
		layoutCorrelation,
		MOST_CORRELATED,
		type CorrelatedHole,
		type CorrelationSpec
	} from '#core/stratigraphy/correlation';
	import { holeAges, type AgeSources } from '#core/stratigraphy/hole-ages';
	import { boundariesOf, nearestOf } from '#core/stratigraphy/runs';
	import type { TieEnd } from '#core/stratigraphy/ties';
	import { drawn } from '$lib/ui/drawing';
	import { saveBlob } from '$lib/ui/save';
	import { settingsOf } from '$lib/workbench/bench.svelte';
	import type { PaneState } from '$lib/workbench/state';
	import type { Workspace } from '$lib/workspace.svelte';
	import { setExporter } from '../export.svelte';
	import { depthOf } from '../log/log-places';
	import { LogFeed } from '../log/log-feed.svelte';
	import { plainTrack } from '../log/propose-tracks';
	import { stepFrom } from '$lib/workbench/section-sets';
	import AgesPanel from './AgesPanel.svelte';
	import { curveOptions, logOptions, newTie, proposeDates, withMovedEnds } from './choices';
	import CorrelationTools from './CorrelationTools.svelte';
	import TiesPanel from './TiesPanel.svelte';

	let { workspace, id, pane }: { workspace: Workspace; id: string; pane: PaneState } = $props();
	untrack(() => workspace.need('holes', 'things'));
	const my = settingsOf(
		untrack(() => pane),
		'correlation',
		{
			holes: [] as string[],
			from: 'section' as 'section' | 'chosen',
			axis: 'depth' as CorrelationSpec['axis'],
			log: null as CorrelationSpec['log'] | null,
			curves: [] as { table: string; column: string }[],
			spacing: 'equal' as CorrelationSpec['spacing'],
			flatten: null as CorrelationSpec['flatten'],
			fill: true,
			scheme: null as string | null,
			zoom: 1,
			scale: 500
		}
	);
	const sets = $derived(workspace.sets);
	const unit = $derived(workspace.project?.lengthUnit ?? 'm');
	const paths = $derived(sets.paths);
	const ground = $derived(workspace.stratigraphy);
	const logs = $derived(logOptions(workspace.tables, workspace.along, workspace.units.length > 0));
	const log = $derived(logs.find((l) => l.table === my.log?.table && l.column === my.log.column) ?? logs[0] ?? null);
	let panel = $state<'ties' | 'ages' | null>(null);
	let height = $state(400);
	let width = $state(800);
	let saving = $state(false);

	const names = $derived.by(() => {
		if (!paths) return [];
		const known = new Set(paths.holes.map((h) => h.name));
		const chosen = my.holes.filter((n) => known.has(n));
		const { section } = workspace;
		const onSection = section?.trace.length
			? holesNearSection(paths, section.trace, section.corridor)
					.map((h) => ({
						name: h.name,
						at: projectOnTrace(section.trace, ...(paths.holes[h.hole]!.collar.slice(0, 2) as [number, number])).along
					}))
					.sort((a, b) => a.at - b.at)
					.map((h) => h.name)
			: [];
		const list = my.from === 'chosen' && chosen.length ? chosen : onSection.length ? onSection : paths.holes.map((h) => h.name).slice(0, 8);
		return list.slice(0, MOST_CORRELATED);
	});
	const tracks = $derived<LogTrack[]>(
		log
			? [
					{ ...plainTrack('classes', 18), series: [{ table: log.table, column: log.column, color: INK }] },
					...my.curves.map((c): LogTrack => ({
						...plainTrack(sets.of(c.table)?.place === 'interval' ? 'bars' : 'curves', 14),
						series: [{ ...c, color: DRAWN }]
					}))
				]
			: []
	);
	const feed = new LogFeed(
		untrack(() => workspace),
		() => ({ names, tracks })
	);
	const ages = $derived<AgeSources>({
		scheme:
			my.scheme !== null && (my.scheme === '' || ground.schemes.some((s) => s.id === my.scheme))
				? my.scheme
				: (ground.schemes[0]?.id ?? ''),
		dates: proposeDates(workspace.tables)
	});
	const spec = $derived<CorrelationSpec | null>(
		log
			? {
					holes: names,
					tracks,
					axis: my.axis,
					log: { table: log.table, column: log.column },
					spacing: my.spacing,
					gap: my.axis === 'age' ? 14 : 24,
					flatten: my.flatten,
					fill: my.fill,
					scale: my.scale
				}
			: null
	);
	const order = $derived(workspace.units.map(({ name, contact }) => ({ name, contact })));
	const data = $derived(
		feed.data && spec ? correlationData(feed.data, spec, { ties: ground.ties, ages, schemes: ground.schemes, order }) : null
	);
	/** Pixels for a mm. */
	const PX = 3.4;
	const layout = $derived(data && spec ? layoutCorrelation(spec, data, { height: Math.max(60, (height / PX - 6) * my.zoom) }) : null);
	const drawing = $derived(layout && data ? drawCorrelation(layout, data, `${id}-`) : '');
	const undated = $derived(my.axis === 'age' && layout ? layout.holes.filter((h) => !h.stretches.some((s) => s.kind === 'logged')) : []);
	const isVersion = $derived(typeof workspace.objects.find((o) => o.id === log?.table)?.state['versionOf'] === 'string');
	const units = $derived.by(() => {
		const set = log ? sets.of(log.table) : null;
		const column = set ? columnOf(set, log!.column) : null;
		return column?.type === 'category' && column.categories.length <= 80 ? column.categories : [];
	});

	// A tie is drawn by pressing one boundary, then another; a boundary of a version is dragged.
	let start = $state<TieEnd | null>(null);
	let over = $state<{ hole: CorrelatedHole; depth: number } | null>(null);
	let pointer = $state<{ x: number; y: number } | null>(null);
	let pull = $state<{ hole: CorrelatedHole; from: number; to: number; y: number } | null>(null);
	const holeAt = (x: number) => layout?.holes.find((h) => x > h.x - 6 && x < h.x + h.width + 6) ?? null;
	const REACH = 12 / 3.4;

	/** The boundary under the pointer. */
	function boundaryAt(x: number, y: number): { hole: CorrelatedHole; depth: number } | null {
		const hole = holeAt(x);
		if (!hole || !layout || layout.spec.axis === 'age') return null;
		const near = nearestOf(boundariesOf(hole.runs), depthOf(y, hole.y, hole.from, hole.to));
		return near && Math.abs(hole.y(near.depth) - y) < REACH ? { hole, depth: near.depth } : null;
	}
	const mm = (event: PointerEvent) => {
		const box = (event.currentTarget as Element).getBoundingClientRect();
		return { x: (event.clientX - box.left) / PX, y: (event.clientY - box.top) / PX };
	};
	function move(event: PointerEvent) {
		pointer = mm(event);
		if (pull) {
			pull = { ...pull, to: depthOf(pointer.y, pull.hole.y, pull.hole.from, pull.hole.to) };
			return;
		}
		over = boundaryAt(pointer.x, pointer.y);
		const hole = holeAt(pointer.x);
		if (!hole || !paths || my.axis === 'age') return;
		const depth = depthOf(pointer.y, hole.y, hole.from, hole.to);
		const run = hole.runs.find((r) => r.from <= depth && depth <= r.to);
		const c = paths.holes[hole.number]!.collar;
		workspace.probe = {
			x: c[0],
			y: c[1],
			z: null,
			what: `${hole.name} at ${spaced(depth, 2)} ${unit}${run ? `: ${run.name}` : ''}`,
			from: id
		};
	}
	function press(event: PointerEvent) {
		if (event.button !== 0) return;
		const at = mm(event);
		const hit = boundaryAt(at.x, at.y);
		if (hit && isVersion) {
			pull = { hole: hit.hole, from: hit.depth, to: hit.depth, y: event.clientY };
			(event.currentTarget as Element).setPointerCapture(event.pointerId);
		}
	}
	function release(event: PointerEvent) {
		const p = pull;
		pull = null;
		if (p && Math.abs(event.clientY - p.y) > 4) return void moved(p);
		const at = mm(event);
		const hit = boundaryAt(at.x, at.y);
		if (!hit) {
			const hole = holeAt(at.x);
			if (hole && !start) workspace.selection = { kind: 'hole', name: hole.name };
			start = null;
			return;
		}
		const end = { hole: hit.hole.name, depth: hit.depth };
		if (!start || start.hole === end.hole) start = end;
		else {
			void tie(start, end);
			start = null;
		}
	}
	async function moved(p: NonNullable<typeof pull>) {
		const to = Math.round(p.to * 100) / 100;
		const tied = ground.ties.some((t) => [t.a, t.b].some((e) => e.hole === p.hole.name && Math.abs(e.depth - p.from) < 2e-3));
		const done = await workspace.moveBoundary(log!.table, p.hole.name, Math.round(p.from * 1000) / 1000, to);
		if (done && tied) await ground.setTies((ties) => withMovedEnds(ties, p.hole.name, p.from, to));
	}
	function tie(a: TieEnd, b: TieEnd) {
		const hole = layout?.holes.find((h) => h.name === a.hole);
		const at = hole ? boundariesOf(hole.runs).find((x) => Math.abs(x.depth - a.depth) < 1e-3) : null;
		const name = at ? (at.above && at.below ? `${at.above} on ${at.below}` : at.below ? `top of ${at.below}` : `base of ${at.above}`) : '';
		return ground.setTies((ties) => [...ties, newTie(ties, a, b, name)]);
	}
	/** Ends of ties that hang on the boundary that is dragged: the lines follow at once. */
	const hanging = $derived.by(() => {
		if (!pull || !layout) return [];
		return ground.ties.flatMap((t) => {
			const [own, other] = t.a.hole === pull!.hole.name ? [t.a, t.b] : [t.b, t.a];
			const far = layout.holes.find((h) => h.name === other.hole);
			return own.hole === pull!.hole.name && Math.abs(own.depth - pull!.from) < 2e-3 && far ? [{ far, depth: other.depth }] : [];
		});
	});

	/** The holes of the section, or some that stay whatever is selected later. */
	function which(select: HTMLSelectElement) {
		const picked = [...workspace.selectedHoles].slice(0, MOST_CORRELATED);
		if (select.value === 'selected' && picked.length < 2) workspace.say('Select two holes or more first.');
		else if (select.value === 'selected') my.holes = picked;
		else if (select.value === 'chosen') my.holes = names;
		if (select.value === 'section') my.from = 'section';
		else if (select.value === 'chosen' || picked.length > 1) my.from = 'chosen';
		select.value = my.from;
	}
	function step(by: 1 | -1) {
		const next = stepFrom(workspace.sections, workspace.section?.id, by);
		if (next !== null) workspace.bench.state.section = next;
	}
	function add(name: string) {
		if (!name || !paths) return;
		if (!paths.holes.some((h) => h.name === name)) return workspace.say(`There is no hole ${name}.`);
		if (names.length >= MOST_CORRELATED) return workspace.say(`At most ${MOST_CORRELATED} holes stand side by side.`);
		my.holes = [...(my.from === 'chosen' ? my.holes : names).filter((n) => n !== name), name];
		my.from = 'chosen';
	}
	function remove(name: string) {
		my.holes = names.filter((n) => n !== name);
		my.from = 'chosen';
	}
	function shift(name: string, by: number) {
		const list = [...names];
		const i = list.indexOf(name);
		const k = i + by;
		if (k < 0 || k >= list.length) return;
		[list[i], list[k]] = [list[k]!, list[i]!];
		my.holes = list;
		my.from = 'chosen';
	}
	const zoomBy = (factor: number) => (my.zoom = Math.min(60, Math.max(1, my.zoom * factor)));
	function keys(event: KeyboardEvent) {
		if (event.key === 'Escape' && (start || pull)) {
			start = pull = null;
			event.stopPropagation();
			return;
		}
		if ((event.target as Element).closest('input, select, button')) return;
		if (event.key === '+') zoomBy(1.4);
		else if (event.key === '-') zoomBy(1 / 1.4);
		else if (event.key === '0') my.zoom = 1;
		else if (event.key === 'PageDown') step(1);
		else if (event.key === 'PageUp') step(-1);
		else return;
		event.preventDefault();
	}
	async function save(format: 'pdf' | 'svg') {
		const own = spec;
		if (!own) return;
		saving = true;
		await workspace.attempt(async () => {
			await workspace.bench.save();
			const file = await workspace.api.bytes('exportCorrelation', { format, body: { spec: own, ages } });
			saveBlob(`correlation ${names.slice(0, 4).join(' ')}.${format}`, new Blob([file as BlobPart]));
		});
		saving = false;
	}
	const curve = (name: string) => {
		const number = paths?.holes.findIndex((h) => h.name === name) ?? -1;
		if (number < 0 || !feed.data || !spec) return null;
		return holeAges(feed.data, ages, schemeOf(ages, ground.schemes), { number, name }, correlatedRuns(feed.data, spec.log, number));
	};
	setExporter(() => id, {
		name: 'correlation',
		svg: () =>
			`<svg xmlns="http://www.w3.org/2000/svg" width="${Math.ceil((layout?.width ?? 1) * PX)}" height="${Math.ceil((layout?.height ?? 1) * PX)}" viewBox="0 0 ${layout?.width ?? 1} ${layout?.height ?? 1}" font-family="IBM Plex Sans Condensed, IBM Plex Sans, sans-serif">${drawing}</svg>`
	});
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
<div class="on-paper absolute inset-0 flex flex-col" onkeydown={keys} role="group" aria-label="Correlation of {names.length} holes">
	<CorrelationTools
		{workspace}
		{id}
		{my}
		{logs}
		{log}
		{units}
		isSaveable={!saving && spec !== null && names.length > 0}
		isSaving={saving}
		bind:panel
		{which}
		{step}
		{add}
		{zoomBy}
		{save}
	/>
	<div class="pane-split flex min-h-0 flex-1">
		<div
			bind:clientHeight={height}
			bind:clientWidth={width}
			class="font-condensed relative min-h-0 min-w-0 flex-1 overflow-auto"
			role="application"
			tabindex="0"
			aria-label="Correlation. Press a boundary, then one in another hole, to tie them. Plus and minus zoom, page keys go to another line."
			onwheel={(e) => {
				if (!e.ctrlKey) return;
				e.preventDefault();
				zoomBy(Math.exp(-e.deltaY * 0.002));
			}}
		>
			{#if !paths || paths.holes.length === 0}
				<p class="p-6">No holes yet: bring in collars under Gather.</p>
			{:else if !log}
				<p class="p-6">No log yet: a table of intervals along holes with codes is what holes are correlated by.</p>
			{:else if !sets.of(log.table)}
				<p class="p-6" aria-busy="true">Reading the log …</p>
			{:else if layout && layout.holes.length === 0}
				<p class="p-6">None of these holes has a length. Mend their total depths under Check, or choose others.</p>
			{:else if layout}
				<svg
					width={Math.max(width - 4, layout.width * PX)}
					height={layout.height * PX}
					viewBox="0 0 {Math.max(width - 4, layout.width * PX) / PX} {layout.height}"
					role="img"
					aria-label="Correlation of {names.join(', ')}"
					class="select-none {over ? (isVersion ? 'cursor-ns-resize' : 'cursor-crosshair') : ''}"
					onpointermove={move}
					onpointerleave={() => (over = pointer = null)}
					onpointerdown={press}
					onpointerup={release}
					onpointercancel={() => (pull = null)}
				>
					<g use:drawn={drawing}></g>
					{#if over && !pull}<path
							d="M{over.hole.x - 2} {over.hole.y(over.depth)}h{over.hole.width + 4}"
							stroke={DRAWN}
							stroke-width="0.8"
						/>{/if}
					{#if start}
						{@const own = layout.holes.find((h) => h.name === start!.hole)}
						{#if own}
							<circle cx={own.x + own.width / 2} cy={own.y(start.depth)} r="1.3" fill={DRAWN} />
							{#if pointer}<path
									d="M{own.x + own.width / 2} {own.y(start.depth)}L{pointer.x} {pointer.y}"
									stroke={DRAWN}
									stroke-width="0.5"
									stroke-dasharray="2 1"
								/>{/if}
						{/if}
					{/if}
					{#if pull}
						<path d="M{pull.hole.x - 2} {pull.hole.y(pull.to)}h{pull.hole.width + 4}" stroke={DRAWN} stroke-width="0.8" />
						<text x={pull.hole.x + pull.hole.width + 3} y={pull.hole.y(pull.to) - 0.8} font-size="3" fill={DRAWN}
							>{spaced(pull.to, 2)} {unit}</text
						>
						{#each hanging as h, i (i)}
							<path
								d="M{h.far.x < pull.hole.x ? h.far.x + h.far.width : h.far.x} {h.far.y(h.depth)}L{h.far.x < pull.hole.x
									? pull.hole.x
									: pull.hole.x + pull.hole.width} {pull.hole.y(pull.to)}"
								stroke={DRAWN}
								stroke-width="0.6"
							/>
						{/each}
					{/if}
				</svg>
				{#if undated.length}
					<p class="bg-base-100/95 rule pointer-events-none sticky bottom-2 left-2 inline-block max-w-96 border px-2 py-1 text-xs">
						{undated.length === 1 ? `${undated[0]!.name} is` : `${undated.length} holes are`} dated by nothing. Under Ages choose a scheme whose
						units are logged, or bring in a table with ages.
					</p>
				{/if}
			{/if}
		</div>
		{#if panel === 'ties' && spec && layout}
			<TiesPanel
				{workspace}
				holes={layout.holes}
				log={spec.log}
				curves={curveOptions(workspace.tables)}
				shown={my.curves}
				show={(c) => (my.curves = c)}
				{remove}
				{shift}
				{tie}
			/>
		{:else if panel === 'ages' && spec}
			<AgesPanel {workspace} {names} log={spec.log} {ages} {curve} choose={(s) => (my.scheme = s)} />
		{/if}
	</div>
</div>
