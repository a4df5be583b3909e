<script lang="ts">
	import { untrack } from 'svelte';
	import { FileUp, Globe } from '$lib/icons';
	import { tableKind, type TableKind } from '#core/tables/kinds';
	import { useArrivals } from '$lib/gather/arrivals.svelte';
	import CataloguePanel from '$lib/gather/CataloguePanel.svelte';
	import IncomingCard from '$lib/gather/IncomingCard.svelte';
	import SourceActions from '$lib/gather/SourceActions.svelte';
	import FirstSteps from '$lib/interpret/FirstSteps.svelte';
	import { hasWords } from '$lib/ui/fold';
	import ListFilter from '$lib/ui/ListFilter.svelte';
	import { roving } from '$lib/ui/roving';
	import PickBox from '$lib/ui/PickBox.svelte';
	import { Picks } from '$lib/ui/picks.svelte';
	import { moment } from '$lib/ui/moments';
	import { spaced } from '$lib/ui/numbers';
	import { useWorkspace } from '$lib/workspace.svelte';

	const workspace = useWorkspace();
	const arrivals = useArrivals();
	$effect(() => {
		const a = arrivals;
		untrack(() => workspace.attempt(() => a.open()));
	});
	let catalogue = $state(false);
	let picker: HTMLInputElement;
	const certain = $derived(arrivals.certain.length);
	const asking = $derived(arrivals.asking);
	const count = (n: number) => `${n} ${n === 1 ? 'file' : 'files'}`;

	const KINDS: Record<string, string> = {
		terrain: 'Terrain',
		grid: 'Grid',
		layer: 'Points, lines, polygons',
		surface: 'Surface',
		picture: 'Picture'
	};
	const sources = $derived(workspace.objects.filter((o) => o.kind === 'table' || o.kind in KINDS));
	let filter = $state('');
	const kindOf = (o: (typeof sources)[number]) =>
		o.state['versionOf']
			? 'Version of a log'
			: o.kind === 'table'
				? tableKind(o.state['kind'] as TableKind).label
				: (KINDS[o.kind] ?? o.kind);
	const listed = $derived(sources.filter((o) => hasWords(`${o.name} ${kindOf(o)}`, filter)));
	const shown = $derived(listed.map((o) => o.id));
	const picks = new Picks<string>();
	const picked = $derived(picks.of(shown));
	async function takeOut() {
		const list = [...picked];
		picks.clear();
		await workspace.attempt(async () => {
			await workspace.api.ask('deleteSources', { body: { objects: list } });
			await workspace.refresh();
			workspace.say(`${list.length} ${list.length === 1 ? 'source was' : 'sources were'} taken out. Ctrl Z brings them back.`);
		});
	}
	function size(state: Record<string, unknown>): number {
		const shape = state['shape'] as { nx: number; ny: number } | undefined;
		return Number(
			state['rowCount'] ??
				state['count'] ??
				state['triangles'] ??
				(shape ? shape.nx * shape.ny : Number(state['width']) * Number(state['height']))
		);
	}
</script>

