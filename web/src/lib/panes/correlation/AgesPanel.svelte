<script lang="ts">
	import { COPPER, DRAWN, HELD, INK, RULE } from '#core/palette';
	import { ticks, spaced } from '#core/formats/ticks';
	import type { AgeCurve } from '#core/stratigraphy/age-curve';
	import type { CorrelationSpec } from '#core/stratigraphy/correlation';
	import type { AgeSources } from '#core/stratigraphy/hole-ages';
	import type { Problem } from '#core/problem';
	import type { Workspace } from '$lib/workspace.svelte';

	/** What dates the holes, the age–depth curve of one, and a log in units of time made from them. */
	let {
		workspace,
		names,
		log,
		ages,
		curve,
		choose
	}: {
		workspace: Workspace;
		names: readonly string[];
		log: CorrelationSpec['log'];
		ages: AgeSources;
		curve: (hole: string) => { curve: AgeCurve | null; problem: Problem | null } | null;
		choose: (scheme: string) => void;
	} = $props();

	let picked = $state('');
	const hole = $derived(names.includes(picked) ? picked : (names.find((n) => curve(n)?.curve) ?? names[0] ?? ''));
	const own = $derived(hole ? curve(hole) : null);
	let units = $state('');
	/** The scheme that the units of time are of: that which dates, unless another is chosen. */
	const of = $derived(
		workspace.stratigraphy.schemes.find((s) => s.id === (units || ages.scheme)) ?? workspace.stratigraphy.schemes[0] ?? null
	);
	const unit = $derived(workspace.project?.lengthUnit ?? 'm');
	let rank = $state(0);
	let making = $state(false);

	const [W, H, LEFT, TOP] = [248, 250, 34, 8];
	const plot = $derived.by(() => {
		const c = own?.curve;
		if (!c) return null;
		const low = Math.min(...c.knots.map((k) => k.low), ...c.aside.map((k) => k.age));
		const high = Math.max(...c.knots.map((k) => k.high), ...c.aside.map((k) => k.age));
		const depths = [...c.knots, ...c.aside].map((k) => k.depth);
		const [top, bottom] = [Math.min(...depths), Math.max(...depths)];
		const x = (age: number) => LEFT + ((age - low) / Math.max(1e-9, high - low)) * (W - LEFT - 8);
		const y = (depth: number) => TOP + ((depth - top) / Math.max(1e-9, bottom - top)) * (H - TOP - 24);
		return { c, x, y, agesAt: ticks(low, high, 4), depthsAt: ticks(top, bottom, 6) };
	});
	const line = (values: readonly number[]) =>
		plot!.c.knots.map((k, i) => `${i ? 'L' : 'M'}${plot!.x(values[i]!).toFixed(1)} ${plot!.y(k.depth).toFixed(1)}`).join('');

	async function make() {
		making = true;
		await workspace.attempt(async () => {
			const made = await workspace.api.ask('newAgeLog', {
				object: log.table,
				body: {
					ages,
					scheme: of!.id,
					rank: Math.min(rank, of!.ranks.length - 1),
					column: log.column
				}
			});
			await workspace.refresh();
			workspace.say(`${made.name} is there: choose it as the log of a model, or here.`);
		});
		making = false;
	}
</script>

<aside
	class="pane-aside rule bg-base-100 text-base-content flex w-72 shrink-0 flex-col gap-3 overflow-y-auto border-l p-2 text-xs"
	aria-label="Ages"
