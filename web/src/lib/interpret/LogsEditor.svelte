<script lang="ts">
	import type { Given } from '$lib/api/contract';
	import { Plus, Trash2 } from '$lib/icons';
	import { isOfHoles } from '#core/tables/kinds';
	import type { LogPreview, ProjectObject } from '$lib/api/types';
	import { spaced } from '$lib/ui/numbers';
	import type { Workspace } from '$lib/workspace.svelte';
	import LogComparison from './LogComparison.svelte';
	import PickByRule from './PickByRule.svelte';
	import RecodeEditor from './RecodeEditor.svelte';
	import ReloggedList from './ReloggedList.svelte';
	import { sumOfRows } from './rows-of-codes';

	/** Versions of logs: which one is looked at, and what is relogged in it. */
	let { workspace }: { workspace: Workspace } = $props();

	const roles = (o: ProjectObject) => Object.values((o.state['mapping'] ?? {}) as Record<string, string>);
	/** Tables with intervals along holes and codes, each followed by its versions. */
	const logs = $derived.by(() => {
		const all = workspace.alongTables.filter(
			(t) => isOfHoles(t.state['kind'] as never) && roles(t).includes('code') && roles(t).includes('hole')
		);
		/** What it goes out from, among these: one of a column of another table stands by itself. */
		const above = (t: ProjectObject) => all.find((o) => o.id === t.state['versionOf'])?.id;
		const below = (of: string | undefined, depth: number): { log: ProjectObject; depth: number }[] =>
			all.filter((t) => above(t) === of).flatMap((t) => [{ log: t, depth }, ...below(t.id, depth + 1)]);
		return below(undefined, 0);
	});
	const log = $derived(logs.find((l) => l.log.id === workspace.along)?.log ?? logs[0]?.log ?? null);
	const isVersion = $derived(typeof log?.state['versionOf'] === 'string');
	const set = $derived(log ? workspace.sets.of(log.id) : null);
	const unit = $derived(workspace.project?.lengthUnit ?? 'm');
	/** The log that the model at hand is made from. */
	const ofModel = $derived(workspace.interpretation?.shaping.log ?? null);
	const isOfModel = $derived(ofModel ? ofModel.table === log?.name : !isVersion && log?.state['kind'] === 'intervals');
	/** The log and what it goes out from: their rows have the same numbers. */
	const family = $derived.by(() => {
		const ids: string[] = [];
		for (let o: ProjectObject | undefined = log ?? undefined; o; o = workspace.tables.find((t) => t.id === o?.state['versionOf']))
			ids.push(o.id);
		return ids;
	});
	const rows = $derived(workspace.selection?.kind === 'rows' && family.includes(workspace.selection.table) ? workspace.selection.rows : []);
	const sum = $derived(set && rows.length ? sumOfRows(set, rows) : null);
	const codes = $derived.by(() => {
		const column = set?.columns.find((c) => c.key === 'code');
		return column?.type === 'category' ? [...column.categories].sort() : [];
	});

	async function act(work: () => Promise<unknown>): Promise<boolean> {
		const done = await workspace.attempt(work);
		await workspace.attempt(() => workspace.refresh());
		return done;
	}
	const begin = () =>
		act(async () => {
			const made = await workspace.api.ask('newLog', { body: { of: log!.id } });
			workspace.bench.state.along = made.id;
			workspace.say(`${made.name} is shown now; ${log!.name} stays as it is.`);
		});
	/** Columns of text along holes that nobody said to be a log yet. */
	const columns = $derived(
		workspace.alongTables.flatMap((t) => {
			if (t.state['versionOf'] || !roles(t).includes('hole') || !roles(t).includes('to')) return [];
			return Object.entries((t.state['mapping'] ?? {}) as Record<string, string>).flatMap(([column, role]) =>
				role === 'keep' ? [{ table: t, column }] : []
			);
		})
	);
	const beginOf = (key: string) =>
		act(async () => {
			const { table, column } = columns[Number(key)]!;
			const made = await workspace.api.ask('newLog', {
				body: {
					of: table.id,
					column,
					name: freeNameOf(`${table.name}: ${column}`)
				}
			});
			workspace.bench.state.along = made.id;
		});
	/** A name that no table has. */
	function freeNameOf(wanted: string): string {
		for (let n = 1; ; n++) {
			const name = n === 1 ? wanted : `${wanted} ${n}`;
			if (!workspace.tables.some((t) => t.name === name)) return name;
		}
	}
	const rename = (name: string) =>
		name.trim() &&
		name.trim() !== log!.name &&
		act(() => workspace.api.ask('renameSource', { object: log!.id, body: { name: name.trim() } }));
	const takeOut = () =>
		act(async () => {
			const next = String(log!.state['versionOf']);
			const name = log!.name;
			await workspace.api.ask('deleteSource', { object: log!.id });
			workspace.bench.state.along = next;
			workspace.selection = null;
			workspace.say(`${name} is taken out. Ctrl Z brings it back.`);
		});
	const forModel = () => workspace.store('shaping', { log: { table: log!.name, column: '' } });

	// Relogging of what is picked.
	let what = $state<'give' | 'dissolve' | 'split' | 'stretch'>('give');
	let to = $state('');
	let into = $state<'above' | 'below' | 'nearest' | 'thicker'>('thicker');
	let depth = $state<number | null>(null);
	let span = $state<[number, number]>([0, 0]);
	let note = $state('');
	let preview = $state.raw<LogPreview | null>(null);
	/** A code of its own name, and none at all: no code is written so. */
	const [NEW, NONE] = ['\u0001', '\u0002'];
	let fresh = $state('');
	const asked = $derived.by((): Given<'relog'>['body']['act'] => {
		const code = to === NEW ? fresh.trim() : to === NONE ? '' : to;
		if (what === 'give') return { do: 'give', rows, code };
		if (what === 'dissolve') return { do: 'dissolve', rows, into };
		if (what === 'split') return { do: 'split', row: rows[0], depth: depth ?? -1 };
		const holes = [...workspace.selectedHoles];
		return { do: 'stretch', stretches: holes.map((hole) => ({ hole, from: span[0], to: span[1] })), code };
	});
	$effect(() => {
		void [rows, what, to, into, depth, span[0], span[1], log?.contentHash];
		preview = null;
	});
	const look = () =>
		workspace.attempt(async () => {
			preview = await workspace.api.ask('previewRelog', { object: log!.id, body: { act: asked } });
		});
	async function relog(event: SubmitEvent) {
		event.preventDefault();
		if (to === NEW && !fresh.trim() && (what === 'give' || what === 'stretch')) return workspace.say('Give the new code a name.', 'error');
		await act(async () => {
			const done = await workspace.api.ask('relog', {
				object: log!.id,
				body: {
					act: asked,
					...(note.trim() ? { note: note.trim() } : {}),
					revision: log!.revision
				}
			});
			workspace.say(
				done.changed
					? `${done.left.length ? `${done.left.length} intervals stay: ${done.left[0]!.why}. ` : ''}Relogged; Ctrl Z takes it back.`
					: done.left.length
						? `Nothing was changed: ${done.left[0]!.why}.`
						: 'Nothing was changed: they have that code already.'
			);
			note = '';
			if (what !== 'give') workspace.selection = null;
		});
	}
