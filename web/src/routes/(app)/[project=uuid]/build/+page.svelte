<script lang="ts">
	import { Hammer, Move3d } from '$lib/icons';
	import type { Box } from '#core/geometry/box';
	import { proposeSpacing } from '#core/mesh/lattice';
	import { ApiProblem, problemText } from '$lib/api/client';
	import Agreement from '$lib/build/Agreement.svelte';
	import Doubt from '$lib/build/Doubt.svelte';
	import Volumes from '$lib/build/Volumes.svelte';
	import FinerParts from '$lib/build/FinerParts.svelte';
	import FirstSteps from '$lib/interpret/FirstSteps.svelte';
	import Noted from '$lib/build/Noted.svelte';
	import KeptModels from '$lib/build/KeptModels.svelte';
	import PaneGrid from '$lib/panes/PaneGrid.svelte';
	import StageScreen from '$lib/ui/StageScreen.svelte';
	import { atDepth, bytes, spaced, volume } from '$lib/ui/numbers';
	import { useWorkspace } from '$lib/workspace.svelte';

	const workspace = useWorkspace();
	const unit = $derived(workspace.project!.lengthUnit);
	let extent = $state<Record<keyof Box, number>>({ minX: 0, minY: 0, minZ: 0, maxX: 0, maxY: 0, maxZ: 0 });
	let spacing = $state(50);
	let estimate = $state<{ cells: number; bytes: number; free: number; fits: boolean } | null>(null);
	let problem = $state('');
	const stored = $derived(workspace.interpretation!.model.spacing);

	$effect(() => {
		if (workspace.project!.extent) extent = { ...workspace.project!.extent };
	});
	$effect(() => {
		spacing = stored;
	});
	$effect(() => {
		const s = spacing;
		void workspace.project!.extent;
		if (!(s > 0) || !workspace.project!.extent) return void (estimate = null);
		workspace.api.ask('estimateBuild', { spacing: s }).then(
			(e) => {
				estimate = e;
				problem = '';
			},
			(error: ApiProblem) => {
				estimate = null;
				problem = error.text;
			}
		);
	});

	/** Why the extent that was typed was not taken; it is marked, and not shown as if it were. */
	let refused = $state('');
	const storeExtent = async () => {
		refused = '';
		try {
			await workspace.api.ask('patchProject', { body: { extent: { ...extent }, revision: workspace.project!.revision } });
			await workspace.refresh();
			if (workspace.extentDraft) workspace.extentDraft = { ...extent };
		} catch (error) {
			refused = problemText(error);
		}
	};
	// The handles belong to this page.
	$effect(() => () => (workspace.extentDraft = null));
	$effect(() => {
		if (workspace.extentDraft) extent = { ...workspace.extentDraft };
	});
	const propose = (from: 'terrain' | 'collars') =>
		workspace.attempt(async () => {
			extent = (await workspace.api.ask('proposeExtent', { from })).extent;
			await storeExtent();
		});
	const byItself = (auto: boolean) =>
		workspace.attempt(async () => {
			await workspace.api.ask('changeModel', { object: model!.id, body: { auto, revision: model!.revision } });
			await workspace.refresh();
		});
	async function build() {
		if (spacing !== stored && !(await workspace.store('spacing', { spacing }))) return;
		await workspace.build();
	}

	/** Boxes of what was brought in, on the map. */
	const boxes = $derived(
		workspace.objects.flatMap((o) => {
			const s = o.state as { box?: number[]; shape?: { x0: number; y0: number; dx: number; dy: number; nx: number; ny: number } };
			const b =
				o.kind === 'surface' && s.box
					? [s.box[0]!, s.box[1]!, s.box[3]!, s.box[4]!]
					: o.kind === 'layer' && s.box
						? s.box
						: o.kind === 'grid' && s.shape
							? [s.shape.x0, s.shape.y0, s.shape.x0 + (s.shape.nx - 1) * s.shape.dx, s.shape.y0 + (s.shape.ny - 1) * s.shape.dy]
							: null;
			return b
				? [
						{
							id: o.id,
							name: o.name,
							box: { minX: Math.floor(b[0]!), minY: Math.floor(b[1]!), maxX: Math.ceil(b[2]!), maxY: Math.ceil(b[3]!) }
						}
					]
				: [];
		})
	);
	/** What looks wrong about the extent. */
	const warnings = $derived.by(() => {
		const e = workspace.project!.extent;
		if (!e) return [];
		const out: string[] = [];
		const side = Math.max(e.maxX - e.minX, e.maxY - e.minY);
		if (e.maxZ - e.minZ < side / 50)
			out.push(`The box is very flat: ${spaced(e.maxZ - e.minZ)} ${unit} high and ${spaced(side)} ${unit} wide. Check bottom and top.`);
		const holes = workspace.sets.paths?.holes ?? [];
		const beside = holes.filter((h) => h.collar[0] < e.minX || h.collar[0] > e.maxX || h.collar[1] < e.minY || h.collar[1] > e.maxY).length;
		if (beside) out.push(`${beside} of ${holes.length} holes lie outside of the box on the map.`);
		const below = holes.filter((h) => h.collar[2] - h.totalDepth < e.minZ - 1e-6).length;
		if (below) out.push(`${below} of ${holes.length} holes may reach below the bottom.`);
		const top = (workspace.object('terrain')?.state as { max?: number } | undefined)?.max;
		if (top !== undefined && top > e.maxZ) out.push(`The terrain reaches ${spaced(top, 1)} ${unit}, above the top of the box.`);
		return out;
	});

	const model = $derived(workspace.object('model'));
	const job = $derived(model && workspace.modelBuild);
	const report = $derived(workspace.report);
	const serious = $derived(report?.findings.filter((f) => f.severity === 'held') ?? []);
	const setAside = $derived(report?.contacts.findings.filter((f) => f.rule === 'odd-unit').length ?? 0);
	const noted = $derived(report ? [...report.findings.filter((f) => f.severity !== 'held'), ...report.contacts.findings] : []);
	const worst = $derived([...(report?.misfits ?? [])].sort((a, b) => (b.distance ?? Infinity) - (a.distance ?? Infinity)).slice(0, 60));
	const total = $derived(report ? Object.values(report.seconds).reduce((a, b) => a + b, 0) : 0);
	/** Time of a build at the spacing, from the last one: the fields grow with the volume of the cells, the solids with their faces. */
	const guess = $derived(
		report && spacing > 0
			? Math.max(1, (report.seconds['model'] ?? 0) * (report.spacing / spacing) ** 2.5 + (report.seconds['fields'] ?? 0))
			: null
	);
	const proposed = $derived(
		workspace.project!.extent && workspace.sets.paths
			? proposeSpacing(
					workspace.project!.extent,
					workspace.sets.paths.holes.map((h) => [h.collar[0], h.collar[1]] as const)
				)
			: null
	);
	const nameOf = (id: string) => workspace.allUnits.find((u) => u.id === id)?.name ?? id;
	const SIDES = [
		['minX', 'West'],
		['maxX', 'East'],
		['minY', 'South'],
		['maxY', 'North'],
		['minZ', 'Bottom'],
		['maxZ', 'Top']
	] as const;
