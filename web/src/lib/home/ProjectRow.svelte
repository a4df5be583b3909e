<script lang="ts">
	import { addressOf } from '$lib/api/client';
	import { Copy, Settings2, Trash2, Undo2 } from '$lib/icons';
	import type { Project } from '$lib/api/types';
	import { moment } from '$lib/ui/moments';

	let {
		project: p,
		busy,
		settings,
		duplicate,
		bin,
		restore,
		forget
	}: {
		project: Project;
		busy: boolean;
		settings: () => void;
		duplicate: () => void;
		bin: () => void;
		/** Of one that lies in the bin. */
		restore?: (() => void) | undefined;
		forget?: (() => void) | undefined;
	} = $props();
</script>

<li class="hover:bg-base-200 flex items-center gap-3 pr-3">
	<svelte:element
		this={restore ? 'div' : 'a'}
		href={restore ? undefined : `/${p.id}/examine`}
		class="flex min-w-0 flex-1 items-center gap-4 px-3 py-2.5"
	>
		{#if restore}<span class="bg-base-200 h-[60px] w-24 shrink-0"></span>{:else}<img
				src={addressOf('getProjectPicture', { project: p.id })}
				alt=""
				loading="lazy"
				width="96"
				height="60"
				class="rule h-[60px] w-24 shrink-0 border object-cover"
			/>{/if}
		<span class="min-w-0 flex-1">
			<span class="block truncate font-medium">{p.name}</span>
			<span class="quiet block truncate text-sm">{p.description || 'No description'}</span>
			<span class="quiet numbers block truncate text-sm">{moment(p.lastWork)}{p.author ? `, ${p.author}` : ''}</span>
		</span>
	</svelte:element>
	{#if restore}
		<button class="btn btn-sm" disabled={busy} onclick={restore}><Undo2 size={15} />Take back</button>
		<button class="btn btn-sm btn-ghost text-error" disabled={busy} onclick={forget}>Delete for good</button>
	{:else}
		<button class="btn btn-ghost btn-sm btn-square" title="Name and settings" aria-label="Settings of {p.name}" onclick={settings}
			><Settings2 size={16} /></button
		>
		<button class="btn btn-ghost btn-sm btn-square" title="Duplicate" aria-label="Duplicate {p.name}" disabled={busy} onclick={duplicate}
			><Copy size={16} /></button
		>
		<button
			class="btn btn-ghost btn-sm btn-square"
			title="Into the bin"
			aria-label="Put {p.name} into the bin"
			disabled={busy}
			onclick={bin}><Trash2 size={16} /></button
		>
	{/if}
</li>
