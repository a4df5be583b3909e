<script lang="ts">
	import { X } from '$lib/icons';
	import { BEFORE } from '#core/tables/version';
	import type { ProjectObject } from '$lib/api/types';
	import Fold from '$lib/ui/Fold.svelte';
	import type { Workspace } from '$lib/workspace.svelte';

	/** Codes that a version of a log takes for others, wherever they stand. */
	let {
		workspace,
		log,
		codes,
		act
	}: {
		workspace: Workspace;
		log: ProjectObject;
		/** Codes as they are now. */
		codes: readonly string[];
		/** Does something, and reads again. */
		act: (work: () => Promise<unknown>) => Promise<boolean>;
	} = $props();
	const recode = $derived((log.state['recode'] ?? {}) as Record<string, string>);
	const taken = $derived(Object.entries(recode).sort(([a], [b]) => (a < b ? -1 : 1)));
	/** Codes as they stand in what it goes out from. */
	const logged = $derived.by(() => {
		const column = workspace.sets.of(log.id)?.columns.find((c) => c.key === BEFORE);
		return column?.type === 'category' ? [...column.categories].sort() : [];
	});
	let from = $state('');
	let to = $state('');
	const set = (next: Record<string, string>) =>
		act(() => workspace.api.ask('setRecode', { object: log.id, body: { recode: next, revision: log.revision } }));
	async function take(event: SubmitEvent) {
		event.preventDefault();
		if (!from) return workspace.say('Choose the code that is taken for another.', 'error');
		if (to.trim() === from) return workspace.say('That is the code itself.', 'error');
		if (await set({ ...recode, [from]: to.trim() })) from = to = '';
	}
	const letGo = (code: string) => set(Object.fromEntries(taken.filter(([c]) => c !== code)));
</script>

<Fold filled={taken.length > 0} look="rule mt-3 border-t pt-2 text-sm">
	{#snippet title()}<summary class="panel-title cursor-pointer"
			>Codes taken for others{#if taken.length}<span class="numbers quiet ml-1 font-normal">{taken.length}</span>{/if}</summary
		>{/snippet}
	<p class="quiet my-1 text-xs">Wherever they stand in the log, before intervals are relogged. What was logged stays as it is.</p>
	<ul class="max-h-48 overflow-y-auto" aria-label="Codes taken for others">
		{#each taken as [code, as] (code)}
			<li class="flex items-center gap-1.5">
				<span class="min-w-0 flex-1 truncate" title="{code} is taken for {as || 'not sampled'}">{code} → {as || 'not sampled'}</span>
				<button class="btn btn-ghost btn-xs btn-square" aria-label="Take {code} for itself again" onclick={() => letGo(code)}
					><X size={13} /></button
				>
			</li>
		{/each}
	</ul>
	<form class="mt-1 flex flex-wrap items-center gap-1.5" aria-label="Take a code for another" onsubmit={take}>
		<select class="select select-xs w-28" aria-label="Code that is taken for another" bind:value={from}>
			<option value="" disabled>code</option>
			{#each logged.filter((c) => !(c in recode)) as c (c)}<option value={c}>{c}</option>{/each}
		</select>
		→
		<input
			class="input input-xs min-w-0 flex-1"
			list="codes-of-{log.id}"
			maxlength="200"
			aria-label="Code that it is taken for"
			placeholder="not sampled"
			bind:value={to}
		/>
		<datalist id="codes-of-{log.id}"
			>{#each codes as c (c)}<option value={c}></option>{/each}</datalist
		>
		<button class="btn btn-xs">Take</button>
	</form>
</Fold>
