<script lang="ts">
	import Fold from '$lib/ui/Fold.svelte';
	import { PenLine, Trash2 } from '$lib/icons';
	import { RADIANS, wrapAzimuth } from '#core/geometry/angles';
	import type { FaultSpec } from '#core/model/ground';
	import type { Unit } from '#core/units/column';
	import { spaced } from '$lib/ui/numbers';
	import { typedLines } from '$lib/ui/typed-numbers';
	import type { Workspace } from '$lib/workspace.svelte';
	import FaultNetwork from './FaultNetwork.svelte';

	/** Faults with what they cut, on what they end and where they die out. */
	let {
		workspace,
		units,
		faults,
		change: setFaults
	}: { workspace: Workspace; units: Unit[]; faults: FaultSpec[]; change: (faults: FaultSpec[]) => unknown } = $props();
	const chosen = $derived(workspace.selection?.kind === 'fault' ? workspace.selection.id : null);
	const changeFault = (i: number, values: Partial<FaultSpec>) => setFaults(faults.map((f, k) => (k === i ? { ...f, ...values } : f)));

	const misfitOf = (id: string): number | null => workspace.report?.faultMisfits?.find((m) => m.id === id)?.misfit ?? null;
	function typedPlaces(i: number, field: HTMLTextAreaElement) {
		try {
			const places = typedLines(field.value, [3, 5], workspace.project?.decimal).map(([x, y, z, dip, dipAzimuth]) => ({
				x: x!,
				y: y!,
				z: z!,
				dip: dip ?? null,
				dipAzimuth: dipAzimuth ?? null
			}));
			void changeFault(i, { places });
		} catch (error) {
			workspace.say(`The places were not taken: ${(error as Error).message}.`, 'error');
		}
	}

	/** A tip line to begin with: round the trace, about as high as the trace is long. */
	function tipsOf(f: FaultSpec) {
		const [a, b] = [f.trace[0]!, f.trace[f.trace.length - 1]!];
		const half = Math.round(Math.hypot(b[0] - a[0], b[1] - a[1]) / 2);
		const e = workspace.project!.extent;
		return {
			elevation: e ? Math.round((e.minZ + e.maxZ) / 2) : 0,
			halfLength: half,
			halfHeight: Math.max(1, Math.round(half * 0.7)),
			reach: Math.max(1, half)
		};
	}

	/** Another line on which the fault was seen. */
	function drawPiece(index: number) {
		workspace.draw = {
			what: 'fault',
			done: (line) => void changeFault(index, { pieces: [...(faults[index]!.pieces ?? []), line] })
		};
	}
	/** Models that have faults which this one has not. */
	const others = $derived(
		workspace.objects.flatMap((o) => {
			if (o.kind !== 'faults' || o.modelId === workspace.modelId) return [];
			const own = (o.state['faults'] as FaultSpec[]).filter((f) => !faults.some((x) => x.name === f.name));
			const model = workspace.models.find((m) => m.id === o.modelId);
			return model && own.length ? [{ model, faults: own }] : [];
		})
	);
	/** Takes faults over from another model; what they cut is the youngest unit that both have, else all. */
	function takeOver(from: readonly FaultSpec[]) {
		const taken = new Set(faults.map((f) => f.id));
		const renamed = new Map<string, string>();
		for (const f of from) {
			let id = f.id;
			for (let n = 2; taken.has(id); n++) id = `${f.id}-${n}`;
			taken.add(id);
			renamed.set(f.id, id);
		}
		void setFaults([
			...faults,
			...from.map((f) => ({
				...f,
				id: renamed.get(f.id)!,
				youngestCut: units.some((u) => u.id === f.youngestCut) ? f.youngestCut : (units[0]?.id ?? ''),
				endsOn: f.endsOn ? (renamed.get(f.endsOn) ?? (faults.some((x) => x.id === f.endsOn) ? f.endsOn : null)) : null
			}))
		]);
	}
	function drawFault(index: number | null) {
		workspace.draw = {
			what: 'fault',
			done: (trace) => {
				if (index !== null) return void changeFault(index, { trace });
				const [a, b] = [trace[0]!, trace[trace.length - 1]!];
				const dipAzimuth = Math.round(wrapAzimuth(Math.atan2(b[0] - a[0], b[1] - a[1]) / RADIANS + 90)) % 360;
				const taken = new Set(
					[...workspace.interpretation!.faults.faults, ...workspace.interpretation!.shaping.divisions.flatMap((d) => d.faults)].map(
						(f) => f.id
					)
				);
				let n = taken.size + 1;
				while (taken.has(`fault-${n}`)) n++;
				void setFaults([
					...faults,
					{ id: `fault-${n}`, name: `Fault ${n}`, trace, dip: 70, dipAzimuth, youngestCut: units[0]?.id ?? '', halfWidth: 5, on: true }
				]);
			}
		};
	}
