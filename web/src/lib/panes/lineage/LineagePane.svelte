<script lang="ts">
	import { roving } from '$lib/ui/roving';
	import { graphlib, layout } from '@dagrejs/dagre';
	import { goto } from '$app/navigation';
	import { stateOf } from './states';
	import type { Workspace } from '$lib/workspace.svelte';
	let { workspace }: { workspace: Workspace; id?: string; pane?: unknown } = $props();

	const WHERE: Record<string, string> = {
		table: 'check',
		terrain: 'gather',
		column: 'interpret',
		lumping: 'interpret',
		faults: 'interpret',
		holes: 'examine',
		contacts: 'build',
		fields: 'build',
		model: 'build',
		section: 'examine'
	};
	const SIZE = { width: 146, height: 44 };

	let width = $state(600);
	let height = $state(400);
	const drawing = $derived.by(() => {
		const g = new graphlib.Graph();
		g.setGraph({
			rankdir: width > height * 1.3 ? 'LR' : 'TB',
			nodesep: 14,
			ranksep: width > height * 1.3 ? 46 : 34,
			marginx: 14,
			marginy: 14
		});
		g.setDefaultEdgeLabel(() => ({}));
		for (const o of workspace.objects) g.setNode(o.id, { ...SIZE });
		for (const o of workspace.objects) for (const i of o.inputs) g.setEdge(i, o.id);
		layout(g);
		const size = g.graph() as { width?: number; height?: number };
		return {
			width: size.width ?? 100,
			height: size.height ?? 100,
			nodes: workspace.objects.map((o) => ({ o, ...(g.node(o.id) as { x: number; y: number }) })),
			edges: g.edges().map((e) => ({ key: `${e.v} ${e.w}`, to: e.w, points: (g.edge(e) as { points: { x: number; y: number }[] }).points }))
		};
	});
</script>

<div class="bg-base-100 absolute inset-0 overflow-auto" bind:clientWidth={width} bind:clientHeight={height}>
	<svg
		width={drawing.width}
		height={drawing.height}
		viewBox="0 0 {drawing.width} {drawing.height}"
		class="mx-auto block"
		style="width:{Math.max(
			drawing.width * 0.92,
			Math.min(drawing.width * 1.1, width, (height / drawing.height) * drawing.width)
		)}px;height:auto"
		role="group"
		aria-label="Lineage: what is made from what"
		use:roving={{ items: 'a' }}
	>
		{#each drawing.edges as e (e.key)}
			<path
				d={e.points.map((p, i) => `${i ? 'L' : 'M'}${p.x} ${p.y}`).join('')}
				fill="none"
				stroke="var(--color-base-content)"
				stroke-opacity="0.45"
				stroke-width="1.2"
				stroke-linejoin="round"
			/>
		{/each}
		{#each drawing.nodes as { o, x, y } (o.id)}
			{@const stale = o.outOfDate || o.missing}
			<a
				href="/{workspace.id}/{WHERE[o.kind] ?? 'examine'}{o.kind === 'table' ? `?table=${o.id}` : ''}"
				onclick={(e) => {
					workspace.selection = { kind: 'object', id: o.id };
					if (e.detail < 2) e.preventDefault();
				}}
				onkeydown={(e) => e.key === 'Enter' && goto(`/${workspace.id}/${WHERE[o.kind] ?? 'examine'}`)}
			>
				<title>{o.name}: {stateOf(o)}. Press for details, twice to go there.</title>
				<rect
					x={x - SIZE.width / 2}
					y={y - SIZE.height / 2}
					width={SIZE.width}
					height={SIZE.height}
					rx={o.inputs.length ? 3 : 20}
					fill="var(--color-base-200)"
					stroke={workspace.selection?.kind === 'object' && workspace.selection.id === o.id
						? 'var(--color-info)'
						: stale
							? 'var(--color-warning)'
							: o.inputs.length
								? 'var(--color-primary)'
								: 'var(--color-base-content)'}
					stroke-width={workspace.selection?.kind === 'object' && workspace.selection.id === o.id ? 2.5 : 1.2}
					stroke-dasharray={stale ? '5 3' : ''}
				/>
				<text {x} y={y - 3} text-anchor="middle" fill="var(--color-base-content)" font-size="13" font-weight="500"
					>{o.name.length > 20 ? `${o.name.slice(0, 19)}…` : o.name}</text
				>
				<text
					{x}
					y={y + 14}
					text-anchor="middle"
					fill={stale ? 'var(--color-warning)' : 'var(--color-base-content)'}
					fill-opacity={stale ? 1 : 0.72}
					font-size="12">{stateOf(o)}</text
				>
			</a>
		{/each}
	</svg>
</div>
