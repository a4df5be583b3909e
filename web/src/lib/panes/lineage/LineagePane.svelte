<script lang="ts">
	import { ChevronsDownUp, ChevronsUpDown } from '$lib/icons';
	import { roving } from '$lib/ui/roving';
	import { graphlib, layout } from '@dagrejs/dagre';
	import { goto } from '$app/navigation';
	import { stateOfMade } from '$lib/results/choices';
	import StateMark from '$lib/results/StateMark.svelte';
	import type { Workspace } from '$lib/workspace.svelte';
	import { pinch } from '../pinch';
	import ZoomButtons from '../ZoomButtons.svelte';
	import { downstream, nameOf, pictureOf, type Focus, type Node } from './graph';
	import { stateOf, whereOf } from './states';
	let { workspace }: { workspace: Workspace; id?: string; pane?: unknown } = $props();

	const SIZE = { width: 168, height: 50 };
	/** Text smaller than this can not be read: a picture that does not fit is moved about instead. */
	const LEAST_SCALE = 0.62;
	let width = $state(600);
	let height = $state(400);
	let focus = $state<Focus>('all');
	/** Models whose parts are shown one by one. The only model of a project is unfolded at once. */
	let unfolded = $state.raw<ReadonlySet<string> | null>(null);
	const open = $derived(unfolded ?? new Set(workspace.models.length === 1 ? workspace.models.map((m) => m.id) : []));
	const selected = $derived(workspace.selection?.kind === 'object' ? workspace.selection.id : null);
	const chosen = $derived(workspace.objects.find((o) => o.id === selected));
	const picture = $derived(pictureOf(workspace.objects, open, focus, selected));
	/** What a change of the selected thing makes out of date. */
	const reached = $derived.by(() => {
		if (!selected) return new Set<string>();
		// A folded model stands for all its parts.
		const own = workspace.objects.filter((o) => (o.modelId === selected && !open.has(selected) ? true : o.id === selected));
		const all = new Set(own.flatMap((o) => [...downstream(workspace.objects, o.id)]));
		for (const o of own) all.delete(o.id);
		return all;
	});
	const reachedBuilt = $derived(workspace.objects.filter((o) => reached.has(o.id) && o.form !== null && !o.missing));

	const wide = $derived(width > height * 1.2);
	const drawing = $derived.by(() => {
		const g = new graphlib.Graph();
		g.setGraph({ rankdir: wide ? 'LR' : 'TB', nodesep: 16, ranksep: wide ? 52 : 40, marginx: 16, marginy: 16 });
		g.setDefaultEdgeLabel(() => ({}));
		for (const n of picture.nodes) g.setNode(n.object.id, { ...SIZE });
		for (const [a, b] of picture.edges) g.setEdge(a, b);
		layout(g);
		const size = g.graph() as { width?: number; height?: number };
		return {
			width: size.width ?? 100,
			height: size.height ?? 100,
			nodes: picture.nodes.map((n) => ({ n, ...(g.node(n.object.id) as { x: number; y: number }) })),
			edges: g
				.edges()
				.map((e) => ({ key: `${e.v} ${e.w}`, from: e.v, to: e.w, points: (g.edge(e) as { points: { x: number; y: number }[] }).points }))
		};
	});

	/** Factor beside the size at which all fits, or nothing less than readable; and the shift, px. */
	let zoom = $state(1);
	let shift = $state<[number, number]>([0, 0]);
	const fit = $derived(Math.min(1.15, Math.max(LEAST_SCALE, Math.min(width / drawing.width, (height - 60) / drawing.height))));
	const scale = $derived(fit * zoom);
	/** Where the picture begins at a scale: in the middle, or at the left and upper side where it does not fit. */
	const startOf = (k: number) =>
		[Math.max(0, (width - drawing.width * k) / 2), 36 + Math.max(0, (height - 36 - drawing.height * k) / 2)] as const;
	const origin = $derived([startOf(scale)[0] + shift[0], startOf(scale)[1] + shift[1]] as const);
	let host: HTMLDivElement;
	function zoomBy(factor: number, x?: number, y?: number) {
		const next = Math.min(12, Math.max(0.5, zoom * factor));
		const r = host.getBoundingClientRect();
		const [px, py] = [x === undefined ? width / 2 : x - r.left, y === undefined ? height / 2 : y - r.top];
		const at = [(px - origin[0]) / scale, (py - origin[1]) / scale] as const;
		const k = fit * next;
		const start = startOf(k);
		shift = [px - at[0] * k - start[0], py - at[1] * k - start[1]];
		zoom = next;
	}
	function showAll() {
		zoom = 1;
		shift = [0, 0];
	}
	let dragging: { x: number; y: number } | null = null;
	function keys(event: KeyboardEvent) {
		if (event.ctrlKey || event.metaKey || event.altKey) return;
		if (event.key === '+') zoomBy(1.25);
		else if (event.key === '-') zoomBy(1 / 1.25);
		else if (event.key === '0') showAll();
		else return;
		event.preventDefault();
	}

	const isFolded = (n: Node) => n.object.kind === 'model' && !open.has(n.object.id);
	function fold(id: string) {
		const next = new Set(open);
		if (!next.delete(id)) next.add(id);
		unfolded = next;
	}
	/** State, in two or three words, with time and size where it was built. */
	const words = (n: Node) => {
		const stale = n.parts.filter((o) => o.outOfDate && o.form !== null).length;
		return isFolded(n) && stale && !n.object.outOfDate ? `${stale} parts out of date` : stateOf(n.object);
	};
	const cut = (text: string, most: number) => (text.length > most ? `${text.slice(0, most - 1)}…` : text);
	const isDerived = (n: Node) => n.object.inputs.length > 0 || n.object.missing;
	const mark = (n: Node) =>
		stateOfMade(
			n.object,
			[n.object, ...n.parts].some((o) => workspace.jobOf(o.id))
		);
