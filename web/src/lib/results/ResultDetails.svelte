<script lang="ts">
	import { endingsOfForm } from '#core/recipes/form-files';
	import { onDestroy, untrack } from 'svelte';
	import { Copy, Download, Hammer, Trash2, Workflow } from '$lib/icons';
	import { problemText } from '$lib/api/client';
	import type { MadeResult, RecipeInfo } from '$lib/api/types';
	import { bytes, spaced } from '$lib/ui/numbers';
	import { moment } from '$lib/ui/moments';
	import type { Workspace } from '$lib/workspace.svelte';
	import { NOTHING_OFFERED, recipes, reportParts, stateOfMade, type Offered } from './choices';
	import Account from './Account.svelte';
	import { Preview } from './preview.svelte';
	import ReadingsLine from './ReadingsLine.svelte';
	import RecipeFields from './RecipeFields.svelte';
	import ResultCharts from './ResultCharts.svelte';
	import StateMark from './StateMark.svelte';

	/** One result: what it is made of and by, its state, what is said of it, and what can be done with it. */
	let { workspace, id }: { workspace: Workspace; id: string } = $props();
	let told = $state.raw<MadeResult | null>(null);
	let recipe = $state.raw<RecipeInfo | null>(null);
	let offered = $state.raw<Offered>(NOTHING_OFFERED);
	let problem = $state('');
	/** What was changed and is not built yet is looked at on the map, where the recipe is quick. */
	const preview = new Preview(untrack(() => workspace));
	onDestroy(() => preview.end());
	const object = $derived(workspace.objects.find((o) => o.id === id));
	const job = $derived(workspace.jobOf(id));
	const build = $derived(workspace.buildOf(id));
	const how = $derived(object ? stateOfMade(object, job !== undefined) : 'never built');
	const MOST_MARKS = 500;
	const files = $derived(endingsOfForm(object?.form ?? null));
	const report = $derived(told?.built ? reportParts(told.built.report) : null);
	const unitName = (value: number | string) =>
		typeof value === 'string'
			? (Object.values(offered.units)
					.flat()
					.find((u) => u.id === value)?.name ?? value)
			: spaced(value, Number.isInteger(value) ? 0 : Math.abs(value) < 100 ? 3 : 1);

	$effect(() => {
		void [object?.revision, object?.contentHash, object?.failure, object?.outOfDate];
		const own = id;
		void workspace.attempt(async () => {
			const t = await workspace.api.ask('getResult', { object: own });
			if (own !== id) return;
			told = t;
			recipe = (await recipes()).find((r) => r.id === t.recipe) ?? null;
			offered = await workspace.api.ask('suggestResult', { body: { recipe: t.recipe, inputs: t.inputs } }).catch(() => NOTHING_OFFERED);
		});
	});

	/** Rows of a report that have a place: the places that a method misses most, crossings of lines. All are marked on the map. */
	const placesOf = (t: { title: string; header: string[]; rows: (number | string)[][] }): (Place | null)[] | null => {
		const [x, y] = [t.header.indexOf('x'), t.header.indexOf('y')];
		if (x < 0 || y < 0) return null;
		return t.rows.map((row) => {
			const [a, b] = [row[x], row[y]];
			if (typeof a !== 'number' || typeof b !== 'number') return null;
			const rest = t.header.flatMap((h, k) => (k === x || k === y ? [] : [`${h} ${unitName(row[k]!)}`]));
			return { x: a, y: b, label: `${t.title}: ${rest.join(', ')}` };
		});
	};
	type Place = { x: number; y: number; label: string };
	const point = (p: Place | null | undefined) => {
		if (p) workspace.probe = { x: p.x, y: p.y, z: null, what: p.label, from: 'details' };
	};
	$effect(() => {
		workspace.marks = (report?.tables ?? []).flatMap((t) => placesOf(t)?.slice(0, MOST_MARKS) ?? []).filter((p) => p !== null);
	});
	onDestroy(() => (workspace.marks = []));

	async function change(values: Record<string, unknown>) {
		problem = '';
		try {
			told = await workspace.api.ask('changeResult', { object: id, body: { ...values, revision: told!.revision } });
			if (recipe?.previews && (values['parameters'] || values['inputs'])) preview.show(told.recipe, told.inputs, told.parameters);
			await workspace.refresh();
		} catch (error) {
			problem = problemText(error);
			// What stands is shown again, not what was refused.
			told = { ...told! };
		}
	}
	// Once it is built, or is about to be, the picture is that of the result.
	$effect(() => {
		if (how === 'up to date' || job) untrack(() => preview.end());
	});
	const rebuild = () => workspace.attempt(() => workspace.api.start('build', { body: { objects: [id] } }));
	const duplicate = () =>
		workspace.attempt(async () => {
			const copy = await workspace.api.ask('duplicateResult', { object: id });
			await workspace.refresh();
			workspace.bench.state.hidden[`thing:${copy.id}`] = !workspace.shown(`thing:${id}`);
			workspace.selection = { kind: 'object', id: copy.id };
		});
	const remove = () =>
		workspace.attempt(async () => {
			const users = told?.usedBy ?? [];
			if (
				users.length &&
				!confirm(`${users.join(', ')} ${users.length === 1 ? 'is' : 'are'} made of ${told!.name}. Take it out all the same?`)
			)
				return;
			await workspace.api.ask('removeResult', { object: id, ...(users.length ? { used: true } : {}) });
			workspace.selection = null;
			await workspace.refresh();
			workspace.say(`${told!.name} is taken out. Ctrl Z brings it back.`);
		});
