<script lang="ts">
	import { ArrowDown, ArrowDownToLine, ArrowUp, ArrowUpToLine } from '$lib/icons';
	import { ABSENCES, type Absence } from '#core/stratigraphy/absences';
	import { stepsOf, stepTo, type UnitInHole } from '#core/stratigraphy/units-in-holes';
	import type { Workspace } from '$lib/workspace.svelte';
	import { ABSENCE_STROKES } from './styles';
	import { ABSENCE_WORDS, markText, schemeAt, type UnitAs, type UnitMarks } from './unit-marks';

	/** Steps through units: what each is in every hole, why it is not there, and setting that right. */
	let {
		workspace,
		my = $bindable(),
		marks
	}: { workspace: Workspace; my: { unit: string; unitAs: UnitAs; scheme: string | null }; marks: UnitMarks | null } = $props();

	const ground = $derived(workspace.stratigraphy);
	const steps = $derived(stepsOf(schemeAt(workspace, my.scheme), workspace.units));
	const length = $derived(workspace.project?.lengthUnit ?? 'm');
	const at = $derived(steps.units.find((u) => u.id === my.unit) ?? null);
	const absent = $derived(
		marks?.holes.filter((h): h is UnitInHole & { absence: NonNullable<UnitInHole['absence']> } => h.absence !== null) ?? []
	);
	const there = $derived((marks?.holes.length ?? 0) - absent.length);
	let shown = $state<Absence | ''>('');
	let mending = $state('');
	let reason = $state('');
	let why = $state<Absence>('removed');

	function step(by: 'younger' | 'older' | 'up' | 'down') {
		my.unit = at ? stepTo(steps, at.id, by) : (steps.units[0]?.id ?? '');
	}
	function keys(event: KeyboardEvent) {
		if ((event.target as Element).closest('input, select')) return;
		const by = ({ ArrowUp: 'younger', ArrowDown: 'older', ArrowLeft: 'up', ArrowRight: 'down' } as const)[event.key];
		if (!by) return;
		step(by);
		event.preventDefault();
	}
	async function mend(hole: string) {
		const text = reason.trim();
		if (!text) return workspace.say('Say why: a reason is needed.');
		const unit = marks!.target.name;
		if (await ground.setAbsences((all) => [...all.filter((a) => a.hole !== hole || a.unit !== unit), { hole, unit, why, reason: text }]))
			mending = reason = '';
	}
	const letGo = (hole: string) => ground.setAbsences((all) => all.filter((a) => a.hole !== hole || a.unit !== marks!.target.name));
</script>

<!-- svelte-ignore a11y_no_noninteractive_element_interactions -->
<div
	class="bg-base-100 rule absolute top-10 left-2 flex max-h-[calc(100%-3.5rem)] w-72 flex-col gap-1.5 overflow-y-auto border p-2.5 text-sm shadow-sm"
	role="group"
	aria-label="A unit in the holes. Arrow keys step to younger and older units, up and down the ranks."
	onkeydown={keys}
