<script lang="ts">
	import { tick, untrack } from 'svelte';
	import { Calculator, Sigma, X } from '$lib/icons';
	import { roleOf } from '#core/tables/kinds';
	import { problemText } from '$lib/api/client';
	import type { RowPage } from '$lib/api/types';
	import { spaced } from '$lib/ui/numbers';
	import { settingsOf } from '$lib/workbench/bench.svelte';
	import type { PaneState } from '$lib/workbench/state';
	import type { Workspace } from '$lib/workspace.svelte';
	import CalculatedColumns from './CalculatedColumns.svelte';
	import { clipboardText, pasted, type CellEdit } from './clipboard';
	import ColumnHeads from './ColumnHeads.svelte';
	import ColumnStatistics from './ColumnStatistics.svelte';
	import { ROW, RowWindow } from './row-window';

	let { workspace, pane }: { workspace: Workspace; id: string; pane: PaneState } = $props();
	untrack(() => workspace.need('holes'));
	const my = settingsOf(
		untrack(() => pane),
		'table',
		{ table: '', sort: '', descending: false, filter: '', find: '' }
	);
	type Row = RowPage['rows'][number] & { calculated: string[] };
	const BLOCK = 200;
	const MOST_BLOCKS = 40;

	const table = $derived(workspace.tables.find((t) => t.id === my.table) ?? workspace.tables[0]);
	const tableId = $derived(table?.id ?? '');
	const hash = $derived(`${table?.contentHash ?? ''} ${table?.revision ?? 0}`);
	let head = $state.raw<RowPage | null>(null);
	let total = $state(0);
	let blocks = $state.raw<Map<number, Row[]>>(new Map());
	let problem = $state('');
	let box: HTMLDivElement | undefined = $state();
	let viewport = $state(400);
	let top = $state(0);
	let cursor = $state({ row: 0, column: 0 });
	let anchor = $state<{ row: number; column: number } | null>(null);
	let editing = $state<{ n: number; column: number; value: string } | null>(null);
	let statistics = $state<string | null>(null);
	let calculating = $state(false);
	let filterText = $state(untrack(() => my.filter));
	let version = 0;
	let shownVersion = 0;

	const query = $derived({
		sort: my.sort || undefined,
		descending: my.descending || undefined,
		filter: my.filter || undefined,
		find: my.find || undefined
	});
	const header = $derived(head?.table.header ?? []);
	const calculated = $derived(head?.calculated ?? []);
	const columns = $derived([...header, ...calculated.map((c) => c.name)]);
	const rows = $derived(new RowWindow(total, viewport));
	const scaled = $derived(rows.height);
	const first = $derived(rows.first(top));
	const shown = $derived(rows.count);
	const numbersShown = $derived(Array.from({ length: Math.max(0, Math.min(shown, total - first)) }, (_, k) => first + k));

	$effect(() => {
		void hash;
		void query;
		void tableId;
		void workspace.findings;
		const mine = ++version;
		// What is shown stays until the rows as they are now have come.
		untrack(() => tableId && void load(Math.floor(first / BLOCK), mine));
	});
	$effect(() => {
		for (const b of new Set([Math.floor(first / BLOCK), Math.floor((first + shown) / BLOCK)]))
			if (b * BLOCK < total && !untrack(() => blocks.has(b))) void load(b, version);
	});

	const asked = new Set<string>();
	async function load(block: number, mine: number): Promise<void> {
		const key = `${mine} ${block}`;
		if (asked.has(key)) return;
		asked.add(key);
		try {
			const page = await workspace.api.ask('listRows', { object: tableId, offset: block * BLOCK, limit: BLOCK, ...query });
			if (mine !== version) return;
			head = page;
			total = page.total;
			problem = '';
			const next = shownVersion === mine ? new Map(blocks) : new Map<number, Row[]>();
			shownVersion = mine;
			next.set(
				block,
				page.rows.map((r, k) => ({ ...r, calculated: page.calculated.map((c) => c.cells[k]!) }))
			);
			// The least lately read go first.
			for (const old of next.keys()) if (next.size > MOST_BLOCKS) next.delete(old);
			blocks = next;
		} catch (error) {
			asked.delete(key);
			if (mine === version) problem = problemText(error);
		}
	}
	const rowAt = (k: number): Row | undefined => blocks.get(Math.floor(k / BLOCK))?.[k % BLOCK];
	const isNumber = (h: string) =>
		['number'].includes(roleOf(head!.table.kind, head!.table.mapping[h] ?? '')?.type ?? '') ||
		calculated.some((c) => c.name === h && c.cells.some((x) => x !== '' && Number.isFinite(Number(x))));
	const chosen = $derived(
		new Set(workspace.selection?.kind === 'rows' && workspace.selection.table === tableId ? workspace.selection.rows : [])
	);
	const range = $derived({
		r0: Math.min(cursor.row, anchor?.row ?? cursor.row),
		r1: Math.max(cursor.row, anchor?.row ?? cursor.row),
		c0: Math.min(cursor.column, anchor?.column ?? cursor.column),
		c1: Math.max(cursor.column, anchor?.column ?? cursor.column)
	});
	const inRange = (r: number, c: number) => r >= range.r0 && r <= range.r1 && c >= range.c0 && c <= range.c1;

	function scrollTo(row: number) {
		if (box) box.scrollTop = rows.seen(row, box.scrollTop);
	}
	function sortBy(column: string) {
		if (my.sort !== column) [my.sort, my.descending] = [column, false];
		else if (!my.descending) my.descending = true;
		else [my.sort, my.descending] = ['', false];
	}
	function goTo(text: string) {
		const n = Math.round(Number(text));
		if (!(n >= 1)) return;
		cursor = { row: Math.min(total - 1, n - 1), column: cursor.column };
		anchor = null;
		if (box) box.scrollTop = rows.near(cursor.row);
	}
	async function put(cells: CellEdit[]) {
		const fine = await workspace.attempt(async () => {
			const { changed } = await workspace.api.ask('editCells', {
				object: tableId,
				body: {
					cells,
					revision: table!.revision
				}
			});
			await workspace.refresh();
			workspace.say(changed === 0 ? 'Nothing changed.' : `${changed === 1 ? 'One cell' : `${changed} cells`} stored. Ctrl Z undoes it.`);
		});
		if (!fine) await workspace.attempt(() => workspace.refresh());
	}
	/** A cell that is left, by Enter, Tab or the pointer, is stored when it was changed. */
	async function finishEdit(back = true) {
		if (!editing) return;
		const { n, column, value } = editing;
		editing = null;
		if (back) box?.focus();
		const before = numbersShown.map(rowAt).find((r) => r?.n === n)?.cells[column];
		if (before !== undefined && before === value.trim()) return;
		await put([{ n, column: header[column]!, value }]);
	}
	function startEdit(value?: string) {
		const row = rowAt(cursor.row);
		if (!row) return;
		if (cursor.column >= header.length) return workspace.say('A calculated column follows from others: change its expression.');
		editing = { n: row.n, column: cursor.column, value: value ?? row.cells[cursor.column]! };
	}
	async function copy() {
		const copied: string[][] = [];
		for (let r = range.r0; r <= range.r1; r++) {
			const row = rowAt(r);
			if (!row) return workspace.say('Rows that have not been read yet can not be copied. Scroll over them first.');
			copied.push([...row.cells, ...row.calculated].slice(range.c0, range.c1 + 1));
		}
		try {
			await navigator.clipboard.writeText(clipboardText(copied));
			workspace.say(`${copied.length} × ${range.c1 - range.c0 + 1} cells are on the clipboard.`);
		} catch {
			workspace.say('The browser does not let this page write to the clipboard.', 'error');
		}
	}
	async function paste(text: string) {
		const cells = pasted(text, (i) => rowAt(range.r0 + i)?.n, header.slice(range.c0));
		if (typeof cells === 'string') return workspace.say(cells, 'error');
		await put(cells);
	}
	function keys(event: KeyboardEvent) {
		if (editing || event.target !== box) return;
		const page = Math.max(1, Math.floor(viewport / ROW) - 2);
		const step = {
			ArrowUp: [-1, 0],
			ArrowDown: [1, 0],
			ArrowLeft: [0, -1],
			ArrowRight: [0, 1],
			PageUp: [-page, 0],
			PageDown: [page, 0],
			Home: [event.ctrlKey ? -total : 0, -1e6],
			End: [event.ctrlKey ? total : 0, 1e6]
		}[event.key];
		if (step) {
			if (event.shiftKey) anchor ??= { ...cursor };
			else anchor = null;
			cursor = {
				row: Math.min(total - 1, Math.max(0, cursor.row + step[0]!)),
				column: Math.min(columns.length - 1, Math.max(0, cursor.column + step[1]!))
			};
			void tick().then(() => scrollTo(cursor.row));
		} else if (event.key === 'Enter' || event.key === 'F2') startEdit();
		else if (event.key === 'Delete') void put(rangeCells(''));
		else if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'c') void copy();
		else if (event.key === ' ') select();
		else return;
		event.preventDefault();
	}
	const rangeCells = (value: string) => {
		const cells: CellEdit[] = [];
		for (let r = range.r0; r <= range.r1; r++)
			for (let c = range.c0; c <= range.c1 && c < header.length; c++)
				if (rowAt(r)) cells.push({ n: rowAt(r)!.n, column: header[c]!, value });
		return cells;
	};
	/** The rows of the range as the selection of all panes. */
	function select() {
		const rows: number[] = [];
		for (let r = range.r0; r <= range.r1; r++) if (rowAt(r)) rows.push(rowAt(r)!.n);
		if (rows.length) workspace.selection = { kind: 'rows', table: tableId, rows };
	}
	function press(event: MouseEvent, row: number, column: number) {
		anchor = event.shiftKey ? (anchor ?? { ...cursor }) : null;
		cursor = { row, column };
		select();
		box?.focus();
	}
	function focus(node: HTMLInputElement) {
		node.focus();
		void tick().then(() => node.select());
	}
	const found = (r: Row, h: string) =>
		r.findings.find((f) => f.role !== null && (head!.table.mapping[h] === f.role || h === f.role)) ?? null;