</script>

<!-- svelte-ignore a11y_no_noninteractive_element_interactions -->
<div
	bind:this={host}
	class="bg-base-100 absolute inset-0 touch-none overflow-hidden"
	role="group"
	aria-label="Lineage: what is made from what. Plus and minus zoom, 0 shows all."
	bind:clientWidth={width}
	bind:clientHeight={height}
	onwheel={(e) => {
		e.preventDefault();
		zoomBy(Math.exp(-e.deltaY * 0.0012), e.clientX, e.clientY);
	}}
	onpointerdown={(e) =>
		(dragging = e.isPrimary && !(e.target as Element).closest('a, button, select') ? { x: e.clientX, y: e.clientY } : null)}
	onpointermove={(e) => {
		if (!dragging) return;
		shift = [shift[0] + e.clientX - dragging.x, shift[1] + e.clientY - dragging.y];
		dragging = { x: e.clientX, y: e.clientY };
	}}
	onpointerup={() => (dragging = null)}
	onpointerleave={() => (dragging = null)}
	onkeydown={keys}
	use:pinch={zoomBy}
>
	<svg {width} {height} class="block" role="group" aria-label="What is made from what" use:roving={{ items: 'a' }}>
		<g transform="translate({origin[0]} {origin[1]}) scale({scale})">
			{#each drawing.edges as e (e.key)}
				{@const lit = selected !== null && reached.has(e.to) && (e.from === selected || reached.has(e.from))}
				<path
					d={e.points.map((p, i) => `${i ? 'L' : 'M'}${p.x} ${p.y}`).join('')}
					fill="none"
					stroke={lit ? 'var(--color-secondary)' : 'var(--color-base-content)'}
					stroke-opacity={lit ? 0.9 : 0.4}
					stroke-width={lit ? 1.8 : 1.1}
					stroke-linejoin="round"
				/>
			{/each}
			{#each drawing.nodes as { n, x, y } (n.object.id)}
				{@const o = n.object}
				{@const own = workspace.pickedObjects.includes(o.id)}
				{@const touched = reached.has(o.id) || n.parts.some((p) => reached.has(p.id))}
				<a
					href="/{workspace.id}/{whereOf(o)}"
					aria-current={own ? 'true' : undefined}
					onclick={(e) => {
						workspace.press(o.id, e);
						if (e.detail < 2 || e.ctrlKey || e.metaKey || e.shiftKey) e.preventDefault();
					}}
					onkeydown={(e) => e.key === 'Enter' && goto(`/${workspace.id}/${whereOf(o)}`)}
				>
					<title>{nameOf(n)}: {words(n)}. Press for details, twice to go there.</title>
					<rect
						x={x - SIZE.width / 2}
						y={y - SIZE.height / 2}
						width={SIZE.width}
						height={SIZE.height}
						rx={isDerived(n) ? 3 : 22}
						fill="var(--color-base-200)"
						stroke={own
							? 'var(--color-info)'
							: touched
								? 'var(--color-secondary)'
								: isDerived(n)
									? 'var(--color-primary)'
									: 'var(--color-base-content)'}
						stroke-width={own ? 2.6 : touched ? 2 : 1.2}
						stroke-dasharray={o.outOfDate || o.missing ? '5 3' : ''}
					/>
					{#if isFolded(n)}<rect
							x={x - SIZE.width / 2 + 4}
							y={y - SIZE.height / 2 + 4}
							width={SIZE.width - 8}
							height={SIZE.height - 8}
							rx="2"
							fill="none"
							stroke="var(--color-primary)"
							stroke-opacity=".5"
						/>{/if}
					<text {x} y={y - 5} text-anchor="middle" fill="var(--color-base-content)" font-size="13.5" font-weight="500"
						>{cut(nameOf(n), 21)}</text
					>
					{#if isDerived(n)}<g transform="translate({x - SIZE.width / 2 + 10} {y + 5})"><StateMark state={mark(n)} /></g>{/if}
					<text
						x={isDerived(n) ? x + 8 : x}
						y={y + 16}
						text-anchor="middle"
						fill={o.outOfDate || o.missing ? 'var(--color-warning)' : 'var(--color-base-content)'}
						fill-opacity={o.outOfDate || o.missing ? 1 : 0.75}
						font-size="12"
						>{cut(words(n) + (o.built && !o.outOfDate ? `, ${o.built.seconds.toFixed(o.built.seconds < 10 ? 1 : 0)} s` : ''), 24)}</text
					>
				</a>
			{/each}
		</g>
	</svg>
	<div class="bg-base-100/90 absolute top-1 left-2 flex items-center gap-2 text-sm">
		<select class="select select-xs w-44" aria-label="What the lineage shows" bind:value={focus}>
			<option value="all">everything</option>
			<option value="upstream" disabled={!chosen}>what {chosen ? cut(chosen.name, 24) : 'it'} is made of</option>
			<option value="downstream" disabled={!chosen}>what is made of {chosen ? cut(chosen.name, 24) : 'it'}</option>
		</select>
		{#if chosen?.kind === 'model' || (chosen?.modelId && open.has(chosen.modelId))}
			{@const model = chosen.kind === 'model' ? chosen.id : chosen.modelId!}
			<button class="btn btn-xs" onclick={() => fold(model)}
				>{#if open.has(model)}<ChevronsDownUp size={13} />Fold the model{:else}<ChevronsUpDown size={13} />Show its parts{/if}</button
			>
		{/if}
	</div>
	<div class="absolute top-1 right-2"><ZoomButtons by={zoomBy} all={showAll} /></div>
	<div class="bg-base-100/90 absolute bottom-1 left-2 max-w-[90%] px-1 text-sm" role="status">
		{#if picture.alone.length}<p class="quiet">
				Not linked with anything: {picture.alone
					.slice(0, 5)
					.map((o) => o.name)
					.join(', ')}{picture.alone.length > 5 ? ` and ${picture.alone.length - 5} more` : ''}
			</p>{/if}
		{#if picture.left}<p>{picture.left} further things are not shown: select one, and look at what it is made of.</p>{/if}
		{#if chosen && reachedBuilt.length}<p>
				A change of {chosen.name} makes <span class="text-secondary font-medium">{reachedBuilt.length}</span> out of date: {reachedBuilt
					.slice(0, 6)
					.map((o) => o.name)
					.join(', ')}{reachedBuilt.length > 6 ? ' …' : ''}.
			</p>{/if}
	</div>
</div>
