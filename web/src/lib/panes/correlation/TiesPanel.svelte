<script lang="ts">
	import { ArrowLeft, ArrowRight, Trash2, X } from '$lib/icons';
	import { spaced } from '#core/formats/ticks';
	import type { CorrelatedHole, CorrelationSpec } from '#core/stratigraphy/correlation';
	import { boundariesOf } from '#core/stratigraphy/runs';
	import { crossings, type ProposedTie, type TieEnd } from '#core/stratigraphy/ties';
	import type { Workspace } from '$lib/workspace.svelte';
	import { newTie, type ColumnOption } from './choices';

	/** Holes, curves and ties of a correlation. */
	let {
		workspace,
		holes,
		log,
		curves,
		shown,
		show,
		remove,
		shift,
		tie
	}: {
		workspace: Workspace;
		holes: readonly CorrelatedHole[];
		log: CorrelationSpec['log'];
		curves: readonly ColumnOption[];
		shown: readonly { table: string; column: string }[];
		show: (curves: { table: string; column: string }[]) => void;
		remove: (hole: string) => void;
		shift: (hole: string, by: number) => void;
		tie: (a: TieEnd, b: TieEnd) => Promise<boolean>;
	} = $props();

	const ground = $derived(workspace.stratigraphy);
	const names = $derived(new Set(holes.map((h) => h.name)));
	const ties = $derived(ground.ties.filter((t) => names.has(t.a.hole) && names.has(t.b.hole)));
	const crossing = $derived(
		new Map(crossings(ground.ties).flatMap(([a, b]) => [[a.id, b.name || 'another'] as const, [b.id, a.name || 'another'] as const]))
	);
	let left = $state(0);
	const pair = $derived(holes[left] && holes[left + 1] ? ([holes[left]!, holes[left + 1]!] as const) : null);
	let ends = $state<[number, number]>([-1, -1]);
	let proposed = $state.raw<ProposedTie[] | null>(null);
	let scores = $state.raw<{ left: string; right: string; score: number }[]>([]);
	let curve = $state('');
	let asking = $state(false);

	const title = (b: { above: string; below: string }) =>
		b.above && b.below ? `${b.above} on ${b.below}` : b.below ? `top of ${b.below}` : `base of ${b.above}`;
	async function propose(by: 'log' | 'curve') {
		const own = curves.find((c) => c.key === curve);
		if (by === 'curve' && !own) return workspace.say('Choose a curve first.');
		asking = true;
		await workspace.attempt(async () => {
			const answer = await workspace.api.ask('proposeTies', {
				body: {
					holes: holes.map((h) => h.name),
					log,
					...(by === 'curve' ? { curve: { table: own!.table, column: own!.column } } : {})
				}
			});
			({ ties: proposed, scores } = answer);
		});
		asking = false;
	}
	async function take(list: readonly ProposedTie[]) {
		const done = await ground.setTies((all) =>
			list.reduce(
				(known, p) => [
					...known,
					{ ...newTie(known, p.a, p.b, p.name), kind: p.score < 0.7 ? ('doubtful' as const) : ('certain' as const) }
				],
				[...all]
			)
		);
		if (done) proposed = (proposed ?? []).filter((p) => !list.includes(p));
	}
	const change = (tieId: string, what: { name?: string; kind?: 'certain' | 'doubtful' }) =>
		ground.setTies((all) => all.map((t) => (t.id === tieId ? { ...t, ...what } : t)));
</script>

<aside
	class="pane-aside rule bg-base-100 text-base-content flex w-72 shrink-0 flex-col gap-3 overflow-y-auto border-l p-2 text-xs"
	aria-label="Ties"