</script>

<div class="absolute inset-0 flex flex-col" role="group" aria-label="Table {table?.name ?? ''}">
	<div class="rule flex shrink-0 flex-wrap items-center gap-1.5 border-b px-2 py-1 text-xs">
		<select
			class="select select-xs w-36"
			aria-label="Table"
			value={tableId}
			onchange={(e) => {
				my.table = e.currentTarget.value;
				my.sort = my.filter = my.find = '';
				my.descending = false;
				filterText = '';
				cursor = { row: 0, column: 0 };
				if (box) box.scrollTop = 0;
			}}
		>
			{#each workspace.tables as t (t.id)}<option value={t.id}>{t.name}</option>{/each}
		</select>
		<form
			class="order-last flex min-w-0 basis-full"
			onsubmit={(e) => {
				e.preventDefault();
				my.filter = filterText.trim();
				if (box) box.scrollTop = 0;
			}}
		>
			<input
				class="input input-xs coordinates min-w-32 flex-1"
				placeholder="filter, for example {header.find((h) => head && isNumber(h)) ?? 'Depth'} > 100"
				aria-label="Filter expression"
				title="Columns, numbers, 'text', + − * / %, comparisons, and, or, not, contains(column, 'text'), empty(column)"
				bind:value={filterText}
			/>
			{#if my.filter}<button
					type="button"
					class="btn btn-xs btn-square"
					aria-label="Remove the filter"
					onclick={() => {
						my.filter = filterText = '';
					}}><X size={12} /></button
				>{/if}
		</form>
		<input
			class="input input-xs w-24"
			type="search"
			placeholder="find"
			aria-label="Find a text in any cell"
			value={my.find}
			onchange={(e) => (my.find = e.currentTarget.value)}
		/>
		<input
			class="input input-xs numbers w-20"
			type="number"
			min="1"
			placeholder="go to row"
			aria-label="Go to row"
			onchange={(e) => {
				goTo(e.currentTarget.value);
				e.currentTarget.value = '';
			}}
		/>
		<button
			class="btn btn-xs"
			aria-expanded={statistics !== null}
			title="Statistics of the column of the cursor"
			onclick={() => (statistics = statistics === null ? (columns[cursor.column] ?? null) : null)}><Sigma size={12} />Statistics</button
		>
		<button class="btn btn-xs" aria-expanded={calculating} onclick={() => (calculating = !calculating)}
			><Calculator size={12} />Calculate</button
		>
		<span class="numbers quiet ml-1 whitespace-nowrap" role="status">{spaced(total)} rows{my.filter || my.find ? ' found' : ''}</span>
	</div>
	{#if problem}<p class="border-error border-l-4 px-3 py-1 text-sm" role="alert">{problem}</p>{/if}
	<div class="pane-split relative flex min-h-0 flex-1">
		{#if !table}
			<p class="p-6">No tables yet: bring files in under Gather.</p>
		{:else if head}
			<div
				bind:this={box}
				bind:clientHeight={viewport}
				class="min-h-0 min-w-0 flex-1 overflow-auto outline-offset-[-2px]"
				role="grid"
				tabindex="0"
				aria-rowcount={total + 1}
				aria-colcount={columns.length + 1}
				aria-label="{table.name}, {total} rows. Arrow keys move, Enter edits, Space selects, Ctrl C and Ctrl V copy and paste."
				onscroll={(e) => (top = e.currentTarget.scrollTop)}
				onkeydown={keys}
				onpaste={(e) => {
					if (editing) return;
					e.preventDefault();
					void paste(e.clipboardData?.getData('text/plain') ?? '');
				}}
			>
				<div class="relative" style="height: {scaled + ROW + 4}px; width: max-content; min-width: 100%">
					<ColumnHeads
						{columns}
						logged={header.length}
						sort={my.sort}
						descending={my.descending}
						press={(column) => {
							sortBy(column);
							if (statistics !== null) statistics = column;
						}}
					/>
					<div
						class="font-condensed absolute left-0 w-full text-[13px]"
						role="presentation"
						style="top: {ROW + 2 + rows.placeOf(first, top)}px"
					>
						{#each numbersShown as k (k)}
							{@const r = rowAt(k)}
							<div
								class="flex {r?.excluded ? 'line-through opacity-50' : ''} {r && chosen.has(r.n)
									? 'bg-info/15'
									: k % 2
										? 'bg-base-200/50'
										: ''}"
								role="row"
								aria-rowindex={k + 2}
								style="height: {ROW}px"
							>
								<span class="quiet numbers w-16 shrink-0 truncate px-2 leading-6" role="rowheader">{r ? spaced(r.n + 1) : '…'}</span>
								{#if r}
									{#each columns as h, c (h)}
										{@const cell = c < header.length ? r.cells[c]! : r.calculated[c - header.length]!}
										{@const f = found(r, h)}
										{#if editing && editing.n === r.n && editing.column === c}
											<input
												use:focus
												class="input input-xs w-28 shrink-0 rounded-none"
												aria-label="{h}, row {r.n + 1}"
												bind:value={editing.value}
												onkeydown={(e) => {
													e.stopPropagation();
													if (e.key === 'Enter') void finishEdit();
													else if (e.key === 'Escape') {
														editing = null;
														box?.focus();
													}
												}}
												onblur={() => void finishEdit(false)}
											/>
										{:else}
											<!-- svelte-ignore a11y_click_events_have_key_events, a11y_interactive_supports_focus -->
											<div
												class="rule w-28 shrink-0 truncate border-l px-1.5 leading-6 {isNumber(h) ? 'numbers text-right' : ''} {inRange(
													k,
													c
												)
													? 'bg-info/20'
													: f
														? f.severity === 'held'
															? 'bg-error/15'
															: 'bg-warning/15'
														: ''} {k === cursor.row && c === cursor.column ? 'outline-info outline-2 -outline-offset-2' : ''} {r.originals[
													c
												] !== undefined
													? 'border-secondary border-b-2'
													: ''}"
												role="gridcell"
												aria-selected={inRange(k, c)}
												title={[
													f ? `${f.severity === 'held' ? 'Held back' : 'Noted'}: ${f.message}. ${f.hint}` : '',
													r.originals[c] !== undefined ? `originally "${r.originals[c]}"` : ''
												]
													.filter(Boolean)
													.join('\n') || cell}
												onclick={(e) => press(e, k, c)}
												ondblclick={() => startEdit()}
											>
												{cell}
											</div>
										{/if}
									{/each}
								{/if}
							</div>
						{/each}
					</div>
				</div>
			</div>
		{:else if !problem}
			<p class="quiet p-4" role="status">Loading the rows…</p>
		{/if}
		{#if statistics !== null && table}<ColumnStatistics
				{workspace}
				table={tableId}
				column={statistics}
				filter={my.filter}
				find={my.find}
				version={hash}
				close={() => (statistics = null)}
			/>{/if}
		{#if calculating && head}<CalculatedColumns
				{workspace}
				table={tableId}
				revision={table!.revision}
				columns={head.table.calculated ?? []}
				problems={Object.fromEntries(calculated.filter((c) => c.problem).map((c) => [c.name, c.problem!]))}
				{header}
				close={() => (calculating = false)}
			/>{/if}
	</div>
</div>
