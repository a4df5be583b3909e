<script lang="ts">
	import { onMount } from 'svelte';
	import { goto } from '$app/navigation';
	import { Download, FlaskConical, Trash2, Upload } from '$lib/icons';
	import { addressOf, ask, upload, problemText } from '$lib/api/client';
	import type { Project } from '$lib/api/types';
	import ProjectForm, { type ProjectValues } from '$lib/home/ProjectForm.svelte';
	import ProjectRow from '$lib/home/ProjectRow.svelte';
	import Dialog from '$lib/ui/Dialog.svelte';

	let projects = $state<Project[] | null>(null);
	let binned = $state<Project[]>([]);
	let inBin = $state(false);
	let problem = $state('');
	let said = $state('');
	let busy = $state('');
	let wanted = $state('');
	let edited = $state<Project | null>(null);
	let picker: HTMLInputElement;

	const found = $derived.by(() => {
		const words = wanted.trim().toLowerCase().split(/\s+/).filter(Boolean);
		const list = (inBin ? binned : projects) ?? [];
		return list.filter((p) => words.every((w) => `${p.name} ${p.description} ${p.author}`.toLowerCase().includes(w)));
	});

	const tell = (error: unknown) => (problem = problemText(error));
	async function list() {
		const [main, bin] = await Promise.all([ask('listProjects'), ask('listProjects', { bin: true })]);
		projects = main.projects;
		binned = bin.projects;
		if (binned.length === 0) inBin = false;
	}
	onMount(() => {
		list().catch(tell);
	});

	/** Does something that takes a while; what goes wrong is said. */
	async function act(what: string, work: () => Promise<unknown>) {
		busy = what;
		problem = said = '';
		try {
			await work();
		} catch (error) {
			tell(error);
		} finally {
			busy = '';
		}
	}
	async function ended(project: string, jobs: string[]) {
		for (const job of jobs)
			for (;;) {
				const j = await ask('getJob', { project, job });
				if (j.state === 'done') break;
				if (j.state === 'failed' || j.state === 'cancelled') throw new Error(j.outcome?.problem?.title ?? `${j.title}: ${j.state}`);
				await new Promise((r) => setTimeout(r, 250));
			}
	}
	const create = (values: ProjectValues) =>
		act('Starting the project…', async () => goto(`/${(await ask('createProject', { body: values })).id}/gather`));
	const save = (values: ProjectValues) =>
		act('Storing…', async () => {
			await ask('patchProject', { project: edited!.id, body: { ...values, revision: edited!.revision } });
			edited = null;
			await list();
		});
	const duplicate = (p: Project) =>
		act(`Duplicating ${p.name}…`, async () => {
			const copy = await ask('duplicateProject', { project: p.id });
			await ended(copy.project, copy.jobs);
			await list();
			said = `${p.name} is duplicated. Its model is built anew when you press Build.`;
		});
	const bin = (p: Project) =>
		act('Putting it into the bin…', async () => {
			await ask('deleteProject', { project: p.id });
			await list();
			said = `${p.name} lies in the bin, from where it can be taken back for 30 days.`;
		});
	const restore = (p: Project) =>
		act('Taking it back…', async () => {
			await ask('restoreProject', { project: p.id });
			await list();
			said = `${p.name} is back.`;
		});
	const forget = (p: Project) =>
		act('Deleting…', async () => {
			if (!confirm(`Delete ${p.name} with its files and models for good? This can not be taken back.`)) return;
			await ask('deleteProject', { project: p.id, forever: true });
			await list();
		});
	const sample = () =>
		act('Reading the sample files…', async () => {
			const { project, jobs } = await ask('startSample');
			await ended(project, jobs);
			await ask('build', { project });
			await goto(`/${project}/examine`);
		});
	const openArchive = (file: File | undefined) =>
		file &&
		act('Opening the archive…', async () => {
			const { project } = await upload('importArchive', {}, file, () => {});
			await goto(`/${project}/gather`);
		});
</script>

<svelte:head><title>Projects · Malachite</title></svelte:head>

