<script lang="ts">
	import { saveBlob, saveText } from '$lib/ui/save';
	import type { Workspace } from '$lib/workspace.svelte';
	import { exporters, rasterise } from './export.svelte';
	import { legendEntries, framed, framedSvg } from './figure';
	import type { View } from './views';

	let { workspace, id, view, close }: { workspace: Workspace; id: string; view: View; close: () => void } = $props();
	const exporter = $derived(exporters.get(id));
	let width = $state(2000);
	let height = $state(1250);
	let legend = $state(true);
	let frame = $state(true);
	let busy = $state(false);
	const MOST = 12_000;
	const title = $derived(`${workspace.project?.name ?? 'Project'}, ${exporter?.name ?? view}`);

	async function save(kind: 'png' | 'svg') {
		busy = true;
		const fine = await workspace.attempt(async () => {
			if (!exporter) throw new Error('This pane has nothing to save.');
			const entries = legend ? legendEntries(workspace, view) : [];
			if (kind === 'svg') {
				saveText(`${title}.svg`, framedSvg(await exporter.svg!(), { title, entries, frame }), 'image/svg+xml');
				return;
			}
			const [w, h] = [width, height].map((v) => Math.round(Math.min(MOST, Math.max(100, v || 0)))) as [number, number];
			const side = entries.length ? Math.round(w * 0.2) : 0;
			const picture = exporter.png ? await exporter.png(w - side, h) : await rasterise(await exporter.svg!(), w - side, h);
			const canvas = framed(picture, { title, entries, frame, width: w, height: h });
			const blob = await new Promise<Blob | null>((done) => canvas.toBlob(done, 'image/png'));
			if (!blob) throw new Error(`The browser can not make a picture of ${w} × ${h} pixels. Choose a smaller size.`);
			saveBlob(`${title}.png`, blob);
		});
		busy = false;
		if (fine) close();
	}
</script>

<svelte:window onkeydown={(e) => e.key === 'Escape' && close()} />
<div
	class="bg-base-100 rule absolute top-8 right-1 z-30 flex w-64 flex-col gap-2 border p-3 text-sm shadow-md"
	role="dialog"
	aria-label="Save as a picture"
>
	{#if !exporter}
		<p class="quiet">This pane has nothing to save as a picture.</p>
	{:else}
		<div class="flex items-center gap-2">
			<input class="input input-xs numbers w-20" type="number" min="100" max={MOST} aria-label="Width in pixels" bind:value={width} /> ×
			<input class="input input-xs numbers w-20" type="number" min="100" max={MOST} aria-label="Height in pixels" bind:value={height} /> px
		</div>
		<label class="flex items-center gap-2"
			><input type="checkbox" class="checkbox checkbox-xs" bind:checked={legend} />with the legend</label
		>
		<label class="flex items-center gap-2"
			><input type="checkbox" class="checkbox checkbox-xs" bind:checked={frame} />with frame and title</label
		>
		<div class="flex gap-2">
			<button class="btn btn-sm btn-primary" disabled={busy} onclick={() => save('png')}>{busy ? 'Saving…' : 'PNG'}</button>
			{#if exporter.svg}<button class="btn btn-sm" disabled={busy} onclick={() => save('svg')}>SVG</button>{/if}
			<button class="btn btn-sm btn-ghost ml-auto" onclick={close}>Close</button>
		</div>
	{/if}
</div>
