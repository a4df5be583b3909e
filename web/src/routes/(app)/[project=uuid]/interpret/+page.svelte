<script lang="ts">
	import { ArrowDown, ArrowUp, GripVertical, PenLine, Plus, Trash2 } from '@lucide/svelte';
	import { CONTACT_KINDS, type ContactKind, type Unit } from '#core/units/column';
	import type { FaultSpec } from '#core/model/ground';
	import { RADIANS, wrapAzimuth } from '#core/geometry/angles';
	import PaneGrid from '$lib/panes/PaneGrid.svelte';
	import StageScreen from '$lib/ui/StageScreen.svelte';
	import { useWorkspace } from '$lib/workspace.svelte';
	import { spaced } from '$lib/ui/numbers';

	const workspace = useWorkspace();
	let tab = $state<'codes' | 'column' | 'faults'>('codes');
	const part = $derived(workspace.interpretation!);
	const units = $derived(part.column.units);
	const faults = $derived(part.faults.faults);
	const open = $derived(part.codes.filter((c) => !part.lumping.codes[c.code]));
	const proposed = $derived(Object.entries(part.proposal).filter(([code, unit]) => unit && !part.lumping.codes[code]));
	let name = $state('');
	let dragged = $state<number | null>(null);

	const PALETTE = ['#C9B46A', '#C98F86', '#E3C27A', '#7F8C74', '#7FB3C8', '#C4773F', '#6B6F86', '#9A86B8', '#88A96B', '#B07A6A', '#5E93A8', '#A8A29A'];
	const KIND_HELP: Record<ContactKind, string> = {
		conformable: 'its base is parallel to the layers around it',
		erosional: 'its base cuts what is older',
		onlapping: 'it was laid down against an older surface',
		intrusive: 'it cuts what is older, with a boundary all round'
	};

	const lump = (code: string, unit: string) => workspace.store('lumping', { codes: { ...part.lumping.codes, [code]: unit } });
	const takeProposal = () => workspace.store('lumping', { codes: { ...part.lumping.codes, ...Object.fromEntries(proposed) } });
	const setUnits = (list: Unit[]) => workspace.store('column', { units: list });

	async function addUnit(event: SubmitEvent) {
		event.preventDefault();
		const id = name.trim().toLowerCase().replace(/[^a-z0-9]+/g, '-').slice(0, 40) || `unit-${units.length + 1}`;
		let unique = id;
		for (let n = 2; units.some((u) => u.id === unique); n++) unique = `${id}-${n}`;
		if (await setUnits([...units, { id: unique, name: name.trim(), color: PALETTE[units.length % PALETTE.length]!, contact: 'conformable' }])) name = '';
	}

	function move(from: number, to: number) {
		if (to < 0 || to >= units.length || from === to) return;
		const list = [...units];
		const [u] = list.splice(from, 1);
		list.splice(to, 0, u!);
		void setUnits(list);
	}

	const change = (i: number, values: Partial<Unit>) => setUnits(units.map((u, k) => (k === i ? { ...u, ...values } : u)));
	const setFaults = (list: FaultSpec[]) => workspace.store('faults', { faults: list });
	const changeFault = (i: number, values: Partial<FaultSpec>) => setFaults(faults.map((f, k) => (k === i ? { ...f, ...values } : f)));

	/** A tip line to begin with: round the trace, about as high as the trace is long. */
	function tipsOf(f: FaultSpec) {
		const [a, b] = [f.trace[0]!, f.trace[f.trace.length - 1]!];
		const half = Math.round(Math.hypot(b[0] - a[0], b[1] - a[1]) / 2);
		const e = workspace.project!.extent;
		return { elevation: e ? Math.round((e.minZ + e.maxZ) / 2) : 0, halfLength: half, halfHeight: Math.max(1, Math.round(half * 0.7)), reach: Math.max(1, half) };
	}

	function drawFault(index: number | null) {
		workspace.draw = {
			what: 'fault',
			done: (trace) => {
				if (index !== null) return void changeFault(index, { trace });
				const [a, b] = [trace[0]!, trace[trace.length - 1]!];
				const dipAzimuth = Math.round(wrapAzimuth(Math.atan2(b[0] - a[0], b[1] - a[1]) / RADIANS + 90)) % 360;
				let n = faults.length + 1;
				while (faults.some((f) => f.id === `fault-${n}`)) n++;
				void setFaults([...faults, { id: `fault-${n}`, name: `Fault ${n}`, trace, dip: 70, dipAzimuth, youngestCut: units[0]?.id ?? '', halfWidth: 5, on: true }]);
			}
		};
	}
