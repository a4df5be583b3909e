<script lang="ts">
	import type { ProjectObject } from '$lib/api/types';
	import { formatName, formatsOf } from './save-as';
	import type { Workspace } from '$lib/workspace.svelte';

	/** What can be done with a source: bring in a newer version of its file, add rows, take it out. */
	let { workspace, object }: { workspace: Workspace; object: ProjectObject } = $props();
	const formats = $derived(formatsOf(object.kind, object.state['kind']));
	interface Comparison {
		settled: number;
		lost: { row: string; column: string; edited: string; why: 'row' | 'column' }[];
		excluded: { kept: number; lost: string[] };
		unplaced: number;
		added: number;
		gone: number;
		changed: number;
		same: number;
		kept: number;
		conflicts: { row: string; column: string; edited: string; source: string }[];
	}
	let picker: HTMLInputElement;
	let append = false;
	let comparison = $state<{ file: string; name: string; result: Comparison } | null>(null);
	let busy = $state(false);
	let conflicts = $state<'edits' | 'source'>('edits');
	/** Edits and exclusions without a row may be dropped. */
	let drop = $state(false);

	async function take(file: File | undefined) {
		if (!file) return;
		busy = true;
		await workspace.attempt(async () => {
			const p = await workspace.api.upload('uploadFile', { name: file.name, wait: false }, file, () => {});
			if (append) {
				await workspace.api.start('appendTable', { object: object.id, body: { fileId: p.file.id, revision: object.revision } });
				workspace.say(`Rows of ${file.name} are being added to ${object.name}.`);
			} else
				comparison = {
					file: p.file.id,
					name: file.name,
					result: await workspace.api.ask('compareVersion', { object: object.id, body: { fileId: p.file.id } })
				};
		});
		busy = false;
		picker.value = '';
	}

	async function reload() {
		const c = comparison!;
		comparison = null;
		await workspace.attempt(async () => {
			await workspace.api.start('reloadTable', {
				object: object.id,
				body: {
					fileId: c.file,
					conflicts,
					dropLost: drop,
					revision: object.revision
				}
			});
			workspace.say(`${object.name} is being read from ${c.name}.`);
		});
	}

	const takeOut = () =>
		workspace.attempt(async () => {
			const versions = workspace.tables.filter((t) => t.state['versionOf'] === object.id).length;
			await workspace.api.ask('deleteSource', { object: object.id });
			await workspace.refresh();
			workspace.say(
				`${object.name} was taken out${versions ? ` with ${versions === 1 ? 'its version' : `its ${versions} versions`}` : ''}. Ctrl Z brings it back.`
			);
		});
</script>

<span class="whitespace-nowrap">
	{#if object.kind === 'table' && object.fileId}
		<button
			class="btn btn-ghost btn-xs"
			disabled={busy}
			title="Read a newer version of the file; edits are kept where the file did not change"
			onclick={() => {
				append = false;
				picker.click();
			}}>Reload…</button
		>
		<button
			class="btn btn-ghost btn-xs"
			disabled={busy}
			title="Add the rows of another file with the same columns"
			onclick={() => {
				append = true;
				picker.click();
			}}>Append…</button
		>
	{/if}
	{#if object.fileId}<a
			class="btn btn-ghost btn-xs"
			href={workspace.api.address('downloadFile', { file: object.fileId })}
			title="The file as it came, byte for byte"
			download>File</a
		>{/if}
	{#if formats.length}
		<select
			class="select select-ghost select-xs w-24"
			aria-label="Save {object.name} as"
			value=""
			onchange={(e) => {
				location.href = workspace.api.address('saveSource', { object: object.id, format: e.currentTarget.value });
				e.currentTarget.value = '';
			}}
		>
			<option value="" disabled>Save as</option>
			{#each formats as f (f)}<option value={f}>{formatName(f)}</option>{/each}
		</select>
	{/if}
	<button class="btn btn-ghost btn-xs" onclick={takeOut}>Take out</button>
</span>
<input
	bind:this={picker}
	type="file"
	class="hidden"
	aria-label="File for {object.name}"
	onchange={(e) => take(e.currentTarget.files?.[0])}
/>
{#if comparison}
	{@const r = comparison.result}
	<div class="border-info bg-base-100 mt-2 border-l-4 p-3 text-left text-sm" role="group" aria-label="What the new version changes">
		<p>
			<b>{comparison.name}</b>: {r.added}
			{r.added === 1 ? 'row' : 'rows'} added, {r.changed} changed, {r.gone} gone, {r.same} as before.
		</p>
		<p class="mt-1">
			Of what was edited here {r.kept} stay{r.settled ? `, ${r.settled} stand in the file now` : ''}{r.conflicts.length
				? `, ${r.conflicts.length} are in conflict`
				: ''}{r.lost.length ? `, ${r.lost.length} have no place any more` : ''}. Of the rows that were left out {r.excluded.kept} stay out{r
				.excluded.lost.length
				? `, ${r.excluded.lost.length} are not in the file`
				: ''}.
		</p>
		{#if r.conflicts.length}
			<p class="mt-1">{r.conflicts.length} {r.conflicts.length === 1 ? 'cell was' : 'cells were'} edited here and changed in the file:</p>
			<ul class="numbers ml-4 list-disc">
				{#each r.conflicts.slice(0, 20) as c, i (i)}<li>{c.row}, {c.column}: here “{c.edited}”, in the file “{c.source}”</li>{/each}
			</ul>
			<label class="mt-1 flex items-center gap-2"
				>There take <select class="select select-xs w-44" bind:value={conflicts}
					><option value="edits">what was edited here</option><option value="source">what the file says</option></select
				></label
			>
		{/if}
		{#if r.unplaced}
			<p class="mt-1">Without a row or column in the new version:</p>
			<ul class="numbers ml-4 list-disc">
				{#each r.lost.slice(0, 20) as c, i (i)}<li>
						{c.row}, {c.column}: “{c.edited}” {c.why === 'row' ? '(the row is gone)' : '(the column is gone)'}
					</li>{/each}
				{#each r.excluded.lost.slice(0, 20) as row, i (i)}<li>{row}: was left out</li>{/each}
				{#if r.unplaced > 40}<li>and more</li>{/if}
			</ul>
			<label class="mt-1 flex items-center gap-2"
				><input type="checkbox" class="checkbox checkbox-xs" bind:checked={drop} />drop these {r.unplaced}; undo brings them back with the
				old version</label
			>
		{/if}
		<div class="mt-2 flex gap-2">
			<button class="btn btn-primary btn-xs" disabled={r.unplaced > 0 && !drop} onclick={reload}>Take the new version</button><button
				class="btn btn-xs"
				onclick={() => (comparison = null)}>Leave it</button
			>
		</div>
	</div>
{/if}