</script>

{#if told && object}
	<input
		class="input input-xs input-ghost -mx-1 w-full px-1 font-medium"
		aria-label="Name of the result"
		maxlength="200"
		value={told.name}
		onchange={(e) => (e.currentTarget.value.trim() ? change({ name: e.currentTarget.value.trim() }) : (e.currentTarget.value = told!.name))}
	/>
	<p class="mb-1 flex items-center gap-1.5 text-sm">
		<StateMark state={how} /><span>{how}</span>
		{#if told.built}<span class="quiet numbers ml-auto text-xs" title="Built {moment(told.built.at)}"
				>{told.built.seconds.toFixed(told.built.seconds < 1 ? 2 : 1)} s, {bytes(told.built.bytes)}</span
			>{/if}
	</p>
	{#if job}
		<div class="mb-1 flex items-center gap-2">
			<progress
				class="progress progress-primary h-1.5 flex-1"
				value={(job.state === 'blocked' ? build : job)?.share ?? 0}
				max="1"
				aria-label="Building {told.name}"
			></progress><button class="btn btn-xs" onclick={() => workspace.cancel((build ?? job!).id)}>Cancel</button>
		</div>
		<p class="quiet text-sm" role="status">
			{job.state === 'blocked' ? 'waits for what it is made of' : job.what || 'waiting for a worker'}…
		</p>
	{/if}
	{#if told.failure && !job}<p role="alert" class="border-error mb-1 border-l-4 px-2 text-sm">
			{told.failure.title}. <span class="quiet">{told.failure.hint ?? ''}</span>
		</p>{/if}
	{#if recipe}
		<p class="quiet mb-1 text-sm">{recipe.about}</p>
		<RecipeFields
			{workspace}
			{recipe}
			inputs={told.inputs}
			parameters={told.parameters}
			{offered}
			setInput={(role, ids) => void change({ inputs: { ...told!.inputs, [role]: ids } })}
			setParameter={(name, value) => void change({ parameters: { ...told!.parameters, [name]: value } })}
		/>
	{/if}
	{#if preview.report}<p class="quiet mt-1 text-sm" role="status">The map shows a first look at it; build it to keep it.</p>{/if}
	{#if problem}<p role="alert" class="text-error mt-1 text-sm">{problem}</p>{/if}
	<label class="mt-1.5 flex items-center gap-2 text-sm"
		><input
			type="checkbox"
			class="checkbox checkbox-xs"
			checked={told.auto}
			onchange={(e) => change({ auto: e.currentTarget.checked })}
		/>build it by itself when it is out of date</label
	>
	<div class="mt-1.5 flex flex-wrap gap-1">
		<button
			class="btn btn-xs {how === 'up to date' ? '' : 'btn-primary'}"
			disabled={job !== undefined || how === 'up to date'}
			onclick={rebuild}><Hammer size={13} />Build</button
		>
		<button class="btn btn-xs" onclick={duplicate}><Copy size={13} />Duplicate</button>
		<button
			class="btn btn-xs"
			title="Save the steps that lead here as a text file that runs on other data"
			onclick={() => (workspace.routine = { objects: [id] })}><Workflow size={13} />Routine…</button
		>
		<button class="btn btn-xs" onclick={remove}><Trash2 size={13} />Take out</button>
	</div>
	{#if report && told.built}
		<ReadingsLine report={told.built.report} />
		<ResultCharts report={told.built.report} />
		{#if report.values.length}<dl class="mt-2 grid grid-cols-[auto_1fr] gap-x-3 gap-y-0.5 text-sm">
				{#each report.values as [label, value] (label)}<dt class="quiet">{label}</dt>
					<dd class="numbers text-right">{unitName(value)}</dd>{/each}
			</dl>{/if}
		{#each report.tables as t (t.title)}
			<div class="mt-2 overflow-x-auto">
				<table class="plain numbers text-xs">
					<caption class="quiet text-left">{t.title}, {t.rows.length}</caption>
					<thead
						><tr
							>{#each t.header as h (h)}<th>{h}</th>{/each}</tr
						></thead
					>
					<tbody
						>{#each t.rows.slice(0, 40) as row, i (i)}<tr
								class={placesOf(t)?.[i] ? 'hover:bg-base-200' : ''}
								onpointerenter={() => point(placesOf(t)?.[i])}
								>{#each row as cell, j (j)}<td class={typeof cell === 'number' ? 'right whitespace-nowrap' : ''}>{unitName(cell)}</td
									>{/each}</tr
							>{/each}</tbody
					>
				</table>
			</div>
		{/each}
		<Account {workspace} {id} known="{told.built.at} {told.name}" />
		<p class="mt-2 flex flex-wrap items-center gap-1 text-sm">
			<Download size={13} />{#each files as f (f)}<a
					class="btn btn-ghost btn-xs px-1.5"
					href={workspace.api.address('exportResult', { object: id, format: f })}
					download>{f}</a
				>{/each}
		</p>
	{/if}
	<p class="quiet mt-1 text-xs">
		Made {moment(told.createdAt)}{told.createdBy ? ` by ${told.createdBy}` : ''}{told.usedBy.length
			? `; used by ${told.usedBy.join(', ')}`
			: ''}
	</p>
{:else}<p class="quiet text-sm" role="status">Loading…</p>{/if}