<div class="h-full overflow-y-auto px-4 py-6 sm:px-8">
	<div class="mx-auto max-w-6xl">
		<h1 class="text-lg font-semibold">Gather</h1>
		<p class="quiet mb-4">
			Tables as delimited text, XLSX, ODS, LAS or AGS; rasters as GeoTIFF, netCDF, ASCII grid or lines of x, y, z; points, lines and
			polygons as shapefile, GeoPackage, GeoJSON, KML, GPX, GML or DXF; surfaces as OBJ, STL, PLY, glTF or VTK; pictures as PNG or JPEG. Raw
			files are kept as they came.
		</p>
		<button
			class="rule bg-base-100 hover:border-primary flex w-full items-center justify-center gap-3 border border-dashed {sources.length ||
			arrivals.items.length
				? 'py-3'
				: 'py-8'}"
			onclick={() => picker.click()}
		>
			<FileUp size={22} class="text-primary" /><span>Drop files anywhere, or <span class="text-primary underline">choose them</span></span>
		</button>
		<input
			bind:this={picker}
			type="file"
			multiple
			class="hidden"
			aria-label="Files to bring in"
			onchange={async (e) => {
				await arrivals.take(e.currentTarget.files);
				picker.value = '';
			}}
		/>

		<button class="btn btn-ghost btn-sm mt-2" aria-expanded={catalogue} onclick={() => (catalogue = !catalogue)}
			><Globe size={15} />Regional catalogue: terrain and maps for an area</button
		>
		{#if catalogue}<CataloguePanel {workspace} />{/if}

		{#if certain + asking.length > 1 || arrivals.now !== null}
			<div class="bg-base-200 rule sticky top-0 z-10 mt-3 flex flex-wrap items-center gap-3 border-b py-2" role="status">
				{#if arrivals.now !== null}
					<span class="loading loading-spinner loading-xs"></span><span>Bringing in {arrivals.now}…</span>
					<button class="btn btn-sm ml-auto" onclick={() => arrivals.stop()}>Stop after this one</button>
				{:else}
					<span
						>{#if certain}{count(certain)} {certain === 1 ? 'asks' : 'ask'} nothing{/if}{#if asking.length}{certain ? '; ' : ''}<span
								class="text-warning"
								>{count(asking.length)} {asking.length === 1 ? 'asks' : 'ask'} something: {asking.map((i) => i.name).join(', ')}</span
							>{/if}</span
					>
					{#if certain}<button class="btn btn-primary btn-sm ml-auto" onclick={() => arrivals.bringAll()}
							>{asking.length ? `Bring in the ${certain} that ${certain === 1 ? 'asks' : 'ask'} nothing` : 'Bring all in'}</button
						>{/if}
				{/if}
			</div>
		{/if}
		{#each arrivals.items as item (item.key)}
			<IncomingCard {workspace} {item} remove={() => arrivals.remove(item)} />
		{/each}

		<FirstSteps {workspace} />

		<h2 class="panel-title mt-8 mb-2">In the project</h2>
		{#if sources.length === 0}
			<p class="quiet">
				Nothing yet. Start with the collars: one row a hole with name, easting, northing, elevation and depth. Logs, surveys, assays and a
				terrain follow in any order. To try it first, <a class="link" href="/">open the sample project or take its files</a>.
			</p>
		{:else}
			<ListFilter bind:value={filter} label="Find sources by name or kind" shown={listed.length} all={sources.length} />
			{#if filter && listed.length === 0}<p class="quiet mb-2 text-sm">Nothing in the project is called so.</p>{/if}
			{#if picked.length}<div
					class="bg-base-200 sticky top-0 z-10 mb-1 flex items-center gap-2 p-1.5 text-sm"
					role="group"
					aria-label="For the picked sources"
				>
					<span>{picked.length} picked</span><button class="btn btn-xs" onclick={takeOut}>Take out</button><button
						class="btn btn-xs"
						onclick={() => picks.clear()}>None</button
					>
				</div>{/if}
			<table class="plain bg-base-100 rule border">
				<thead
					><tr
						>{#if sources.length > 1}<th class="w-6 pl-3!"><PickBox {picks} list={shown} label="Pick all sources that are shown" /></th
							>{/if}<th class="pl-3!">Name</th><th>Kind</th><th class="right">Rows, cells or parts</th><th>Brought in</th><th
							><span class="sr-only">What can be done with it</span></th
						></tr
					></thead
				>
				<tbody use:roving={{ items: 'a, button, select, input:not(.hidden)', grid: true }}>
					{#each listed as o (o.id)}
						<tr>
							{#if sources.length > 1}<td class="pl-3!"><PickBox {picks} list={shown} of={o.id} label="Pick {o.name}" /></td>{/if}
							<td class="pl-3!"
								>{#if o.kind === 'table'}<a class="link-hover font-medium" href="/{workspace.id}/check?table={o.id}">{o.name}</a
									>{:else}<span class="font-medium">{o.name}</span>{/if}</td
							>
							<td>{kindOf(o)}</td>
							<td class="right numbers">{spaced(size(o.state))}</td>
							<td class="numbers">{moment(o.updatedAt)}</td>
							<td class="right"><SourceActions {workspace} object={o} /></td>
						</tr>
					{/each}
				</tbody>
			</table>
		{/if}
		<label class="quiet mt-6 flex items-center gap-2 text-sm"
			>Numbers are typed as
			<select
				class="select select-xs w-24"
				value={workspace.project?.decimal ?? '.'}
				onchange={(e) =>
					workspace.attempt(async () => {
						await workspace.api.ask('patchProject', {
							body: { decimal: e.currentTarget.value === ',' ? ',' : '.', revision: workspace.project!.revision }
						});
						await workspace.refresh();
					})}><option value=".">12.5</option><option value=",">12,5</option></select
			>
			in this project; both are read, and what could mean two things is refused.
		</label>
	</div>
</div>
