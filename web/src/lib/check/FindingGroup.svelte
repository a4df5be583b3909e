<script lang="ts">
	import type { Given } from '$lib/api/contract';
	import { RULES } from '#core/checks/rules';
	import { problemText } from '$lib/api/client';
	import type { Finding } from '$lib/api/types';
	import SeverityMark from '$lib/ui/SeverityMark.svelte';
	import { spaced } from '$lib/ui/numbers';
	import { roving } from '$lib/ui/roving';
	import PickBox from '$lib/ui/PickBox.svelte';
	import { Picks } from '$lib/ui/picks.svelte';
	import type { Workspace } from '$lib/workspace.svelte';

	/** The findings of one rule in one table, and what can be done about all of them or about one. */
	let {
		workspace,
		rule,
		table,
		tableName,
		list,
		open,
		current,
		toggle,
		go
	}: {
		workspace: Workspace;
		rule: string;
		table: string;
		tableName: string;
		list: Finding[];
		open: boolean;
		current: number | null;
		toggle: () => void;
		go: (f: Finding) => void;
	} = $props();
	const info = $derived(RULES.find((r) => r.id === rule));
	const picks = new Picks<number>();
	const keys = $derived(list.filter((f) => f.n >= 0).map((f) => f.n));
	const picked = $derived(picks.of(keys));
	/** What is done for all of these is done for the picked ones alone, when some are. */
	const only = $derived(picked.length ? picked : undefined);
	const chosen = $derived(only ? list.filter((f) => only.includes(f.n)) : list);
	let most = $state(200);
	const left = $derived(chosen.filter((f) => f.seen === null));
	const rows = $derived(left.filter((f) => f.n >= 0));
	type Mend = Given<'mend'>['body']['mend'];
	interface Changes {
		changed: number;
		cells: { table: string; n: number; column: string; before: string; after: string }[];
		rows: { table: string; n: number }[];
	}
	let asked = $state<{ mend: Mend; label: string; value?: string; only: number[] | undefined; changes: Changes } | null>(null);
	let setting = $state('');
	/** Columns that the findings are about; a value is set in one of them. */
	const columns = $derived(
		[...new Set(rows.map((f) => f.role).filter((r): r is string => r !== null))].map((role) => {
			const m = (workspace.objects.find((o) => o.id === table)?.state['mapping'] ?? {}) as Record<string, string>;
			return Object.keys(m).find((h) => m[h] === role) ?? role;
		})
	);
	let column = $state('');
	let reason = $state('');
	let asking = $state<'' | 'set' | 'seen'>('');
	let problem = $state('');

	const LABELS: Record<string, string> = {
		swap: 'Swap the two',
		'deepen-hole': 'Extend the hole to its data',
		propose: 'Take the proposal'
	};
	const mends = $derived([
		...(info?.mends ?? []).filter((m) => m !== 'propose' || left.some((f) => f.proposal !== null)).map((m) => [m, LABELS[m]!] as const),
		['exclude', 'Exclude the rows'] as const
	]);

	async function preview(mend: Mend, label: string, only?: number[], value?: string) {
		problem = '';
		try {
			asked = {
				mend,
				label,
				only,
				...(value === undefined ? {} : { value }),
				changes: await workspace.api.ask('previewMend', {
					object: table,
					body: {
						rule,
						mend,
						...(only ? { rows: only } : {}),
						...(value === undefined ? {} : { value, ...(columns.length > 1 ? { column: column || columns[0] } : {}) })
					}
				})
			};
			asking = '';
		} catch (error) {
			problem = problemText(error);
		}
	}

	async function mend() {
		const a = asked!;
		asked = null;
		await workspace.attempt(async () => {
			const { changed } = await workspace.api.ask('mend', {
				object: table,
				body: {
					rule,
					mend: a.mend,
					revision: workspace.objects.find((o) => o.id === table)!.revision,
					...(a.only ? { rows: a.only } : {}),
					...(a.value === undefined ? {} : { value: a.value, ...(columns.length > 1 ? { column: column || columns[0] } : {}) })
				}
			});
			picks.clear();
			await workspace.refresh();
			workspace.say(`${spaced(changed)} changed. Ctrl Z undoes it.`);
		});
	}

	async function see(seen: boolean, only?: number[]) {
		const text = reason.trim();
		if (seen && !text) return void (problem = 'Say why it is left as it is.');
		asking = '';
		problem = '';
		await workspace.attempt(async () => {
			await workspace.api.ask('markSeen', {
				body: {
					table,
					rule,
					seen,
					...(seen ? { reason: text } : {}),
					...(only ? { rows: only } : {})
				}
			});
			reason = '';
			picks.clear();
			await workspace.refresh();
		});
	}
</script>

