<script lang="ts">
	import { page } from '$app/state';
	import { goto } from '$app/navigation';
	import { untrack } from 'svelte';
	import { Moon, Redo2, Sun, Undo2, X } from '@lucide/svelte';
	import { STAGES } from '$lib/stages';
	import { followNumberFields } from '$lib/ui/typed-numbers';
	import { Arrivals, setArrivals } from '$lib/gather/arrivals.svelte';
	import { Workspace, setWorkspace } from '$lib/workspace.svelte';
	import WorkMenu from '$lib/ui/WorkMenu.svelte';
	import Finder from '$lib/ui/Finder.svelte';
	import KeyHelp from '$lib/ui/KeyHelp.svelte';
	import Readout from '$lib/ui/Readout.svelte';

	let { children } = $props();
	const id = $derived(page.params['project']!);
	const workspace = $derived(new Workspace(id));
	setWorkspace(() => workspace);
	const arrivals = $derived(new Arrivals(workspace));
	setArrivals(() => arrivals);
	/** Files hang over the window. */
	let over = $state(false);
	const holdsFiles = (e: DragEvent) => [...(e.dataTransfer?.types ?? [])].includes('Files');
	async function drop(e: DragEvent) {
		if (!holdsFiles(e)) return;
		e.preventDefault();
		over = false;
		if (!ready) return;
		const files = Array.from(e.dataTransfer?.files ?? []);
		if (stage !== 'gather') await goto(`/${id}/gather`);
		await workspace.attempt(() => arrivals.take(files));
	}
	let failed = $state('');
	let ready = $state(false);
	let finder = $state(false);
	let help = $state(false);
	let night = $state(document.documentElement.dataset['theme'] === 'malachite-night');
	const stage = $derived(page.url.pathname.split('/')[2] ?? 'examine');

	$effect(() => {
		const w = workspace;
		ready = false;
		w.open(untrack(() => page.url.searchParams.get('viewpoint'))).then(
			() => (ready = true),
			(error: Error) => (failed = error.message)
		);
		return () => w.close();
	});

	$effect(() => {
		document.documentElement.dataset['theme'] = night ? 'malachite-night' : 'malachite';
		try {
			localStorage.setItem('malachite.theme', night ? 'night' : 'day');
		} catch {
			// A browser without storage forgets the theme; nothing else is lost.
		}
	});

	// Every field for a number takes 12.5 and 12,5.
	$effect(() => followNumberFields(document, () => workspace.project?.decimal ?? '.'));

	const title = $derived(
		[
			workspace.running.length ? `${Math.round(100 * workspace.running[0]!.share)} %` : workspace.ended,
			STAGES.find((s) => s.id === stage)?.label,
			workspace.project?.name ?? 'Project',
			'Malachite'
		]
			.filter(Boolean)
			.join(' · ')
	);

	function keys(event: KeyboardEvent) {
		if (event.defaultPrevented) return;
		const typing =
			event.target instanceof HTMLElement && (event.target.closest('input, textarea, select') || event.target.isContentEditable);
		if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'k') {
			event.preventDefault();
			finder = true;
		} else if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'z' && !typing) {
			event.preventDefault();
			void workspace.undo(event.shiftKey);
		} else if (typing || event.ctrlKey || event.metaKey || event.altKey) return;
		else if (event.key === '?') help = true;
		else if (event.key === 'Escape') {
			workspace.draw = null;
			workspace.selection = null;
		} else if (/^[1-6]$/.test(event.key)) void goto(`/${id}/${STAGES[Number(event.key) - 1]!.id}`);
	}

	function waiting(stageId: string): number {
		if (stageId === 'check') return workspace.counts.held + workspace.counts.noted;
		// What was never built does not wait to be rebuilt.
		if (stageId === 'build') return workspace.object('model')?.missing === false ? workspace.stale : 0;
		if (stageId === 'interpret')
			return (workspace.interpretation?.codes ?? []).filter((c) => !workspace.interpretation!.lumping.codes[c.code]).length;
		return 0;
	}
</script>

<svelte:head><title>{title}</title></svelte:head>
<svelte:window
	onkeydown={keys}
	onfocus={() => (workspace.ended = '')}
	ondragover={(e) => {
		if (!holdsFiles(e)) return;
		e.preventDefault();
		over = true;
	}}
	ondragleave={(e) => {
		if (e.relatedTarget === null) over = false;
	}}
	ondrop={drop}
/>

