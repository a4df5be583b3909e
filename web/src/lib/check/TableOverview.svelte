<script lang="ts">
	import { DEFAULT_ACTS, type ValueAct, type ValueClass, type ValueRules } from '#core/tables/value-rules';
	import type { AnswerOf } from '$lib/api/contract';
	import { spaced } from '$lib/ui/numbers';
	import type { Workspace } from '$lib/workspace.svelte';

	/** What is in a table at a glance, and what its odd values stand for. */
	let { workspace, table }: { workspace: Workspace; table: string } = $props();
	let data = $state.raw<AnswerOf<'tableSummary'> | null>(null);
	const object = $derived(workspace.objects.find((o) => o.id === table));
	$effect(() => {
		void object?.contentHash;
		void object?.revision;
		void workspace.attempt(async () => (data = await workspace.api.ask('tableSummary', { object: table })));
	});

	const CLASS: Record<ValueClass, string> = {
		missing: 'empty',
		below: 'below detection',
		above: 'above range',
		text: 'not a number',
		zero: 'zero',
		negative: 'negative'
	};
	const actText = (a: ValueAct): string => (a.act === 'number' ? 'number' : a.act === 'share' ? 'share' : a.act);

	async function set(column: string, c: ValueClass, act: ValueAct | null, reviewed?: boolean) {
		const rule = data!.acts[column] ?? { acts: {} };
		const seen = new Set(rule.reviewed ?? []);
		if (reviewed === true) seen.add(c);
		else if (reviewed === false) seen.delete(c);
		const values: ValueRules = { ...data!.acts, [column]: { acts: act ? { ...rule.acts, [c]: act } : rule.acts, reviewed: [...seen] } };
		await workspace.attempt(async () => {
			await workspace.api.ask('changeReading', { object: table, body: { values, revision: object!.revision } });
			await workspace.refresh();
		});
	}

	function choose(column: string, c: ValueClass, kind: string, now: ValueAct) {
		if (kind === 'number') void set(column, c, { act: 'number', number: now.act === 'number' ? now.number : 0 });
		else if (kind === 'share') void set(column, c, { act: 'share', share: now.act === 'share' ? now.share : 0.5 });
		else void set(column, c, { act: kind as 'leave' | 'keep' });
	}
	const digits = (v: number) => (Math.abs(v) >= 1000 ? 0 : Math.abs(v) >= 10 ? 1 : 3);
</script>

{#if data}
	{@const s = data.summary}
	<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
	<div class="min-h-0 flex-1 overflow-auto p-4" role="region" aria-label="Columns at a glance" tabindex="0">
		<p class="numbers mb-3">
			{spaced(s.rows)} rows{s.excluded ? `, ${spaced(s.excluded)} left out` : ''}{s.holes !== null
				? `, ${spaced(s.holes)} holes`
				: ''}{s.depths ? `, ${spaced(s.depths[0], 2)} to ${spaced(s.depths[1], 2)} ${workspace.project!.lengthUnit} deep` : ''}
		</p>
		{#if data.values.some((v) => data!.classes.some((c) => v.counts[c]))}
			<h2 class="panel-title">What odd values stand for</h2>
			<p class="quiet mb-1 text-sm">A rule counts as looked at only when you have said so.</p>
			<table class="plain mb-5 max-w-3xl text-sm">
				<thead><tr><th>Column</th><th>Cells that are</th><th class="right">Count</th><th>are</th><th>Looked at</th></tr></thead>
				<tbody>
					{#each data.values as v (v.column)}
						{#each data.classes.filter((c) => v.counts[c] > 0) as c (c)}
							{@const act = data.acts[v.column]?.acts[c] ?? DEFAULT_ACTS[c]}
							{@const seen = data.acts[v.column]?.reviewed?.includes(c) ?? false}
							<tr>
								<td>{v.column}</td><td>{CLASS[c]}</td><td class="right numbers">{spaced(v.counts[c])}</td>
								<td>
									<span class="flex items-center gap-1">
										<select
											class="select select-xs w-44"
											aria-label="{CLASS[c]} cells of {v.column}"
											value={actText(act)}
											onchange={(e) => choose(v.column, c, e.currentTarget.value, act)}
										>
											<option value="leave">left out</option>
											{#if c !== 'missing' && c !== 'text'}<option value="keep">kept as stated</option>{/if}
											<option value="number">a number</option>
											{#if c === 'below' || c === 'negative'}<option value="share">a share of the limit</option>{/if}
										</select>
										{#if act.act === 'number'}<input
												class="input input-xs numbers w-20"
												type="number"
												step="any"
												aria-label="Number"
												value={act.number}
												onchange={(e) => set(v.column, c, { act: 'number', number: e.currentTarget.valueAsNumber || 0 })}
											/>{/if}
										{#if act.act === 'share'}<input
												class="input input-xs numbers w-20"
												type="number"
												step="0.05"
												aria-label="Share of the limit"
												value={act.share}
												onchange={(e) => set(v.column, c, { act: 'share', share: e.currentTarget.valueAsNumber || 0 })}
											/>{/if}
									</span>
								</td>
								<td
									><input
										type="checkbox"
										class="checkbox checkbox-xs"
										aria-label="{CLASS[c]} cells of {v.column} looked at"
										checked={seen}
										onchange={(e) => set(v.column, c, null, e.currentTarget.checked)}
									/></td
								>
							</tr>
						{/each}
					{/each}
				</tbody>
			</table>
		{/if}
		<h2 class="panel-title mb-1">Numbers</h2>
		<div class="mb-5 grid gap-4" style="grid-template-columns:repeat(auto-fill,minmax(220px,1fr))">
			{#each s.numbers as n (n.column)}
				{@const most = Math.max(1, ...n.histogram)}
				<figure class="rule bg-base-100 border p-2">
					<figcaption class="flex justify-between text-sm">
						<span class="font-medium">{n.column}</span><span class="numbers quiet"
							>{spaced(n.count)}{n.missing ? `, ${spaced(n.missing)} empty` : ''}</span
						>
					</figcaption>
					{#if n.count}
						<svg viewBox="0 0 240 60" class="block w-full" role="img" aria-label="Histogram of {n.column}"
							>{#each n.histogram as c, i (i)}<rect
									x={i * 10}
									y={60 - (56 * c) / most}
									width="9"
									height={(56 * c) / most}
									fill="var(--color-primary)"
								/>{/each}<path d="M0 59.5h240" stroke="var(--color-base-content)" stroke-opacity=".5" /></svg
						>
						<p class="numbers quiet flex justify-between text-xs">
							<span>{spaced(n.min, digits(n.min))}</span><span
								>median {spaced(n.median, digits(n.median))}, mean {spaced(n.mean, digits(n.mean))}</span
							><span>{spaced(n.max, digits(n.max))}</span>
						</p>
					{/if}
				</figure>
			{/each}
		</div>
		{#if s.codes.length}
			<h2 class="panel-title mb-1">Codes</h2>
			<ul class="numbers columns-3 text-sm">
				{#each s.codes.slice(0, 200) as c (c.code)}<li class="flex justify-between gap-2">
						<span class="truncate">{c.code}</span><span class="quiet">{spaced(c.count)}</span>
					</li>{/each}
			</ul>
		{/if}
	</div>
{/if}
