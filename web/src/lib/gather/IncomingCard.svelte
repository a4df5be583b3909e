<script lang="ts">
	import { Check, ChevronRight, Trash2 } from '$lib/icons';
	import { roleOf, TABLE_KINDS, tableKind, type TableKind } from '#core/tables/kinds';
	import { MEASURES } from '#core/tables/measures';
	import { DELIMITERS, type Reading } from '#core/tables/raw-table';
	import { habitsOf } from '#core/tables/written';
	import type { Preview } from '$lib/api/types';
	import { spaced } from '$lib/ui/numbers';
	import type { Workspace } from '$lib/workspace.svelte';
	import type { Incoming } from './incoming.svelte';
	import CoordinateChoice from './CoordinateChoice.svelte';
	import PictureChoice from './PictureChoice.svelte';

	let { workspace, item, remove }: { workspace: Workspace; item: Incoming; remove: () => void } = $props();
	const p = $derived(item.preview);
	const unit = $derived(workspace.project!.lengthUnit);
	const WORDS: Record<string, string> = {
		',': 'comma',
		';': 'semicolon',
		'\t': 'tab',
		'|': 'bar',
		space: 'blanks',
		'.': 'point',
		'': 'none',
		' ': 'blank',
		"'": 'apostrophe'
	};
	const KINDS_OF_FILE: [Preview['as'], string][] = [
		['table', 'Table'],
		['terrain', 'Raster'],
		['layer', 'Points, lines, polygons'],
		['surface', 'Surface'],
		['picture', 'Picture']
	];
	const extent = $derived(workspace.project!.extent);
	let wasOpen = $state(false);
	$effect(() => {
		if (item.open) wasOpen = true;
	});
	const label = $derived(
		p === null ? '' : p.as === 'table' ? tableKind(p.kind!).label : (KINDS_OF_FILE.find(([as]) => as === p.as)?.[1] ?? 'Grid')
	);
</script>

