<script lang="ts">
	import { Plus } from '$lib/icons';
	import type { Unit } from '#core/units/column';
	import type { CodeOfLog } from '#core/logs/relog';
	import { hasWords } from '$lib/ui/fold';
	import ListFilter from '$lib/ui/ListFilter.svelte';
	import { spaced } from '$lib/ui/numbers';
	import { roving } from '$lib/ui/roving';
	import { singleKeys } from '$lib/ui/shortcuts.svelte';
	import PickBox from '$lib/ui/PickBox.svelte';
	import { Picks } from '$lib/ui/picks.svelte';
	import { dragCodes } from './dragged-codes';
	import UnitsWithCodes from './UnitsWithCodes.svelte';

	/** Many codes to one unit. */
	let {
		codes,
		units,
		lumping,
		set,
		details = new Map(),
		unit = 'm',
		onpick = () => {},
		make = undefined
	}: {
		codes: { code: string; count: number }[];
		units: Unit[];
		lumping: Record<string, string>;
		set: (lumping: Record<string, string>) => unknown;
		/** Where in the ground each code is, as far as that is known. */
		details?: ReadonlyMap<string, CodeOfLog>;
		/** Unit of length. */
		unit?: string;
		/** The picked codes are others now. */
		onpick?: (codes: string[]) => void;
		/** Makes a unit of some codes. */
		make?: (name: string, codes: string[]) => unknown;
	} = $props();
	let filter = $state('');
	let openOnly = $state(false);
	let sort = $state<'code' | 'count' | 'length' | 'holes' | 'unit'>('count');
	const unitOf = (code: string) => units.find((u) => u.id === (lumping[code] ?? code));
	const lengthOf = (code: string) => details.get(code)?.length ?? 0;
	const open = $derived(codes.filter((c) => !unitOf(c.code)));
	const order = (u: Unit | undefined) => (u ? units.indexOf(u) : -1);
	const listed = $derived.by(() => {
		const found = (openOnly && open.length ? open : codes).filter((c) =>
			hasWords(`${c.code} ${unitOf(c.code)?.name ?? 'no unit'} ${details.get(c.code)?.words ?? ''}`, filter)
		);
		const key = (c: { code: string; count: number }): number =>
			sort === 'length'
				? -lengthOf(c.code)
				: sort === 'holes'
					? -(details.get(c.code)?.holes ?? 0)
					: sort === 'unit'
						? order(unitOf(c.code))
						: sort === 'count'
							? -c.count
							: 0;
		return [...found].sort((a, b) => key(a) - key(b) || (sort === 'code' ? a.code.localeCompare(b.code, 'en', { numeric: true }) : 0));
	});
	const shown = $derived(listed.map((c) => c.code));
	const picks = new Picks<string>();
	const picked = $derived(picks.of(shown));
	$effect(() => onpick(picked));
	/** All that are picked to one unit, as one change. */
	function give(unit: string) {
		set({ ...lumping, ...Object.fromEntries(picked.map((code) => [code, unit])) });
		picks.clear();
	}
	let dragging = $state(false);
	let name = $state('');
	async function makeOf(event: SubmitEvent) {
		event.preventDefault();
		if (!name.trim() || !picked.length) return;
		if ((await make?.(name.trim(), picked)) === false) return;
		name = '';
		picks.clear();
	}
	/** With codes picked, a digit gives them to the unit of that number, the minus to none. */
	function keys(event: KeyboardEvent) {
		if (!picked.length || !singleKeys.takes(event)) return;
		const u = /^[1-9]$/.test(event.key) ? units[Number(event.key) - 1] : undefined;
		if (!u && event.key !== '-') return;
		event.preventDefault();
		give(u?.id ?? '');
	}
	const words = (c: CodeOfLog) =>
		`${spaced(c.from, 1)} to ${spaced(c.to, 1)} ${unit} deep, ${c.holes} ${c.holes === 1 ? 'hole' : 'holes'}${c.words ? `. ${c.words}` : ''}`;
</script>

