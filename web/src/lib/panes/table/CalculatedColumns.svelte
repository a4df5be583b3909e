<script lang="ts">
	import { Trash2, X } from '$lib/icons';
	import { untrack } from 'svelte';
	import { problemText } from '$lib/api/client';
	import type { Workspace } from '$lib/workspace.svelte';
	let {
		workspace,
		table,
		revision,
		columns,
		problems,
		header,
		close
	}: {
		workspace: Workspace;
		table: string;
		revision: number;
		columns: { name: string; expression: string }[];
		problems: Record<string, string>;
		header: string[];
		close: () => void;
	} = $props();
	let name = $state('');
	let expression = $state('');
	let preview = $state.raw<{ type: string; unit: string; cells: string[]; missing: number } | null>(null);
	let problem = $state('');
	let timer: ReturnType<typeof setTimeout> | null = null;
	/** Columns as they will be: a column of the same name is replaced. */
	const next = $derived([...columns.filter((c) => c.name !== name.trim()), { name: name.trim() || 'new column', expression }]);

	$effect(() => {
		void expression;
		const list = next;
		if (timer) clearTimeout(timer);
		preview = null;
		problem = '';
		if (!untrack(() => expression).trim()) return;
		timer = setTimeout(async () => {
			try {
				preview = (await workspace.api.ask('previewCalculated', { object: table, body: { columns: list } })).preview;
			} catch (error) {
				problem = problemText(error);
			}
		}, 250);
	});
	async function store(list: { name: string; expression: string }[]) {
		return workspace.attempt(async () => {
			await workspace.api.ask('setCalculated', { object: table, body: { columns: list, revision } });
			await workspace.refresh();
		});
	}
	async function add(event: SubmitEvent) {
		event.preventDefault();
		if (await store(next)) {
			workspace.say(`${name.trim()} is there now. Ctrl Z undoes it.`);
			name = expression = '';
		}
	}
	const quoted = (h: string) => (/^[A-Za-z_]\w*$/.test(h) ? h : `[${h}]`);
</script>

<aside
	class="pane-aside rule bg-base-100 flex w-72 shrink-0 flex-col gap-2 overflow-y-auto border-l p-2.5 text-sm"
	aria-label="Calculated columns"
>
	<div class="flex items-center justify-between">
		<h3 class="panel-title">Calculated columns</h3>
		<button class="btn btn-ghost btn-xs btn-square" aria-label="Close the calculated columns" onclick={close}><X size={13} /></button>
	</div>
	{#each columns as c (c.name)}
		<div class="rule flex items-start gap-1 border-b pb-1">
			<button
				class="min-w-0 flex-1 text-left hover:underline"
				title="Change it"
				onclick={() => {
					name = c.name;
					expression = c.expression;
				}}
				><span class="font-medium">{c.name}</span><br /><code class="coordinates break-words">{c.expression}</code>{#if problems[c.name]}<br
					/><span class="text-error text-xs">{problems[c.name]}</span>{/if}</button
			>
			<button
				class="btn btn-ghost btn-xs btn-square"
				aria-label="Remove {c.name}"
				onclick={() => store(columns.filter((x) => x.name !== c.name))}><Trash2 size={13} /></button
			>
		</div>
	{/each}
	<form class="flex flex-col gap-1.5" onsubmit={add}>
		<input class="input input-xs" placeholder="name" aria-label="Name of the column" maxlength="200" bind:value={name} />
		<textarea
			class="textarea textarea-sm coordinates"
			rows="3"
			placeholder="2 * {quoted(header.find((h) => /ppm|pct|dep|from/i.test(h)) ?? header[0] ?? 'column')}"
			aria-label="Expression"
			bind:value={expression}></textarea>
		{#if problem}<p class="text-error text-xs" role="alert">{problem}</p>{/if}
		{#if preview}
			<div class="bg-base-200 px-2 py-1 text-xs" role="status">
				{preview.type === 'number' ? `numbers${preview.unit ? `, ${preview.unit}` : ''}` : 'text'}{preview.missing
					? `, ${preview.missing} empty`
					: ''}: <span class="numbers">{preview.cells.map((c) => c || '–').join('   ')}</span>
			</div>
		{/if}
		<button class="btn btn-xs btn-primary self-start" disabled={!name.trim() || !preview}
			>{columns.some((c) => c.name === name.trim()) ? 'Change it' : 'Add it'}</button
		>
	</form>
	<p class="quiet text-xs">
		Columns by name, those with spaces in [brackets]; numbers; 'text'; + − * / % **; = != &lt; &lt;= &gt; &gt;=; and, or, not; if(test, a,
		b); min, max, abs, round, sqrt, log, log10, exp; contains(a, 'text'), starts, empty(a); value(a) without its unit; unit(a, '%') in
		another. Units are checked.
	</p>
</aside>
