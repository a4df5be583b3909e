<script lang="ts">
	import { COPPER, DRAWN } from '#core/palette';
	import { untrack } from 'svelte';
	import { Columns3, FileDown, Plus } from '$lib/icons';
	import { columnOf } from '#core/datasets/dataset';
	import { placeAt } from '#core/datasets/hole-paths';
	import { spaced } from '#core/formats/ticks';
	import { drawTrack } from '#core/logs/draw-log';
	import { holeIndex } from '#core/scene/hole-index';
	import { logHoles } from '#core/logs/log-parts';
	import { trackHeads, trackWidth } from '#core/logs/pages';
	import { SCALES, type LogAxis, type LogSpec, type LogTrack } from '#core/logs/spec';
	import { drawn } from '$lib/ui/drawing';
	import { saveBlob } from '$lib/ui/save';
	import { settingsOf } from '$lib/workbench/bench.svelte';
	import type { PaneState } from '$lib/workbench/state';
	import type { Workspace } from '$lib/workspace.svelte';
	import { setExporter } from '../export.svelte';
	import { pinch } from '../pinch';
	import ZoomButtons from '../ZoomButtons.svelte';
	import { depthOf, nearestBoundary, nearestRow, readingsAt, rowsBetween, trackAt } from './log-places';
	import { LogFeed } from './log-feed.svelte';
	import TrackList from './TrackList.svelte';
	import { proposeTracks } from './propose-tracks';

	let { workspace, id, pane }: { workspace: Workspace; id: string; pane: PaneState } = $props();
	untrack(() => workspace.need('holes', 'things'));
	const my = settingsOf(
		untrack(() => pane),
		'log',
		{
			holes: [] as string[],
			tracks: null as LogTrack[] | null,
			axis: 'depth' as LogAxis,
			align: null as LogSpec['align'],
			zoom: 0,
			scale: 200
		}
	);
	let open = $state(false);
	let choosing = $state('');
	let height = $state(400);
	let saving = $state(false);
	const sets = $derived(workspace.sets);
	const unit = $derived(workspace.project?.lengthUnit ?? 'm');
	const paths = $derived(sets.paths);
	const MOST_HOLES = 50;

	/** Holes of the log; without any chosen, the selected one or the first. */
	const names = $derived.by(() => {
		const known = new Set(paths?.holes.map((h) => h.name));
		const kept = my.holes.filter((n) => known.has(n));
		if (kept.length) return kept;
		const [selected] = workspace.selectedHoles;
		return selected && known.has(selected) ? [selected] : paths?.holes[0] ? [paths.holes[0].name] : [];
	});
	const tracks = $derived(my.tracks ? ($state.snapshot(my.tracks) as LogTrack[]) : proposeTracks(workspace));
	const spec = $derived<LogSpec>({ holes: names, tracks, axis: my.axis, scale: my.scale, align: my.align });

	const feed = new LogFeed(
		untrack(() => workspace),
		() => ({ names, tracks })
	);
	const data = $derived(feed.data);
	const holes = $derived(data ? logHoles(spec, data) : []);
	const ends = $derived.by(() => {
		const all = holes.flatMap((h) => [h.axis(h.from) + h.shift, h.axis(h.to) + h.shift]);
		return all.length ? ([Math.min(...all), Math.max(...all)] as const) : ([0, 1] as const);
	});
	/** Pixels per mm of a drawing, and mm per unit of the axis: the whole log fits the pane until it is zoomed. */
	const PX = 3.6;
	const fitting = $derived(Math.max(0.001, (height - 92) / PX / Math.max(1e-6, ends[1] - ends[0])));
	const perUnit = $derived(fitting * (my.zoom || 1));
	const TALLEST = 30_000;
	const tall = $derived(Math.min(TALLEST / PX, (ends[1] - ends[0]) * perUnit + 4));
	const wide = $derived(trackWidth(tracks));
	const HEAD = 14;

	const drawings = $derived.by(() => {
		if (!data) return [];
		return holes.map((h, k) => {
			const y = (depth: number) =>
				1 + (h.axis(depth) + h.shift - ends[0]) * Math.min(perUnit, (tall - 2) / Math.max(1e-9, ends[1] - ends[0]));
			let x = 0;
			const body = tracks
				.map((t, i) => {
					const svg = `<g transform="translate(${x} 0)">${drawTrack(t, h, data, { y, from: h.from, to: h.to, top: Math.min(y(h.from), y(h.to)), bottom: Math.max(y(h.from), y(h.to)), text: 3.2, prefix: `${id}-${k}-${i}-` }, my.axis)}</g>`;
					x += t.width;
					return svg;
				})
				.join('');
			return { hole: h, head: trackHeads(tracks, data, h.name, HEAD, 3.1), body, y };
		});
	});

	let pointer = $state<{ hole: string; depth: number } | null>(null);
	/** What every track shows at a depth. */
	const readings = $derived(
		pointer && paths
			? readingsAt(
					tracks,
					(t) => sets.of(t),
					feed.modelOf,
					paths.holes.length,
					paths.holes.findIndex((x) => x.name === pointer!.hole),
					pointer.depth
				)
			: []
	);
	const depthAt = (event: MouseEvent, d: (typeof drawings)[number]) =>
		depthOf((event.clientY - (event.currentTarget as Element).getBoundingClientRect().top) / PX, d.y, d.hole.from, d.hole.to);
	function move(event: PointerEvent, d: (typeof drawings)[number]) {
		const depth = depthAt(event, d);
		if (pull) pull = { ...pull, to: depth };
		else (event.currentTarget as SVGElement).style.cursor = boundaryAt(event, d) ? 'ns-resize' : '';
		pointer = { hole: d.hole.name, depth };
		const at: [number, number, number] = [0, 0, 0];
		placeAt(paths!, d.hole.number, depth, at);
		workspace.probe = {
			x: at[0],
			y: at[1],
			z: at[2],
			what: `${d.hole.name} at ${spaced(depth, 2)} ${unit}${
				readings.length
					? `: ${readings
							.slice(0, 6)
							.map(([n, v]) => `${n} ${v}`)
							.join(', ')}`
					: ''
			}`,
			from: id
		};
	}
	type Drawing = (typeof drawings)[number];
	/** What the pointer does along a hole: sweeps over intervals of a table, or moves a boundary of a version. */
	let pull = $state<{ hole: string; table: string; from: number; to: number; boundary: boolean; y: number } | null>(null);
	let pulled = false;
	const setAtPointer = (event: MouseEvent) => {
		const mm = (event.clientX - (event.currentTarget as Element).getBoundingClientRect().left) / PX;
		const track = trackAt(tracks, mm);
		const set = track?.series[0] ? sets.of(track.series[0].table) : null;
		return set?.place === 'interval' ? set : null;
	};
	/** The boundary of a version under the pointer, within a few pixels. */
	function boundaryAt(event: MouseEvent, d: Drawing): { table: string; depth: number } | null {
		const set = setAtPointer(event);
		if (!set || typeof workspace.objects.find((o) => o.id === set.id)?.state['versionOf'] !== 'string') return null;
		const depth = depthAt(event, d);
		const reach = 4 / PX / Math.max(1e-9, Math.abs(d.y(depth + 1) - d.y(depth)));
		const near = nearestBoundary(set, paths!.holes.length, d.hole.number, depth);
		return near !== null && Math.abs(near - depth) < reach ? { table: set.id, depth: near } : null;
	}
	function press(event: PointerEvent, d: Drawing) {
		pulled = false;
		if (event.button !== 0 || event.pointerType === 'touch') return;
		const set = setAtPointer(event);
		if (!set) return;
		const boundary = boundaryAt(event, d);
		const depth = boundary?.depth ?? depthAt(event, d);
		pull = { hole: d.hole.name, table: set.id, from: depth, to: depth, boundary: boundary !== null, y: event.clientY };
		(event.currentTarget as Element).setPointerCapture(event.pointerId);
	}
	function release(event: PointerEvent, d: Drawing) {
		const p = pull;
		pull = null;
		if (!p || Math.abs(event.clientY - p.y) < 4) return;
		pulled = true;
		if (p.boundary) return void workspace.moveBoundary(p.table, p.hole, p.from, Math.round(p.to * 100) / 100);
		const set = sets.of(p.table);
		const rows = set ? rowsBetween(set, paths!.holes.length, d.hole.number, Math.min(p.from, p.to), Math.max(p.from, p.to)) : [];
		if (rows.length) workspace.pressRows(p.table, rows, event);
	}
	/** Selected rows of the tables that are shown, on one hole: where they lie. */
	function glowOn(d: Drawing): [number, number][] {
		const s = workspace.selection;
		const set = s?.kind === 'rows' && tracks.some((t) => t.series.some((x) => x.table === s.table)) ? sets.of(s.table) : null;
		if (s?.kind !== 'rows' || set?.place !== 'interval') return [];
		const wanted = new Set(s.rows);
		const index = holeIndex(set, paths!.holes.length);
		const out: [number, number][] = [];
		for (let k = index.start[d.hole.number]!; k < index.start[d.hole.number + 1]!; k++) {
			const i = index.order[k]!;
			if (wanted.has(set.row[i]!)) out.push([d.y(set.from[i]!), d.y(set.to[i]!)]);
		}
		return out;
	}
	function choose(event: MouseEvent, d: Drawing) {
		if (pulled) return;
		const depth = depthAt(event, d);
		const mm = (event.clientX - (event.currentTarget as Element).getBoundingClientRect().left) / PX;
		const track = trackAt(tracks, mm);
		const set = track?.series[0] ? sets.of(track.series[0].table) : null;
		const row = set && set.place !== 'map' && set.place !== 'hole' ? nearestRow(set, paths!.holes.length, d.hole.number, depth) : -1;
		if (row >= 0) workspace.pressRows(set!.id, [set!.row[row]!], event);
		else workspace.selection = { kind: 'hole', name: d.hole.name };
	}
	/** Height of the probe of another pane on a hole, when it lies near it. */
	function marker(d: (typeof drawings)[number]): number | null {
		if (pointer?.hole === d.hole.name && workspace.probe?.from === id) return d.y(pointer.depth);
		const p = workspace.probe;
		if (!p || p.from === id || p.z === null || !p.what.startsWith(`${d.hole.name} at `)) return null;
		const depth = Number(/ at ([\d.\u2009]+)/.exec(p.what)?.[1]?.replaceAll('\u2009', ''));
		return Number.isFinite(depth) ? d.y(depth) : null;
	}
	function stepHole(by: number) {
		if (!paths || names.length !== 1) return;
		const i = paths.holes.findIndex((h) => h.name === names[0]);
		const next = paths.holes[Math.min(paths.holes.length - 1, Math.max(0, i + by))];
		if (next) my.holes = [next.name];
	}
	const zoomBy = (factor: number) => (my.zoom = Math.min(400, Math.max(1, (my.zoom || 1) * factor)));
	function keys(event: KeyboardEvent) {
		if ((event.target as Element).closest('input, select, button')) return;
		if (event.key === '+') zoomBy(1.4);
		else if (event.key === '-') zoomBy(1 / 1.4);
		else if (event.key === '0') my.zoom = 1;
		else if (event.key === 'PageDown') stepHole(1);
		else if (event.key === 'PageUp') stepHole(-1);
		else return;
		event.preventDefault();
	}
	function add(name: string) {
		if (!name) return;
		// What is typed before the holes have come is looked at when they are there.
		if (paths && !paths.holes.some((h) => h.name === name)) return workspace.say(`There is no hole ${name}.`);
		if (names.length >= MOST_HOLES) return workspace.say(`At most ${MOST_HOLES} holes stand side by side.`);
		// The hole that stood there by itself makes room for the first that is chosen.
		my.holes = [...my.holes.filter((n) => n !== name), name];
		choosing = '';
	}
	async function save(format: 'pdf' | 'svg') {
		saving = true;
		await workspace.attempt(async () => {
			await workspace.bench.save();
			const file = await workspace.api.bytes('exportLog', { format, body: { spec } });
			saveBlob(`log ${names.slice(0, 4).join(' ')}.${format}`, new Blob([file as BlobPart]));
		});
		saving = false;
	}
	const alignments = $derived.by(() => {
		const set = sets.of(workspace.along);
		const column = set ? columnOf(set, sets.style(set).by) : null;
		return set && column?.type === 'category' && column.categories.length <= 60
			? column.categories.map((category) => ({ table: set.id, column: column.key, category }))
			: [];
	});
	setExporter(() => id, {
		name: 'log',
		svg: () => {
			const w = drawings.length * (wide + 4) * PX;
			const parts = drawings.map(
				(d, k) =>
					`<g transform="translate(${k * (wide + 4) * PX} 0) scale(${PX})">${d.head}<g transform="translate(0 ${HEAD})">${d.body}</g></g>`
			);
			return `<svg xmlns="http://www.w3.org/2000/svg" width="${Math.ceil(w)}" height="${Math.ceil((tall + HEAD) * PX)}" font-family="IBM Plex Sans Condensed, IBM Plex Sans, sans-serif">${parts.join('')}</svg>`;
		}
	});
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
<div class="absolute inset-0 flex flex-col on-paper" onkeydown={keys} role="group" aria-label="Log of {names.join(', ') || 'no hole'}">
	<div class="rule bg-base-100 text-base-content flex shrink-0 flex-wrap items-center gap-1.5 border-b px-2 py-1 text-xs">
		{#each my.holes.length ? names : [] as n (n)}<button
				class="btn btn-xs"
				title="Take {n} out of the log"
				onclick={() => (my.holes = names.filter((x) => x !== n))}>{n} ×</button
			>{/each}
		<input
			class="input input-xs w-24"
			list="log-holes-{id}"
			placeholder={my.holes.length ? 'add a hole' : (names[0] ?? 'hole')}
			aria-label="Add a hole to the log"
			bind:value={choosing}
			onchange={() => add(choosing)}
		/>
		<datalist id="log-holes-{id}"
			>{#each (paths?.holes ?? []).slice(0, 3000) as h (h.name)}<option value={h.name}></option>{/each}</datalist
		>
		<button
			class="btn btn-xs"
			title="The selected holes side by side"
			onclick={() => {
				const list = [...workspace.selectedHoles].slice(0, MOST_HOLES);
				if (list.length) my.holes = list;
				else workspace.say('Select holes first.');
			}}><Plus size={12} />selected</button
		>
		<select class="select select-xs w-24" aria-label="Vertical axis" bind:value={my.axis}
			><option value="depth">depth</option><option value="elevation">elevation</option><option value="tvd">TVD</option></select
		>
		<select
			class="select select-xs w-32"
			aria-label="Align at a contact"
			disabled={alignments.length === 0}
			value={my.align?.category ?? ''}
			onchange={(e) => (my.align = alignments.find((a) => a.category === e.currentTarget.value) ?? null)}
			><option value="">not aligned</option>{#each alignments as a (a.category)}<option value={a.category}>top of {a.category}</option
				>{/each}</select
		>
		<button class="btn btn-xs {open ? 'btn-active' : ''}" aria-expanded={open} onclick={() => (open = !open)}
			><Columns3 size={12} />Tracks</button
		>
		<ZoomButtons by={zoomBy} all={() => (my.zoom = 1)} />
		<span class="ml-auto flex items-center gap-1">
			<select class="select select-xs w-24" aria-label="Scale on paper" bind:value={my.scale}
				>{#each SCALES as s (s)}<option value={s}>1 : {s}</option>{/each}</select
			>
			<button class="btn btn-xs" disabled={saving || names.length === 0} onclick={() => save('pdf')}
				><FileDown size={12} />{saving ? '…' : 'PDF'}</button
			>
			<button class="btn btn-xs" disabled={saving || names.length === 0} onclick={() => save('svg')}>SVG</button>
		</span>
	</div>
	<div class="pane-split relative flex min-h-0 flex-1">
		<div
			bind:clientHeight={height}
			class="font-condensed min-h-0 min-w-0 flex-1 touch-pan-x touch-pan-y overflow-auto"
			role="application"
			tabindex="0"
			aria-label="Log. Plus and minus zoom the depth, 0 shows all, page keys go to another hole."
			onwheel={(e) => {
				if (!e.ctrlKey) return;
				e.preventDefault();
				zoomBy(Math.exp(-e.deltaY * 0.002));
			}}
			use:pinch={zoomBy}
		>
			{#if !paths || paths.holes.length === 0}
				<p class="p-6">No holes yet: bring in collars under Gather.</p>
			{:else if drawings.length === 0}
				<p class="p-6">{names[0] ?? 'The hole'} has no length, so there is nothing to draw. Mend its total depth under Check.</p>
			{:else}
				<div class="sticky top-0 z-10 flex gap-[14px] bg-white px-2 pt-1" style="width: max-content">
					{#each drawings as d (d.hole.name)}
						<svg width={wide * PX} height={HEAD * PX} viewBox="0 0 {wide} {HEAD}" aria-hidden="true"><g use:drawn={d.head}></g></svg>
					{/each}
				</div>
				<div class="flex gap-[14px] px-2 pb-2" style="width: max-content">
					{#each drawings as d (d.hole.name)}
						{@const m = marker(d)}
						<!-- What is scrolled out of sight is not drawn. -->
						<div
							style="content-visibility:auto;width:{wide * PX}px;height:{tall * PX}px;contain-intrinsic-size:{wide * PX}px {tall * PX}px"
						>
							<!-- svelte-ignore a11y_click_events_have_key_events -->
							<svg
								width={wide * PX}
								height={tall * PX}
								viewBox="0 0 {wide} {tall}"
								role="img"
								aria-label="Log of {d.hole.name}"
								class="select-none {workspace.selectedHoles.has(d.hole.name) && workspace.selection?.kind !== 'rows'
									? 'outline-info outline-2'
									: ''}"
								onpointermove={(e) => move(e, d)}
								onpointerleave={() => (pointer = null)}
								onpointerdown={(e) => press(e, d)}
								onpointerup={(e) => release(e, d)}
								onpointercancel={() => (pull = null)}
								onclick={(e) => choose(e, d)}
							>
								<g use:drawn={d.body}></g>
								{#each glowOn(d) as [a, b], i (i)}<rect
										x="0.2"
										y={a}
										width={wide - 0.4}
										height={b - a}
										fill={DRAWN}
										fill-opacity=".13"
										stroke={DRAWN}
										stroke-width="0.5"
									/>{/each}
								{#if pull && pull.hole === d.hole.name}
									{#if pull.boundary}<path d="M0 {d.y(pull.to)}H{wide}" stroke={DRAWN} stroke-width="0.7" /><text
											x="1"
											y={d.y(pull.to) - 0.8}
											font-size="3"
											fill={DRAWN}>{spaced(pull.to, 2)} {unit}</text
										>
									{:else}<rect
											x="0"
											y={Math.min(d.y(pull.from), d.y(pull.to))}
											width={wide}
											height={Math.abs(d.y(pull.to) - d.y(pull.from))}
											fill={DRAWN}
											fill-opacity=".2"
										/>{/if}
								{/if}
								{#if m !== null}<path d="M0 {m}H{wide}" stroke={COPPER} stroke-width="0.4" stroke-dasharray="1.2 1" />{/if}
							</svg>
						</div>
					{/each}
				</div>
			{/if}
		</div>
		{#if pointer && readings.length}
			<dl
				class="bg-base-100/95 text-base-content rule pointer-events-none absolute right-3 bottom-3 z-20 grid max-w-72 grid-cols-[auto_1fr] gap-x-3 border px-2 py-1 text-xs shadow-sm"
			>
				<dt class="font-medium">{pointer.hole}</dt>
				<dd class="numbers text-right">{spaced(pointer.depth, 2)} {unit}</dd>
				{#each readings.slice(0, 14) as [name, value], i (i)}<dt class="quiet truncate">{name}</dt>
					<dd class="numbers truncate text-right">{value}</dd>{/each}
			</dl>
		{/if}
		{#if open}<TrackList {workspace} {tracks} change={(t) => (my.tracks = t)} />{/if}
	</div>
</div>
