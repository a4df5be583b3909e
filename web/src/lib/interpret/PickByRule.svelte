<script lang="ts">
	import type { Given } from '$lib/api/contract';
	import type { ProjectObject } from '$lib/api/types';
	import type { Workspace } from '$lib/workspace.svelte';

	/** Picks intervals of a log by a rule. */
	let {
		workspace,
		log,
		rows,
		codes
	}: { workspace: Workspace; log: ProjectObject; /** Those that are picked. */ rows: readonly number[]; codes: readonly string[] } =
		$props();
	const unit = $derived(workspace.project?.lengthUnit ?? 'm');
	let rule = $state<'thin' | 'above' | 'below' | 'depth' | 'filter' | 'within'>('thin');
	let thinner = $state(1);
	let same = $state(true);
	let of = $state('');
	let range = $state<[number, number]>([0, 10]);
	let filter = $state('');
	let body = $state('');
	let bodyUnit = $state('');
	/** What something can lie within: faces on the map, surfaces, models. */
	const bodies = $derived(
		workspace.objects.filter(
			(o) =>
				['lines', 'faces', 'surface', 'solids'].includes(o.form ?? '') &&
				(o.fileId !== null || o.kind === 'model' || workspace.made.some((m) => m.id === o.id))
		)
	);
	const ofSolids = $derived(bodies.find((o) => o.id === body)?.form === 'solids');
	let among = $state(false);
	async function pick(event: SubmitEvent) {
		event.preventDefault();
		const asked: Given<'pickIntervals'>['body']['rule'] =
			rule === 'thin'
				? { by: 'thin', thinner, between: same ? 'same' : 'any' }
				: rule === 'depth'
					? { by: 'depth', from: range[0], to: range[1] }
					: rule === 'filter'
						? { by: 'filter', filter }
						: rule === 'within'
							? { by: 'within', object: body, ...(ofSolids ? { unit: bodyUnit } : {}) }
							: { by: 'beside', of, side: rule };
		await workspace.attempt(async () => {
			const found = await workspace.api.ask('pickIntervals', {
				object: log.id,
				body: {
					rule: asked,
					among: among && rows.length ? rows : null
				}
			});
			workspace.selection = found.rows.length ? { kind: 'rows', table: log.id, rows: found.rows } : null;
			if (!found.rows.length) workspace.say('The rule picks no interval of this log.');
		});
	}
</script>

<form class="rule mt-3 border-t pt-2" onsubmit={pick} aria-label="Pick intervals by a rule">
	<h3 class="panel-title mb-1">Pick intervals</h3>
	<p class="quiet mb-1.5 text-xs">
		Press them in space, on a section or in the log; Ctrl adds, a drag along the log sweeps, Shift and a drag on a section picks across
		holes, Outline in space picks round them. Or by a rule:
	</p>
	<div class="flex flex-wrap items-center gap-1.5 text-sm">
		<select class="select select-xs w-40" aria-label="Rule" bind:value={rule}>
			<option value="thin">thinner than</option><option value="above">above the first</option><option value="below">below the last</option>
			<option value="depth">between depths</option><option value="filter">where it is true that</option>
			<option value="within">within a body</option>
		</select>
		{#if rule === 'thin'}
			<input
				type="number"
				class="input input-xs numbers w-16"
				min="0.001"
				step="any"
				required
				aria-label="Thickness, {unit}"
				bind:value={thinner}
			/>{unit}
			<label class="flex items-center gap-1 text-xs"
				><input type="checkbox" class="checkbox checkbox-xs" bind:checked={same} />between two of one unit</label
			>
		{:else if rule === 'depth'}
			<input type="number" class="input input-xs numbers w-16" step="any" required aria-label="From, {unit}" bind:value={range[0]} />
			to
			<input type="number" class="input input-xs numbers w-16" step="any" required aria-label="To, {unit}" bind:value={range[1]} />{unit}
		{:else if rule === 'filter'}
			<input
				class="input input-xs w-full"
				required
				maxlength="2000"
				aria-label="Expression over the columns"
				placeholder="Logger = 'Moe' and contains(Description, 'sandy')"
				bind:value={filter}
			/>
		{:else if rule === 'within'}
			<select class="select select-xs min-w-0 flex-1" aria-label="Body" required bind:value={body}>
				<option value="" disabled>{bodies.length ? 'faces, closed surface or model' : 'there is none yet'}</option>
				{#each bodies as o (o.id)}<option value={o.id}>{o.name}</option>{/each}
			</select>
			{#if ofSolids}<select class="select select-xs w-full" aria-label="Unit of the model" required bind:value={bodyUnit}>
					<option value="" disabled>unit</option>
					{#each workspace.allUnits as u (u.id)}<option value={u.id}>{u.name}</option>{/each}
				</select>{/if}
		{:else}
			<select class="select select-xs min-w-0 flex-1" aria-label="Unit or code" required bind:value={of}>
				<option value="" disabled>unit or code</option>
				{#each workspace.allUnits as u (u.id)}<option value={u.id}>{u.name}</option>{/each}
				{#each codes as c (c)}<option value={c}>{c}</option>{/each}
			</select>
		{/if}
	</div>
	<div class="mt-1.5 flex items-center gap-2">
		<button class="btn btn-xs">Pick</button>
		{#if rows.length}<label class="flex items-center gap-1 text-xs"
				><input type="checkbox" class="checkbox checkbox-xs" bind:checked={among} />only among those that are picked</label
			>{/if}
	</div>
</form>
