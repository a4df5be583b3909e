<script lang="ts">
	import type { Workspace } from '$lib/workspace.svelte';

	/** Which table and column say what the holes are made of. */
	let {
		workspace,
		log,
		change,
		plain,
		label
	}: {
		workspace: Workspace;
		log: { table: string; column: string } | null | undefined;
		change: (log: { table: string; column: string } | null) => unknown;
		/** What is taken when nothing is chosen. */ plain: string;
		label: string;
	} = $props();
	/** Columns of text that can be a log, with the column of the codes first. */
	const choices = $derived(
		workspace.tables.flatMap((t) => {
			const mapping = (t.state['mapping'] ?? {}) as Record<string, string>;
			const roles = Object.values(mapping);
			if (!roles.includes('hole') || !roles.includes('to')) return [];
			return Object.entries(mapping)
				.filter(([, role]) => role === 'code' || role === 'keep' || role === 'description')
				.map(([header, role]) => ({
					table: t.name,
					column: role === 'code' ? '' : role === 'keep' ? header : role,
					name: `${t.name}: ${header}`
				}));
		})
	);
	const key = (l: { table: string; column: string } | null | undefined) => (l ? JSON.stringify([l.table, l.column]) : '');
</script>

<label class="flex flex-col text-sm"
	>{label}
	<select
		class="select select-xs"
		value={key(log)}
		onchange={(e) => {
			const [table, column] = e.currentTarget.value ? (JSON.parse(e.currentTarget.value) as [string, string]) : ['', ''];
			void change(table ? { table, column } : null);
		}}
	>
		<option value="">{plain}</option>
		{#each choices as c (c.name)}<option value={key(c)}>{c.name}</option>{/each}
	</select>
</label>
