<script lang="ts">
	import { page } from '$app/state';
	import { goto } from '$app/navigation';
	import { Download } from '$lib/icons';
	import { RULES } from '#core/checks/rules';
	import type { Finding } from '$lib/api/types';
	import FindingGroup from '$lib/check/FindingGroup.svelte';
	import ResultFindings from '$lib/check/ResultFindings.svelte';
	import RuleSettings from '$lib/check/RuleSettings.svelte';
	import TableOverview from '$lib/check/TableOverview.svelte';
	import RowsTable from '$lib/panes/table/RowsTable.svelte';
	import { hasWords } from '$lib/ui/fold';
	import ListFilter from '$lib/ui/ListFilter.svelte';
	import { roving } from '$lib/ui/roving';
	import SeverityMark from '$lib/ui/SeverityMark.svelte';
	import { spaced } from '$lib/ui/numbers';
	import { useWorkspace } from '$lib/workspace.svelte';

	const workspace = useWorkspace();
	const findings = $derived(workspace.findings?.findings ?? []);
	const tables = $derived(workspace.findings?.tables ?? []);
	const table = $derived(page.url.searchParams.get('table') ?? findings.find((f) => f.table)?.table ?? tables[0]?.id ?? null);
	const row = $derived(page.url.searchParams.has('row') ? Number(page.url.searchParams.get('row')) : null);
	const view = $derived(page.url.searchParams.get('view') ?? 'rows');
	let filter = $state('');
	const listed = $derived(filter ? findings.filter((f) => hasWords(`${f.message} ${f.hole ?? ''} ${f.hint}`, filter)) : findings);
	const groups = $derived.by(() => {
		const by = new Map<string, Finding[]>();
		for (const f of listed) {
			const key = `${f.rule}\t${f.table ?? ''}`;
			const list = by.get(key);
			if (list) list.push(f);
			else by.set(key, [f]);
		}
		// What holds rows back comes first.
		return [...by]
			.map(([key, list]) => ({ key, rule: list[0]!.rule, table: list[0]!.table ?? '', list }))
			.sort((a, b) => Number(b.list[0]!.severity === 'held') - Number(a.list[0]!.severity === 'held'));
	});
	let open = $state<Record<string, boolean>>({});
	const isOpen = (key: string) => open[key] ?? (groups.length < 4 || filter !== '');

	const address = (values: Record<string, string | number | null>) => {
		const q = new URLSearchParams();
		for (const [k, v] of Object.entries(values)) if (v !== null) q.set(k, String(v));
		return `?${q}`;
	};
	const go = (f: Finding) =>
		goto(address({ table: f.table, row: f.n >= 0 ? f.n : null, view: f.n >= 0 ? null : 'overview' }), { keepFocus: true, noScroll: true });
	const count = (id: string, severity: string) =>
		findings.filter((f) => f.table === id && f.severity === severity && f.seen === null).length;
	const checkNow = () =>
		workspace.attempt(async () => {
			await workspace.api.ask('checkNow');
			await workspace.refresh();
		});
	const VIEWS = [
		['rows', 'Rows'],
		['overview', 'Overview'],
		['rules', 'Rules']
	] as const;
</script>

<div class="grid h-full min-h-0 grid-rows-[minmax(0,2fr)_minmax(0,3fr)] lg:grid-cols-[370px_minmax(0,1fr)] lg:grid-rows-1">
	<div class="bg-base-100 rule min-h-0 overflow-y-auto border-r border-b p-4 lg:border-b-0">
		<div class="flex items-center">
			<h1 class="flex-1 text-lg font-semibold">Check</h1>
			{#if findings.length}
				<span class="quiet mr-1 text-sm">list as</span>
				{#each ['csv', 'xlsx'] as f (f)}<a
						class="btn btn-ghost btn-xs"
						href={workspace.api.address('exportFindings', { format: f })}
						download
						title="All findings with file and line, to be mended at the source"><Download size={13} />{f.toUpperCase()}</a
					>{/each}
			{/if}
		</div>
		{#if tables.length === 0}
			<p class="quiet mt-2">Nothing to check yet. <a class="link" href="/{workspace.id}/gather">Bring in tables</a> first.</p>
		{:else if !workspace.findings!.checked}
			<p class="border-warning mt-3 border-l-4 px-3 py-1">
				Not checked yet as they are now. <button class="link" onclick={checkNow}>Check</button>
			</p>
		{:else if findings.length === 0}
			<p class="border-primary mt-3 border-l-4 px-3 py-1">All {RULES.length} rules were run over {tables.length} tables: no findings.</p>
		{:else}
			<p class="mt-1 mb-3 text-sm">
				<SeverityMark severity="held" />
				{spaced(workspace.counts.held)} held back &nbsp; <SeverityMark severity="noted" />
				{spaced(workspace.counts.noted)} noted
			</p>
		{/if}
		<ListFilter bind:value={filter} label="Find in the findings" shown={listed.length} all={findings.length} />
		{#if filter && listed.length === 0}<p class="quiet text-sm">No finding says this.</p>{/if}
		{#each groups as g (g.key)}
			<FindingGroup
				{workspace}
				rule={g.rule}
				table={g.table}
				tableName={tables.find((t) => t.id === g.table)?.name ?? ''}
				list={g.list}
				open={isOpen(g.key)}
				current={g.table === table ? row : null}
				toggle={() => (open[g.key] = !isOpen(g.key))}
				{go}
			/>
		{/each}
		<ResultFindings {workspace} {filter} />
	</div>
	<div class="flex min-h-0 min-w-0 flex-col">
		<div class="bg-base-100 rule flex flex-wrap border-b px-3">
			<div class="flex min-w-0 flex-1 gap-1 overflow-x-auto" role="tablist" aria-label="Tables" use:roving={{ items: '[role=tab]' }}>
				{#each tables as t (t.id)}
					<a
						role="tab"
						aria-selected={t.id === table && view !== 'rules'}
						href={address({ table: t.id, view: view === 'overview' ? view : null })}
						class="shrink-0 border-b-2 px-3 py-2 {t.id === table && view !== 'rules'
							? 'border-primary font-medium'
							: 'hover:bg-base-200 border-transparent'}"
					>
						{t.name} <span class="numbers quiet text-sm">{spaced(t.rowCount)}</span>
						{#if count(t.id, 'held')}<span class="numbers text-error ml-1.5 text-sm" title="held back">{count(t.id, 'held')}</span
							>{/if}{#if count(t.id, 'noted')}<span class="numbers text-warning ml-1.5 text-sm" title="noted">{count(t.id, 'noted')}</span
							>{/if}
					</a>
				{/each}
			</div>
			<div class="flex shrink-0 items-center gap-1 pl-3" role="group" aria-label="What is shown">
				{#each VIEWS as [id, label] (id)}<a
						class="btn btn-xs {view === id ? 'btn-primary' : 'btn-ghost'}"
						aria-current={view === id ? 'true' : undefined}
						href={address({ table, view: id === 'rows' ? null : id })}>{label}</a
					>{/each}
			</div>
		</div>
		{#if view === 'rules'}<div class="min-h-0 flex-1 overflow-auto"><RuleSettings {workspace} /></div>
		{:else if table && view === 'overview'}{#key table}<TableOverview {workspace} {table} />{/key}
		{:else if table}{#key table}<RowsTable {workspace} {table} {row} />{/key}{/if}
	</div>
</div>
