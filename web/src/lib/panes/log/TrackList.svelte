<script lang="ts">
	import { hasTracks } from '$lib/workbench/kinds';
	import { GripVertical, Plus, X } from '$lib/icons';
	import { TRACK_KINDS, type LogTrack, type TrackKind } from '#core/logs/spec';
	import type { Workspace } from '$lib/workspace.svelte';
	import { inkOf, plainTrack } from './propose-tracks';
	let { workspace, tracks, change }: { workspace: Workspace; tracks: LogTrack[]; change: (tracks: LogTrack[]) => void } = $props();
	const LABELS: Record<TrackKind, string> = {
		axis: 'depth scale',
		classes: 'classes with pattern',
		text: 'text',
		curves: 'curves',
		bars: 'bars',
		points: 'points',
		tadpoles: 'tadpoles',
		rose: 'rose',
		samples: 'samples',
		levels: 'water levels',
		photographs: 'core photographs',
		model: 'units of a model',
		findings: 'findings'
	};
	let dragged = $state<number | null>(null);
	let opened = $state<number | null>(null);

	/** Columns that fit a kind of track. */
	function choices(kind: TrackKind): { value: string; label: string }[] {
		if (kind === 'model') return workspace.solidObjects.map((o) => ({ value: `${o.id}\u001f`, label: o.name }));
		return workspace.tables.flatMap((t) => {
			if (!hasTracks(t)) return [];
			const set = workspace.sets.of(t.id);
			if (!set) return [];
			if (kind === 'tadpoles' || kind === 'rose')
				return set.kind === 'holeOrientations' ? [{ value: `${t.id}\u001fdip`, label: t.name }] : [];
			if (kind === 'levels') return set.kind === 'levels' ? [{ value: `${t.id}\u001fwaterDepth`, label: t.name }] : [];
			if (set.place !== 'interval' && set.place !== 'depth') return [];
			if (kind === 'samples') return [{ value: `${t.id}\u001fsample`, label: t.name }];
			const list =
				kind === 'classes'
					? set.columns.filter((c) => c.type === 'category')
					: kind === 'text'
						? [...set.texts, ...set.columns.filter((c) => c.type === 'category')]
						: set.columns.filter((c) => c.type === 'number');
			return list.map((c) => ({ value: `${t.id}\u001f${c.key}`, label: `${t.name}: ${c.label}` }));
		});
	}
	const needsColumn = (k: TrackKind) => !['axis', 'findings', 'photographs'].includes(k);
	const put = (i: number, part: Partial<LogTrack>) => change(tracks.map((t, k) => (k === i ? { ...t, ...part } : t)));
	function move(from: number, to: number) {
		const list = [...tracks];
		list.splice(Math.min(list.length - 1, Math.max(0, to)), 0, ...list.splice(from, 1));
		change(list);
	}
	const seriesOf = (value: string, n: number) => {
		const [table, column] = value.split('\u001f') as [string, string];
		return { table, column, color: inkOf(n) };
	};
	function setKind(i: number, kind: TrackKind) {
		const first = choices(kind)[0];
		put(i, { kind, series: needsColumn(kind) && first ? [seriesOf(first.value, i)] : [] });
	}
	const titleOf = (t: LogTrack) => {
		const s = t.series[0];
		if (t.kind === 'model') return workspace.objects.find((o) => o.id === s?.table)?.name ?? LABELS.model;
		const set = s ? workspace.sets.of(s.table) : null;
		return set ? ([...set.columns, ...set.texts].find((c) => c.key === s!.column)?.label ?? set.name) : LABELS[t.kind];
	};
	const end = (i: number, side: 0 | 1, v: number) =>
		put(i, { range: tracks[i]!.range.map((x, k) => (k === side ? (Number.isFinite(v) ? v : null) : x)) as [number | null, number | null] });
</script>

<div
	class="pane-aside bg-base-100 text-base-content rule flex w-64 shrink-0 flex-col gap-1 overflow-y-auto border-l p-2 text-sm"
	aria-label="Tracks"
	role="group"