<section class="rule border-t py-2">
	<button class="flex w-full items-center gap-2 text-left" aria-expanded={open} onclick={toggle}>
		<SeverityMark severity={list[0]!.severity} /><span class="min-w-0 flex-1"
			><span class="font-medium">{info?.title ?? rule}</span> <span class="quiet text-sm">{tableName}</span></span
		>
		<span class="numbers quiet">{left.length < list.length ? `${spaced(left.length)} of ${spaced(list.length)}` : spaced(list.length)}</span
		>
	</button>
	{#if open}
		<p class="quiet mb-1 text-sm">{info?.reason ?? ''}</p>
		{#if rows.length}
			<div class="mb-1 flex flex-wrap gap-1" role="group" aria-label={only ? 'For the picked ones' : 'For all of these'}>
				{#if only}<span class="self-center text-sm">{picked.length} picked:</span>{/if}
				{#each mends as [m, label] (m)}<button class="btn btn-xs" onclick={() => preview(m, label, only)}>{label}…</button>{/each}
				<button class="btn btn-xs" onclick={() => (asking = asking === 'set' ? '' : 'set')}>Set a value…</button>
				<button class="btn btn-xs" onclick={() => (asking = asking === 'seen' ? '' : 'seen')}>Seen, leave it…</button>
			</div>
		{:else if left.length}
			<button class="btn btn-xs mb-1" onclick={() => (asking = asking === 'seen' ? '' : 'seen')}>Seen, leave it…</button>
		{/if}
		{#if asking === 'set'}
			<form
				class="mb-1 flex gap-1"
				onsubmit={(e) => {
					e.preventDefault();
					void preview('set', `Set to “${setting}”`, only, setting);
				}}
			>
				<input
					class="input input-xs flex-1"
					aria-label="Value for all of these cells"
					placeholder="value for all of these cells; empty clears them"
					bind:value={setting}
				/>{#if columns.length > 1}<select class="select select-xs w-28" aria-label="Column in which it is set" bind:value={column}
						>{#each columns as c (c)}<option value={c}>{c}</option>{/each}</select
					>{/if}<button class="btn btn-xs">See</button>
			</form>
		{:else if asking === 'seen'}
			<form
				class="mb-1 flex gap-1"
				onsubmit={(e) => {
					e.preventDefault();
					void see(true, only);
				}}
			>
				<input
					class="input input-xs flex-1"
					aria-label="Why it is left"
					placeholder="why it is left as it is"
					required
					bind:value={reason}
				/><button class="btn btn-xs">Leave {left.length === 1 ? 'it' : `all ${left.length}`}</button>
			</form>
		{/if}
		{#if problem}<p role="alert" class="text-error text-sm">{problem}</p>{/if}
		{#if asked}
			<div class="border-info bg-base-200 mb-2 border-l-4 p-2 text-sm" role="group" aria-label="What will change">
				<p class="font-medium">
					{asked.label}: {spaced(asked.changes.changed)}
					{asked.changes.cells.length ? (asked.changes.changed === 1 ? 'cell' : 'cells') : asked.changes.changed === 1 ? 'row' : 'rows'}
				</p>
				<ul class="numbers max-h-40 overflow-y-auto">
					{#each asked.changes.cells as c, i (i)}<li>
							{c.table}, row {c.n + 1}, {c.column}: <s class="quiet">{c.before || 'empty'}</s> → {c.after || 'empty'}
						</li>{/each}
					{#each asked.changes.rows.slice(0, 50) as r, i (i)}<li>{r.table}, row {r.n + 1} left out</li>{/each}
				</ul>
				<div class="mt-1 flex gap-2">
					<button class="btn btn-primary btn-xs" onclick={mend}>Do it</button><button class="btn btn-xs" onclick={() => (asked = null)}
						>Leave it</button
					>
				</div>
			</div>
		{/if}
		<ul use:roving={{ items: 'button, input', grid: true }}>
			{#each list.slice(0, most) as f (f.id)}
				<li class="flex items-start {f.seen !== null ? 'italic' : ''}">
					{#if list.length > 1 && f.n >= 0}<span class="mt-1.5"><PickBox {picks} list={keys} of={f.n} label="Pick {f.message}" /></span
						>{/if}
					<button
						class="hover:bg-base-200 min-w-0 flex-1 px-1 py-1 text-left text-sm {f.n === current ? 'bg-base-200' : ''}"
						title={f.hint}
						onclick={() => go(f)}
					>
						{#if f.line}<span class="quiet">line {f.line}:</span>{/if}
						{f.message}{#if f.seen !== null}<span class="quiet"> (seen: {f.seen})</span>{/if}
					</button>
					{#if f.proposal !== null && f.seen === null}<button
							class="btn btn-ghost btn-xs"
							title="Take {f.proposal}"
							onclick={() => preview('propose', `Take ${f.proposal}`, [f.n])}>take {f.proposal.slice(0, 14)}</button
						>{/if}
					{#if f.seen !== null}<button class="btn btn-ghost btn-xs" onclick={() => see(false, [f.n])}>open again</button>{/if}
				</li>
			{/each}
			{#if list.length > most}<li>
					<button class="link px-1 text-sm" onclick={() => (most += 500)}
						>{spaced(Math.min(500, list.length - most))} more of {spaced(list.length - most)}</button
					>
				</li>{/if}
		</ul>
	{/if}
</section>
