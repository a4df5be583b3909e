<script lang="ts">
	import { problemText } from '$lib/api/client';
	import { keepInAddress } from '$lib/ui/address';
	import { followRefusals } from '$lib/ui/refusals';
	import { selectionOf, selectionText } from '$lib/workbench/selection';
	import { page } from '$app/state';
	import { goto } from '$app/navigation';
	import { untrack } from 'svelte';
	import { BookOpen, Moon, Search, Sun, X } from '$lib/icons';
	import ChangesMenu from '$lib/ui/ChangesMenu.svelte';
	import { roving } from '$lib/ui/roving';
	import { isTyping, singleKeys } from '$lib/ui/shortcuts.svelte';
	import { STAGES } from '$lib/stages';
	import { followNumberFields } from '$lib/ui/typed-numbers';
	import { Arrivals, setArrivals } from '$lib/gather/arrivals.svelte';
	import { Workspace, setWorkspace } from '$lib/workspace.svelte';
	import ModelMenu from '$lib/ui/ModelMenu.svelte';
	import WorkMenu from '$lib/ui/WorkMenu.svelte';
	import Finder from '$lib/ui/Finder.svelte';
	import KeyHelp from '$lib/ui/KeyHelp.svelte';
	import Damaged from '$lib/ui/Damaged.svelte';
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
		failed = '';
		const asked = untrack(() => page.url.searchParams);
		untrack(() => w.open(asked.get('viewpoint'))).then(
			() => {
				w.selection ??= selectionOf(asked.get('select'));
				ready = true;
			},
			(error: unknown) => (failed = problemText(error).replace(/\.$/, ''))
		);
		return () => w.close();
	});

	// What is selected goes along from stage to stage, and to whoever gets the address.
	$effect(() => {
		void page.url.pathname;
		if (ready) keepInAddress('select', selectionText(workspace.selection));
	});

	$effect(() => {
		document.documentElement.dataset['theme'] = night ? 'malachite-night' : 'malachite';
	});
	/** What was chosen by hand, or nothing. */
	function keptTheme(): string | null {
		try {
			return localStorage.getItem('malachite.theme');
		} catch {
			return null;
		}
	}
	function setNight(on: boolean) {
		night = on;
		try {
			localStorage.setItem('malachite.theme', on ? 'night' : 'day');
		} catch {
			// A browser without storage forgets the theme; nothing else is lost.
		}
	}
	// Until it is chosen by hand it follows the system.
	$effect(() => {
		const system = matchMedia('(prefers-color-scheme: dark)');
		const follow = () => {
			if (!keptTheme()) night = system.matches;
		};
		system.addEventListener('change', follow);
		return () => system.removeEventListener('change', follow);
	});

	// What was refused is marked where it was typed.
	$effect(() => followRefusals(document));
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
		const typing = isTyping(event);
		if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'k') {
			event.preventDefault();
			finder = true;
		} else if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'z' && !typing) {
			event.preventDefault();
			void workspace.undo(event.shiftKey);
		} else if (event.key === 'Escape' && !typing) {
			// One step back at a time: what is drawn, what is thought of, then what is selected.
			if (workspace.draw) workspace.draw = null;
			else if (workspace.making || workspace.routine) workspace.making = workspace.routine = null;
			else workspace.selection = null;
		} else if (!singleKeys.takes(event)) return;
		else if (event.key === '?') help = true;
		else if (/^[1-6]$/.test(event.key)) void goto(`/${id}/${STAGES[Number(event.key) - 1]!.id}`);
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

<a class="bg-base-100 sr-only z-50 px-4 py-2 focus:not-sr-only focus:absolute focus:top-1 focus:left-1" href="#stage">To the stage itself</a
>
<div class="grid h-dvh grid-cols-[minmax(0,1fr)] grid-rows-[44px_minmax(0,1fr)_26px]">
	<header class="bg-base-100 rule flex min-w-0 items-center gap-1 border-b px-2 sm:gap-3 sm:px-3">
		<a href="/" class="mr-1 flex shrink-0 items-center gap-2" title="All projects"
			><img src="/mark.svg" alt="All projects" class="h-7 w-7" /></a
		>
		<span class="min-w-0 truncate font-semibold">{workspace.project?.name ?? '…'}</span>
		{#if ready}<ModelMenu {workspace} />{/if}
		<span class="quiet hidden shrink-0 lg:inline">/ {STAGES.find((s) => s.id === stage)?.label ?? ''}</span>
		<button
			class="rule bg-base-200 quiet hover:border-base-content/40 mx-auto flex h-7 min-w-8 shrink-0 items-center justify-center border px-1.5 md:justify-between md:px-2 text-sm md:w-60 md:shrink lg:w-80 lg:px-3"
			onclick={() => (finder = true)}
		>
			<Search size={15} class="md:hidden" /><span class="sr-only md:not-sr-only">find or run…</span><kbd class="hidden text-xs md:inline"
				>Ctrl K</kbd
			>
		</button>
		{#if !workspace.live && ready}<span class="text-warning text-sm" role="status">not connected</span>{/if}
		<ChangesMenu {workspace} />
		<a class="btn btn-ghost btn-sm btn-square hidden sm:inline-flex" href="/docs" title="Manual" aria-label="Manual"
			><BookOpen size={17} /></a
		>
		<button
			class="btn btn-ghost btn-sm btn-square"
			title={night ? 'Day colours' : 'Night colours'}
			aria-label={night ? 'Day colours' : 'Night colours'}
			onclick={() => setNight(!night)}
		>
			{#if night}<Sun size={17} />{:else}<Moon size={17} />{/if}
		</button>
		<WorkMenu {workspace} />
	</header>
	<div class="grid min-h-0 grid-cols-[58px_minmax(0,1fr)] sm:grid-cols-[76px_minmax(0,1fr)]">
		<nav aria-label="Stages" use:roving={{ items: 'a' }} class="overflow-y-auto bg-base-100 rule flex flex-col border-r py-1">
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
		<main id="stage" tabindex="-1" class="min-h-0 min-w-0 outline-none">
			{#if ['interpret', 'build', 'examine'].includes(stage)}<h1 class="sr-only">{STAGES.find((s) => s.id === stage)!.label}</h1>{/if}
			{#if failed}
				<div class="p-8">
					<p role="alert" class="border-error bg-base-100 border-l-4 px-3 py-2">
						{failed}. <a class="link" href="/">Back to the projects</a>
					</p>
				</div>
			{:else if ready}
				<div class="flex h-full flex-col">
					<Damaged {workspace} />
					<div class="min-h-0 flex-1">{@render children()}</div>
				</div>
			{:else}
				<p class="quiet p-8">Opening the project…</p>
			{/if}
		</main>
	</div>
	<Readout {workspace} />
</div>

<!-- Over the middle of the panes: beside them stand the controls of what was just done. -->
<div class="fixed bottom-10 left-1/2 z-50 flex w-96 max-w-[calc(100vw-16px)] -translate-x-1/2 flex-col gap-2" aria-live="polite">
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
{#if finder}<Finder {workspace} {stage} close={() => (finder = false)} />{/if}
{#if help}<KeyHelp close={() => (help = false)} />{/if}