</script>

<button class="btn btn-sm btn-primary mb-3 w-full" disabled={units.length < 2} onclick={() => drawFault(null)}
	><PenLine size={15} />Draw a fault</button
>
{#if units.length > 1}
	{#each others as o (o.model.id)}
		<button class="btn btn-sm mb-3 w-full" title={o.faults.map((f) => f.name).join(', ')} onclick={() => takeOver(o.faults)}
			>Take {o.faults.length === 1 ? o.faults[0]!.name : `${o.faults.length} faults`} over from {o.model.name}</button
		>
	{/each}
{/if}
{#if units.length < 2}<p class="quiet text-sm">First put the units into the column.</p>{/if}
{#if faults.length > 1}<FaultNetwork {faults} {units} {chosen} choose={(id) => (workspace.selection = { kind: 'fault', id })} />{/if}
{#each faults as f, i (f.id)}
	<fieldset class="rule mb-3 border p-3 {chosen === f.id ? 'border-l-4 border-l-primary' : ''}">
		<legend class="sr-only">{f.name}</legend>
		<div class="mb-2 flex items-center gap-2">
			<input
				type="checkbox"
				class="checkbox checkbox-xs"
				aria-label="{f.name} is on"
				title="Takes part in the model"
				checked={f.on}
				onchange={(e) => changeFault(i, { on: e.currentTarget.checked })}
			/>
			<input
				class="input input-xs min-w-0 flex-1"
				aria-label="Name of the fault"
				value={f.name}
				onchange={(e) => changeFault(i, { name: e.currentTarget.value.trim() || f.name })}
			/>
			<button
				class="btn btn-ghost btn-xs btn-square"
				title="Remove"
				aria-label="Remove {f.name}"
				onclick={() => setFaults(faults.filter((_, k) => k !== i))}><Trash2 size={14} /></button
			>
		</div>
		<div class="grid grid-cols-2 items-end gap-2 text-sm">
			<label class="flex flex-col"
				>Dip, °<input
					class="input input-xs numbers"
					type="number"
					min="1"
					max="90"
					step="1"
					value={f.dip}
					onchange={(e) => changeFault(i, { dip: e.currentTarget.valueAsNumber })}
				/></label
			>
			<label class="flex flex-col" title="Roughly: the exact direction follows from trace, dip and terrain"
				>Dips towards, °<input
					class="input input-xs numbers"
					type="number"
					min="0"
					max="360"
					step="1"
					value={f.dipAzimuth}
					onchange={(e) => changeFault(i, { dipAzimuth: e.currentTarget.valueAsNumber })}
				/></label
			>
			<label class="col-span-2 flex flex-col"
				>Youngest unit that it cuts
				<select
					class="select select-xs w-full"
					value={f.youngestCut}
					onchange={(e) => changeFault(i, { youngestCut: e.currentTarget.value })}
					>{#each units as u (u.id)}<option value={u.id}>{u.name}</option>{/each}</select
				>
			</label>
			<label class="flex flex-col" title="Boundaries in holes nearer to the fault than this belong to the fault"
				>Half-width, {workspace.project!.lengthUnit}<input
					class="input input-xs numbers"
					type="number"
					min="0"
					step="1"
					value={f.halfWidth}
					onchange={(e) => changeFault(i, { halfWidth: e.currentTarget.valueAsNumber })}
				/></label
			>
			<label
				class="flex flex-col"
				title="Contacts that contradict their side of it, and are no farther from it than this, are tried on the other side; then it moves. Empty: a fiftieth of the extent"
				>May be off by, {workspace.project!.lengthUnit}<input
					class="input input-xs numbers"
					type="number"
					min="0"
					step="any"
					placeholder="as usual"
					value={f.uncertainty ?? ''}
					onchange={(e) =>
						changeFault(i, {
							uncertainty: e.currentTarget.value === '' || !(e.currentTarget.valueAsNumber >= 0) ? null : e.currentTarget.valueAsNumber
						})}
				/></label
			>
			<Fold filled={Boolean(f.places?.length)} look="col-span-2">
				{#snippet title()}<summary class="cursor-pointer">Places on it at depth{f.places?.length ? ` (${f.places.length})` : ''}</summary
					>{/snippet}
				<label class="flex flex-col"
					><span class="quiet text-xs"
						>One a line: easting northing elevation, and the dip and its direction there where they were measured</span
					>
					<textarea
						class="textarea textarea-sm coordinates w-full"
						rows="3"
						aria-label="Places on {f.name}"
						value={(f.places ?? [])
							.map((p) =>
								[
									p.x,
									p.y,
									p.z,
									...(p.dip ? [p.dip, ...(p.dipAzimuth === null || p.dipAzimuth === undefined ? [] : [p.dipAzimuth])] : [])
								].join(' ')
							)
							.join('\n')}
						onchange={(e) => typedPlaces(i, e.currentTarget)}></textarea>
				</label>
				{#if misfitOf(f.id) !== null}<p class="quiet mt-1 text-xs">
						The fault passes them at {spaced(misfitOf(f.id)!, 1)}
						{workspace.project!.lengthUnit} (root mean square).
					</p>{/if}
			</Fold>
			{#if faults.length > 1}
				<label class="flex flex-col" title="It is there only on the side of that fault on which its trace was drawn"
					>Ends on
					<select
						class="select select-xs"
						value={f.endsOn ?? ''}
						onchange={(e) => changeFault(i, { endsOn: e.currentTarget.value || null })}
						><option value="">nothing</option>{#each faults.filter((o) => o.id !== f.id) as o (o.id)}<option value={o.id}>{o.name}</option
							>{/each}</select
					>
				</label>
			{/if}
			<label class="col-span-2 flex items-center gap-2" title="Its offset is greatest at its middle and nothing from the tip line on"
				><input
					type="checkbox"
					class="checkbox checkbox-xs"
					checked={Boolean(f.tips)}
					onchange={(e) => changeFault(i, { tips: e.currentTarget.checked ? tipsOf(f) : null })}
				/>dies out to all sides</label
			>
			{#if f.tips}
				{@const t = f.tips}
				<label class="flex flex-col" title="Elevation of the middle of the fault, below the middle of its trace"
					>Middle lies at, {workspace.project!.lengthUnit}<input
						class="input input-xs numbers"
						type="number"
						step="any"
						value={t.elevation}
						onchange={(e) =>
							Number.isFinite(e.currentTarget.valueAsNumber) &&
							changeFault(i, { tips: { ...t, elevation: e.currentTarget.valueAsNumber } })}
					/></label
				>
				<label class="flex flex-col" title="From the middle to the tip line along the trace; 0 takes half of the trace"
					>Half-length, {workspace.project!.lengthUnit}<input
						class="input input-xs numbers"
						type="number"
						min="0"
						step="any"
						value={t.halfLength}
						onchange={(e) =>
							e.currentTarget.valueAsNumber >= 0 && changeFault(i, { tips: { ...t, halfLength: e.currentTarget.valueAsNumber } })}
					/></label
				>
				<label class="flex flex-col" title="From the middle to the tip line down the fault"
					>Half-height, {workspace.project!.lengthUnit}<input
						class="input input-xs numbers"
						type="number"
						min="0"
						step="any"
						value={t.halfHeight}
						onchange={(e) =>
							e.currentTarget.valueAsNumber > 0 && changeFault(i, { tips: { ...t, halfHeight: e.currentTarget.valueAsNumber } })}
					/></label
				>
				<label class="flex flex-col" title="Distance from the fault at which its displacement has faded"
					>Reach, {workspace.project!.lengthUnit}<input
						class="input input-xs numbers"
						type="number"
						min="0"
						step="any"
						value={t.reach}
						onchange={(e) => e.currentTarget.valueAsNumber > 0 && changeFault(i, { tips: { ...t, reach: e.currentTarget.valueAsNumber } })}
					/></label
				>
			{/if}
			<button class="btn btn-xs" title="Its trace has {f.trace.length} vertices" onclick={() => drawFault(i)}>Draw again</button>
			<button class="btn btn-xs" title="Another line on which it was seen, with a gap between" onclick={() => drawPiece(i)}
				>Add a piece{f.pieces?.length ? ` (${f.pieces.length})` : ''}</button
			>
			{#if f.pieces?.length}<button
					class="btn btn-ghost btn-xs col-span-2"
					onclick={() => changeFault(i, { pieces: f.pieces!.length > 1 ? f.pieces!.slice(0, -1) : undefined })}
					>Take the last piece back</button
				>{/if}
		</div>
	</fieldset>
{/each}
