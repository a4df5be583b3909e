<script lang="ts">
	import type { RuleSettings } from '#core/checks/settings';
	import type { AnswerOf } from '$lib/api/contract';
	import { ApiProblem } from '$lib/api/client';
	import SeverityMark from '$lib/ui/SeverityMark.svelte';
	import type { Workspace } from '$lib/workspace.svelte';

	/** The rules of the checks: their severity and bounds, or why one is silent. */
	let { workspace }: { workspace: Workspace } = $props();
	let rules = $state<AnswerOf<'listRules'>['rules']>([]);
	let revision = $state(0);
	let reasons = $state<Record<string, string>>({});

	async function load() {
		const r = await workspace.api.ask('listRules');
		rules = r.rules;
		revision = r.revision;
	}
	$effect(() => {
		void workspace.object('rules')?.revision;
		void workspace.attempt(load);
	});

	async function change(id: string, values: RuleSettings[string]) {
		const all: RuleSettings = Object.fromEntries(rules.filter((r) => Object.keys(r.setting).length).map((r) => [r.id, r.setting]));
		all[id] = { ...all[id], ...values };
		await workspace.attempt(async () => {
			const store = (accept: boolean) => workspace.api.ask('setRules', { body: { rules: all, revision, accept } });
			try {
				await store(false);
			} catch (error) {
				// What takes many rows out of use is shown before it is taken.
				if (!(error instanceof ApiProblem) || error.body.type !== 'large-effect') throw error;
				if (!confirm(`${error.body.title[0]!.toUpperCase()}${error.body.title.slice(1)}. Is that meant?`)) return;
				await store(true);
			}
			await workspace.refresh();
		});
		await workspace.attempt(load);
	}
</script>

<p class="quiet px-4 py-2 text-sm">
	A rule holds rows back or notes them. Its bounds can be set; a rule that does not fit this ground is silenced with a reason, which stands
	in the report.
</p>
<table class="plain">
	<thead><tr><th class="pl-4!">Rule</th><th>Severity</th><th>Bounds</th><th>Silent</th></tr></thead>
	<tbody>
		{#each rules as r (r.id)}
			<tr class={r.setting.silenced ? 'italic' : ''}>
				<td class="max-w-md pl-4!"
					><SeverityMark severity={r.setting.severity ?? r.severity} /> <span class="font-medium">{r.title}</span><span
						class="quiet block text-sm">{r.reason}</span
					></td
				>
				<td>
					<select
						class="select select-xs w-28"
						aria-label="Severity of {r.title}"
						value={r.setting.severity ?? r.severity}
						onchange={(e) => change(r.id, { severity: e.currentTarget.value as 'held' | 'noted' })}
						><option value="held">held back</option><option value="noted">noted</option></select
					>
				</td>
				<td>
					{#each Object.entries(r.bounds) as [key, b] (key)}
						<label class="flex items-center gap-1 text-sm" title={b.label}
							><input
								class="input input-xs numbers w-20"
								type="number"
								step="any"
								min={b.least ?? 0}
								max={b.most}
								required
								aria-label="{b.label} ({r.title})"
								value={r.setting.bounds?.[key] ?? b.value}
								onchange={(e) =>
									e.currentTarget.reportValidity()
										? change(r.id, { bounds: { ...r.setting.bounds, [key]: e.currentTarget.valueAsNumber } })
										: undefined}
							/>{b.unit === 'length' ? workspace.project!.lengthUnit : b.unit}</label
						>
					{/each}
				</td>
				<td class="min-w-64">
					{#if r.setting.silenced}
						<span class="text-sm">{r.setting.reason}</span>
						<button class="btn btn-ghost btn-xs" onclick={() => change(r.id, { silenced: false })}>run it again</button>
					{:else}
						<form
							class="flex gap-1"
							onsubmit={(e) => {
								e.preventDefault();
								void change(r.id, { silenced: true, reason: reasons[r.id] ?? '' });
							}}
						>
							<input
								class="input input-xs flex-1"
								placeholder="reason"
								required
								aria-label="Why {r.title} is silenced"
								bind:value={reasons[r.id]}
							/><button class="btn btn-xs">Silence</button>
						</form>
					{/if}
				</td>
			</tr>
		{/each}
	</tbody>
</table>
