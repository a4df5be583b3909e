<script lang="ts">
	import { moment } from '$lib/ui/moments';
	import { Copy, GitCompareArrows, RotateCcw, Trash2 } from '$lib/icons';
	import { readPack } from '#core/formats/pack';
	import { comparisonReport } from '$lib/api/answers/ground';
	import { reportAs } from '$lib/api/report-as';
	import type { KeptModel } from '$lib/api/types';
	import { movementPaint } from '$lib/panes/paint';
	import { atDepth, spaced, volume } from '$lib/ui/numbers';
	import type { Workspace } from '$lib/workspace.svelte';

	type ModelComparison = ReturnType<typeof reportAs<typeof comparisonReport>>;
	/** Models that were kept, to go back to and to compare with the one built now. */
	let { workspace }: { workspace: Workspace } = $props();
	const unit = $derived(workspace.project!.lengthUnit);
	let kept = $state.raw<KeptModel[]>([]);
	let name = $state('');
	let compared = $state.raw<{ with: KeptModel; found: ModelComparison } | null>(null);
	let busy = $state('');
	const model = $derived(workspace.object('model'));
	const ready = $derived(model !== undefined && !model.missing && !model.outOfDate);
	const proposed = $derived.by(() => {
		let n = kept.length + 1;
		while (kept.some((k) => k.name === `Model ${n}`)) n++;
		return `Model ${n}`;
	});
	const load = async () => {
		kept = (await workspace.api.ask('listKeptModels')).models;
	};
	$effect(() => {
		void workspace.objects;
		load().catch((error) => workspace.tell(error));
	});
	/** Another model than the one that was compared; that the same is read again changes nothing. */
	const built = $derived(model?.contentHash);
	$effect(() => {
		void built;
		compared = null;
	});

	const keep = () =>
		workspace.attempt(async () => {
			await workspace.api.ask('keepModel', { body: { name: name.trim() || proposed } });
			name = '';
			await load();
		});
	const compare = (k: KeptModel) =>
		workspace.attempt(async () => {
			busy = k.id;
			try {
				const of = `before:${k.id},after:${workspace.object('model')!.id}`;
				const { info, arrays } = readPack(await workspace.api.bytes('getDerived', { recipe: 'what-changed', of }));
				const found = reportAs(comparisonReport, info['report'] as Record<string, unknown>);
				compared = { with: k, found };
				if (workspace.model && !workspace.model.light)
					workspace.paint = movementPaint(workspace.model, arrays['moved'] as Float32Array, k.name, unit);
			} finally {
				busy = '';
			}
		});
	const takeUp = (k: KeptModel) =>
		workspace.attempt(async () => {
			await workspace.api.ask('takeUpModel', { kept: k.id });
			await workspace.refresh();
			workspace.say(`Went on from ${k.name}. Ctrl Z takes it back.`);
		});
	const remove = (k: KeptModel) =>
		workspace.attempt(async () => {
			await workspace.api.ask('removeKeptModel', { kept: k.id });
			if (compared?.with.id === k.id) stop();
			await load();
		});
	function stop() {
		compared = null;
		workspace.paint = null;
	}
	const nameOf = (id: string) => workspace.allUnits.find((u) => u.id === id)?.name ?? id;
	const surfaceName = (s: ModelComparison['surfaces'][number]) =>
		s.kind === 'fault' ? (workspace.interpretation?.faults.faults.find((f) => f.id === s.id)?.name ?? s.id) : `base of ${nameOf(s.id)}`;
	const signed = (v: number, digits = 1) => `${Math.abs(v) < 0.5 * 10 ** -digits ? '' : v > 0 ? '+' : '−'}${spaced(Math.abs(v), digits)}`;
	const CHANGES = { added: 'new', removed: 'gone', moved: 'moved' } as const;
</script>

