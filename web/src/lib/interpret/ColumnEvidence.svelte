<script lang="ts">
	import type { ColumnEvidence } from '$lib/api/types';
	import type { ContactKind, Unit } from '#core/units/column';
	import type { Workspace } from '$lib/workspace.svelte';

	/** What the holes say of the order of the units. */
	let { workspace, units, change }: { workspace: Workspace; units: Unit[]; change: (units: Unit[]) => unknown } = $props();
	let found = $state.raw<ColumnEvidence | null>(null);
	const key = $derived(
		units.length < 2
			? ''
			: [
					...workspace.tables.map((t) => t.contentHash),
					workspace.interpretation?.column.revision,
					workspace.interpretation?.lumping.revision,
					workspace.interpretation?.shaping.revision
				].join()
	);
	let asOf = '';
	$effect(() => {
		if (key === asOf) return;
		asOf = key;
		if (!key) return void (found = null);
		const asked = key;
		void workspace.api.ask('getColumnEvidence').then(
			(e) => asked === asOf && (found = e),
			() => asked === asOf && (found = null)
		);
	});
	const nameOf = (id: string) => units.find((u) => u.id === id)?.name ?? id;
	const against = $derived((found?.evidence ?? []).filter((e) => e.against.length));
	const silent = $derived((found?.evidence ?? []).filter((e) => !e.holes && !e.against.length).length);
	/** The order that most holes have: units that no hole meets stay behind the one that they stand behind now; the basement stays the last. */
	const proposed = $derived.by((): Unit[] => {
		if (!found) return units;
		const kinds = new Map(found.proposed.map((p) => [p.unit, p.contact as ContactKind]));
		const list = found.proposed.flatMap((p) => units.find((u) => u.id === p.unit) ?? []);
		units.forEach((u, i) => {
			if (!list.includes(u)) list.splice(i ? list.indexOf(units[i - 1]!) + 1 : 0, 0, u);
		});
		return list.map((u, i) => ({
			...u,
			contact: i === list.length - 1 && kinds.get(u.id) === 'intrusive' ? u.contact : (kinds.get(u.id) ?? u.contact)
		}));
	});
	const word = (list: Unit[]) => list.map((u) => `${u.id} ${u.contact}`).join();
	const differs = $derived(found !== null && word(proposed) !== word(units));
	const sameOrder = $derived(proposed.every((u, i) => u.id === units[i]?.id));
</script>

{#if found && found.holes}
	<section class="rule mt-4 border-t pt-2 text-sm" aria-label="What the holes say of the order">
		<h3 class="panel-title mb-1">What the holes say</h3>
		{#if against.length}
			<ul class="mb-1">
				{#each against as e (e.above + e.below)}
					<li class="mb-0.5">
						{nameOf(e.above)} over {nameOf(e.below)}: <span class="numbers">{e.holes}</span>
						{e.holes === 1 ? 'hole' : 'holes'},
						<button class="link" onclick={() => (workspace.selection = { kind: 'holes', names: [...e.against] })}
							>{e.against.length} the other way round</button
						>
						<span class="quiet text-xs">{e.against.slice(0, 6).join(', ')}{e.against.length > 6 ? ' …' : ''}</span>
					</li>
				{/each}
			</ul>
		{:else}<p class="quiet mb-1">No hole has neighbours the other way round.</p>{/if}
		{#if silent}<p class="quiet mb-1 text-xs">Of {silent} {silent === 1 ? 'pair' : 'pairs'} of neighbours no hole meets both.</p>{/if}
		{#if differs}
			<p class="mt-1.5">{sameOrder ? 'Most holes speak for other kinds of contact:' : 'Most holes have another order:'}</p>
			<ol class="mt-1 mb-1.5 flex flex-col gap-0.5" aria-label="Proposed, youngest first">
				{#each proposed as u, i (u.id)}
					<li class="flex items-center gap-1.5 {units[i]?.id === u.id && units[i]?.contact === u.contact ? 'quiet' : ''}">
						<span class="border-base-content/60 h-3 w-5 border" style="background:{u.color}"></span>{u.name}
						{#if i < proposed.length - 1 && units.find((x) => x.id === u.id)?.contact !== u.contact}<span class="text-xs"
								>{units.find((x) => x.id === u.id)?.contact} → {u.contact}</span
							>{/if}
					</li>
				{/each}
			</ol>
			<div class="flex flex-wrap gap-1.5">
				<button class="btn btn-xs" onclick={() => change(proposed)}>Take over</button>
				{#if !sameOrder}<button class="btn btn-xs" onclick={() => change(proposed.map((p) => units.find((u) => u.id === p.id)!))}
						>The order alone</button
					>{/if}
			</div>
		{/if}
	</section>
{/if}
