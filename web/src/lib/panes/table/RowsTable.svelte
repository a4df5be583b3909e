<script lang="ts">
	import { roving } from '$lib/ui/roving';
	import { moment } from '$lib/ui/moments';
	import { tick, untrack } from 'svelte';
	import { roleOf } from '#core/tables/kinds';
	import { problemText } from '$lib/api/client';
	import type { RowPage } from '$lib/api/types';
	import SeverityMark from '$lib/ui/SeverityMark.svelte';
	import { spaced } from '$lib/ui/numbers';
	import type { Workspace } from '$lib/workspace.svelte';

	let { workspace, table, row }: { workspace: Workspace; table: string; row: number | null } = $props();
	const SIZE = 200;
	let offset = $state(untrack(() => (row === null ? 0 : Math.max(0, Math.floor(row / SIZE) * SIZE))));
	let only = $state<'all' | 'found' | 'excluded'>('all');
	let rows = $state.raw<RowPage | null>(null);
	let problem = $state('');
	let editing = $state<{ n: number; column: string; value: string } | null>(null);
	let body: HTMLElement | undefined = $state();
	const revision = $derived(workspace.objects.find((o) => o.id === table)?.revision);

	$effect(() => {
		const target = row;
		if (target !== null) {
			only = 'all';
			offset = Math.max(0, Math.floor(target / SIZE) * SIZE);
		}
	});
	$effect(() => {
		void revision;
		void workspace.findings;
		void load(offset, only);
	});

	let asked = 0;
	async function load(from: number, which: typeof only) {
		const turn = ++asked;
		try {
			const page = await workspace.api.ask('listRows', { object: table, offset: from, limit: SIZE, only: which });
			// Another page, or a newer state of this one, was asked for meanwhile.
			if (turn !== asked) return;
			rows = page;
			problem = '';
			await tick();
			if (row !== null) body?.querySelector(`[data-n="${row}"]`)?.scrollIntoView({ block: 'center' });
		} catch (error) {
			problem = problemText(error);
		}
	}

	/** A cell that is left, by Enter, Tab or the pointer, is stored when it was changed. */
	async function finish(before: string) {
		const e = editing;
		if (!e) return;
		editing = null;
		if (e.value.trim() !== before) await edit(e.n, { column: e.column, value: e.value });
	}

	/** The cell has the focus again that was edited. */
	async function backTo(n: number, cell: number) {
		await tick();
		body?.querySelector<HTMLElement>(`[data-n="${n}"] [data-cell="${cell}"]`)?.focus();
	}

	async function edit(n: number, change: Record<string, unknown>) {
		const done = await workspace.attempt(async () => {
			await workspace.api.ask('editRow', { object: table, n, body: { ...change, revision: revision! } });
		});
		editing = null;
		// What was stored stands there at once; findings and rows are read again behind it.
		if (done && rows && typeof change['column'] === 'string') {
			const at = rows.table.header.indexOf(change['column']);
			rows = {
				...rows,
				rows: rows.rows.map((r) => (r.n === n ? { ...r, cells: r.cells.map((c, i) => (i === at ? String(change['value']) : c)) } : r))
			};
		}
		await workspace.attempt(() => workspace.refresh());
		if (done) workspace.say('Stored. Ctrl Z undoes it.');
	}

	function focus(node: HTMLInputElement) {
		node.focus();
		// The value is bound after the action ran.
		void tick().then(() => node.select());
	}

	const isNumber = (header: string) => roleOf(rows!.table.kind, rows!.table.mapping[header] ?? '')?.type === 'number';
	const roleLabel = (header: string) => {
		const role = rows!.table.mapping[header];
		return roleOf(rows!.table.kind, role ?? '')?.label ?? '';
	};
	const found = (r: RowPage['rows'][number], header: string) =>
		r.findings.find((f) => f.role !== null && (f.role === rows!.table.mapping[header] || f.role === header));
</script>

