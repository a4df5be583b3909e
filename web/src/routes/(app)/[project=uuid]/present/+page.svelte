<script lang="ts">
	import { endingsFor, titleOfEnding } from '#core/formats/known';
	import { sectionTitle } from '#core/sections/letters';
	import { traceLength } from '#core/sections/section';
	import { Download } from '$lib/icons';
	import GridFiles from '$lib/present/GridFiles.svelte';
	import SectionSheet from '$lib/present/SectionSheet.svelte';
	import { keptSection } from '$lib/workbench/section-sets';
	import { useWorkspace } from '$lib/workspace.svelte';
	const workspace = useWorkspace();
	let filled = $state(true);
	/** Null is that of the section. */
	let chosenExaggeration = $state<number | null>(null);
	let chosenSection = $state<string | null>(null);
	const shown = $derived(keptSection(workspace.sections, chosenSection));
	const title = $derived(shown ? sectionTitle(shown.name) : '');
	const exaggeration = $derived(chosenExaggeration ?? shown?.exaggeration ?? 1);
	const exaggerations = $derived([...new Set([1, 1.5, 2, 3, 5, 10, exaggeration])].sort((a, b) => a - b));
	const sheet = (format: string) =>
		workspace.api.address('exportSection', { format, filled, exaggeration, ...(shown ? { section: shown.id } : {}) });
	/** Another picture is asked for when the section changes, or the main one, whose corridor it may have. */
	const sectionKey = $derived(
		[workspace.interpretation?.section.revision, workspace.objects.find((o) => o.id === shown?.id)?.revision].join('.')
	);
	const model = $derived(workspace.object('model'));
	/** Files of the model: what, ending, label. */
	const saved = (what: string, endings: readonly string[]) => endings.map((e) => [what, e, titleOfEnding(e)] as const);
	const FILES = [
		{
			title: 'Volumes',
			help: 'The closed solid of each unit; neighbours share their vertices.',
			files: [...saved('volumes', endingsFor('solids')), ['volumes', 'csv', 'table, CSV']]
		},
		{ title: 'Surfaces', help: 'Contacts, faults and terrain as triangles.', files: saved('surfaces', endingsFor('solids')) },
		{ title: 'Geology at the surface', help: 'Polygons by unit, in longitude and latitude.', files: saved('geology', ['geojson']) }
	];
</script>

<div class="h-full overflow-y-auto px-3 py-4 sm:px-8 sm:py-6">
	<div class="mx-auto max-w-6xl">
		<h1 class="text-lg font-semibold">Present</h1>
		{#if !model || model.missing}
			<p class="mt-3" role="status">
				{#if workspace.modelBuild}The model is being built; what can be presented is listed here when it is ready.
				{:else}There is no model yet. <a class="link" href="/{workspace.id}/build">Build it</a> first.{/if}
			</p>
		{:else}
			{#if model.outOfDate}<p class="border-warning text-warning bg-base-100 mt-3 border-l-4 px-3 py-1" role="status">
					The model is out of date: files show it as it was last built. <a class="link" href="/{workspace.id}/build">Rebuild</a>
				</p>{/if}
			<section class="bg-base-100 rule mt-4 border p-4" aria-labelledby="sheet">
				<div class="mb-3 flex flex-wrap items-center gap-4">
					<h2 id="sheet" class="panel-title">Section {title}</h2>
					{#if workspace.sections.length > 1}<label class="flex items-center gap-2 text-sm"
							>Line <select
								class="select select-xs w-32"
								value={shown?.id}
								onchange={(e) => {
									chosenSection = e.currentTarget.value;
									chosenExaggeration = null;
								}}
								>{#each workspace.sections as s (s.id)}<option value={s.id}>{sectionTitle(s.name)}</option>{/each}</select
							></label
						>{/if}
					<label class="flex items-center gap-2 text-sm"
						><input type="checkbox" class="checkbox checkbox-xs" bind:checked={filled} />filled</label
					>
					<label class="flex items-center gap-2 text-sm"
						>Vertical exaggeration <select class="select select-xs w-18" bind:value={() => exaggeration, (v) => (chosenExaggeration = v)}
							>{#each exaggerations as v (v)}<option value={v}>{v}×</option>{/each}</select
						></label
					>
					<span class="ml-auto flex gap-2">
						{#each ['svg', 'png', 'dxf'] as f (f)}<a class="btn btn-sm {shown ? '' : 'btn-disabled'}" href={sheet(f)} download
								><Download size={15} />{f.toUpperCase()}</a
							>{/each}
					</span>
				</div>
				{#if shown}<SectionSheet
						src={`${sheet('svg')}&v=${model.contentHash.slice(0, 8)}${sectionKey}`}
						{title}
						length={traceLength(shown.trace)}
						extent={workspace.project?.extent ?? null}
						{exaggeration}
					/>{:else}<p class="quiet">Draw a section under Examine first.</p>{/if}
			</section>
			<div class="mt-4 grid gap-4 md:grid-cols-3">
				{#each FILES as group (group.title)}
					<section class="bg-base-100 rule border p-4">
						<h2 class="panel-title">{group.title}</h2>
						<p class="quiet mb-3 text-sm">{group.help}</p>
						<div class="flex flex-wrap gap-2">
							{#each group.files as [what, format, label] (format)}<a
									class="btn btn-sm"
									href={workspace.api.address('exportMeshes', { what, format })}
									download><Download size={15} />{label}</a
								>{/each}
						</div>
					</section>
				{/each}
			</div>
			<section class="bg-base-100 rule mt-4 border p-4" aria-labelledby="grids">
				<h2 id="grids" class="panel-title">Grids</h2>
				<p class="quiet mb-3 text-sm">
					Of the model as it stands built. What is to be kept and looked at is a result: Ctrl K, <em>Make a result</em>.
				</p>
				{#key workspace.modelId}<GridFiles {workspace} />{/key}
			</section>
		{/if}
		<section class="bg-base-100 rule mt-4 border p-4">
			<h2 class="panel-title">Project archive</h2>
			<p class="quiet mb-3 text-sm">
				The project file with its data in one ZIP. The command line builds it with <code>./malachite build</code>; another server opens it.
			</p>
			<a class="btn btn-sm" href={workspace.api.address('exportArchive')} download><Download size={15} />ZIP</a>
		</section>
	</div>
</div>