>
	<section class="flex flex-col gap-1">
		<h3 class="font-medium">Holes, from left to right</h3>
		{#if holes.length < 2}<p class="quiet">
				A correlation needs two holes: choose a section line with holes, select some, or add them above.
			</p>{/if}
		<ol class="max-h-40 overflow-y-auto">
			{#each holes as h, i (h.name)}
				<li class="flex items-center gap-1">
					<span class="min-w-0 flex-1 truncate">{h.name}{h.runs.length === 0 ? ' (not logged)' : ''}</span>
					<button
						class="btn btn-ghost btn-xs btn-square"
						aria-label="{h.name} further left"
						disabled={i === 0}
						onclick={() => shift(h.name, -1)}><ArrowLeft size={12} /></button
					>
					<button
						class="btn btn-ghost btn-xs btn-square"
						aria-label="{h.name} further right"
						disabled={i === holes.length - 1}
						onclick={() => shift(h.name, 1)}><ArrowRight size={12} /></button
					>
					<button
						class="btn btn-ghost btn-xs btn-square"
						aria-label="Take {h.name} out"
						disabled={holes.length === 1}
						onclick={() => remove(h.name)}><X size={12} /></button
					>
				</li>
			{/each}
		</ol>
		{#if curves.length}
			<label class="flex items-center gap-1"
				>Curves
				<select
					class="select select-xs flex-1"
					aria-label="Add a curve"
					value=""
					onchange={(e) => {
						const c = curves.find((x) => x.key === e.currentTarget.value);
						if (c)
							show([...shown.filter((s) => s.table !== c.table || s.column !== c.column), { table: c.table, column: c.column }].slice(-4));
						e.currentTarget.value = '';
					}}
					><option value="">add …</option>{#each curves as c (c.key)}<option value={c.key}>{c.name}</option>{/each}</select
				></label
			>
			{#each shown as c (c.table + c.column)}
				<button class="btn btn-xs self-start" title="Take this curve away" onclick={() => show(shown.filter((s) => s !== c))}
					>{curves.find((x) => x.table === c.table && x.column === c.column)?.name ?? c.column} ×</button
				>
			{/each}
		{/if}
	</section>
	{#if pair}
		<section class="rule flex flex-col gap-1 border-t pt-2">
			<h3 class="font-medium">Tie two boundaries</h3>
			<p class="quiet">Press a boundary in the picture, then one in another hole; or choose them here.</p>
			<select class="select select-xs" aria-label="Between which holes" bind:value={left} onchange={() => (ends = [-1, -1])}>
				{#each holes.slice(0, -1) as h, i (h.name)}<option value={i}>{h.name} and {holes[i + 1]!.name}</option>{/each}
			</select>
			{#each [0, 1] as const as side (side)}
				<select class="select select-xs" aria-label="Boundary in {pair[side].name}" bind:value={ends[side]}>
					<option value={-1}>a boundary in {pair[side].name}</option>
					{#each boundariesOf(pair[side].runs) as b, i (i)}<option value={i}
							>{spaced(b.depth, 2)} {workspace.project?.lengthUnit}: {title(b)}</option
						>{/each}
				</select>
			{/each}
			<button
				class="btn btn-xs self-start"
				disabled={ends[0] < 0 || ends[1] < 0}
				onclick={async () => {
					const [a, b] = [boundariesOf(pair[0].runs)[ends[0]]!, boundariesOf(pair[1].runs)[ends[1]]!];
					if (await tie({ hole: pair[0].name, depth: a.depth }, { hole: pair[1].name, depth: b.depth })) ends = [-1, -1];
				}}>Tie</button
			>
		</section>
		<section class="rule flex flex-col gap-1 border-t pt-2">
			<h3 class="font-medium">Proposals</h3>
			<button class="btn btn-xs self-start" disabled={asking} onclick={() => propose('log')}>From what is logged</button>
			{#if curves.length}
				<div class="flex gap-1">
					<select class="select select-xs min-w-0 flex-1" aria-label="Curve that is compared" bind:value={curve}
						><option value="">a curve …</option>{#each curves as c (c.key)}<option value={c.key}>{c.name}</option>{/each}</select
					>
					<button class="btn btn-xs" disabled={asking || !curve} onclick={() => propose('curve')}>By likeness</button>
				</div>
			{/if}
			{#each scores as s (s.left + s.right)}<p class="quiet">{s.left} and {s.right}: the curves agree to {s.score.toFixed(2)}</p>{/each}
			{#if proposed}
				{#if proposed.length === 0}<p>Nothing to propose: no boundaries of the same units that are not tied already.</p>
				{:else}<button class="btn btn-primary btn-xs self-start" onclick={() => take(proposed!)}>Take all {proposed.length}</button>{/if}
				<ul class="flex flex-col">
					{#each proposed.slice(0, 200) as p, i (i)}
						<li class="flex items-center gap-1">
							<span class="min-w-0 flex-1"
								>{p.name}
								<span class="quiet"
									>{p.a.hole} {spaced(p.a.depth, 1)} – {p.b.hole} {spaced(p.b.depth, 1)}, {p.why}, {p.score.toFixed(2)}</span
								></span
							>
							<button class="btn btn-xs" aria-label="Take {p.name}, {p.a.hole} to {p.b.hole}" onclick={() => take([p])}>Take</button>
						</li>
					{/each}
				</ul>
			{/if}
		</section>
	{/if}
	<section class="rule flex flex-col gap-1 border-t pt-2">
		<h3 class="font-medium">{ties.length} {ties.length === 1 ? 'tie' : 'ties'} between these holes</h3>
		{#each ties as t (t.id)}
			<div class="flex flex-col gap-0.5">
				<div class="flex items-center gap-1">
					<input
						class="input input-xs min-w-0 flex-1"
						aria-label="Name of the tie"
						value={t.name}
						maxlength="400"
						onchange={(e) => change(t.id, { name: e.currentTarget.value.trim() })}
					/>
					<select
						class="select select-xs w-24"
						aria-label="Kind of the tie {t.name}"
						value={t.kind}
						onchange={(e) => change(t.id, { kind: e.currentTarget.value as 'certain' | 'doubtful' })}
						><option value="certain">certain</option><option value="doubtful">doubtful</option></select
					>
					<button
						class="btn btn-ghost btn-xs btn-square"
						aria-label="Take the tie {t.name} out"
						onclick={() => ground.setTies((all) => all.filter((x) => x.id !== t.id))}><Trash2 size={12} /></button
					>
				</div>
				<p class="quiet">
					{t.a.hole}
					{spaced(t.a.depth, 2)} – {t.b.hole}
					{spaced(t.b.depth, 2)}{crossing.has(t.id) ? `; crosses ${crossing.get(t.id)}` : ''}
				</p>
			</div>
		{/each}
		{#if ties.length > 1}
			<button class="btn btn-xs self-start" onclick={() => ground.setTies((all) => all.filter((t) => !ties.includes(t)))}
				>Take all out</button
			>
		{/if}
	</section>
</aside>
