<script lang="ts">
	import { untrack, type Snippet } from 'svelte';
	import { Hammer } from '$lib/icons';
	import type { AnswerOf } from '$lib/api/contract';
	import { spaced } from '$lib/ui/numbers';
	import type { Workspace } from '$lib/workspace.svelte';

	/** What the data propose for a project that is not set up yet; taken over in one press. */
	let { workspace, only = null }: { workspace: Workspace; /** Of all steps this one alone. */ only?: 'units' | null } = $props();
	type Step = 'units' | 'extent' | 'spacing' | 'section';
	let steps = $state.raw<AnswerOf<'getFirstSteps'> | null>(null);
	let left = $state<Record<string, boolean>>({});
	let busy = $state(false);
	const unit = $derived(workspace.project!.lengthUnit);
	const built = $derived(workspace.object('model')?.missing === false);
	/** Changes with all that proposals are made from. */
	const key = $derived(
		[
			...workspace.tables.map((t) => t.contentHash),
			workspace.object('terrain')?.contentHash,
			workspace.interpretation?.column.revision,
			workspace.interpretation?.lumping.revision,
			workspace.interpretation?.section.revision,
			workspace.project?.revision
		].join()
	);
	/** A project that is built and whose codes all have their units needs nothing that would have to be worked out. */
	const wanted = $derived(!built || (workspace.interpretation?.codes ?? []).some((c) => !workspace.unitOfCode(c.code)));
	$effect(() => {
		void key;
		if (!wanted) return void (steps = null);
		untrack(() =>
			workspace.api.ask('getFirstSteps').then(
				(s) => (steps = s),
				() => (steps = null)
			)
		);
	});
	const offered = $derived.by((): Step[] => {
		if (!steps) return [];
		const all: Step[] = [];
		if (steps.units) all.push('units');
		if (only) return all.filter((s) => s === only);
		if (steps.extent) all.push('extent');
		if (steps.spacing && steps.extent && steps.spacing !== workspace.interpretation?.model.spacing) all.push('spacing');
		if (steps.section) all.push('section');
		return all;
	});
	const chosen = $derived(offered.filter((s) => !left[s]));
	/** With what is chosen nothing stands in the way of a model. */
	const ready = $derived(
		!only && !built && (workspace.project!.extent || chosen.includes('extent')) && (workspace.units.length || chosen.includes('units'))
	);

	async function take(build: boolean) {
		busy = true;
		const done = await workspace.attempt(async () => {
			await workspace.api.ask('takeFirstSteps', { body: { take: chosen } });
			await workspace.refresh();
		});
		if (done && build) await workspace.build();
		busy = false;
	}
	const hold = (holes: string[]) => (workspace.selection = { kind: 'holes', names: holes });
	const some = (names: string[], most = 6) =>
		names.slice(0, most).join(', ') + (names.length > most ? ` and ${names.length - most} more` : '');
</script>

{#snippet choice(step: Step, text: Snippet)}
	<label class="mb-1 flex items-start gap-2"
		><input
			type="checkbox"
			class="checkbox checkbox-xs mt-0.5"
			checked={!left[step]}
			onchange={(e) => (left[step] = !e.currentTarget.checked)}
		/><span>{@render text()}</span></label
	>
{/snippet}

{#if steps && (offered.length || (!only && !built && steps.missing.length && workspace.objects.some((o) => o.kind === 'table' || o.kind === 'terrain')))}
	<section class="bg-base-100 rule border-primary mt-4 mb-4 border border-l-4 p-4" aria-label="What the data propose">
		<h2 class="panel-title mb-2">{only ? 'Units from the logs' : 'What the data propose'}</h2>
		{#if steps.units && offered.includes('units')}
			{@const u = steps.units}
			<div class="mb-3">
				{#snippet unitsText()}{u.added.length
						? `A unit for every code without one: ${u.added.length} ${u.added.length === 1 ? 'unit' : 'units'}, in the order that most holes have them`
						: 'Units for codes that are spelled like one'}{/snippet}
				{@render choice('units', unitsText)}
				<ol class="mt-1.5 ml-6 flex flex-wrap gap-x-3 gap-y-1 text-sm" aria-label="Youngest first">
					{#each u.column as c (c.id)}
						<li class="flex items-center gap-1.5">
							<span class="border-base-content/60 h-3.5 w-5 border" style="background:{c.color}"></span><span
								class={u.added.includes(c.id) ? '' : 'quiet'}>{c.name}{c.contact === 'conformable' ? '' : ` (${c.contact})`}</span
							>
						</li>
					{/each}
				</ol>
				<div class="quiet mt-1 ml-6 text-sm">
					{#if u.contradicting.length}<button class="link" onclick={() => hold(u.contradicting)}
							>{u.contradicting.length} {u.contradicting.length === 1 ? 'hole has' : 'holes have'} another order</button
						>: {some(u.contradicting)}.{:else if u.evidence.some((e) => e.holes)}No hole contradicts.{/if}
					{#if u.alike.length}Spelled in several ways: {some(
							u.alike.map((g) => g.join(' = ')),
							4
						)}.{/if}
					{#if u.left.length}Without a unit, as nothing was seen there: {some(u.left)}.{/if}
				</div>
			</div>
		{/if}
		{#if steps.extent && offered.includes('extent')}
			{@const e = steps.extent}
			{#snippet extentText()}An extent of <span class="numbers"
					>{spaced(e.maxX - e.minX)} × {spaced(e.maxY - e.minY)} × {spaced(e.maxZ - e.minZ)} {unit}</span
				>
				round the {workspace.tables.some((t) => t.state['kind'] === 'collars') ? 'holes' : 'terrain'}{/snippet}
			{@render choice('extent', extentText)}
		{/if}
		{#if offered.includes('spacing')}
			{#snippet spacingText()}Triangles of about <span class="numbers">{spaced(steps!.spacing!, steps!.spacing! < 10 ? 1 : 0)} {unit}</span
				>, an eighth of the way between neighbouring holes{/snippet}
			{@render choice('spacing', spacingText)}
		{/if}
		{#if steps.section && offered.includes('section')}
			{#snippet sectionText()}A first section through {steps!.section!.holes} {steps!.section!.holes === 1 ? 'hole' : 'holes'}{/snippet}
			{@render choice('section', sectionText)}
		{/if}
		{#if steps.far.length && offered.includes('extent')}<p class="text-warning mb-1 text-sm" role="status">
				Left out, for {steps.far.length === 1 ? 'it lies' : 'they lie'} far from all others: {some(steps.far)}. Look at
				{steps.far.length === 1 ? 'its' : 'their'} coordinates under <a class="link" href="/{workspace.id}/check">Check</a>.
			</p>{/if}
		{#if !only}{#each steps.missing as m (m.what)}<p class="quiet text-sm">Still wanted: {m.what}. {m.hint}</p>{/each}{/if}
		{#if offered.length}
			<div class="mt-3 flex flex-wrap gap-2">
				<button class="btn btn-sm {ready ? '' : 'btn-primary'}" disabled={busy || !chosen.length} onclick={() => take(false)}
					>Take over</button
				>
				{#if ready}<button class="btn btn-primary btn-sm" disabled={busy || !chosen.length} onclick={() => take(true)}
						><Hammer size={15} />Take over and build the model</button
					>{/if}
				<span class="quiet self-center text-sm">One step, which undo takes back.</span>
			</div>
		{/if}
	</section>
{/if}
