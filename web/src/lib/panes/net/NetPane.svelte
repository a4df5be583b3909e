<script lang="ts">
	import { COPPER, DRAWN, FAULT_RED, GREEN, HELD, INK, MOSS, NOTED, PLOT, RULE } from '#core/palette';
	import { untrack } from 'svelte';
	import { contours } from 'd3-contour';
	import { X as Cross } from '$lib/icons';
	import {
		density,
		fisher,
		girdle,
		greatCircle,
		project,
		smallCircle,
		trendPlunge,
		unproject,
		withinCone
	} from '#core/directions/stereonet';
	import { planeAngles } from '#core/geometry/angles';
	import type { Vec3 } from '#core/geometry/vector';
	import { RAMPS } from '#core/styles/scale';
	import { settingsOf } from '$lib/workbench/bench.svelte';
	import type { PaneState } from '$lib/workbench/state';
	import type { Workspace } from '$lib/workspace.svelte';
	import { setExporter } from '../export.svelte';
	import { directionsOf, directionTables, nearestDirection } from './directions';

	let { workspace, id, pane }: { workspace: Workspace; id: string; pane: PaneState } = $props();
	untrack(() => workspace.need('holes'));
	/** A set of directions: everything within a cone round an axis. */
	interface NamedSet {
		name: string;
		axis: [number, number, number];
		cone: number;
	}
	const my = settingsOf(
		untrack(() => pane),
		'net',
		{ poles: true, planes: false, contours: true, mean: true, girdle: false, cone: 20, sets: [] as NamedSet[] }
	);
	const INKS = [COPPER, DRAWN, GREEN, HELD, NOTED, MOSS];
	const R = 100;
	let drawing: SVGSVGElement | undefined = $state();
	let picking = $state(false);
	const data = $derived(directionsOf(workspace));
	const isComing = $derived(directionTables(workspace).some((t) => !workspace.sets.of(t.id)));
	const vectors = $derived(data.map((d) => d.v));
	const statistics = $derived(vectors.length ? { fisher: fisher(vectors), girdle: girdle(vectors) } : null);
	const X = (x: number) => x * R;
	const Y = (y: number) => -y * R;
	const line = (points: readonly (readonly [number, number])[]) =>
		points.map(([x, y], i) => `${i ? 'L' : 'M'}${X(x).toFixed(2)} ${Y(y).toFixed(2)}`).join('');
	const SIZE = 81;
	const shades = $derived.by(() => {
		if (!my.contours || vectors.length < 3) return [];
		const grid = density(vectors, SIZE);
		const most = grid.reduce((m, v) => (v > m ? v : m), 0);
		const levels = [2, 4, 6, 8, 12, 16, 24, 32].filter((l) => l < most);
		return contours()
			.size([SIZE, SIZE])
			.thresholds(levels)(Array.from(grid, (v) => (Number.isNaN(v) ? -1 : v)))
			.map((c, i) => ({
				value: c.value,
				color: RAMPS.viridis(0.15 + (0.8 * i) / Math.max(1, levels.length - 1)),
				path: c.coordinates
					.flat()
					.map(
						(ring) =>
							`${ring.map(([x, y], k) => `${k ? 'L' : 'M'}${X((2 * (x! - 0.5)) / (SIZE - 1) - 1).toFixed(2)} ${Y((2 * (y! - 0.5)) / (SIZE - 1) - 1).toFixed(2)}`).join('')}Z`
					)
					.join('')
			}));
	});
	const chosen = $derived.by(() => {
		const s = workspace.selection;
		return s?.kind === 'rows' ? new Set(s.rows.map((r) => `${s.table} ${r}`)) : new Set<string>();
	});
	const named = $derived(
		my.sets.map((s, k) => {
			const members = withinCone(vectors, s.axis, s.cone);
			return { ...s, color: INKS[k % INKS.length]!, members, fisher: members.length ? fisher(members.map((i) => vectors[i]!)) : null };
		})
	);
	function pointOf(event: MouseEvent): [number, number] {
		const r = drawing!.getBoundingClientRect();
		const side = Math.min(r.width, r.height);
		const unit = side / 230;
		return [(event.clientX - r.left - r.width / 2) / unit / R, -(event.clientY - r.top - r.height / 2) / unit / R];
	}
	const press = (event: MouseEvent) => pressAt(...pointOf(event));
	/** Sets the middle of a new set, or selects what lies at a place of the net. */
	function pressAt(x: number, y: number) {
		const axis = unproject(x, y);
		if (!axis) return;
		if (picking) {
			my.sets = [...my.sets, { name: `Set ${my.sets.length + 1}`, axis: [...axis] as [number, number, number], cone: my.cone }];
			picking = false;
			return;
		}
		const best = nearestDirection(data, ...project(axis));
		workspace.selection = best < 0 ? null : { kind: 'rows', table: data[best]!.table, rows: [data[best]!.row] };
	}
	/** Where the keyboard stands on the net; nowhere until it is used. */
	let cursor = $state<[number, number] | null>(null);
	const told = $derived.by(() => {
		const axis = cursor && unproject(...cursor);
		if (!axis) return '';
		const t = trendPlunge(axis);
		const best = nearestDirection(data, ...project(axis));
		return `${t.plunge.toFixed(0)}° to ${deg3(t.trend)}°, ${withinCone(vectors, axis, my.cone).length} within ${my.cone}°${best < 0 ? '' : `; ${data[best]!.what}`}`;
	});
	function keys(event: KeyboardEvent) {
		if (event.ctrlKey || event.altKey || event.metaKey) return;
		const step = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key];
		if (step) {
			const by = event.shiftKey ? 0.005 : 0.03;
			const [x, y] = [(cursor?.[0] ?? 0) + by * step[0]!, (cursor?.[1] ?? 0) + by * step[1]!];
			// It stays on the net.
			const out = Math.max(1, Math.hypot(x, y) / 0.999);
			cursor = [x / out, y / out];
		} else if (event.key === 'Enter' || event.key === ' ') pressAt(...(cursor ?? ([0, 0] as const)));
		else return;
		event.preventDefault();
	}
	function selectSet(members: number[]) {
		const table = members.length ? data[members[0]!]!.table : null;
		if (table)
			workspace.selection = { kind: 'rows', table, rows: members.filter((i) => data[i]!.table === table).map((i) => data[i]!.row) };
	}
	const deg3 = (v: number) => String(Math.round(v) % 360).padStart(3, '0');
	/** A mean pole as the plane that it belongs to. */
	const planeText = (v: Vec3) => {
		const p = planeAngles(v);
		return `${Math.round(p.dip)}° to ${deg3(p.dipAzimuth)}°`;
	};
	setExporter(() => id, {
		name: 'stereonet',
		svg: () => {
			const copy = drawing!.cloneNode(true) as SVGSVGElement;
			copy.setAttribute('xmlns', 'http://www.w3.org/2000/svg');
			for (const e of copy.querySelectorAll('[data-cursor]')) e.remove();
			copy.setAttribute('width', '920');
			copy.setAttribute('height', '920');
			copy.setAttribute('font-family', 'IBM Plex Sans Condensed, IBM Plex Sans, sans-serif');
			return copy.outerHTML;
		}
	});