{#if problem}<p role="alert" class="border-error m-4 border-l-4 px-2">{problem}</p>{/if}
{#if rows}
	<div class="bg-base-100 rule flex items-center gap-3 border-b px-3 py-1.5 text-sm">
		<label class="flex items-center gap-2"
			>Show
			<select class="select select-xs" bind:value={only} onchange={() => (offset = 0)}
				><option value="all">all rows</option><option value="found">rows with findings</option><option value="excluded"
					>excluded rows</option
				></select
			>
		</label>
		<span class="numbers quiet"
			>{rows.total === 0
				? 'no rows'
				: `${spaced(offset + 1)}–${spaced(Math.min(offset + SIZE, rows.total))} of ${spaced(rows.total)}`}</span
		>
		<button class="btn btn-xs" disabled={offset === 0} onclick={() => (offset = Math.max(0, offset - SIZE))}>Back</button>
		<button class="btn btn-xs" disabled={offset + SIZE >= rows.total} onclick={() => (offset += SIZE)}>On</button>
		<span class="quiet ml-auto">Press a cell twice, or Enter, to edit it. The original stays.</span>
	</div>
	<div class="min-h-0 flex-1 overflow-auto" bind:this={body}>
		<table class="plain numbers bg-base-100">
			<thead class="bg-base-100 sticky top-0 z-10">
				<tr>
					<th class="pl-3!">Line</th>
					<th><span class="sr-only">Marks</span></th>
					{#each rows.table.header as h (h)}<th class="whitespace-nowrap {isNumber(h) ? 'right pr-3!' : ''}"
							>{h}<span class="block text-xs font-normal">{roleLabel(h) || 'left out'}</span></th
						>{/each}
					<th><span class="sr-only">Use</span></th>
				</tr>
			</thead>
			<tbody use:roving={{ items: 'button', grid: true }}>
				{#each rows.rows as r (r.n)}
					{@const worst = r.findings.find((f) => f.severity === 'held') ?? r.findings[0]}
					<tr data-n={r.n} class="{r.n === row ? 'bg-info/10' : ''} {r.excluded ? 'opacity-50' : ''}">
						<td class="quiet pl-3!">{r.line}</td>
						<td class="w-6"
							>{#if worst}<span title={r.findings.map((f) => `${f.message}. ${f.hint}`).join('\n')}
									><SeverityMark severity={worst.severity} /></span
								>{/if}</td
						>
						{#each r.cells as cell, c (c)}
							{@const h = rows.table.header[c]!}
							{@const f = found(r, h)}
							{@const original = r.originals[c]}
							<td class="p-0!">
								{#if editing && editing.n === r.n && editing.column === h}
									<input
										use:focus
										class="input input-xs w-28"
										aria-label="{h}, line {r.line}"
										bind:value={editing.value}
										onkeydown={(e) => {
											if (e.key === 'Enter') void finish(cell);
											else if (e.key === 'Escape') editing = null;
											if (e.key === 'Enter' || e.key === 'Escape') void backTo(r.n, c);
											e.stopPropagation();
										}}
										onblur={() => void finish(cell)}
									/>
								{:else}
									<button
										data-cell={c}
										class="w-full px-1 py-0.5 {cell.length < 25 ? 'whitespace-nowrap' : ''} {isNumber(h) ? 'text-right' : 'text-left'} {f
											? f.severity === 'held'
												? 'bg-error/15 text-error font-medium'
												: 'bg-warning/15'
											: ''} {original !== undefined ? 'border-secondary border-b-2' : ''} {r.excluded ? 'line-through' : ''}"
										title={[
											f ? `${f.message}. ${f.hint}` : '',
											original !== undefined
												? `originally "${original}", edited ${r.edited[c]?.by ? `by ${r.edited[c].by} ` : ''}on ${moment(r.edited[c]?.at ?? '')}`
												: ''
										]
											.filter(Boolean)
											.join('\n') || undefined}
										ondblclick={() => (editing = { n: r.n, column: h, value: cell })}
										onkeydown={(e) => e.key === 'Enter' && (e.preventDefault(), (editing = { n: r.n, column: h, value: cell }))}
										>{cell || '\u00a0'}</button
									>
								{/if}
							</td>
						{/each}
						<td class="right whitespace-nowrap"
							><button class="btn btn-ghost btn-xs" onclick={() => edit(r.n, { excluded: !r.excluded })}
								>{r.excluded ? 'take back in' : 'exclude'}</button
							></td
						>
					</tr>
					{#if r.n === row && r.findings.length}
						<tr
							><td></td><td colspan={rows.table.header.length + 2} class="text-sm"
								>{#each r.findings as f (f.rule + f.message)}<p class="font-sans">
										<SeverityMark severity={f.severity} />
										{f.severity === 'held' ? 'Held back' : 'Noted'}: {f.message}. <span class="quiet">{f.hint}</span>
									</p>{/each}</td
							></tr
						>
					{/if}
				{/each}
			</tbody>
		</table>
	</div>
{/if}