>
	<section class="flex flex-col gap-1">
		<h3 class="font-medium">What dates the holes</h3>
		<label class="flex items-center gap-1"
			>Scheme
			<select class="select select-xs flex-1" value={ages.scheme} onchange={(e) => choose(e.currentTarget.value)}
				><option value="">none</option>{#each workspace.stratigraphy.schemes as s (s.id)}<option value={s.id}>{s.name}</option
					>{/each}</select
			></label
		>
		{#if workspace.stratigraphy.schemes.length === 0}<p class="quiet">Schemes with ages are made under Interpret, Ranks.</p>{/if}
		{#each ages.dates as d (d.table)}
			<p>
				{workspace.tables.find((t) => t.id === d.table)?.name}: {d.age
					? `${d.age}${d.error ? ` ± ${d.error}` : ''}`
					: `${d.low} to ${d.high}`}
			</p>
		{:else}<p class="quiet">No table along holes has a column with ages.</p>{/each}
	</section>
	<section class="rule flex flex-col gap-1 border-t pt-2">
		<h3 class="font-medium">Age and depth</h3>
		<select class="select select-xs" aria-label="Hole of the curve" value={hole} onchange={(e) => (picked = e.currentTarget.value)}
			>{#each names as n (n)}<option value={n}>{n}</option>{/each}</select
		>
		{#if plot}
			<svg
				width={W}
				height={H}
				role="img"
				aria-label="Age and depth of {hole}: {plot.c.knots
					.map((k) => `${spaced(k.age, 1)} Ma at ${spaced(k.depth, 1)} ${unit}`)
					.join(', ')}"
			>
				{#each plot.agesAt as a (a)}<path d="M{plot.x(a)} {TOP}V{H - 24}" stroke={RULE} stroke-width="0.5" /><text
						x={plot.x(a)}
						y={H - 12}
						font-size="10"
						text-anchor="middle"
						fill="currentColor">{a}</text
					>{/each}
				{#each plot.depthsAt as d (d)}<path d="M{LEFT} {plot.y(d)}H{W - 8}" stroke={RULE} stroke-width="0.5" /><text
						x={LEFT - 3}
						y={plot.y(d) + 3}
						font-size="10"
						text-anchor="end"
						fill="currentColor">{d}</text
					>{/each}
				<text x={W - 8} y={H - 1} font-size="10" text-anchor="end" fill="currentColor">age, Ma; depth, {unit}</text>
				{#each plot.c.bundle as b, i (i)}<path d={line(b)} stroke={DRAWN} stroke-opacity="0.12" fill="none" />{/each}
				<path d={line(plot.c.knots.map((k) => k.age))} stroke={DRAWN} stroke-width="1.6" fill="none" />
				{#each plot.c.knots as k, i (i)}
					<path d="M{plot.x(k.low)} {plot.y(k.depth)}H{plot.x(k.high)}" stroke={INK} />
					<circle cx={plot.x(k.age)} cy={plot.y(k.depth)} r="2.6" fill={k.from === 'boundary' ? DRAWN : COPPER}
						><title>{k.name}: {spaced(k.age, 2)} Ma, {spaced(k.low, 2)} to {spaced(k.high, 2)}</title></circle
					>
				{/each}
				{#each plot.c.aside as k, i (i)}<path d="M{plot.x(k.age) - 3} {plot.y(k.depth) - 3}l6 6m0 -6l-6 6" stroke={HELD} stroke-width="1.6"
						><title>{k.name}: contradicts the others</title></path
					>{/each}
			</svg>
			<p class="quiet">Bars hold 90 of 100. Blue: boundaries; copper: dates; ×: set aside, it contradicts the others.</p>
			{#each plot.c.aside as k, i (i)}<p>Set aside: {k.name}, {spaced(k.age, 1)} Ma at {spaced(k.depth, 1)} {unit}.</p>{/each}
			<table class="table-xs table">
				<thead><tr><th>From</th><th>To, {unit}</th><th class="text-right">{unit} in a Ma</th></tr></thead>
				<tbody>
					{#each plot.c.rates as r, i (i)}
						<tr
							><td class="numbers">{spaced(plot.c.knots[i]!.depth, 1)}</td><td class="numbers">{spaced(plot.c.knots[i + 1]!.depth, 1)}</td>
							<td class="numbers text-right"
								>{r
									? `${spaced(Number(r.rate.toPrecision(3)))} (${spaced(Number(r.low.toPrecision(2)))}–${spaced(Number(r.high.toPrecision(2)))})`
									: 'hiatus'}</td
							></tr
						>
					{/each}
				</tbody>
			</table>
		{:else if own?.problem}<p role="status">{own.problem.message}. <span class="quiet">{own.problem.hint}</span></p>{/if}
	</section>
	{#if of}
		<section class="rule flex flex-col gap-1 border-t pt-2">
			<h3 class="font-medium">A log in units of time</h3>
			<p class="quiet">What is dated becomes the unit that its age lies in; the log itself stays.</p>
			<select
				class="select select-xs"
				aria-label="Scheme of the units of time"
				value={of.id}
				onchange={(e) => (units = e.currentTarget.value)}
				>{#each workspace.stratigraphy.schemes as s (s.id)}<option value={s.id}>{s.name}</option>{/each}</select
			>
			<select class="select select-xs" aria-label="Rank of the units of time" bind:value={rank}
				>{#each of.ranks as r, i (i)}<option value={i}>{r}</option>{/each}</select
			>
			<button class="btn btn-xs self-start" disabled={making} onclick={make}>{making ? 'Making it …' : 'Make it'}</button>
		</section>
	{/if}
</aside>
