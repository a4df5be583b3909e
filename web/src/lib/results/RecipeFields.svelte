<script lang="ts">
	import type { RecipeInfo, Suggestion } from '$lib/api/types';
	import type { Workspace } from '$lib/workspace.svelte';
	import { candidates } from './choices';

	/** What a result is made of, and its parameters. */
	let {
		workspace,
		recipe,
		inputs,
		parameters,
		units,
		setInput,
		setParameter
	}: {
		workspace: Workspace;
		recipe: RecipeInfo;
		inputs: Record<string, string[]>;
		parameters: Record<string, unknown>;
		/** Units that can be chosen, by role. */
		units: Suggestion['units'];
		setInput: (role: string, ids: string[]) => void;
		setParameter: (name: string, value: unknown) => void;
	} = $props();
	const length = $derived(workspace.project!.lengthUnit);
	const UNIT_WORDS: Record<string, string> = { degrees: '°', share: '', members: '' };
	const suffix = (unit: string | undefined) =>
		unit === 'length' ? `, ${length}` : unit && UNIT_WORDS[unit] ? `, ${UNIT_WORDS[unit]}` : '';
</script>

<div class="grid grid-cols-2 gap-x-2 gap-y-1.5 text-sm">
	{#each recipe.roles as role (role.role)}
		{@const can = candidates(workspace.objects, role, workspace.modelId)}
		<label class="col-span-2 flex flex-col"
			>{role.title}<select
				class="select select-xs w-full"
				value={inputs[role.role]?.[0] ?? ''}
				onchange={(e) => setInput(role.role, e.currentTarget.value ? [e.currentTarget.value] : [])}
			>
				{#if role.least === 0 || can.length === 0}<option value="">{can.length === 0 ? 'There is none yet' : 'None'}</option>{/if}
				{#if inputs[role.role]?.[0] && !can.some((o) => o.id === inputs[role.role]![0])}<option value={inputs[role.role]![0]} disabled
						>taken out of the project</option
					>{/if}
				{#each can as o (o.id)}<option value={o.id}>{o.name}</option>{/each}
			</select></label
		>
	{/each}
	{#each recipe.parameters as p (p.name)}
		<label class="flex flex-col {p.type === 'number' ? '' : 'col-span-2'}"
			>{p.label}{suffix(p.unit)}
			{#if p.type === 'number'}
				<input
					class="input input-xs numbers w-full"
					type="number"
					step={p.whole ? 1 : 'any'}
					min={p.least ?? undefined}
					max={p.most ?? undefined}
					value={parameters[p.name] as number}
					onchange={(e) => setParameter(p.name, e.currentTarget.value === '' ? undefined : e.currentTarget.valueAsNumber)}
				/>
			{:else if p.type === 'choice'}
				{@const own = p.unitsOf ? (units[p.unitsOf] ?? []).map((u) => [u.id, u.name] as const) : Object.entries(p.words ?? {})}
				<select
					class="select select-xs w-full"
					value={parameters[p.name] as string}
					onchange={(e) => setParameter(p.name, e.currentTarget.value)}
				>
					{#if own.length === 0}<option value="">There are none</option>{/if}
					{#each own as [value, name] (value)}<option {value}>{name}</option>{/each}
				</select>
			{:else}
				<input
					class="input input-xs w-full"
					value={parameters[p.name] as string}
					onchange={(e) => setParameter(p.name, e.currentTarget.value)}
				/>
			{/if}</label
		>
	{/each}
</div>