<section class="mt-5">
	<h2 class="panel-title">Kept models</h2>
	<p class="quiet mt-1 mb-2 text-sm">A kept model stays as it is while you go on: compare with it, or take it up again.</p>
	<div class="flex gap-2">
		<input
			class="input input-xs min-w-0 flex-1"
			aria-label="Name to keep the model under"
			placeholder={proposed}
			maxlength="200"
			bind:value={name}
			onkeydown={(e) => e.key === 'Enter' && ready && keep()}
		/>
		<button
			class="btn btn-xs"
			disabled={!ready}
			title={ready ? 'Copies the model as it is now, with all that it is made from' : 'Build the model first'}
			onclick={keep}><Copy size={13} />Keep a copy</button
		>
	</div>
	{#if kept.length}
		<ul class="mt-2 text-sm" aria-label="Kept models">
			{#each kept as k (k.id)}
				<li class="rule flex items-center gap-1 border-b py-1">
					<span class="min-w-0 flex-1 truncate" title="{k.name}, kept {moment(k.createdAt)}{k.createdBy ? ` by ${k.createdBy}` : ''}"
						>{k.name} <span class="quiet numbers text-xs">{spaced(k.spacing)} {unit}</span></span
					>
					<button
						class="btn btn-ghost btn-xs px-1.5"
						disabled={busy !== '' || !model?.contentHash}
						aria-label="Compare with {k.name}"
						title="Compare with the model built now"
						onclick={() => compare(k)}
						>{#if busy === k.id}<span class="loading loading-spinner loading-xs"></span>{:else}<GitCompareArrows size={14} />{/if}</button
					>
					<button
						class="btn btn-ghost btn-xs px-1.5"
						aria-label="Take up {k.name}"
						title="Go on from it: column, codes, faults, shape, spacing and extent become what they were"
						onclick={() => takeUp(k)}><RotateCcw size={14} /></button
					>
					<button class="btn btn-ghost btn-xs px-1.5" aria-label="Remove {k.name}" title="Remove it" onclick={() => remove(k)}
						><Trash2 size={14} /></button
					>
				</li>
			{/each}
		</ul>
	{/if}
	{#if compared}
		{@const c = compared}
		<div class="mt-2 flex items-center justify-between text-sm">
			<h3 class="font-medium">Since {c.with.name}</h3>
			<button class="btn btn-ghost btn-xs" onclick={stop}>Close</button>
		</div>
		<table class="plain numbers text-sm">
			<thead
				><tr><th>Unit</th><th class="right">now</th><th class="right" title="Volume now less that of the kept model">change</th></tr></thead
			>
			<tbody>
				{#each c.found.volumes as v (v.unit)}
					<tr>
						<td class="max-w-28 truncate" title={nameOf(v.unit)}>{nameOf(v.unit)}</td>
						<td class="right whitespace-nowrap">{v.after === null ? 'gone' : volume(v.after, unit)}</td>
						<td class="right whitespace-nowrap"
							>{v.before === null
								? 'new'
								: v.after === null || v.before === 0
									? ''
									: v.after === v.before
										? 'none'
										: `${signed(100 * (v.after / v.before - 1), 2)} %`}</td
						>
					</tr>
				{/each}
			</tbody>
		</table>
		<table class="plain numbers mt-2 text-sm">
			<thead
				><tr
					><th>Surface moved, {unit}</th><th class="right" title="Over its area, without sign">mean</th><th
						class="right"
						title="Over its area; up is positive">up</th
					><th class="right">most</th></tr
				></thead
			>
			<tbody
				>{#each c.found.surfaces as s (s.kind + s.id)}<tr
						><td class="max-w-32 truncate" title={surfaceName(s)}>{surfaceName(s)}</td><td class="right">{spaced(s.mean, 2)}</td><td
							class="right">{signed(s.up, 2)}</td
						><td class="right">{spaced(s.most, 1)}</td></tr
					>{/each}</tbody
			>
		</table>
		{#if c.found.contacts.length}
			<h3 class="mt-2 text-sm">{spaced(c.found.contacts.length)} contacts changed</h3>
			<ul class="numbers max-h-48 overflow-auto text-sm">
				{#each c.found.contacts.slice(0, 200) as p, i (i)}
					<li>
						<button
							class="hover:bg-base-200 flex w-full justify-between gap-2"
							onclick={() => {
								if (p.hole) workspace.selection = { kind: 'hole', name: p.hole };
								workspace.probe = { x: p.x, y: p.y, z: p.z, what: `${p.hole}${atDepth(p.depth, unit)}`, from: 'report' };
							}}
							><span class="truncate">{p.hole}{atDepth(p.depth)}, {nameOf(p.unit)}</span><span class="whitespace-nowrap"
								>{CHANGES[p.change]}{p.change === 'moved' ? ` ${spaced(p.by, 1)}` : ''}</span
							></button
						>
					</li>
				{/each}
			</ul>
		{:else}<p class="quiet mt-2 text-sm">All contacts are the same.</p>{/if}
	{/if}
</section>