</script>

<div class="pane-split absolute inset-0 flex on-paper" role="group" aria-label="Stereonet">
	<!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
	<svg
		bind:this={drawing}
		tabindex="0"
		viewBox="-115 -115 230 230"
		class="min-h-0 min-w-0 flex-1 {picking ? 'cursor-crosshair' : ''}"
		role="application"
		aria-label="Equal-area net, lower hemisphere, with {data.length} {data.every((d) => d.isLine) && data.length
			? 'lines'
			: 'poles'}. Arrow keys move a cross, with Shift finely; Enter selects what lies there, or sets the middle of a new set."
		onclick={press}
		onkeydown={keys}
		onblur={() => (cursor = null)}
	>
		<circle r={R} fill={PLOT} stroke={INK} stroke-width=".8" />
		{#each shades as s (s.value)}<path d={s.path} fill={s.color} fill-opacity=".5" stroke={s.color} stroke-width=".4" />{/each}
		<g stroke={RULE} stroke-width=".3"
			><path d="M0 -100v200M-100 0h200" stroke-dasharray="1.5 2" />{#each Array.from({ length: 36 }, (_, i) => i * 10) as a (a)}<path
					d="M0 -100v{a % 90 ? -2 : -4}"
					transform="rotate({a})"
				/>{/each}</g
		>
		{#each [['N', 0, -106], ['E', 106, 2], ['S', 0, 111], ['W', -107, 2]] as const as [t, x, y] (t)}<text
				{x}
				{y}
				font-size="7"
				text-anchor="middle"
				fill={INK}>{t}</text
			>{/each}
		{#if my.planes}{#each data as d, i (i)}{#if !d.isLine}<path
						d={line(greatCircle(d.dip, d.dipAzimuth, 40))}
						fill="none"
						stroke={chosen.has(`${d.table} ${d.row}`) ? DRAWN : d.color}
						stroke-width={chosen.has(`${d.table} ${d.row}`) ? 1.4 : 0.5}
					/>{/if}{/each}{/if}
		{#if my.poles}
			{#each data as d, i (i)}
				{@const p = project(d.v)}
				{@const on = chosen.has(`${d.table} ${d.row}`)}
				{#if d.isLine}<path
						d="M{X(p[0])} {Y(p[1]) - 2}l1.8 3.2h-3.6z"
						fill={d.color}
						stroke={on ? DRAWN : INK}
						stroke-width={on ? 1.2 : 0.35}><title>{d.what}</title></path
					>
				{:else}<circle cx={X(p[0])} cy={Y(p[1])} r={on ? 2.6 : 1.8} fill={d.color} stroke={on ? DRAWN : INK} stroke-width={on ? 1.2 : 0.35}
						><title>{d.what}</title></circle
					>{/if}
			{/each}
		{/if}
		{#each named as s, k (k)}
			{#each smallCircle(s.axis, s.cone) as part, n (n)}<path
					d={line(part)}
					fill="none"
					stroke={s.color}
					stroke-width="1"
					stroke-dasharray="3 2"
				/>{/each}
			{#if s.fisher}{@const m = project(s.fisher.mean)}<path
					d="M{X(m[0]) - 3} {Y(m[1])}h6M{X(m[0])} {Y(m[1]) - 3}v6"
					stroke={s.color}
					stroke-width="1.4"
				/><text x={X(m[0]) + 4} y={Y(m[1]) - 3} font-size="6.5" fill={s.color} stroke="#fff" stroke-width="1.6" paint-order="stroke"
					>{s.name}</text
				>{/if}
		{/each}
		{#if statistics && my.mean}
			{@const m = project(statistics.fisher.mean)}
			<path d="M{X(m[0]) - 4} {Y(m[1]) - 4}l8 8m0 -8l-8 8" stroke={FAULT_RED} stroke-width="1.4" />
			{#if Number.isFinite(statistics.fisher.alpha95)}{#each smallCircle(statistics.fisher.mean, statistics.fisher.alpha95) as part, n (n)}<path
						d={line(part)}
						fill="none"
						stroke={FAULT_RED}
						stroke-width=".9"
					/>{/each}{/if}
		{/if}
		{#if statistics && my.girdle}
			{@const axis = project(statistics.girdle.axis)}
			{@const plane = planeAngles(statistics.girdle.axis)}
			<path d={line(greatCircle(plane.dip, plane.dipAzimuth))} fill="none" stroke={DRAWN} stroke-width="1.1" /><rect
				x={X(axis[0]) - 2.4}
				y={Y(axis[1]) - 2.4}
				width="4.8"
				height="4.8"
				fill={DRAWN}
			/>
		{/if}
		{#if cursor}<path
				d="M{X(cursor[0])} {Y(cursor[1]) - 5}v10M{X(cursor[0]) - 5} {Y(cursor[1])}h10"
				stroke={INK}
				stroke-width=".8"
				data-cursor="yes"
			/>{/if}
	</svg>
	<p class="sr-only" aria-live="polite">{told}</p>
	<div class="pane-aside bg-base-100 text-base-content rule flex w-52 shrink-0 flex-col gap-1.5 overflow-y-auto border-l p-2.5 text-sm">
		{#each [['poles', 'poles and lines'], ['planes', 'planes'], ['contours', 'density'], ['mean', 'mean and its cone'], ['girdle', 'girdle and its axis']] as const as [key, label] (key)}
			<label class="flex items-center gap-2"><input type="checkbox" class="checkbox checkbox-xs" bind:checked={my[key]} />{label}</label>
		{/each}
		<div class="rule flex items-center gap-1 border-t pt-1.5">
			<button
				class="btn btn-xs {picking ? 'btn-active' : ''}"
				aria-pressed={picking}
				disabled={data.length === 0}
				onclick={() => (picking = !picking)}>{picking ? 'press its middle' : 'New set'}</button
			><label class="flex items-center gap-1 text-xs whitespace-nowrap"
				>cone ±<input class="input input-xs numbers w-12" type="number" min="1" max="90" bind:value={my.cone} />°</label
			>
		</div>
		{#each named as s, k (k)}
			<div class="text-xs">
				<div class="flex items-center gap-1">
					<span class="h-3 w-3 shrink-0" style="background: {s.color}"></span><input
						class="input input-xs min-w-0 flex-1"
						aria-label="Name of set {k + 1}"
						value={s.name}
						onchange={(e) => (my.sets = my.sets.map((x, n) => (n === k ? { ...x, name: e.currentTarget.value } : x)))}
					/><button class="quiet" aria-label="Remove {s.name}" onclick={() => (my.sets = my.sets.filter((_, n) => n !== k))}
						><Cross size={12} /></button
					>
				</div>
				{#if s.fisher}<button class="numbers link pl-4" onclick={() => selectSet(s.members)}
						>{s.members.length}, {planeText(s.fisher.mean)}, κ {Number.isFinite(s.fisher.kappa) ? s.fisher.kappa.toFixed(1) : '–'}</button
					>{:else}<span class="quiet pl-4">nothing in it</span>{/if}
			</div>
		{/each}
		{#if statistics}
			{@const g = trendPlunge(statistics.girdle.axis)}
			<dl class="numbers rule grid grid-cols-[auto_1fr] gap-x-3 border-t pt-1.5 text-xs">
				<dt class="quiet">count</dt>
				<dd class="text-right">{statistics.fisher.count}</dd>
				<dt class="quiet">mean plane</dt>
				<dd class="text-right">{planeText(statistics.fisher.mean)}</dd>
				<dt class="quiet">κ (Fisher)</dt>
				<dd class="text-right">{Number.isFinite(statistics.fisher.kappa) ? statistics.fisher.kappa.toFixed(1) : '–'}</dd>
				<dt class="quiet">cone, 95 %</dt>
				<dd class="text-right">{Number.isFinite(statistics.fisher.alpha95) ? `${statistics.fisher.alpha95.toFixed(1)}°` : '–'}</dd>
				<dt class="quiet">girdle axis</dt>
				<dd class="text-right">{g.plunge.toFixed(0)}° to {deg3(g.trend)}°</dd>
				<dt class="quiet">shape, strength</dt>
				<dd class="text-right">{statistics.girdle.shape.toFixed(2)}, {statistics.girdle.strength.toFixed(2)}</dd>
			</dl>
			{#if my.contours}<p class="quiet text-xs">Density in steps of 2 standard deviations of an even spread.</p>{/if}
		{:else}
			<p class="quiet rule border-t pt-1.5">
				{isComing ? 'Loading the rows…' : 'No orientations are shown. Bring some in under Gather, or show them in the legend.'}
			</p>
		{/if}
	</div>
</div>
