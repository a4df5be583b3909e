<script lang="ts">
	import { moment } from '$lib/ui/moments';
	import { atDepth, volume, spaced } from '$lib/ui/numbers';
	import { valueText } from '$lib/workbench/sets.svelte';
	import MakeResult from '$lib/results/MakeResult.svelte';
	import RoutinePanel from '$lib/results/RoutinePanel.svelte';
	import ResultDetails from '$lib/results/ResultDetails.svelte';
	import { freeOnes, makeableOf, recipes } from '$lib/results/choices';
	import type { RecipeInfo } from '$lib/api/types';
	import HoleSheet from './HoleSheet.svelte';
	import type { Workspace } from '$lib/workspace.svelte';
	let { workspace }: { workspace: Workspace } = $props();
	const s = $derived(workspace.selection);
	const unit = $derived(workspace.project?.lengthUnit ?? 'm');
	const tableName = (id: string) => workspace.tables.find((t) => t.id === id)?.name ?? 'table';
	const rowLink = (table: string, row: number) => `/${workspace.id}/check?table=${table}&row=${row}`;

	/** What an address or a change that was taken back can leave behind. */
	const isGone = $derived(
		(s?.kind === 'unit' && ![...workspace.allUnits, ...workspace.groups].some((x) => x.id === s.id)) ||
			(s?.kind === 'fault' && !workspace.interpretation?.faults.faults.some((x) => x.id === s.id)) ||
			(s?.kind === 'object' && !workspace.objects.some((x) => x.id === s.id)) ||
			(s?.kind === 'objects' && !s.ids.some((id) => workspace.objects.some((x) => x.id === id))) ||
			(s?.kind === 'rows' && !workspace.tables.some((x) => x.id === s.table))
	);
	const lines = $derived.by((): [string, string][] => {
		if (!s || isGone) return [];
		switch (s.kind) {
			case 'hole': {
				const h = workspace.sets.paths?.holes.find((x) => x.name === s.name);
				if (!h) return [['', 'held back or left out: see Check']];
				const misfits = (workspace.report?.misfits ?? []).filter((m) => m.hole === s.name);
				return [
					['Easting', `${spaced(h.collar[0], 1)} ${unit}`],
					['Northing', `${spaced(h.collar[1], 1)} ${unit}`],
					['Elevation', `${spaced(h.collar[2], 1)} ${unit}`],
					['Length', `${spaced(h.totalDepth, 1)} ${unit}`],
					...misfits.map((m): [string, string] => [
						`${workspace.modelUnit(m.surface)?.name ?? ''} base${atDepth(m.depth, unit)}`,
						m.distance === null ? 'not in the model' : `${spaced(m.distance, 2)} ${unit} off`
					])
				];
			}
			case 'unit': {
				const group = workspace.groups.find((x) => x.id === s.id && x.id !== x.units[0]!.id);
				if (group) return groupLines(group);
				const u = workspace.allUnits.find((x) => x.id === s.id);
				const v = workspace.report?.volumes.find((x) => x.unit === s.id);
				const surface = workspace.report?.surfaces.find((x) => x.unit === s.id);
				return [
					['Contact below', u?.contact ?? ''],
					['Volume', v ? volume(v.volume, unit) : 'not built'],
					...(surface
						? ([
								['Contacts', String(surface.contacts)],
								['Misfit, RMS', `${spaced(surface.rms, 3)} ${unit}`],
								['Misfit, greatest', `${spaced(surface.max, 3)} ${unit}`]
							] as [string, string][])
						: [])
				];
			}
			case 'fault': {
				const f = workspace.interpretation?.faults.faults.find((x) => x.id === s.id);
				return f
					? [
							['Dip', `${f.dip}° to ${String(Math.round(f.dipAzimuth)).padStart(3, '0')}°`],
							['Trace', `${f.trace.length} vertices`],
							['Cuts', `${workspace.units.find((u) => u.id === f.youngestCut)?.name ?? '?'} and older`]
						]
					: [];
			}
			case 'holes':
				return [
					['Holes', String(s.names.length)],
					['', s.names.slice(0, 12).join(', ') + (s.names.length > 12 ? ' …' : '')]
				];
			case 'rows':
				return rowLines(s.table, s.rows);
			case 'objects':
				return s.ids.flatMap((id): [string, string][] => {
					const o = workspace.objects.find((x) => x.id === id);
					return o ? [[o.name, o.kind]] : [];
				});
			case 'object': {
				const o = workspace.objects.find((x) => x.id === s.id);
				if (!o) return [];
				return [
					['Kind', o.kind],
					['Revision', String(o.revision)],
					['State', o.missing ? 'not built yet' : o.outOfDate ? 'out of date' : 'up to date'],
					['Made from', o.inputs.map((i) => workspace.objects.find((x) => x.id === i)?.name).join(', ') || 'a source'],
					[
						'Used by',
						workspace.objects
							.filter((x) => x.inputs.includes(o.id))
							.map((x) => x.name)
							.join(', ') || 'nothing yet'
					],
					...(o.built ? ([['Built', `${moment(o.built.createdAt)}, ${o.built.seconds.toFixed(2)} s`]] as [string, string][]) : []),
					['Content', o.contentHash.slice(0, 12) || '–']
				];
			}
		}
	});
	/** What is told of a unit of a higher rank. */
	function groupLines({ units }: (typeof workspace.groups)[number]): [string, string][] {
		const own = new Set(units.map((u) => u.id));
		const volumes = (workspace.report?.volumes ?? []).filter((v) => own.has(v.unit) && !(v.partOf && own.has(v.partOf)));
		return [
			['Rank', workspace.atRank!.name],
			['Made of', units.map((u) => u.name).join(', ')],
			[
				'Volume',
				volumes.length
					? volume(
							volumes.reduce((sum, v) => sum + v.volume, 0),
							unit
						)
					: 'not built'
			]
		];
	}
	/** Place and every column of one row; of many, how many and from how many holes. */
	function rowLines(table: string, rows: number[]): [string, string][] {
		const set = workspace.sets.of(table);
		if (!set) return [['Rows', String(rows.length)]];
		if (rows.length !== 1)
			return [
				['Rows', String(rows.length)],
				...(set.place === 'map' ? [] : ([['Holes', String(workspace.selectedHoles.size)]] as [string, string][]))
			];
		const i = set.row.indexOf(rows[0]!);
		if (i < 0) return [['', 'held back or left out: see Check']];
		const hole = set.place === 'map' ? null : workspace.sets.paths?.holes[set.hole[i]!]?.name;
		const place: [string, string][] =
			set.place === 'interval'
				? [['From – to', `${spaced(set.from[i]!, 2)} – ${spaced(set.to[i]!, 2)} ${unit}`]]
				: set.place === 'depth'
					? [['Depth', `${spaced(set.from[i]!, 2)} ${unit}`]]
					: set.place === 'map'
						? [
								['Easting', spaced(set.xyz[3 * i]!, 1)],
								['Northing', spaced(set.xyz[3 * i + 1]!, 1)]
							]
						: [];
		return [
			...(hole ? ([['Hole', hole]] as [string, string][]) : []),
			...place,
			...set.columns.map((c): [string, string] => [c.label, valueText(c, i) || '–'])
		];
	}
	const oneHole = $derived(
		s?.kind === 'hole' ? s.name : s?.kind === 'rows' && workspace.selectedHoles.size === 1 ? [...workspace.selectedHoles][0]! : null
	);
	let sheet = $state<string | null>(null);
	/** What can be made of one unit. */
	let ofUnit = $state.raw<RecipeInfo[]>([]);
	$effect(() => {
		if (s?.kind === 'unit')
			void recipes().then(
				(list) => (ofUnit = freeOnes(list).filter((r) => r.parameters.some((p) => p.unitsOf))),
				() => {}
			);
	});

	/** What can be made of the objects that are selected. */
	let ofPicked = $state.raw<RecipeInfo[]>([]);
	$effect(() => {
		const ids = workspace.pickedObjects;
		if (ids.length)
			void recipes().then(
				(list) => (ofPicked = makeableOf(workspace.objects, list, ids)),
				() => {}
			);
		else ofPicked = [];
	});

	const leaveOut = (hole: string) =>
		workspace.attempt(async () => {
			const { changed } = await workspace.api.ask('excludeHole', {
				hole,
				body: {
					excluded: true
				}
			});
			workspace.selection = null;
			await workspace.refresh();
			workspace.say(`${changed} rows of ${hole} are left out. Ctrl Z undoes it.`);
		});
	const title = $derived.by(() => {
		if (!s) return '';
		if (s.kind === 'hole') return s.name;
		if (s.kind === 'unit') return [...workspace.groups, ...workspace.allUnits].find((x) => x.id === s.id)?.name ?? s.id;
		if (s.kind === 'fault') return workspace.interpretation?.faults.faults.find((x) => x.id === s.id)?.name ?? s.id;
		if (s.kind === 'object') return workspace.objects.find((x) => x.id === s.id)?.name ?? '';
		if (s.kind === 'objects') return `${s.ids.length} things`;
		if (s.kind === 'holes') return `${s.names.length} holes`;
		return `${tableName(s.table)}${s.rows.length === 1 ? `, row ${s.rows[0]! + 1}` : ''}`;
	});