>
	{#if steps.units.length === 0}
		<p>No units yet: make them under Interpret, Column, or read a scheme under Ranks.</p>
	{:else}
		{#if ground.schemes.length}
			<label class="flex items-center justify-between gap-2"
				>Through<select
					class="select select-xs w-44"
					value={schemeAt(workspace, my.scheme)?.id ?? ''}
					onchange={(e) => {
						my.scheme = e.currentTarget.value;
						my.unit = stepsOf(schemeAt(workspace, my.scheme), workspace.units).units[0]?.id ?? '';
					}}
					><option value="">the column</option>{#each ground.schemes as s (s.id)}<option value={s.id}>{s.name}</option>{/each}</select
				></label
			>
		{/if}
		<div class="flex items-center gap-1">
			<select class="select select-xs min-w-0 flex-1" aria-label="Unit" bind:value={my.unit}
				><option value="">none</option>{#each steps.units as u (u.id)}<option value={u.id}>{'\u2003'.repeat(u.rank)}{u.name}</option
					>{/each}</select
			>
			<button class="btn btn-xs btn-square" aria-label="Younger unit" title="Younger unit (arrow up)" onclick={() => step('younger')}
				><ArrowUp size={13} /></button
			>
			<button class="btn btn-xs btn-square" aria-label="Older unit" title="Older unit (arrow down)" onclick={() => step('older')}
				><ArrowDown size={13} /></button
			>
			{#if steps.ranks.length > 1}
				<button
					class="btn btn-xs btn-square"
					aria-label="What it is a part of"
					title="What it is a part of (arrow left)"
					onclick={() => step('up')}><ArrowUpToLine size={13} /></button
				>
				<button
					class="btn btn-xs btn-square"
					aria-label="Its youngest part"
					title="Its youngest part (arrow right)"
					onclick={() => step('down')}><ArrowDownToLine size={13} /></button
				>
			{/if}
		</div>
		<label class="flex items-center justify-between gap-2"
			>Shown as<select class="select select-xs w-44" bind:value={my.unitAs}
				><option value="thickness">size by thickness</option><option value="top">size by depth of top</option><option value="parts"
					>what it is made of</option
				></select
			></label
		>
		{#if my.unit && !marks}<p class="quiet" aria-busy="true">The log that is shown is read, or has no units.</p>{/if}
		{#if marks}
			<p class="quiet text-xs">
				{at ? `${steps.ranks[at.rank]}, ` : ''}by {marks.log}. In {there} of {marks.holes.length} holes; where it is not:
			</p>
			<ul class="flex flex-col" aria-label="Why it is not there">
				{#each ABSENCES as a (a)}
					{@const count = absent.filter((h) => h.absence.why === a).length}
					<li>
						<button
							class="hover:bg-base-200 flex w-full items-center gap-2 py-0.5 text-left"
							aria-expanded={shown === a}
							disabled={count === 0}
							onclick={() => (shown = shown === a ? '' : a)}
						>
							<svg width="20" height="20" viewBox="-1.3 -1.3 2.6 2.6" aria-hidden="true"
								>{#each ABSENCE_STROKES[a]!.lines as l, i (i)}<polyline
										points={l.map(([x, y]) => `${x},${y}`).join(' ')}
										fill="none"
										stroke={ABSENCE_STROKES[a]!.color}
										stroke-width="0.22"
										stroke-dasharray={ABSENCE_STROKES[a]!.dash ? '0.35 0.2' : undefined}
									/>{/each}</svg
							>
							<span class="flex-1 {count ? '' : 'quiet'}">{ABSENCE_WORDS[a]}</span><span class="numbers quiet">{count}</span>
						</button>
						{#if shown === a}
							<ul class="rule ml-6 border-l pl-2 text-xs">
								{#each absent.filter((h) => h.absence.why === a).slice(0, 200) as h (h.hole)}
									<li class="py-0.5">
										<div class="flex items-start gap-1">
											<button class="link min-w-0 flex-1 text-left" onclick={() => (workspace.selection = { kind: 'hole', name: h.hole })}
												>{markText(h, marks.target.name, length)}</button
											>
											{#if ground.absences.some((x) => x.hole === h.hole && x.unit === marks.target.name)}
												<button class="btn btn-ghost btn-xs" onclick={() => letGo(h.hole)}>as told</button>
											{:else}
												<button
													class="btn btn-ghost btn-xs"
													aria-label="Set right why {marks.target.name} is not in {h.hole}"
													onclick={() => {
														mending = mending === h.hole ? '' : h.hole;
														why = h.absence.why;
													}}>set right</button
												>
											{/if}
										</div>
										{#if mending === h.hole}
											<form
												class="flex flex-col gap-1 py-1"
												onsubmit={(e) => {
													e.preventDefault();
													void mend(h.hole);
												}}
											>
												<select class="select select-xs" aria-label="What it is" bind:value={why}
													>{#each ABSENCES as x (x)}<option value={x}>{ABSENCE_WORDS[x]}</option>{/each}</select
												>
												<input class="input input-xs" aria-label="Reason" placeholder="reason" maxlength="1000" bind:value={reason} />
												<button class="btn btn-xs self-start">Set</button>
											</form>
										{/if}
									</li>
								{/each}
							</ul>
						{/if}
					</li>
				{/each}
			</ul>
		{/if}
	{/if}
</div>