>
	{#each tracks as t, i (i)}
		<div
			class="rule border-b pb-1"
			role="group"
			aria-label="Track {i + 1}, {titleOf(t)}"
			draggable="true"
			ondragstart={() => (dragged = i)}
			ondragover={(e) => e.preventDefault()}
			ondrop={() => dragged !== null && move(dragged, i)}
		>
			<div class="flex items-center gap-1">
				<button
					class="quiet cursor-grab"
					aria-label="Move the track of {titleOf(t)}: up and down arrows"
					title="Drag, or focus and use the arrow keys"
					onkeydown={(e) =>
						(e.key === 'ArrowUp' || e.key === 'ArrowDown') && (e.preventDefault(), move(i, i + (e.key === 'ArrowUp' ? -1 : 1)))}
					><GripVertical size={13} /></button
				>
				<button
					class="min-w-0 flex-1 truncate text-left hover:underline"
					aria-expanded={opened === i}
					onclick={() => (opened = opened === i ? null : i)}
					>{titleOf(t)} <span class="quiet text-xs">{t.kind === 'axis' ? '' : LABELS[t.kind]}</span></button
				>
				<button class="quiet" aria-label="Remove the track of {titleOf(t)}" onclick={() => change(tracks.filter((_, k) => k !== i))}
					><X size={13} /></button
				>
			</div>
			{#if opened === i}
				<div class="flex flex-col gap-1 py-1 pl-4 text-xs">
					<label class="flex items-center justify-between gap-1"
						>kind<select class="select select-xs w-36" value={t.kind} onchange={(e) => setKind(i, e.currentTarget.value as TrackKind)}
							>{#each TRACK_KINDS as k (k)}<option value={k}>{LABELS[k]}</option>{/each}</select
						></label
					>
					<label class="flex items-center justify-between gap-1"
						>width, mm<input
							class="input input-xs numbers w-16"
							type="number"
							min="5"
							max="200"
							value={t.width}
							onchange={(e) => put(i, { width: Math.min(200, Math.max(5, e.currentTarget.valueAsNumber || 20)) })}
						/></label
					>
					{#each t.series as s, k (k)}
						<div class="flex items-center gap-1">
							<select
								class="select select-xs min-w-0 flex-1"
								aria-label="Column {k + 1}"
								value={`${s.table}\u001f${s.column}`}
								onchange={(e) =>
									put(i, { series: t.series.map((x, n) => (n === k ? { ...seriesOf(e.currentTarget.value, k), color: x.color } : x)) })}
								>{#each choices(t.kind) as c (c.value)}<option value={c.value}>{c.label}</option>{/each}</select
							>
							{#if ['curves', 'points'].includes(t.kind)}<input
									type="color"
									class="h-5 w-6"
									aria-label="Colour of column {k + 1}"
									value={s.color}
									onchange={(e) => put(i, { series: t.series.map((x, n) => (n === k ? { ...x, color: e.currentTarget.value } : x)) })}
								/>{/if}
							{#if t.series.length > 1}<button
									class="quiet"
									aria-label="Remove column {k + 1}"
									onclick={() => put(i, { series: t.series.filter((_, n) => n !== k) })}><X size={12} /></button
								>{/if}
						</div>
					{/each}
					{#if ['curves', 'points'].includes(t.kind) && t.series.length < 8 && choices(t.kind)[0]}<button
							class="link self-start"
							onclick={() => put(i, { series: [...t.series, seriesOf(choices(t.kind)[0]!.value, t.series.length)] })}
							>one more column</button
						>{/if}
					{#if ['curves', 'bars', 'points'].includes(t.kind)}
						<label class="flex items-center gap-1"
							><input
								type="checkbox"
								class="checkbox checkbox-xs"
								checked={t.log}
								onchange={(e) => put(i, { log: e.currentTarget.checked })}
							/>logarithmic</label
						>
						<div class="flex items-center justify-between gap-1">
							ends<span class="flex gap-1"
								><input
									class="input input-xs numbers w-16"
									type="number"
									step="any"
									placeholder="auto"
									aria-label="Left end"
									value={t.range[0] ?? ''}
									onchange={(e) => end(i, 0, e.currentTarget.valueAsNumber)}
								/><input
									class="input input-xs numbers w-16"
									type="number"
									step="any"
									placeholder="auto"
									aria-label="Right end"
									value={t.range[1] ?? ''}
									onchange={(e) => end(i, 1, e.currentTarget.valueAsNumber)}
								/></span
							>
						</div>
					{/if}
					{#if t.kind === 'curves'}<label class="flex items-center justify-between gap-1"
							>fill<select
								class="select select-xs w-28"
								value={t.fill}
								onchange={(e) => put(i, { fill: e.currentTarget.value as LogTrack['fill'] })}
								><option value="none">none</option><option value="left">from the left</option><option value="between">between two</option
								></select
							></label
						>{/if}
				</div>
			{/if}
		</div>
	{/each}
	<button
		class="btn btn-xs self-start"
		onclick={() => {
			const first = choices('classes')[0];
			opened = tracks.length;
			change([...tracks, { ...plainTrack('classes', 20), series: first ? [seriesOf(first.value, tracks.length)] : [] }]);
		}}><Plus size={12} />Track</button
	>
</div>