</script>

{#snippet makeable()}
	{#each ofPicked as r (r.id)}<button
			class="btn btn-xs mt-1 mr-1"
			title={r.about}
			onclick={() => (workspace.making = { recipe: r.id, inputs: [...workspace.pickedObjects] })}>{r.title}…</button
		>{/each}
	{#if workspace.pickedObjects.length > 1 && ofPicked.length === 0}<p class="quiet mt-1 text-sm">
			Nothing is made of just these. Let one go with Ctrl, or choose others.
		</p>{/if}
{/snippet}

{#if workspace.routine}
	{#key workspace.routine}<RoutinePanel {workspace} />{/key}
{:else if workspace.making}
	{#key workspace.making}<MakeResult {workspace} />{/key}
{:else}<h2 class="panel-title mb-1">Details</h2>{/if}
{#if workspace.making || workspace.routine}
	<!-- What is made comes first; details of what is selected wait. -->
{:else if s && isGone}
	<p class="text-sm" role="status">What was selected is not in this project, or not any more.</p>
{:else if s?.kind === 'object' && workspace.made.some((o) => o.id === s.id && o.kind !== 'kept-model')}
	{#key s.id}<ResultDetails {workspace} id={s.id} />{/key}
	{@render makeable()}
{:else if s}
	<p class="mb-1 font-medium">{title}</p>
	<dl class="grid grid-cols-[auto_1fr] gap-x-3 gap-y-0.5 text-sm">
		{#each lines as [label, value], i (label + i)}<dt class="quiet">{label}</dt>
			<dd class="numbers text-right break-words">{value}</dd>{/each}
	</dl>
	<div class="mt-1 flex flex-wrap gap-1">
		{#if oneHole}
			<button class="btn btn-xs" onclick={() => (sheet = oneHole)}>All of {oneHole}</button>
		{/if}
		{#if s.kind === 'hole'}<button class="btn btn-xs" title="Leave this hole out of all tables" onclick={() => leaveOut(s.name)}
				>Leave it out</button
			>{/if}
		{#if s.kind === 'unit' && !workspace.object('model')?.missing}
			{#each ofUnit as r (r.id)}<button
					class="btn btn-xs"
					title={r.about}
					onclick={() => (workspace.making = { recipe: r.id, inputs: [workspace.modelId!], parameters: { unit: s.id } })}
					>{r.title.replace(/ (of|to) a unit$/, '')}…</button
				>{/each}
		{/if}
		{@render makeable()}
		{#if s.kind === 'rows' && s.rows.length === 1}<a class="btn btn-xs" href={rowLink(s.table, s.rows[0]!)}>Go to the row</a>{/if}
	</div>
{:else}
	<p class="quiet text-sm">Press a hole, a unit or a row: its values and where they come from stand here.</p>
{/if}
{#if sheet}<HoleSheet {workspace} hole={sheet} close={() => (sheet = null)} />{/if}
