<script lang="ts">
	import { untrack } from 'svelte';
	import { Dices, Download, Eye } from '$lib/icons';
	import { readPack } from '#core/formats/pack';
	import { doubtReport } from '$lib/api/answers/ground';
	import { reportAs } from '$lib/api/report-as';
	import { doubtPaint } from '$lib/panes/paint';
	import { recipeFor } from '$lib/results/choices';
	import { volume } from '$lib/ui/numbers';
	import type { Workspace } from '$lib/workspace.svelte';

	/** An ensemble of models from data moved within their errors, and the spread of its volumes. */
	let { workspace }: { workspace: Workspace } = $props();
	const unit = $derived(workspace.project!.lengthUnit);
	const coarse = $derived(Math.max(1, Math.round(2 * workspace.interpretation!.model.spacing)));
	let members = $state(30);
	let seed = $state(1);
	let spacing = $state(untrack(() => Math.max(1, Math.round(2 * workspace.interpretation!.model.spacing))));
	let errors = $state({ contact: 2, orientation: 5, faultDip: 5, faultTrace: 10 });
	let report = $state.raw<ReturnType<typeof reportAs<typeof doubtReport>> | null>(null);
	let kind = $state('');
	untrack(() => workspace.attempt(async () => void (kind = (await recipeFor('how-sure')).id)));
	/** The newest ensemble of the model at hand. */
	const own = $derived(workspace.objects.findLast((o) => o.kind === kind && o.inputs.includes(workspace.object('fields')?.id ?? '')));
	const job = $derived(own && workspace.buildOf(own.id));
	/** What is stored of it: another text only when that is another. */
	const stored = $derived(own?.contentHash ? `${own.id} ${own.contentHash}` : '');
	$effect(() => {
		if (job) return;
		if (!stored) report = null;
		else
			void workspace.attempt(async () => {
				const { built } = await workspace.api.ask('getResult', { object: stored.split(' ')[0]! });
				report = built && reportAs(doubtReport, built.report);
			});
	});
	const run = () =>
		workspace.attempt(async () => {
			const parameters = { members, seed, spacing: spacing || coarse, ...errors };
			const terrain = workspace.object('terrain');
			const inputs = { fields: [workspace.object('model')!.id], terrain: terrain ? [terrain.id] : [] };
			const body = { parameters, inputs };
			if (own) await workspace.api.ask('changeResult', { object: own.id, body: { ...body, revision: own.revision } });
			const name = `Doubt of ${workspace.object('model')!.name}`;
			const object = own?.id ?? (await workspace.api.ask('makeResult', { body: { recipe: 'how-sure', name, ...body } })).id;
			await workspace.api.start('build', { body: { objects: [object] } });
			await workspace.refresh();
		});
	const ready = $derived(!workspace.object('model')?.missing && !workspace.object('model')?.outOfDate);
	const ERRORS = $derived([
		['contact', `Contacts, ${unit}`, 'Along the vertical'],
		['orientation', 'Orientations, °', 'Of the pole'],
		['faultDip', 'Fault dips, °', 'Of each fault as a whole'],
		['faultTrace', `Fault traces, ${unit}`, 'Across the trace']
	] as const);
	const nameOf = (id: string) => workspace.units.find((u) => u.id === id)?.name ?? id;
	const showing = $derived(workspace.paint?.what === 'spread');
	const show = () =>
		workspace.attempt(async () => {
			workspace.paint = showing
				? null
				: doubtPaint(workspace.model!, readPack(await workspace.api.bytes('getResultPack', { object: own!.id, arrays: 'entropy' })));
		});
	const share = (v: number, of: number) => `${v >= of ? '+' : '−'}${Math.abs(100 * (v / of - 1)).toFixed(1)} %`;
</script>

<details class="mt-5">
	<summary class="panel-title cursor-pointer">Doubt</summary>
	<p class="quiet mt-1 mb-2 text-sm">Many models from data moved within their errors (one standard deviation): how sure is each volume?</p>
	<div class="grid grid-cols-2 gap-2 text-sm">
		{#each ERRORS as [key, label, help] (key)}
			<label class="flex flex-col" title={help}
				>{label}<input class="input input-xs numbers" type="number" min="0" step="any" bind:value={errors[key]} /></label
			>
		{/each}
		<label class="flex flex-col" title="More models give a steadier answer"
			>Models<input class="input input-xs numbers" type="number" min="2" max="1000" step="1" bind:value={members} /></label
		>
		<label class="flex flex-col" title="Cells in which units are counted"
			>Cells of, {unit}<input class="input input-xs numbers" type="number" min="0" step="any" bind:value={spacing} /></label
		>
		<label class="flex flex-col" title="The same seed gives the same models"
			>Seed<input class="input input-xs numbers" type="number" min="0" step="1" bind:value={seed} /></label
		>
		{#if job}
			<button class="btn btn-xs self-end" onclick={() => workspace.attempt(() => workspace.api.ask('cancelJob', { job: job.id }))}
				>Cancel</button
			>
		{:else}
			<button
				class="btn btn-xs btn-primary self-end"
				disabled={!ready || !(members >= 2)}
				title={ready ? '' : 'Build the model first'}
				onclick={run}><Dices size={14} />Run</button
			>
		{/if}
	</div>
	{#if job}<progress class="progress progress-primary mt-2 w-full" value={job.share} max="1" aria-label="Ensemble"></progress>
		<p class="quiet text-sm" role="status">{job.what || 'waiting for a worker'}…</p>{/if}
	{#if report && own}
		{#if own.outOfDate}<p class="border-warning text-warning mt-2 border-l-4 px-2 text-sm" role="status">
				The model changed since; run it again.
			</p>{/if}
		<table class="plain numbers mt-2 text-sm">
			<caption class="quiet pb-1 text-left"
				>{report.members} models, seed {report.seed}{report.failed ? `; ${report.failed} could not be built` : ''}</caption
			>
			<thead
				><tr
					><th>Unit</th><th class="right">median</th><th class="right" title="10 of 100 models have less">P10</th><th
						class="right"
						title="90 of 100 models have less">P90</th
					></tr
				></thead
			>
			<tbody>
				{#each report.volumes as v (v.unit)}
					<tr
						><td class="max-w-24 truncate" title={nameOf(v.unit)}>{nameOf(v.unit)}</td><td class="right whitespace-nowrap"
							>{volume(v.p50, unit)}</td
						><td class="right whitespace-nowrap">{v.p50 > 0 ? share(v.p10, v.p50) : ''}</td><td class="right whitespace-nowrap"
							>{v.p50 > 0 ? share(v.p90, v.p50) : ''}</td
						></tr
					>
				{/each}
			</tbody>
		</table>
		<button
			class="btn btn-xs mt-2 w-full {showing ? 'btn-active' : ''}"
			aria-pressed={showing}
			disabled={own.outOfDate || !workspace.model}
			title="Colours the model in space and on the section by how much the models differ"
			onclick={show}><Eye size={13} />{showing ? 'Show the units again' : 'Show the doubt on the model'}</button
		>
		<a class="btn btn-xs mt-2" href={workspace.api.address('exportResult', { object: own.id, format: 'vti' })} download
			><Download size={13} />Probability and entropy by cell, VTK XML</a
		>
	{/if}
</details>