<article class="bg-base-100 rule mt-2 border px-4 py-3" aria-label={item.name}>
	<header class="flex items-center gap-3">
		<button
			class="flex min-w-0 items-center gap-2 text-left"
			aria-expanded={item.open}
			aria-label="{item.open ? 'Fold' : 'Unfold'} {item.name}"
			disabled={!p || item.report !== ''}
			onclick={() => (item.open = !item.open)}
		>
			{#if item.report}<Check size={16} class="text-primary shrink-0" />{:else}<ChevronRight
					size={16}
					class="quiet shrink-0 {item.open ? 'rotate-90' : ''}"
				/>{/if}
			<h2 class="panel-title truncate">{item.name}{p?.reading?.part ? `: ${p.reading.part}` : ''}</h2>
		</button>
		{#if item.report}
			<p class="min-w-0 flex-1">
				{item.title}: {item.report}. {#if p?.as === 'table'}<a class="link" href="/{workspace.id}/check">See the checks</a>{/if}
			</p>
		{:else if p}
			<span class="quiet shrink-0 text-sm">{spaced(p.file.size / 1024, 0)} KiB{p.says ? `, ${p.says}` : ''}</span>
			{#if !item.open}<span class="min-w-0 truncate text-sm {item.asks.length ? 'text-warning' : 'quiet'}"
					>{label}{item.asks.length ? `: ${item.asks.join('; ')}` : `, as ${item.title}`}</span
				>{/if}
		{/if}
		<button class="btn btn-ghost btn-xs btn-square ml-auto" aria-label="Put {item.name} aside" title="Put aside" onclick={remove}
			><Trash2 size={15} /></button
		>
	</header>
	{#if item.problem}<p role="alert" class="border-error text-error mt-2 mb-2 border-l-4 px-2">{item.problem}</p>{/if}
	{#if !p && !item.problem}<progress class="progress progress-primary" value={item.share} max="1" aria-label="Sending {item.name}"
		></progress>{/if}
	{#if item.job && !item.open}<div class="mt-2 flex items-center gap-3">
			<progress class="progress progress-primary" value={item.share} max="1" aria-label="Reading {item.name}"></progress><button
				class="btn btn-xs"
				onclick={() => workspace.cancel(item.job!)}>Cancel</button
			>
		</div>{/if}
	{#if p && wasOpen && !item.report}
		<div class="pt-3" hidden={!item.open}>
			<div class="mb-3 flex flex-wrap items-end gap-4">
				<label class="flex flex-col gap-1 text-sm"
					>Name in the project<input class="input input-sm w-52" bind:value={item.title} oninput={() => item.keep()} /></label
				>
				<label class="flex flex-col gap-1 text-sm"
					>The file is
					<select
						class="select select-sm w-44"
						value={p.as === 'grid' ? 'terrain' : p.as}
						onchange={(e) => item.setAs(e.currentTarget.value as Preview['as'])}
					>
						{#each KINDS_OF_FILE as [as, label] (as)}<option value={as}>{label}</option>{/each}
					</select>
				</label>
				{#if p.as === 'layer' && p.parts?.length}
					<label class="flex flex-col gap-1 text-sm"
						>Layer<select class="select select-sm w-44" bind:value={item.part}
							><option value="">all {p.parts.length} layers</option>{#each p.parts as x (x.name)}<option value={x.name}
									>{x.name} ({spaced(Number(x.count ?? 0))})</option
								>{/each}</select
						></label
					>
				{/if}
				{#if p.as === 'table'}
					<label class="flex flex-col gap-1 text-sm"
						>Kind of table
						<select class="select select-sm w-52" value={p.kind} onchange={(e) => item.setKind(e.currentTarget.value as TableKind)}>
							{#each TABLE_KINDS as k (k.kind)}<option value={k.kind} title={k.help}>{k.label}</option>{/each}
						</select>
					</label>
				{:else if p.terrain}
					<p class="numbers">
						{spaced(p.terrain.nx)} × {spaced(p.terrain.ny)} cells of {spaced(p.terrain.dx, p.terrain.dx < 1 ? 6 : 1)}, {p.terrain.min ===
							null || p.terrain.max === null
							? 'none with a value'
							: `${spaced(p.terrain.min, 1)} to ${spaced(p.terrain.max, 1)}`}; {spaced(
							(p.terrain.nx * p.terrain.ny * 4) / item.every ** 2 / 1e6,
							1
						)} MB
					</p>
					<label class="flex flex-col gap-1 text-sm"
						>Every<select class="select select-sm w-32" bind:value={item.every}
							>{#each [1, 2, 3, 5, 10, 20] as k (k)}<option value={k}>{k === 1 ? 'cell' : `${k} cells`}</option>{/each}</select
						></label
					>
					{#if extent}<label class="flex items-center gap-2 pb-2 text-sm"
							><input type="checkbox" class="checkbox checkbox-xs" bind:checked={item.clip} />only within the extent</label
						>{/if}
					{#if !workspace.object('terrain')}<label class="flex items-center gap-2 pb-2 text-sm"
							><input type="checkbox" class="checkbox checkbox-xs" bind:checked={item.asGrid} />not the terrain, another grid</label
						>{/if}
				{/if}
				<button
					class="btn btn-primary btn-sm"
					disabled={item.job !== null || (p.as === 'table' && p.missing!.length > 0)}
					onclick={() => item.apply()}>Bring in</button
				>
				{#if item.job}<progress class="progress progress-primary w-40" value={item.share} max="1" aria-label="Reading {item.name}"
					></progress><button class="btn btn-xs" onclick={() => workspace.cancel(item.job!)}>Cancel</button>{/if}
				{#if item.asks.length}<p class="text-warning text-sm" role="status">Not certain: {item.asks.join('; ')}</p>{/if}
				{#if p.remembered}<p class="quiet text-sm">Roles taken from the last table with these columns.</p>{/if}
			</div>
			{#if p.as === 'picture' && p.picture}<PictureChoice
					{workspace}
					placed={p.picture.placement !== null}
					width={p.picture.width}
					height={p.picture.height}
					core={p.core ?? null}
					bind:value={item.place}
				/>{/if}
			{#if item.located}<CoordinateChoice
					{workspace}
					epsg={p.epsg ?? p.terrain?.epsg ?? null}
					stated={p.as !== 'table'}
					bind:value={item.coordinates}
				/>{/if}
			{#if p.as !== 'table' && p.notes?.length}<ul class="border-warning mb-3 border-l-4 px-2 text-sm">
					{#each p.notes as n, i (i)}<li>{n}</li>{/each}
				</ul>{/if}
			{#if p.system}<p class="border-warning mb-3 border-l-4 px-2 text-sm">
					The file describes its system as “{p.system}”, without an EPSG code. Say below in which system its coordinates are.
				</p>{/if}
			{#if p.as === 'table'}
				{#if (p.format === 'delimited' || p.format === 'xlsx' || p.format === 'ods') && p.reading}
					{@const r = p.reading}
					<details class="mb-3 text-sm">
						<summary class="quiet cursor-pointer"
							>{#if p.format === 'delimited'}Cells between {WORDS[r.delimiter]}s, decimal {WORDS[r.decimal]}{r.thousands
									? `, thousands ${WORDS[r.thousands]}`
									: ''},
							{/if}{r.headerLine ? `header on line ${r.headerLine}` : 'no header'}{r.unitsLine ? ', units below it' : ''}{r.comment
								? `, comments after ${r.comment}`
								: ''}</summary
						>
						<div class="mt-2 flex flex-wrap items-end gap-3">
							{#if p.format === 'delimited'}<label class="flex flex-col gap-1"
									>Between cells<select
										class="select select-xs"
										value={r.delimiter}
										onchange={(e) => item.setReading({ delimiter: e.currentTarget.value as Reading['delimiter'] })}
										>{#each DELIMITERS as d (d)}<option value={d}>{WORDS[d]}</option>{/each}</select
									></label
								>
								<label class="flex flex-col gap-1"
									>Decimal mark<select
										class="select select-xs"
										value={r.decimal}
										onchange={(e) => item.setReading({ decimal: e.currentTarget.value as Reading['decimal'] })}
										>{#each ['.', ','] as d (d)}<option value={d}>{WORDS[d]}</option>{/each}</select
									></label
								>
								<label class="flex flex-col gap-1"
									>Thousands<select
										class="select select-xs"
										value={r.thousands}
										onchange={(e) => item.setReading({ thousands: e.currentTarget.value as Reading['thousands'] })}
										>{#each ['', ',', '.', ' ', "'"] as d (d)}<option value={d}>{WORDS[d]}</option>{/each}</select
									></label
								>
								<label class="flex flex-col gap-1"
									>Quotation marks<select
										class="select select-xs"
										value={r.quotes ?? 'careful'}
										onchange={(e) => item.setReading({ quotes: e.currentTarget.value as Reading['quotes'] })}
										><option value="careful">hold cells together; doubted where one swallows rows</option><option value="all"
											>hold cells together, always</option
										><option value="none">are plain characters</option></select
									></label
								>{/if}
							<label class="flex flex-col gap-1"
								>Header on line (0: none)<input
									class="input input-xs w-20"
									type="number"
									min="0"
									value={r.headerLine}
									onchange={(e) => item.setReading({ headerLine: e.currentTarget.valueAsNumber || 0 })}
								/></label
							>
							<label class="flex flex-col gap-1"
								>Comment mark<input
									class="input input-xs w-16"
									maxlength="5"
									value={r.comment}
									onchange={(e) => item.setReading({ comment: e.currentTarget.value })}
								/></label
							>
							<label class="flex items-center gap-2 pb-1.5"
								><input
									type="checkbox"
									class="checkbox checkbox-xs"
									checked={r.unitsLine}
									onchange={(e) => item.setReading({ unitsLine: e.currentTarget.checked })}
								/>units under the header</label
							>
						</div>
					</details>
				{/if}
				{#if p.notes?.length}
					<details class="border-warning mb-3 border-l-4 px-2 text-sm">
						<summary class="cursor-pointer">{p.notes.length} {p.notes.length === 1 ? 'remark' : 'remarks'} on the file</summary>
						<ul>
							{#each p.notes as n, i (i)}<li>{n}</li>{/each}
						</ul>
					</details>
				{/if}
				<div class="overflow-x-auto">
					<table class="plain numbers text-sm">
						<thead>
							<tr>
								{#each p.header! as h (h)}
									{@const measure = roleOf(p.kind!, p.mapping![h] ?? '')?.unit}
									<th class="min-w-28 align-bottom">
										<div class="text-base-content mb-1 font-sans">{h}</div>
										<select
											class="select select-xs w-full {p.mapping![h] === 'leave' ? 'quiet' : 'border-primary'}"
											aria-label="Role of {h}"
											value={p.mapping![h]}
											onchange={(e) => item.setRole(h, e.currentTarget.value)}
										>
											<option value="leave">leave out</option>
											<option value="keep">keep as it is</option>
											{#each tableKind(p.kind!).roles as r (r.key)}<option value={r.key} title={r.help}
													>{r.label}{r.required ? ' *' : ''}</option
												>{/each}
										</select>
										{#if measure}
											<select
												class="select select-xs mt-1 w-full"
												aria-label="Unit of {h}"
												value={p.units![h] ?? ''}
												onchange={(e) => item.setUnit(h, e.currentTarget.value)}
											>
												<option value="">{measure === 'length' ? unit : '°'}</option>
												{#each Object.keys(MEASURES[measure]).filter((u) => u !== (measure === 'length' ? unit : '°')) as u (u)}<option
														value={u}>{u}</option
													>{/each}
											</select>
										{:else if !habitsOf(p.kind!, p.mapping![h] ?? '').length}<div class="quiet mt-1 h-7 truncate pt-1 text-xs">
												{p.stated?.[p.header!.indexOf(h)] ?? ''}
											</div>{/if}
										{#if habitsOf(p.kind!, p.mapping![h] ?? '').length}
											<select
												class="select select-xs mt-1 w-full {p.ambiguous?.includes(h) ? 'border-warning' : ''}"
												aria-label="How {h} is written"
												title={p.ambiguous?.includes(h) ? 'These dates could be read in two ways: say which' : 'How it is written'}
												value={p.written?.[h]}
												onchange={(e) => item.setHabit(h, e.currentTarget.value)}
											>
												{#each habitsOf(p.kind!, p.mapping![h] ?? '') as w (w.habit)}<option value={w.habit}>{w.label}</option>{/each}
											</select>
										{/if}
									</th>
								{/each}
							</tr>
						</thead>
						<tbody>
							{#each p.rows!.slice(0, 8) as row, r (r)}
								<tr>
									{#each p.header! as h, c (h)}
										{@const bad = p.trouble!.find((t) => t.row === r && t.column === h)}
										<td
											class="max-w-60 truncate {bad ? 'bg-error/15 text-error font-medium' : ''} {p.mapping![h] === 'leave'
												? 'opacity-50'
												: ''}"
											title={bad?.message ?? row[c]}>{row[c]}</td
										>
									{/each}
								</tr>
							{/each}
						</tbody>
					</table>
				</div>
			{/if}
		</div>
	{/if}
</article>
