<script lang="ts">
	import type { Unit } from '#core/units/column';
	import { spaced } from '$lib/ui/numbers';

	/** Many codes to one unit. */
	let {
		codes,
		units,
		lumping,
		set
	}: {
		codes: { code: string; count: number }[];
		units: Unit[];
		lumping: Record<string, string>;
		set: (lumping: Record<string, string>) => unknown;
	} = $props();
</script>

<table class="plain text-sm">
	<thead><tr><th>Code</th><th class="right">Rows</th><th>Unit</th></tr></thead>
	<tbody>
		{#each codes as c (c.code)}
			{@const unit = units.find((u) => u.id === lumping[c.code])}
			<tr>
				<td class="max-w-28 truncate" title={c.code}>{c.code}</td>
				<td class="right numbers">{spaced(c.count)}</td>
				<td>
					<span class="flex items-center gap-1.5">
						<span class="h-3.5 w-3.5 shrink-0 border border-[#1e2a26]/60" style="background:{unit?.color ?? 'transparent'}"></span>
						<select
							class="select select-xs w-full min-w-0"
							aria-label="Unit of {c.code}"
							value={lumping[c.code] ?? ''}
							onchange={(e) => set({ ...lumping, [c.code]: e.currentTarget.value })}
						>
							<option value="">no unit</option>
							{#each units as u (u.id)}<option value={u.id}>{u.name}</option>{/each}
						</select>
					</span>
				</td>
			</tr>
		{/each}
	</tbody>
</table>