</script>

{#snippet aside()}
	<h2 class="mb-2 text-lg font-semibold">Build</h2>
	<FirstSteps {workspace} />
	<h2 class="panel-title">Extent, {unit}</h2>
	<p class="quiet mb-1.5 text-sm">The box that the model fills, trimmed by the terrain.</p>
	<div class="grid grid-cols-2 gap-2">
		{#each SIDES as [key, label] (key)}
			<label class="flex flex-col text-sm"
				>{label}<input
					class="input input-xs numbers w-full {refused && extent[key] !== workspace.project!.extent?.[key] ? 'border-error' : ''}"
					type="number"
					step="any"
					aria-invalid={refused !== '' && extent[key] !== workspace.project!.extent?.[key]}
					aria-describedby={refused ? 'refused' : undefined}
					bind:value={extent[key]}
					onchange={storeExtent}
				/></label
			>
		{/each}
	</div>
	{#if refused}<p id="refused" role="alert" class="text-error mt-1.5 text-sm">
			Not stored: {refused}
			{#if workspace.project!.extent}<button
					class="link"
					onclick={() => {
						extent = { ...workspace.project!.extent! };
						refused = '';
					}}>Show what is stored</button
				>{/if}
		</p>{/if}
	<button
		class="btn btn-xs mt-2 w-full {workspace.extentDraft ? 'btn-active' : ''}"
		aria-pressed={workspace.extentDraft !== null}
		disabled={!workspace.project!.extent}
		title="Handles on the sides of the box, in map and space; what is dragged is stored when it is let go"
		onclick={() => (workspace.extentDraft = workspace.extentDraft ? null : { ...workspace.project!.extent! })}
		><Move3d size={13} />{workspace.extentDraft ? 'Handles away' : 'Drag its sides in map and space'}</button
	>
	<div class="mt-2 mb-4 grid grid-cols-2 gap-2">
		<button class="btn btn-xs" onclick={() => propose('terrain')}>From the terrain</button><button
			class="btn btn-xs"
			onclick={() => propose('collars')}>From the collars</button
		>
		{#if boxes.length}
			<select
				class="select select-xs col-span-2 w-full"
				aria-label="Extent from an object"
				value=""
				onchange={(e) => {
					const b = boxes.find((x) => x.id === e.currentTarget.value)!;
					extent = { ...extent, ...b.box };
					e.currentTarget.value = '';
					void storeExtent();
				}}
			>
				<option value="" disabled>From an object …</option>
				{#each boxes as b (b.id)}<option value={b.id}>{b.name}</option>{/each}
			</select>
		{/if}
	</div>
	<label class="panel-title flex items-center justify-between"
		>Spacing, {unit}<input
			class="input input-sm numbers w-24 font-normal"
			type="number"
			min="0"
			step="any"
			bind:value={spacing}
			onchange={() => spacing > 0 && workspace.store('spacing', { spacing })}
		/></label
	>
	<!-- What is told here comes later than the rest; its lines are kept free, so that the button stays where it is. -->
	<p class="quiet mb-3 min-h-[3lh] text-sm">
		The edge length of triangles. {#if estimate}<span class="numbers {estimate.fits ? '' : 'text-error'}"
				>{spaced(estimate.cells)} cells, about {bytes(estimate.bytes)}{estimate.fits ? '' : `; only ${bytes(estimate.free)} are free`}{guess
					? `, about ${guess < 10 ? guess.toFixed(0) : spaced(guess, 0)} s`
					: ''}.</span
			>{/if}
		{#if proposed && proposed !== spacing}<button
				class="link whitespace-nowrap"
				title="An eighth of the usual distance between neighbouring holes, as far as two million cells allow"
				onclick={() => {
					spacing = proposed!;
					void workspace.store('spacing', { spacing });
				}}>Propose {spaced(proposed)} {unit}</button
			>{/if}
	</p>
	<FinerParts {workspace} />
	<label
		class="mb-3 flex items-center justify-between text-sm"
		title="Connected parts of a unit with less volume become part of what is around them; 0 keeps all"
		>Drop parts below, {unit}³<input
			class="input input-xs numbers w-24"
			type="number"
			min="0"
			step="any"
			value={workspace.interpretation!.model.leastPart ?? 0}
			onchange={(e) =>
				e.currentTarget.valueAsNumber >= 0 && workspace.store('spacing', { spacing: stored, leastPart: e.currentTarget.valueAsNumber })}
		/></label
	>
	{#if problem}<p role="alert" class="text-error mb-2 text-sm">{problem}</p>{/if}
	{#if job}
		<div class="mb-1 flex items-center gap-2">
			<progress class="progress progress-primary flex-1" value={job.share} max="1" aria-label="Building"></progress><button
				class="btn btn-xs"
				onclick={() => workspace.attempt(() => workspace.api.ask('cancelJob', { job: job.id }))}>Cancel</button
			>
		</div>
		<p class="quiet text-sm" role="status">{job.what || 'waiting for a worker'}…</p>
	{:else}
		<button
			class="btn btn-primary btn-sm w-full"
			disabled={estimate !== null && !estimate.fits}
			aria-describedby={workspace.lacking.length ? 'lacking' : undefined}
			onclick={build}><Hammer size={16} />Build model</button
		>
		{#if model}<label class="mt-1.5 flex items-center gap-2 text-sm"
				><input
					type="checkbox"
					class="checkbox checkbox-xs"
					checked={model.auto}
					onchange={(e) => void byItself(e.currentTarget.checked)}
				/>build it by itself when it is out of date</label
			>{/if}
		{#if workspace.lacking.length}<p id="lacking" class="text-warning mt-1 text-sm">
				It still needs {workspace.lacking.join(' and ')}.
			</p>{/if}
		{#if estimate !== null && !estimate.fits}<p class="text-error mt-1 text-sm">
				It would not fit into the memory: take a wider spacing or a smaller extent.
			</p>{/if}
		<p class="mt-1 text-sm {model?.outOfDate ? 'text-warning' : 'quiet'}">
			{model?.missing
				? 'Not built yet.'
				: model?.outOfDate
					? 'Out of date: what changed is rebuilt, the rest is kept.'
					: `Up to date; took ${total.toFixed(1)} s.`}
		</p>
	{/if}
	{#each warnings as w (w)}<p class="border-warning text-warning mt-2 border-l-4 px-2 text-sm" role="status">{w}</p>{/each}

	{#if report}
		{#if serious.length}
			<section class="border-error mt-5 border-l-4 pl-3" aria-label="What is wrong with this model">
				<h2 class="panel-title text-error mb-1">What is wrong with this model</h2>
				<ul class="text-sm">
					{#each serious as f, i (i)}<li class="py-1">{f.message}. <span class="quiet">{f.hint}</span></li>{/each}
				</ul>
				<p class="text-sm">
					<a class="link" href="check">Findings under Check</a>, <a class="link" href="interpret">column and codes under Interpret</a>
				</p>
			</section>
		{/if}
		<Volumes {workspace} {report} />
		{#if report.specks?.dropped}<p class="quiet mt-1 text-sm">
				{spaced(report.specks.dropped)} loose {report.specks.dropped === 1 ? 'part' : 'parts'} of {volume(report.specks.volume, unit)} became
				part of what is around {report.specks.dropped === 1 ? 'it' : 'them'}.
			</p>{/if}
		{#if (report.blocks?.length ?? 0) > 1}
			<h2 class="panel-title mt-4 mb-1">Fault blocks</h2>
			<table class="plain numbers text-sm">
				<tbody
					>{#each report.blocks! as b (b.id)}<tr
							><th scope="row">{b.name}</th><td class="right whitespace-nowrap">{volume(b.volume, unit)}</td></tr
						>{/each}</tbody
				>
			</table>
		{/if}
		<h2 class="panel-title mt-4 mb-1">Misfit of contacts, {unit}</h2>
		<table class="plain numbers text-sm">
			<thead
				><tr
					><th>Surface</th><th class="right">n</th><th class="right">RMS</th><th class="right">max</th>{#if report.support}<th
							class="right"
							title="Share of its area that lies within {spaced(report.support)} {unit} of one of its contacts; the rest is extrapolated"
							>near data</th
						>{/if}</tr
				></thead
			>
			<tbody
				>{#each report.surfaces as s (s.unit)}<tr
						><td>{s.name}</td><td class="right">{s.contacts}</td><td class="right">{spaced(s.rms, 2)}</td><td class="right"
							>{spaced(s.max, 2)}</td
						>{#if report.support}<td class="right">{s.area ? `${Math.round((100 * (s.supported ?? 0)) / s.area)} %` : ''}</td>{/if}</tr
					>{/each}</tbody
			>
		</table>
		<details class="mt-2">
			<summary class="cursor-pointer text-sm">Every contact, worst first</summary>
			<ul class="numbers text-sm">
				{#each worst as m (m.hole + m.depth + m.surface)}
					<li>
						<button
							class="hover:bg-base-200 flex w-full justify-between"
							onclick={() => {
								workspace.selection = { kind: 'hole', name: m.hole };
								workspace.probe = {
									x: m.x,
									y: m.y,
									z: m.z,
									what: `${m.hole}${atDepth(m.depth, unit)}`,
									from: 'report'
								};
							}}
							><span>{m.hole}{atDepth(m.depth)}, {workspace.modelUnit(m.surface)?.name}</span><span
								>{m.distance === null ? 'not in the model' : spaced(m.distance, 2)}</span
							></button
						>
					</li>
				{/each}
			</ul>
		</details>
		{#if report.agreement}<Agreement {workspace} title="Logs against the model" a={report.agreement} />{/if}
		{#each report.partAgreements ?? [] as p (p.division)}<Agreement {workspace} title="Logs against {p.name}" a={p.agreement} />{/each}
		{#if report.offsets?.length}
			<h2 class="panel-title mt-4 mb-1">Throw along the faults, {unit}</h2>
			<table class="plain numbers text-sm">
				<thead><tr><th>Fault, base of</th><th class="right">least</th><th class="right">mean</th><th class="right">most</th></tr></thead>
				<tbody
					>{#each report.offsets as o (o.fault + o.unit)}<tr
							><td>{workspace.interpretation?.faults.faults.find((f) => f.id === o.fault)?.name ?? o.fault}, {nameOf(o.unit)}</td><td
								class="right">{spaced(o.least, 1)}</td
							><td class="right">{spaced(o.mean, 1)}</td><td class="right">{spaced(o.most, 1)}</td></tr
						>{/each}</tbody
				>
			</table>
		{/if}
		<p class="quiet mt-2 text-sm">
			{report.contacts.placed} contacts placed, {report.contacts.faulted} boundaries lie in fault zones, {report.contacts.findings.length -
				setAside} could not be placed, {setAside}
			{setAside === 1 ? 'row is' : 'rows are'} set aside; {report.orientations.count - report.orientations.unused} orientations used, {report
				.orientations.unused} without a unit.
		</p>
		<Noted {workspace} list={noted} />
		<Doubt {workspace} />
	{/if}
	<KeptModels {workspace} />
{/snippet}

<StageScreen {aside} width={316} name="Build"><PaneGrid {workspace} stage="build" initial={['space', 'lineage']} /></StageScreen>