{#snippet head(key: typeof sort, label: string, right = false)}
	<th class={right ? 'right' : ''} aria-sort={sort === key ? (key === 'code' || key === 'unit' ? 'ascending' : 'descending') : 'none'}
		><button
			class="font-medium {sort === key ? 'underline decoration-2 underline-offset-4' : 'hover:underline'}"
			onclick={() => (sort = key)}>{label}</button
		></th
	>
{/snippet}

<ListFilter bind:value={filter} label="Find codes or units" shown={listed.length} all={codes.length} />
{#if open.length}
	<label class="mb-1 flex items-center gap-1.5 text-sm"
		><input type="checkbox" class="checkbox checkbox-xs" bind:checked={openOnly} />Only without unit: {open.length}{#if details.size}, {spaced(
				open.reduce((n, c) => n + lengthOf(c.code), 0)
			)}
			{unit}{/if}</label
	>
{/if}
{#if picked.length}
	<div class="bg-base-200 sticky top-0 z-10 mb-1 flex flex-col gap-1.5 p-1.5 text-sm" role="group" aria-label="For the picked codes">
		<div class="flex items-center gap-2">
			<span class="whitespace-nowrap">{picked.length} picked:</span>
			<select
				class="select select-xs min-w-0 flex-1"
				aria-label="Unit of the picked codes"
				title="Or press the number of the unit in the column"
				value=""
				onchange={(e) => {
					give(e.currentTarget.value === '-' ? '' : e.currentTarget.value);
					e.currentTarget.value = '';
				}}
			>
				<option value="" disabled>to unit…</option>
				{#each units as u, i (u.id)}<option value={u.id}>{i < 9 ? `${i + 1}  ` : ''}{u.name}</option>{/each}
				<option value="-">no unit</option>
			</select>
			<button class="btn btn-xs" onclick={() => picks.clear()}>None</button>
		</div>
		{#if make}
			<form class="flex gap-2" onsubmit={makeOf}>
				<input
					class="input input-xs min-w-0 flex-1"
					aria-label="Name of a new unit of the picked codes"
					placeholder="or a new unit"
					maxlength="200"
					required
					bind:value={name}
				/><button class="btn btn-xs"><Plus size={12} />Make</button>
			</form>
		{/if}
	</div>
{/if}

{#if units.length && codes.length}
	<UnitsWithCodes
		{codes}
		{units}
		{lumping}
		{details}
		{unit}
		{dragging}
		give={(list, to) => {
			set({ ...lumping, ...Object.fromEntries(list.map((code) => [code, to])) });
			picks.clear();
		}}
	/>
{/if}
<!-- svelte-ignore a11y_no_noninteractive_element_interactions -->
<table class="plain text-sm" onkeydown={keys}>
	<thead
		><tr
			><th class="w-6"><PickBox {picks} list={shown} label="Pick all codes that are shown" /></th>{@render head(
				'code',
				'Code'
			)}{@render head('count', 'Rows', true)}{#if details.size}{@render head('length', unit, true)}{/if}{@render head('unit', 'Unit')}</tr
		></thead
	>
	<tbody use:roving={{ items: 'input, select', grid: true }}>
		{#each listed as c (c.code)}
			{@const u = unitOf(c.code)}
			{@const d = details.get(c.code)}
			<tr
				draggable="true"
				ondragstart={(e) => {
					dragCodes(e.dataTransfer, picked.includes(c.code) ? picked : [c.code]);
					// What is dragged must not move before the drag has begun.
					setTimeout(() => (dragging = true), 0);
				}}
				ondragend={() => (dragging = false)}
			>
				<td><PickBox {picks} list={shown} of={c.code} label="Pick {c.code}" /></td>
				<td class="max-w-24 truncate" title={d ? `${c.code}: ${words(d)}` : c.code}>{c.code}</td>
				<td class="right numbers whitespace-nowrap">{spaced(c.count)}</td>
				{#if details.size}<td class="right numbers quiet whitespace-nowrap">{d ? spaced(d.length) : ''}</td>{/if}
				<td class="w-1/2">
					<span class="flex items-center gap-1.5">
						<span class="h-3.5 w-3.5 shrink-0 border border-(--ink)/60" style="background:{u?.color ?? 'transparent'}"></span>
						<select
							class="select select-xs w-full min-w-0 pr-6 text-ellipsis"
							aria-label="Unit of {c.code}"
							value={u?.id ?? ''}
							onchange={(e) => set({ ...lumping, [c.code]: e.currentTarget.value })}
						>
							<option value="">no unit</option>
							{#each units as x (x.id)}<option value={x.id}>{x.name}</option>{/each}
						</select>
					</span>
				</td>
			</tr>
		{/each}
	</tbody>
</table>
