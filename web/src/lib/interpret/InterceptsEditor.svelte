<script lang="ts">
	import type { ListedIntercept } from '#core/model/intercepts';
	import type { Shaping } from '#core/project/shaping';
	import type { Unit } from '#core/units/column';
	import { sameStretch, type Stretch } from '#core/units/contacts';
	import { spaced } from '$lib/ui/numbers';
	import type { Workspace } from '$lib/workspace.svelte';

	/** Where holes cross a sheet, and which of these shape it. */
	let {
		workspace,
		units,
		setAside,
		change
	}: { workspace: Workspace; units: Unit[]; setAside: Shaping['setAside']; change: (setAside: Shaping['setAside']) => unknown } = $props();
	const unit = $derived(workspace.project!.lengthUnit);
	let found = $state.raw<{ unit: string; intercepts: ListedIntercept[] }[] | null>(null);
	let chosen = $state('');
	let onlyDoubled = $state(true);
	$effect(() => {
		const now = workspace.objects;
		workspace.api
			.ask('listIntercepts')
			.then((r) => {
				// An answer that was overtaken tells of an older project.
				if (workspace.objects === now) found = r.units;
			})
			.catch((error) => workspace.tell(error));
	});
	const own = $derived(found?.find((f) => f.unit === chosen) ?? found?.[0]);
	const doubled = $derived(own?.intercepts.some((i) => i.ofHole > 1) ?? false);
	const listed = $derived(own?.intercepts.filter((i) => !doubled || !onlyDoubled || i.ofHole > 1) ?? []);
	const isOut = (i: Stretch) => setAside.some((a) => a.unit === own!.unit && sameStretch(a, i));
	/** What is set aside and is crossed no more: the log has changed since. */
	const gone = $derived(setAside.filter((a) => a.unit === own?.unit && !own.intercepts.some((i) => sameStretch(a, i))));
	const aside = (i: ListedIntercept) => ({ unit: own!.unit, hole: i.hole, from: i.from, to: i.to });
	const others = (i: Stretch) => setAside.filter((a) => !(a.unit === own!.unit && sameStretch(a, i)));
	const nameOf = (id: string) => units.find((u) => u.id === id)?.name ?? id;
	/** Of each hole only the intercept that is nearest to those around it. */
	const keepNearest = () =>
		change([...setAside.filter((a) => a.unit !== own!.unit), ...own!.intercepts.filter((i) => i.ofHole > 1 && !i.nearest).map(aside)]);
	const goTo = (i: ListedIntercept) => {
		workspace.selection = { kind: 'hole', name: i.hole };
		workspace.probe = {
			x: i.middle[0],
			y: i.middle[1],
			z: i.middle[2],
			what: `${i.hole} at ${i.from.toFixed(1)} ${unit}`,
			from: 'intercepts'
		};
	};
</script>

<p class="quiet mb-1.5 text-sm">
	Where holes cross a sheet. Clear the mark of one that belongs to another: it then says nothing of this unit.
</p>
{#if !found}<p class="quiet text-sm">Looking…</p>{:else if !own}<p class="quiet text-sm">
		No intrusion of the column may be a sheet.
	</p>{:else}
	<div class="mb-1.5 flex items-center gap-2">
		<select class="select select-xs min-w-0 flex-1" aria-label="Sheet" value={own.unit} onchange={(e) => (chosen = e.currentTarget.value)}
			>{#each found as f (f.unit)}<option value={f.unit}>{nameOf(f.unit)} ({f.intercepts.length})</option>{/each}</select
		>
		{#if doubled}<button
				class="btn btn-xs"
				title="Of each hole that crosses it more than once only the crossing that lies nearest to those of the holes around it"
				onclick={keepNearest}>Keep the nearest</button
			>{/if}
	</div>
	{#if own.intercepts.length === 0}<p class="quiet text-sm">No hole crosses {nameOf(own.unit)}.</p>{:else}
		{#if doubled}<label class="mb-1 flex items-center gap-2 text-sm"
				><input type="checkbox" class="checkbox checkbox-xs" bind:checked={onlyDoubled} />only holes that cross it more than once</label
			>{/if}
		{#if gone.length}<p class="mb-1 text-sm">
				{gone.length} that {gone.length === 1 ? 'was' : 'were'} set aside {gone.length === 1 ? 'is' : 'are'} not in the logs any more: {gone
					.map((g) => `${g.hole} ${spaced(g.from, 1)}–${spaced(g.to, 1)}`)
					.slice(0, 5)
					.join(', ')}. <button class="link" onclick={() => change(setAside.filter((a) => !gone.includes(a)))}>Forget</button>
			</p>{/if}
		<div class="max-h-72 overflow-y-auto">
			<table class="plain numbers w-full text-sm">
				<thead
					><tr
						><th><span class="sr-only">Belongs</span></th><th>Hole</th><th class="right">from–to, {unit}</th><th
							class="right"
							title="Distance of its middle from the plane through its neighbours in other holes">off, {unit}</th
						></tr
					></thead
				>
				<tbody>
					{#each listed as i (`${i.hole} ${i.from}`)}
						<tr class={isOut(i) ? 'quiet' : ''}>
							<td
								><input
									type="checkbox"
									class="checkbox checkbox-xs"
									aria-label="{i.hole} from {i.from.toFixed(1)} belongs to {nameOf(own.unit)}"
									checked={!isOut(i)}
									onchange={(e) => change(e.currentTarget.checked ? others(i) : [...others(i), aside(i)])}
								/></td
							>
							<td><button class="hover:underline" onclick={() => goTo(i)}>{i.hole}</button></td>
							<td class="right">{spaced(i.from, 1)}–{spaced(i.to, 1)}</td>
							<td class="right">{i.off === null ? '–' : spaced(i.off, 1)}</td>
						</tr>
					{/each}
				</tbody>
			</table>
		</div>
	{/if}
{/if}
