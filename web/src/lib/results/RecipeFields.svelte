<script lang="ts">
	import { X } from '$lib/icons';
	import type { RecipeInfo } from '$lib/api/types';
	import type { Workspace } from '$lib/workspace.svelte';
	import { candidates, isAsked, offeredFor, type Offered } from './choices';

	/** What a result is made of, and its parameters. */
	let {
		workspace,
		recipe,
		inputs,
		parameters,
		offered,
		setInput,
		setParameter
	}: {
		workspace: Workspace;
		recipe: RecipeInfo;
		inputs: Record<string, string[]>;
		parameters: Record<string, unknown>;
		offered: Offered;
		setInput: (role: string, ids: string[]) => void;
		setParameter: (name: string, value: unknown) => void;
	} = $props();
	const length = $derived(workspace.project!.lengthUnit);
	const UNIT_WORDS: Record<string, string> = { degrees: '°', seconds: 's', days: 'days' };
	const suffix = (unit: string | undefined) =>
		unit === 'length' ? `, ${length}` : unit && UNIT_WORDS[unit] ? `, ${UNIT_WORDS[unit]}` : '';
	const nameOf = (id: string) => workspace.objects.find((o) => o.id === id)?.name ?? 'taken out of the project';
	const asked = $derived(recipe.parameters.filter((p) => isAsked(p, parameters, inputs)));
</script>

<div class="grid grid-cols-2 gap-x-2 gap-y-1.5 text-sm">
	{#each recipe.roles as role (role.role)}
		{@const can = candidates(workspace.objects, role, workspace.modelId)}
		{@const own = inputs[role.role] ?? []}
		{#if role.most > 1}
			{@const free = can.filter((o) => !own.includes(o.id))}
			<div class="col-span-2 flex flex-col gap-0.5">
				<span>{role.title}</span>
				{#each own as input (input)}
					<span class="bg-base-200 flex items-center gap-1 px-1.5 py-0.5"
						><span class="min-w-0 flex-1 truncate" title={nameOf(input)}>{nameOf(input)}</span><button
							type="button"
							class="quiet"
							aria-label="Take {nameOf(input)} out of {role.title}"
							onclick={() =>
								setInput(
									role.role,
									own.filter((i) => i !== input)
								)}><X size={13} /></button
						></span
					>
				{/each}
				{#if own.length < role.most}<select
						class="select select-xs w-full"
						aria-label="Add to {role.title}"
						value=""
						onchange={(e) => {
							const added = e.currentTarget.value;
							e.currentTarget.value = '';
							if (added) setInput(role.role, [...own, added]);
						}}
					>
						<option value=""
							>{free.length === 0
								? can.length
									? 'There are no more'
									: 'There is none yet'
								: own.length
									? 'Add…'
									: role.least
										? 'Choose…'
										: 'None'}</option
						>
						{#each free as o (o.id)}<option value={o.id}>{o.name}</option>{/each}
					</select>{/if}
			</div>
		{:else}
			<label class="col-span-2 flex flex-col"
				>{role.title}<select
					class="select select-xs w-full"
					value={own[0] ?? ''}
					onchange={(e) => setInput(role.role, e.currentTarget.value ? [e.currentTarget.value] : [])}
				>
					{#if role.least === 0 || can.length === 0}<option value="">{can.length === 0 ? 'There is none yet' : 'None'}</option>{/if}
					{#if own[0] && !can.some((o) => o.id === own[0])}<option value={own[0]} disabled>taken out of the project</option>{/if}
					{#each can as o (o.id)}<option value={o.id}>{o.name}</option>{/each}
				</select></label
			>
		{/if}
	{/each}
	{#each asked as p (p.name)}
		<label class="flex flex-col {p.type === 'number' || p.unit === 'date' ? '' : 'col-span-2'}" title={p.help}
			><span class={p.help ? 'decoration-base-content/40 underline decoration-dotted underline-offset-2' : ''}
				>{p.label}{suffix(p.unit)}</span
			>
			{#if p.type === 'number'}
				<input
					class="input input-xs numbers w-full"
					type="number"
					step={p.whole ? 1 : 'any'}
					min={p.least ?? undefined}
					max={p.most ?? undefined}
					placeholder={p.optional ? 'by itself' : undefined}
					value={(parameters[p.name] ?? p.first) as number}
					onchange={(e) =>
						setParameter(
							p.name,
							e.currentTarget.value === '' ? (p.optional ? null : (p.first ?? undefined)) : e.currentTarget.valueAsNumber
						)}
				/>
			{:else if p.type === 'choice'}
				{@const own = offeredFor(p, offered) ?? Object.entries(p.words ?? {})}
				<select
					class="select select-xs w-full"
					value={(parameters[p.name] ?? p.first ?? '') as string}
					onchange={(e) => setParameter(p.name, e.currentTarget.value)}
				>
					{#if p.optional}<option value="">–</option>{:else if own.length === 0}<option value="">There are none</option>{/if}
					{#each own as [value, name] (value)}<option {value}>{name}</option>{/each}
				</select>
			{:else if p.unit === 'date'}
				<input
					class="input input-xs numbers w-full"
					type="date"
					value={(parameters[p.name] ?? p.first ?? '') as string}
					onchange={(e) => setParameter(p.name, e.currentTarget.value)}
				/>
			{:else if p.expression}
				<textarea
					class="textarea textarea-xs w-full font-mono"
					rows="2"
					spellcheck="false"
					maxlength="2000"
					value={(parameters[p.name] ?? p.first ?? '') as string}
					onchange={(e) => setParameter(p.name, e.currentTarget.value.trim())}></textarea>
			{:else}
				<input
					class="input input-xs w-full"
					maxlength="2000"
					value={(parameters[p.name] ?? p.first ?? '') as string}
					onchange={(e) => setParameter(p.name, e.currentTarget.value.trim())}
				/>
			{/if}</label
		>
	{/each}
</div>