<div class="grid h-screen grid-rows-[44px_minmax(0,1fr)_26px]">
	<header class="bg-base-100 rule flex items-center gap-3 border-b px-3">
		<a href="/" class="flex items-center gap-2" title="All projects"><img src="/mark.svg" alt="All projects" class="h-7 w-7" /></a>
		<span class="font-semibold">{workspace.project?.name ?? '…'}</span>
		<span class="quiet">/ {STAGES.find((s) => s.id === stage)?.label ?? ''}</span>
		<button
			class="rule bg-base-200 quiet hover:border-base-content/40 mx-auto flex h-7 w-80 items-center justify-between border px-3 text-sm"
			onclick={() => (finder = true)}
		>
			<span>find or run…</span><kbd class="text-xs">Ctrl K</kbd>
		</button>
		{#if !workspace.live && ready}<span class="text-warning text-sm" role="status">not connected</span>{/if}
		<button
			class="btn btn-ghost btn-sm btn-square"
			title={workspace.changes.undo ? `Undo: ${workspace.changes.undo.label} (Ctrl Z)` : 'There is nothing to undo'}
			aria-label="Undo"
			disabled={!workspace.changes.undo}
			onclick={() => workspace.undo(false)}><Undo2 size={17} /></button
		>
		<button
			class="btn btn-ghost btn-sm btn-square"
			title={workspace.changes.redo ? `Redo: ${workspace.changes.redo.label} (Ctrl Shift Z)` : 'There is nothing to do again'}
			aria-label="Redo"
			disabled={!workspace.changes.redo}
			onclick={() => workspace.undo(true)}><Redo2 size={17} /></button
		>
		<button
			class="btn btn-ghost btn-sm btn-square"
			title={night ? 'Day colours' : 'Night colours'}
			aria-label={night ? 'Day colours' : 'Night colours'}
			onclick={() => (night = !night)}
		>
			{#if night}<Sun size={17} />{:else}<Moon size={17} />{/if}
		</button>
		<WorkMenu {workspace} />
	</header>
	<div class="grid min-h-0 grid-cols-[76px_minmax(0,1fr)]">
		<nav aria-label="Stages" class="bg-base-100 rule flex flex-col border-r py-1">
			{#each STAGES as s, i (s.id)}
				{@const n = waiting(s.id)}
				<a
					href="/{id}/{s.id}"
					title="{s.help} ({i + 1})"
					aria-current={stage === s.id ? 'page' : undefined}
					class="relative flex flex-col items-center gap-1 border-l-3 py-2.5 text-xs {stage === s.id
						? 'border-primary text-primary font-medium'
						: 'hover:bg-base-200 border-transparent'}"
				>
					<s.icon size={20} />{s.label}
					{#if n}<span
							class="numbers bg-secondary text-secondary-content absolute top-1 left-[calc(50%+11px)] min-w-4 rounded-full px-1 text-center text-[12px] leading-4"
							title="{n} waiting">{n > 999 ? '999+' : n}</span
						>{/if}
				</a>
			{/each}
		</nav>
		<main class="min-h-0 min-w-0">
			{#if failed}
				<div class="p-8">
					<p role="alert" class="border-error bg-base-100 border-l-4 px-3 py-2">
						{failed}. <a class="link" href="/">Back to the projects</a>
					</p>
				</div>
			{:else if ready}
				{@render children()}
			{:else}
				<p class="quiet p-8">Opening the project…</p>
			{/if}
		</main>
	</div>
	<Readout {workspace} />
</div>

<div class="fixed right-4 bottom-10 z-50 flex w-96 flex-col gap-2" aria-live="polite">
	{#each workspace.messages as m (m.id)}
		<div
			class="bg-base-100 rule flex items-start gap-2 border border-l-4 px-3 py-2 shadow-md {m.tone === 'error'
				? 'border-l-error'
				: 'border-l-primary'}"
			role={m.tone === 'error' ? 'alert' : 'status'}
		>
			<p class="min-w-0 flex-1 break-words">
				{m.text}
				{#if m.link}<a class="link font-medium" href={m.link.href} onclick={() => workspace.dismiss(m.id)}>{m.link.label}</a>{/if}
			</p>
			<button class="quiet" aria-label="Close message" onclick={() => workspace.dismiss(m.id)}><X size={16} /></button>
		</div>
	{/each}
</div>
{#if over}<div class="bg-base-200/85 pointer-events-none fixed inset-0 z-50 grid place-items-center" aria-hidden="true">
		<p class="border-primary bg-base-100 border-2 border-dashed px-10 py-8 text-lg">Let go to bring the files in</p>
	</div>{/if}
{#if finder}<Finder {workspace} close={() => (finder = false)} />{/if}
{#if help}<KeyHelp close={() => (help = false)} />{/if}