</script>

{#snippet aside()}
	<div class="rule -mx-4 -mt-4 mb-3 flex border-b px-2" role="tablist" aria-label="Interpret">
		{#each [['codes', `Codes${open.length ? ` (${open.length})` : ''}`], ['column', 'Column'], ['faults', 'Faults']] as const as [id, label] (id)}
			<button role="tab" aria-selected={tab === id} class="border-b-2 px-3 py-2.5 {tab === id ? 'border-primary font-medium' : 'hover:bg-base-200 border-transparent'}" onclick={() => (tab = id)}>{label}</button>
		{/each}
	</div>
	{#if tab === 'codes'}
		<p class="quiet mb-2 text-sm">What each code of the loggers is taken to be. Many codes can be one unit.</p>
		{#if part.codes.length === 0}<p>No codes yet: bring in logged intervals under Gather.</p>{/if}
		{#if units.length === 0 && part.codes.length}<p class="mb-2">First put the units into the <button class="link" onclick={() => (tab = 'column')}>column</button>.</p>{/if}
		{#if proposed.length}<button class="btn btn-sm btn-primary mb-2 w-full" onclick={takeProposal}>Take {proposed.length} proposed by name</button>{/if}
		<table class="plain text-sm">
			<thead><tr><th>Code</th><th class="right">Rows</th><th>Unit</th></tr></thead>
			<tbody>
				{#each part.codes as c (c.code)}
					{@const unit = units.find((u) => u.id === part.lumping.codes[c.code])}
					<tr>
						<td class="max-w-28 truncate" title={c.code}>{c.code}</td>
						<td class="right numbers">{spaced(c.count)}</td>
						<td>
							<span class="flex items-center gap-1.5">
								<span class="h-3.5 w-3.5 shrink-0 border border-[#1e2a26]/60" style="background:{unit?.color ?? 'transparent'}"></span>
								<select class="select select-xs w-full min-w-0" aria-label="Unit of {c.code}" value={part.lumping.codes[c.code] ?? ''} onchange={(e) => lump(c.code, e.currentTarget.value)}>
									<option value="">no unit</option>
									{#each units as u (u.id)}<option value={u.id}>{u.name}</option>{/each}
								</select>
							</span>
						</td>
					</tr>
				{/each}
			</tbody>
		</table>
	{:else if tab === 'column'}
		<p class="quiet mb-2 text-sm">Youngest at the top; the last is the basement. The kind says how the lower boundary meets what is older.</p>
		<ol>
			{#each units as u, i (u.id)}
				<li
					class="rule flex flex-col border-b py-1.5 {dragged === i ? 'opacity-40' : ''}"
					draggable="true"
					ondragstart={() => (dragged = i)}
					ondragend={() => (dragged = null)}
					ondragover={(e) => e.preventDefault()}
					ondrop={(e) => {
						e.preventDefault();
						if (dragged !== null) move(dragged, i);
						dragged = null;
					}}
				>
					<div class="flex items-center gap-1.5">
						<GripVertical size={14} class="quiet cursor-grab" />
						<input type="color" class="h-5 w-7 cursor-pointer" aria-label="Colour of {u.name}" value={u.color} onchange={(e) => change(i, { color: e.currentTarget.value })} />
						<input class="input input-xs min-w-0 flex-1" aria-label="Name of unit {i + 1}" value={u.name} onchange={(e) => e.currentTarget.value.trim() && change(i, { name: e.currentTarget.value.trim() })} />
						<button class="btn btn-ghost btn-xs btn-square" aria-label="Make {u.name} younger" title="Younger" disabled={i === 0} onclick={() => move(i, i - 1)}><ArrowUp size={14} /></button>
						<button class="btn btn-ghost btn-xs btn-square" aria-label="Make {u.name} older" title="Older" disabled={i === units.length - 1} onclick={() => move(i, i + 1)}><ArrowDown size={14} /></button>
						<button class="btn btn-ghost btn-xs btn-square" aria-label="Remove {u.name}" title="Remove" onclick={() => setUnits(units.filter((_, k) => k !== i))}><Trash2 size={14} /></button>
					</div>
					{#if i < units.length - 1}
						<div class="mt-1 flex items-center gap-2 pl-5">
							<svg width="54" height="10" aria-hidden="true">
								{#if u.contact === 'conformable'}<path d="M0 5h54" stroke="currentColor" fill="none" />{:else if u.contact === 'intrusive'}<path d="M0 5h54" stroke="currentColor" fill="none" stroke-dasharray="2 2" /><path d="M4 5l3 4M14 5l3 4M24 5l3 4M34 5l3 4M44 5l3 4" stroke="currentColor" />{:else}<path d="M0 5q4.5-7 9 0t9 0t9 0t9 0t9 0t9 0" stroke="currentColor" fill="none" />{/if}
							</svg>
							<select class="select select-xs flex-1" aria-label="Contact kind of {u.name}" title={KIND_HELP[u.contact]} value={u.contact} onchange={(e) => change(i, { contact: e.currentTarget.value as ContactKind })}>
								{#each CONTACT_KINDS as k (k)}<option value={k} title={KIND_HELP[k]}>{k}</option>{/each}
							</select>
							{#if u.contact === 'intrusive'}
								<select class="select select-xs w-24" aria-label="Form of {u.name}" title="A sheet (dyke, vein) has two walls that follow each other; a body closes on itself" value={u.form ?? ''} onchange={(e) => change(i, { form: (e.currentTarget.value || undefined) as Unit['form'] })}>
									<option value="">as it looks</option><option value="body">body</option><option value="sheet">sheet</option>
								</select>
							{/if}
						</div>
					{:else}
						<p class="quiet pl-5 text-xs">basement: no base</p>
					{/if}
				</li>
			{/each}
		</ol>
		<form class="mt-3 flex gap-2" onsubmit={addUnit}>
			<input class="input input-sm min-w-0 flex-1" placeholder="name of a unit" aria-label="Name of the new unit" required maxlength="200" bind:value={name} /><button class="btn btn-sm"><Plus size={15} />Add</button>
		</form>
	{:else}
		<p class="quiet mb-2 text-sm">A fault cuts everything from one unit downwards: right through, up to another fault, or to a tip line where it dies out. Its trace is drawn on the map; its elevation comes from the terrain.</p>
		<button class="btn btn-sm btn-primary mb-3 w-full" disabled={units.length < 2} onclick={() => drawFault(null)}><PenLine size={15} />Draw a fault</button>
		{#if units.length < 2}<p class="quiet text-sm">First put the units into the column.</p>{/if}
		{#each faults as f, i (f.id)}
			<fieldset class="rule mb-3 border p-3">
				<legend class="sr-only">{f.name}</legend>
				<div class="mb-2 flex items-center gap-2">
					<input type="checkbox" class="checkbox checkbox-xs" aria-label="{f.name} is on" title="Takes part in the model" checked={f.on} onchange={(e) => changeFault(i, { on: e.currentTarget.checked })} />
					<input class="input input-xs min-w-0 flex-1" aria-label="Name of the fault" value={f.name} onchange={(e) => changeFault(i, { name: e.currentTarget.value.trim() || f.name })} />
					<button class="btn btn-ghost btn-xs btn-square" title="Remove" aria-label="Remove {f.name}" onclick={() => setFaults(faults.filter((_, k) => k !== i))}><Trash2 size={14} /></button>
				</div>
				<div class="grid grid-cols-2 gap-2 text-sm">
					<label class="flex flex-col">Dip, °<input class="input input-xs numbers" type="number" min="1" max="90" step="1" value={f.dip} onchange={(e) => changeFault(i, { dip: e.currentTarget.valueAsNumber })} /></label>
					<label class="flex flex-col" title="Roughly: the exact direction follows from trace, dip and terrain">Dips towards, °<input class="input input-xs numbers" type="number" min="0" max="360" step="1" value={f.dipAzimuth} onchange={(e) => changeFault(i, { dipAzimuth: e.currentTarget.valueAsNumber })} /></label>
					<label class="col-span-2 flex flex-col">Youngest unit that it cuts
						<select class="select select-xs" value={f.youngestCut} onchange={(e) => changeFault(i, { youngestCut: e.currentTarget.value })}>{#each units as u (u.id)}<option value={u.id}>{u.name}</option>{/each}</select>
					</label>
					<label class="flex flex-col" title="Boundaries in holes nearer to the fault than this belong to the fault">Half-width, {workspace.project!.lengthUnit}<input class="input input-xs numbers" type="number" min="0" step="1" value={f.halfWidth} onchange={(e) => changeFault(i, { halfWidth: e.currentTarget.valueAsNumber })} /></label>
					{#if faults.length > 1}
						<label class="flex flex-col" title="It is there only on the side of that fault on which its trace was drawn">Ends on
							<select class="select select-xs" value={f.endsOn ?? ''} onchange={(e) => changeFault(i, { endsOn: e.currentTarget.value || null })}><option value="">nothing</option>{#each faults.filter((o) => o.id !== f.id) as o (o.id)}<option value={o.id}>{o.name}</option>{/each}</select>
						</label>
					{/if}
					<label class="col-span-2 flex items-center gap-2" title="Its offset is greatest at its middle and nothing from the tip line on"><input type="checkbox" class="checkbox checkbox-xs" checked={Boolean(f.tips)} onchange={(e) => changeFault(i, { tips: e.currentTarget.checked ? tipsOf(f) : null })} />dies out to all sides</label>
					{#if f.tips}
						{@const t = f.tips}
						<label class="flex flex-col" title="Of the middle of the fault, below the middle of its trace">Elevation of its middle, {workspace.project!.lengthUnit}<input class="input input-xs numbers" type="number" step="any" value={t.elevation} onchange={(e) => Number.isFinite(e.currentTarget.valueAsNumber) && changeFault(i, { tips: { ...t, elevation: e.currentTarget.valueAsNumber } })} /></label>
						<label class="flex flex-col" title="From the middle to the tip line along the trace; 0 takes half of the trace">Half-length, {workspace.project!.lengthUnit}<input class="input input-xs numbers" type="number" min="0" step="any" value={t.halfLength} onchange={(e) => e.currentTarget.valueAsNumber >= 0 && changeFault(i, { tips: { ...t, halfLength: e.currentTarget.valueAsNumber } })} /></label>
						<label class="flex flex-col" title="From the middle to the tip line down the fault">Half-height, {workspace.project!.lengthUnit}<input class="input input-xs numbers" type="number" min="0" step="any" value={t.halfHeight} onchange={(e) => e.currentTarget.valueAsNumber > 0 && changeFault(i, { tips: { ...t, halfHeight: e.currentTarget.valueAsNumber } })} /></label>
						<label class="flex flex-col" title="Distance from the fault at which its displacement has faded">Reach, {workspace.project!.lengthUnit}<input class="input input-xs numbers" type="number" min="0" step="any" value={t.reach} onchange={(e) => e.currentTarget.valueAsNumber > 0 && changeFault(i, { tips: { ...t, reach: e.currentTarget.valueAsNumber } })} /></label>
					{/if}
					<button class="btn btn-xs col-span-2" onclick={() => drawFault(i)}>Draw again ({f.trace.length} vertices)</button>
				</div>
			</fieldset>
		{/each}
	{/if}
{/snippet}

<StageScreen {aside} width={330}><PaneGrid {workspace} stage="interpret" initial={['map']} /></StageScreen>
