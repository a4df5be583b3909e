<script lang="ts">
	import { onMount } from 'svelte';
	import { goto } from '$app/navigation';
	import { FolderOpen, Plus, Upload } from '@lucide/svelte';
	import { ApiProblem, call, get, upload } from '$lib/api/client';
	import type { Project } from '$lib/api/types';

	let projects = $state<Project[] | null>(null);
	let problem = $state('');
	let form = $state({ name: '', author: '', description: '', crs: '32628', lengthUnit: 'm' });
	let busy = $state(false);
	let picker: HTMLInputElement;

	const say = (error: unknown) => (problem = error instanceof ApiProblem ? error.text : String(error));

	onMount(() => {
		get<{ projects: Project[] }>('/projects').then((r) => (projects = r.projects), say);
	});

	async function create(event: SubmitEvent) {
		event.preventDefault();
		busy = true;
		try {
			const p = await call<Project>('POST', '/projects', { ...form, crs: Number(form.crs) || 0 });
			await goto(`/${p.id}/gather`);
		} catch (error) {
			say(error);
		} finally {
			busy = false;
		}
	}

	async function openArchive(file: File | undefined) {
		if (!file) return;
		busy = true;
		try {
			const { project } = await upload<{ project: string }>('/archives', file, () => {});
			await goto(`/${project}/gather`);
		} catch (error) {
			say(error);
		} finally {
			busy = false;
		}
	}
</script>

<svelte:head><title>Malachite</title></svelte:head>

<main class="mx-auto max-w-5xl px-6 py-10">
	<header class="mb-8 flex items-center gap-3">
		<img src="/mark.svg" alt="" class="h-10 w-10" />
		<div>
			<h1 class="text-2xl font-semibold">Malachite</h1>
			<p class="quiet">From borehole, map and survey data to checked 3D models of the ground</p>
		</div>
	</header>
	{#if problem}<p role="alert" class="border-error text-error bg-base-100 mb-4 border-l-4 px-3 py-2">{problem}</p>{/if}
	<div class="grid grid-cols-[1fr_340px] gap-8">
		<section aria-labelledby="projects">
			<h2 id="projects" class="panel-title mb-2">Projects</h2>
			{#if projects === null}
				<p class="quiet">Reading…</p>
			{:else if projects.length === 0}
				<p class="bg-base-100 rule border px-4 py-6">
					No project yet. Start one on the right, or run <code>./malachite demo</code> for the Isle of Tarrow.
				</p>
			{:else}
				<ul class="bg-base-100 rule divide-base-300 divide-y border">
					{#each projects as p (p.id)}
						<li>
							<a href="/{p.id}/examine" class="hover:bg-base-200 flex items-center gap-3 px-4 py-3">
								<FolderOpen size={18} class="text-primary shrink-0" />
								<span class="min-w-0 flex-1">
									<span class="block font-medium">{p.name}</span>
									<span class="quiet block truncate text-sm">{p.description || 'No description'}</span>
								</span>
								<span class="quiet text-right text-sm">
									{p.author}<br />{p.updatedAt.slice(0, 10)}
								</span>
							</a>
						</li>
					{/each}
				</ul>
			{/if}
		</section>
		<section aria-labelledby="new">
			<h2 id="new" class="panel-title mb-2">New project</h2>
			<form class="bg-base-100 rule flex flex-col gap-3 border p-4" onsubmit={create}>
				<label class="flex flex-col gap-1"
					>Name<input class="input input-sm w-full" required maxlength="200" bind:value={form.name} /></label
				>
				<label class="flex flex-col gap-1">Author<input class="input input-sm w-full" maxlength="200" bind:value={form.author} /></label>
				<label class="flex flex-col gap-1"
					>Description<textarea class="textarea textarea-sm w-full" rows="2" maxlength="5000" bind:value={form.description}
					></textarea></label
				>
				<div class="grid grid-cols-2 gap-3">
					<label class="flex flex-col gap-1"
						>EPSG code, 0 for a local grid<input
							class="input input-sm numbers w-full"
							inputmode="numeric"
							pattern="[0-9]*"
							bind:value={form.crs}
						/></label
					>
					<label class="flex flex-col justify-between gap-1"
						>Length unit<select class="select select-sm w-full" bind:value={form.lengthUnit}
							><option value="m">metre</option><option value="ft">foot</option></select
						></label
					>
				</div>
				<p class="quiet text-sm">The extent follows under Build: by hand, from the terrain or from the collars.</p>
				<button class="btn btn-primary btn-sm" disabled={busy}><Plus size={16} />Start project</button>
			</form>
			<button class="btn btn-sm mt-3 w-full" disabled={busy} onclick={() => picker.click()}
				><Upload size={16} />Open a project archive (.zip)</button
			>
			<input
				bind:this={picker}
				type="file"
				accept=".zip"
				class="hidden"
				aria-label="Project archive"
				onchange={(e) => openArchive(e.currentTarget.files?.[0])}
			/>
			<p class="quiet mt-3 text-sm">Scripts can do all of this, too: see <a class="link" href="/api-docs">the API</a>.</p>
		</section>
	</div>
</main>