<main class="mx-auto max-w-5xl px-4 py-8 sm:px-6">
	<header class="mb-6 flex items-center gap-3">
		<img src="/mark.svg" alt="" class="h-10 w-10" />
		<div>
			<h1 class="text-2xl font-semibold">Malachite</h1>
			<p class="quiet">From borehole, map and survey data to checked 3D models of the ground</p>
		</div>
	</header>
	{#if problem}<p role="alert" class="border-error text-error bg-base-100 mb-4 border-l-4 px-3 py-2">{problem}</p>{/if}
	<p role="status" class={busy || said ? 'border-primary bg-base-100 mb-4 border-l-4 px-3 py-2' : ''}>{busy || said}</p>
	<div class="grid grid-cols-1 gap-8 lg:grid-cols-[minmax(0,1fr)_320px]">
		<section aria-labelledby="projects" class="min-w-0">
			<div class="mb-2 flex items-center gap-3">
				<h2 id="projects" class="panel-title">{inBin ? 'The bin' : 'Projects'}</h2>
				{#if (projects?.length ?? 0) > 3 || wanted}<input
						type="search"
						class="input input-sm ml-auto w-56"
						placeholder="name, author, description"
						aria-label="Search projects"
						bind:value={wanted}
					/>{/if}
				{#if binned.length}<button
						class="btn btn-ghost btn-sm {(projects?.length ?? 0) > 3 ? '' : 'ml-auto'}"
						aria-pressed={inBin}
						onclick={() => (inBin = !inBin)}><Trash2 size={15} />{inBin ? 'Back to the projects' : `Bin (${binned.length})`}</button
					>{/if}
			</div>
			{#if projects === null}
				<p class="quiet">{problem ? '' : 'Reading…'}</p>
			{:else if !inBin && projects.length === 0}
				<div class="bg-base-100 rule border px-4 py-6">
					<p class="mb-3">No project yet. Start one with a name, or look at one that is complete:</p>
					<button class="btn btn-primary btn-sm" disabled={busy !== ''} onclick={sample}
						><FlaskConical size={16} />Open the sample project</button
					>
				</div>
			{:else if found.length === 0}
				<p class="quiet">{wanted ? 'None of them says that.' : 'Nothing lies here.'}</p>
			{:else}
				<ul class="bg-base-100 rule divide-base-300 divide-y border">
					{#each found as p (p.id)}
						<ProjectRow
							project={p}
							busy={busy !== ''}
							settings={() => (edited = p)}
							duplicate={() => duplicate(p)}
							bin={() => bin(p)}
							restore={inBin ? () => restore(p) : undefined}
							forget={() => forget(p)}
						/>
					{/each}
				</ul>
			{/if}
		</section>
		<section aria-labelledby="new" class="min-w-0">
			<h2 id="new" class="panel-title mb-2">New project</h2>
			<div class="bg-base-100 rule border p-4">
				<ProjectForm
					values={{ name: '', author: '', description: '', crs: 0, lengthUnit: 'm' }}
					submit={create}
					act="Start project"
					busy={busy !== ''}
				/>
			</div>
			<div class="mt-3 flex flex-col gap-2">
				<button class="btn btn-sm" disabled={busy !== ''} onclick={() => picker.click()}
					><Upload size={16} />Open a project archive (.zip)</button
				>
				{#if projects?.length}<button class="btn btn-sm" disabled={busy !== ''} onclick={sample}
						><FlaskConical size={16} />Open the sample project</button
					>{/if}
				<a class="btn btn-sm" href={addressOf('getSampleFiles')} download><Download size={16} />Sample files, to try bringing in</a>
			</div>
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

{#if edited}
	<Dialog label="Settings of {edited.name}" close={() => (edited = null)}>
		<div class="p-5">
			<h2 class="panel-title mb-3">Settings of {edited.name}</h2>
			<ProjectForm values={edited} submit={save} act="Store" busy={busy !== ''} />
			<p class="quiet mt-3 text-sm">
				The coordinate system and the unit say what the stored numbers mean; the numbers themselves stay as they are.
			</p>
			<button class="btn btn-ghost btn-sm mt-2" onclick={() => (edited = null)}>Leave it</button>
		</div>
	</Dialog>
{/if}