</script>

{#if !log}
	<p>No log with codes yet: bring in logged intervals under Gather.</p>
{:else}
	<p class="quiet mb-2 text-sm">
		What was logged stays as it is. A version takes its rows from it and is relogged; models, holes and charts take whichever is wanted.
	</p>
	<label class="flex flex-col text-sm"
		>Log that is shown
		<select
			class="select select-sm"
			value={log.id}
			onchange={(e) => {
				workspace.bench.state.along = e.currentTarget.value;
				workspace.selection = null;
			}}
		>
			{#each logs as l (l.log.id)}<option value={l.log.id}>{'\u2003'.repeat(l.depth)}{l.log.name}</option>{/each}
		</select></label
	>
	<div class="mt-1.5 flex flex-wrap gap-1.5">
		<button class="btn btn-xs" title="Its rows are those of {log.name}, which stays as it is" onclick={begin}
			><Plus size={12} />New version</button
		>
		{#if isOfModel}<span class="quiet self-center text-xs">{workspace.object('model')?.name} is made from it</span>
		{:else}<button class="btn btn-xs" onclick={forModel}>Make {workspace.object('model')?.name} from it</button>{/if}
		{#if isVersion}<button class="btn btn-xs" onclick={takeOut}><Trash2 size={12} />Take out</button>{/if}
	</div>
	{#if columns.length}
		<select
			class="select select-xs mt-1.5 w-full"
			aria-label="Make a log of a column of text"
			value=""
			onchange={(e) => {
				void beginOf(e.currentTarget.value);
				e.currentTarget.value = '';
			}}
		>
			<option value="" disabled>make a log of another column…</option>
			{#each columns as c, i (`${c.table.id} ${c.column}`)}<option value={i}>{c.table.name}: {c.column}</option>{/each}
		</select>
	{/if}
	{#if isVersion}
		<label class="mt-1.5 flex flex-col text-sm"
			>Name<input class="input input-xs" value={log.name} maxlength="200" onchange={(e) => rename(e.currentTarget.value)} /></label
		>
	{/if}

	<PickByRule {workspace} {log} {rows} {codes} />

	{#if sum}
		<form class="bg-base-200 mt-3 p-2 text-sm" onsubmit={relog} aria-label="Relog what is picked">
			<p class="font-medium" role="status">
				<span class="numbers">{spaced(sum.rows)}</span>
				{sum.rows === 1 ? 'interval' : 'intervals'} in <span class="numbers">{spaced(sum.holes)}</span>
				{sum.holes === 1 ? 'hole' : 'holes'}, <span class="numbers">{spaced(sum.length, 1)} {unit}</span>
			</p>
			<p
				class="quiet mb-1.5 truncate text-xs"
				title={sum.codes.map(([c, l]) => `${c || 'not sampled'} ${spaced(l, 1)} ${unit}`).join(', ')}
			>
				now {sum.codes
					.slice(0, 4)
					.map(([c]) => c || 'not sampled')
					.join(', ')}{sum.codes.length > 4 ? ' …' : ''}
			</p>
			{#if isVersion}
				<div class="flex flex-wrap items-center gap-1.5">
					<select class="select select-xs w-32" aria-label="What is done" bind:value={what}>
						<option value="give">give to</option><option value="dissolve">dissolve into</option>
						<option value="split" disabled={rows.length !== 1}>cut at</option><option value="stretch">in their holes, give</option>
					</select>
					{#if what === 'stretch'}
						<input
							type="number"
							class="input input-xs numbers w-14"
							step="any"
							aria-label="From depth, {unit}"
							bind:value={span[0]}
						/>–<input
							type="number"
							class="input input-xs numbers w-14"
							step="any"
							aria-label="To depth, {unit}"
							bind:value={span[1]}
						/>{unit}
					{/if}
					{#if what === 'give' || what === 'stretch'}
						<select class="select select-xs min-w-0 flex-1" aria-label="Unit or code that they get" required bind:value={to}>
							<option value="" disabled>unit or code</option>
							{#each workspace.allUnits as u (u.id)}<option value={u.id}>{u.name}</option>{/each}
							<option value={NONE}>not sampled</option><option value={NEW}>a new code…</option>
							{#each codes as c (c)}<option value={c}>{c}</option>{/each}
						</select>
						{#if to === NEW}<input class="input input-xs w-28" aria-label="Name of the new code" maxlength="200" bind:value={fresh} />{/if}
					{:else if what === 'dissolve'}
						<select class="select select-xs min-w-0 flex-1" aria-label="Into which neighbour" bind:value={into}>
							<option value="thicker">the thicker neighbour</option><option value="above">the one above</option>
							<option value="below">the one below</option><option value="nearest">the nearer unit in the column</option>
						</select>
					{:else}
						<input
							type="number"
							class="input input-xs numbers w-20"
							step="any"
							required
							aria-label="Depth, {unit}"
							bind:value={depth}
						/>{unit}
					{/if}
				</div>
				<input
					class="input input-xs mt-1.5 w-full"
					aria-label="Note"
					placeholder="note, if one is wanted"
					maxlength="2000"
					bind:value={note}
				/>
				<div class="mt-1.5 flex gap-1.5">
					<button class="btn btn-xs btn-primary">Relog</button>
					<button type="button" class="btn btn-xs" onclick={look}>What would change?</button>
					<button type="button" class="btn btn-xs ml-auto" onclick={() => (workspace.selection = null)}>None</button>
				</div>
				{#if preview}
					<div class="mt-1.5 max-h-40 overflow-y-auto text-xs" role="status">
						{#if !preview.changed}Nothing would change.{/if}
						{#each preview.shown as s (s.n)}<div class="truncate" title="{s.hole} {s.from} to {s.to}">
								<span class="numbers">{s.hole} {spaced(s.from, 1)}–{spaced(s.to, 1)}</span>: {s.was || 'not sampled'} → {s.becomes}
							</div>{/each}
						{#each preview.left as l (l.n)}<div class="text-warning">{l.hole}: {l.why}</div>{/each}
					</div>
				{/if}
			{:else}
				<button type="button" class="btn btn-xs" onclick={begin}>Make a version to relog them in</button>
			{/if}
		</form>
	{/if}

	{#if isVersion}
		<RecodeEditor {workspace} {log} {codes} {act} />
		<ReloggedList {workspace} {log} {act} />
	{/if}
	{#if logs.length > 1}<LogComparison {workspace} {log} others={logs.flatMap((l) => (l.log.id === log!.id ? [] : [l.log]))} />{/if}
{/if}
