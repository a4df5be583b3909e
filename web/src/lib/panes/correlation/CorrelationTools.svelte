<script lang="ts">
	import { SCALES } from '#core/logs/spec';
	import type { CorrelationSpec } from '#core/stratigraphy/correlation';
	import { ChevronLeft, ChevronRight, Clock, FileDown, Spline } from '$lib/icons';
	import type { Workspace } from '$lib/workspace.svelte';
	import ZoomButtons from '../ZoomButtons.svelte';
	import type { logOptions } from './choices';

	// What is correlated, how it is drawn, and where it goes.
	let {
		workspace,
		id,
		my,
		logs,
		log,
		units,
		isSaveable,
		isSaving,
		panel = $bindable(),
		which,
		step,
		add,
		zoomBy,
		save
	}: {
		workspace: Workspace;
		/** Of the pane. */
		id: string;
		/** What is kept of the pane. */
		my: Pick<CorrelationSpec, 'axis' | 'spacing' | 'flatten' | 'fill' | 'scale'> & {
			from: 'section' | 'chosen';
			log: CorrelationSpec['log'] | null;
			zoom: number;
		};
		logs: Logs;
		log: Logs[number] | null;
		/** That can be made flat. */
		units: readonly string[];
		isSaveable: boolean;
		isSaving: boolean;
		panel: 'ties' | 'ages' | null;
		which: (select: HTMLSelectElement) => void;
		step: (by: 1 | -1) => void;
		add: (hole: string) => void;
		zoomBy: (factor: number) => void;
		save: (format: 'pdf' | 'svg') => void;
	} = $props();
	type Logs = ReturnType<typeof logOptions>;
	let choosing = $state('');
</script>

<div class="rule bg-base-100 text-base-content flex shrink-0 flex-wrap items-center gap-1.5 border-b px-2 py-1 text-xs">
	<select class="select select-xs w-32" aria-label="Which holes" value={my.from} onchange={(e) => which(e.currentTarget)}
		><option value="section">of the section</option><option value="chosen">chosen</option><option value="selected">take selected</option
		></select
	>
	{#if my.from === 'section' && workspace.sections.length > 1}
		<button class="btn btn-xs btn-square" aria-label="Line before" title="Line before (page up)" onclick={() => step(-1)}
			><ChevronLeft size={13} /></button
		>
		<button class="btn btn-xs btn-square" aria-label="Next line" title="Next line (page down)" onclick={() => step(1)}
			><ChevronRight size={13} /></button
		>
	{/if}
	<input
		class="input input-xs w-20"
		list="correlated-{id}"
		placeholder="add hole"
		aria-label="Add a hole to the correlation"
		bind:value={choosing}
		onchange={() => {
			add(choosing);
			choosing = '';
		}}
	/>
	<datalist id="correlated-{id}"
		>{#each (workspace.sets.paths?.holes ?? []).slice(0, 3000) as h (h.name)}<option value={h.name}></option>{/each}</datalist
	>
	<select
		class="select select-xs w-44"
		aria-label="The log that is correlated"
		value={log?.key ?? ''}
		onchange={(e) => {
			const l = logs.find((x) => x.key === e.currentTarget.value);
			if (l) my.log = { table: l.table, column: l.column };
		}}
		>{#each logs as l (l.key)}<option value={l.key}>{l.name}</option>{/each}</select
	>
	<select class="select select-xs w-24" aria-label="Vertical axis" bind:value={my.axis}
		><option value="depth">depth</option><option value="elevation">elevation</option><option value="tvd">TVD</option><option value="age"
			>age</option
		></select
	>
	<select class="select select-xs w-24" aria-label="Distance between holes" bind:value={my.spacing}
		><option value="equal">even</option><option value="distance">as apart</option></select
	>
	{#if my.axis !== 'age'}
		<select
			class="select select-xs w-32"
			aria-label="Flatten on"
			value={my.flatten ? `${my.flatten.by} ${my.flatten.name}` : ''}
			onchange={(e) => {
				const [by, ...rest] = e.currentTarget.value.split(' ');
				my.flatten = by ? { by: by as 'top' | 'tie', name: rest.join(' ') } : null;
			}}
			><option value="">as they lie</option>
			{#each units as u (u)}<option value="top {u}">flat on top of {u}</option>{/each}
			{#each [...new Set(workspace.stratigraphy.ties.map((t) => t.name).filter(Boolean))] as t (t)}<option value="tie {t}"
					>flat on tie {t}</option
				>{/each}
		</select>
	{/if}
	<label class="flex items-center gap-1"><input type="checkbox" class="checkbox checkbox-xs" bind:checked={my.fill} />fill</label>
	<button
		class="btn btn-xs {panel === 'ties' ? 'btn-active' : ''}"
		aria-expanded={panel === 'ties'}
		onclick={() => (panel = panel === 'ties' ? null : 'ties')}><Spline size={12} />Ties</button
	>
	<button
		class="btn btn-xs {panel === 'ages' ? 'btn-active' : ''}"
		aria-expanded={panel === 'ages'}
		onclick={() => (panel = panel === 'ages' ? null : 'ages')}><Clock size={12} />Ages</button
	>
	<ZoomButtons by={zoomBy} all={() => (my.zoom = 1)} />
	<span class="ml-auto flex items-center gap-1">
		<select class="select select-xs w-24" aria-label="Scale on paper" bind:value={my.scale}
			>{#each SCALES as s (s)}<option value={s}>1 : {s}</option>{/each}</select
		>
		<button class="btn btn-xs" disabled={!isSaveable} onclick={() => save('pdf')}><FileDown size={12} />{isSaving ? '…' : 'PDF'}</button>
		<button class="btn btn-xs" disabled={!isSaveable} onclick={() => save('svg')}>SVG</button>
	</span>
</div>
