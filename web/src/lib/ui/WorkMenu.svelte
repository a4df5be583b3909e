<script lang="ts">
	import { Loader } from '$lib/icons';
	import Popover from './Popover.svelte';
	import type { Job } from '$lib/api/types';
	import type { Workspace } from '$lib/workspace.svelte';
	let { workspace }: { workspace: Workspace } = $props();
	let open = $state(false);
	const running = $derived(workspace.running);
	/** Jobs that builds consist of are told with them. */
	const listed = $derived(workspace.jobs.filter((j) => j.kind !== 'node').slice(0, 12));
	const words: Record<Job['state'], string> = {
		blocked: 'waiting',
		waiting: 'waiting',
		running: 'running',
		cancelling: 'stopping',
		done: 'done',
		failed: 'failed',
		cancelled: 'cancelled'
	};

	function outcome(j: Job): string {
		const o = j.outcome;
		if (!o) return j.what;
		if (o.problem) return [o.problem.title, o.problem.hint].filter(Boolean).join('. ');
		if (o.rows !== undefined) return `${o.rows} rows read, ${o.held} held back, ${o.noted} noted`;
		if (o.seconds !== undefined) return `${o.seconds.toFixed(1)} s`;
		return o.message ?? '';
	}
</script>

<div class="relative">
	<button class="btn btn-sm {running.length ? 'btn-primary' : 'btn-ghost'}" aria-expanded={open} onclick={() => (open = !open)}>
		{#if running.length}<Loader size={16} class="animate-spin" />{Math.round(100 * running[0]!.share)} %{:else}Work{/if}
	</button>
	{#if open}
		<Popover label="Work" close={() => (open = false)}>
			<div class="max-h-96 w-96 max-w-full overflow-y-auto p-3">
				<h2 class="panel-title mb-2">Work</h2>
				{#each listed as j (j.id)}
					<div class="rule border-b py-2 last:border-0">
						<div class="flex justify-between gap-2">
							<span class="font-medium">{j.title}</span><span class={j.state === 'failed' ? 'text-error' : 'quiet'}>{words[j.state]}</span>
						</div>
						{#if ['running', 'waiting', 'cancelling'].includes(j.state)}
							<div class="mt-1 flex items-center gap-2">
								<progress class="progress progress-primary h-1.5 flex-1" value={j.share} max="1" aria-label="Progress of {j.title}"
								></progress>
								<button class="btn btn-xs" onclick={() => workspace.attempt(() => workspace.api.ask('cancelJob', { job: j.id }))}
									>Cancel</button
								>
							</div>
						{/if}
						<p class="quiet text-sm">{outcome(j)}</p>
					</div>
				{:else}
					<p class="quiet">Nothing has been done in the background yet.</p>
				{/each}
			</div>
		</Popover>
	{/if}
</div>
