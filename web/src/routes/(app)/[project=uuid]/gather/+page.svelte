<script lang="ts">
	import { untrack } from 'svelte';
	import { zipSync } from 'fflate';
	import { FileUp, Globe } from '@lucide/svelte';
	import { tableKind, type TableKind } from '#core/tables/kinds';
	import { call } from '$lib/api/client';
	import { Incoming } from '$lib/gather/incoming.svelte';
	import CataloguePanel from '$lib/gather/CataloguePanel.svelte';
	import IncomingCard from '$lib/gather/IncomingCard.svelte';
	import SourceActions from '$lib/gather/SourceActions.svelte';
	import { spaced } from '$lib/ui/numbers';
	import { useWorkspace } from '$lib/workspace.svelte';

	const workspace = useWorkspace();
	let incoming = $state<Incoming[]>([]);
	let over = $state(false);
	// What waited when the stage was left, or the page was closed, waits here again.
	$effect(() => {
		const w = workspace;
		untrack(() =>
			w.attempt(async () => {
				incoming = [...(await Incoming.waiting(w)), ...incoming];
			})
		);
	});
	let catalogue = $state(false);
	let picker: HTMLInputElement;

	/** Files that belong together (the parts of a shapefile, a picture and its world file) are sent as one archive. */
	async function bundled(files: File[]): Promise<File[]> {
		const base = (f: File) => f.name.replace(/\.[^.]+$/, '').toLowerCase();
		const ending = (f: File) => /\.([^.]+)$/.exec(f.name)?.[1]?.toLowerCase() ?? '';
		const leaders = files.filter((f) => ending(f) === 'shp' || ['png', 'jpg', 'jpeg'].includes(ending(f)));
		const out: File[] = [];
		const used = new Set<File>();
		for (const leader of leaders) {
			const wanted = ending(leader) === 'shp' ? /^(dbf|shx|prj|cpg)$/ : /^([a-z]{2,4}w|wld)$/;
			const beside = files.filter((f) => f !== leader && base(f) === base(leader) && wanted.test(ending(f)));
			if (beside.length === 0) continue;
			const entries: Record<string, Uint8Array> = {};
			for (const f of [leader, ...beside]) {
				entries[f.name] = new Uint8Array(await f.arrayBuffer());
				used.add(f);
			}
			out.push(new File([zipSync(entries, { level: 1 }) as BlobPart], leader.name.replace(/\.[^.]+$/, '.zip')));
		}
		return [...out, ...files.filter((f) => !used.has(f))];
	}

	async function take(files: FileList | File[] | null | undefined) {
		for (const file of await bundled(Array.from(files ?? []))) {
			const item = new Incoming(workspace, file.name);
			incoming.push(item);
			incoming.push(...(await item.send(file)));
		}
	}

	const KINDS: Record<string, string> = {
		terrain: 'Terrain',
		grid: 'Grid',
		layer: 'Points, lines, polygons',
		surface: 'Surface',
		picture: 'Picture'
	};
	const sources = $derived(workspace.objects.filter((o) => o.kind === 'table' || o.kind in KINDS));
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

<!-- svelte-ignore a11y_no_static_element_interactions -->
<div
	class="h-full overflow-y-auto px-8 py-6"
	ondragover={(e) => {
		e.preventDefault();
		over = true;
	}}
	ondragleave={() => (over = false)}
	ondrop={(e) => {
		e.preventDefault();
		over = false;
		void take(e.dataTransfer?.files);
	}}
>
	<div class="mx-auto max-w-6xl">
		<h1 class="text-lg font-semibold">Gather</h1>
		<p class="quiet mb-4">
			Tables as delimited text, XLSX, ODS, LAS or AGS; rasters as GeoTIFF, netCDF, ASCII grid or lines of x, y, z; points, lines and
			polygons as shapefile, GeoPackage, GeoJSON, KML, GPX, GML or DXF; surfaces as OBJ, STL, PLY, glTF or VTK; pictures as PNG or JPEG. Raw
			files are kept as they came.
		</p>
		<button
			class="rule bg-base-100 flex w-full items-center justify-center gap-3 border border-dashed py-7 {over
				? 'border-primary bg-base-200'
				: ''}"
			onclick={() => picker.click()}
		>
			<FileUp size={22} class="text-primary" /><span
				>Drop files anywhere here, or <span class="text-primary underline">choose them</span></span
			>
		</button>
		<input
			bind:this={picker}
			type="file"
			multiple
			class="hidden"
			aria-label="Files to bring in"
			onchange={(e) => take(e.currentTarget.files)}
		/>

		<button class="btn btn-ghost btn-sm mt-2" aria-expanded={catalogue} onclick={() => (catalogue = !catalogue)}
			><Globe size={15} />Regional catalogue: terrain and maps for an area</button
		>
		{#if catalogue}<CataloguePanel {workspace} />{/if}

		{#each incoming as item (item.key)}
			<IncomingCard
				{workspace}
				{item}
				remove={() => {
					void item.remove();
					incoming = incoming.filter((x) => x.key !== item.key);
				}}
			/>
		{/each}

		<label class="quiet mt-2 flex items-center gap-2 text-sm"
			>Numbers are typed as
			<select
				class="select select-xs w-24"
				value={workspace.project?.decimal ?? '.'}
				onchange={(e) =>
					workspace.attempt(async () => {
						await call('PATCH', workspace.path(''), { decimal: e.currentTarget.value, revision: workspace.project!.revision });
						await workspace.refresh();
					})}><option value=".">12.5</option><option value=",">12,5</option></select
			>
			in this project; both are read, and what could mean two things is refused.
		</label>
		<h2 class="panel-title mt-8 mb-2">In the project</h2>
		{#if sources.length === 0}
			<p class="quiet">Nothing yet. Start with the collars.</p>
		{:else}
			<table class="plain bg-base-100 rule border">
				<thead
					><tr><th class="pl-3!">Name</th><th>Kind</th><th class="right">Rows, cells or parts</th><th>Brought in</th><th></th></tr></thead
				>
				<tbody>
					{#each sources as o (o.id)}
						<tr>
							<td class="pl-3!"
								>{#if o.kind === 'table'}<a class="link-hover font-medium" href="/{workspace.id}/check?table={o.id}">{o.name}</a
									>{:else}<span class="font-medium">{o.name}</span>{/if}</td
							>
							<td>{o.kind === 'table' ? tableKind(o.state['kind'] as TableKind).label : KINDS[o.kind]}</td>
							<td class="right numbers">{spaced(size(o.state))}</td>
							<td class="numbers">{o.updatedAt.slice(0, 16).replace('T', ' ')}</td>
							<td class="right"><SourceActions {workspace} object={o} /></td>
						</tr>
					{/each}
				</tbody>
			</table>
		{/if}
	</div>
</div>
