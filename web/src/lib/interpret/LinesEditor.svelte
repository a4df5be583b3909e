<script lang="ts">
	import { PenLine, Trash2 } from '$lib/icons';
	import { TELLS, WALLS, wordsOf, type ContactLine, type Tells } from '#core/project/shaping';
	import type { Unit } from '#core/units/column';
	import { typedLines } from '$lib/ui/typed-numbers';
	import type { Workspace } from '$lib/workspace.svelte';

	/** Contacts as lines on the map or the section, as typed places, or as features of a layer. */
	let {
		workspace,
		units,
		lines,
		change
	}: { workspace: Workspace; units: Unit[]; lines: ContactLine[]; change: (lines: ContactLine[]) => unknown } = $props();
	const unit = $derived(workspace.project!.lengthUnit);
	const layers = $derived(workspace.things.filter((t) => t.kind === 'layer'));
	let typing = $state<string | null>(null);
	let typed = $state('');
	let problem = $state('');
	const HELP: Record<Tells, string> = {
		base: 'a place on its base, or on the boundary of an intrusion',
		top: 'a place on its top',
		inside: 'a place in the unit',
		above: 'a place above its base; of an intrusion outside of it',
		below: 'a place below its base; of an intrusion outside of it',
		hanging: 'a place on the hanging wall of a sheet',
		foot: 'a place on the footwall of a sheet',
		middle: 'a place midway between the walls of a sheet, with the thickness there'
	};
	/** Walls are told of sheets only. */
	const tellsOf = (id: string) => {
		const u = units.find((x) => x.id === id);
		return TELLS.filter((t) => WALLS[t] === undefined || (u?.contact === 'intrusive' && u.form !== 'body'));
	};
	/** What is told of another unit, or otherwise, must be possible for it. */
	function tell(l: ContactLine, values: Partial<ContactLine>) {
		const next = { ...l, ...values };
		if (!tellsOf(next.unit).includes(next.tells)) next.tells = 'base';
		if (next.tells === 'middle' && !((next.thickness ?? 0) > 0)) next.thickness = 1;
		if (next.tells !== 'middle') delete next.thickness;
		void change(lines.map((o) => (o.id === l.id ? next : o)));
	}

	function fresh(values: Partial<ContactLine>): ContactLine {
		let n = lines.length + 1;
		while (lines.some((l) => l.id === `line-${n}`)) n++;
		return { id: `line-${n}`, name: `Line ${n}`, on: true, unit: units[0]!.id, tells: 'base', error: 0, ...values };
	}
	const set = (id: string, values: Partial<ContactLine>) => change(lines.map((l) => (l.id === id ? { ...l, ...values } : l)));
	function draw(on: 'map' | 'section', id: string | null) {
		workspace.draw = {
			what: on === 'map' ? 'contact' : 'contact on section',
			done: (trace, elevations) => {
				const vertices = trace.map(([x, y], i): [number, number, number | null] => [x, y, elevations?.[i] ?? null]);
				void (id ? set(id, { vertices }) : change([...lines, fresh({ vertices })]));
			}
		};
	}
	function startTyping(l: ContactLine) {
		typing = typing === l.id ? null : l.id;
		problem = '';
		typed = (l.vertices ?? [])
			.map((v) =>
				v
					.map((c) => c ?? '')
					.join(' ')
					.trim()
			)
			.join('\n');
	}
	/** Easting, northing and perhaps elevation on each line. */
	function keepTyped(id: string) {
		let vertices: [number, number, number | null][];
		try {
			vertices = typedLines(typed, [2, 3], workspace.project?.decimal).map((c) => [c[0]!, c[1]!, c[2] ?? null]);
		} catch (error) {
			return void (problem = `${(error as Error).message}: easting, northing and, if it is known, elevation.`);
		}
		if (vertices.length === 0) return void (problem = 'Give at least one place.');
		typing = null;
		void set(id, { vertices });
	}
	const properties = (name: string) => [
		...new Set(
			layers.flatMap((l) => (l.kind === 'layer' && l.name === name ? l.features.flatMap((f) => Object.keys(f.properties ?? {})) : []))
		)
	];
	const values = (name: string, property: string) =>
		[
			...new Set(
				layers.flatMap((l) => (l.kind === 'layer' && l.name === name ? l.features.map((f) => String(f.properties?.[property] ?? '')) : []))
			)
		]
			.sort()
			.slice(0, 300);
</script>

<p class="quiet mb-2 text-sm">What is known of a unit beside the holes. Without elevations a line lies on the terrain.</p>
<div class="mb-2 flex flex-wrap gap-1.5">
	<button class="btn btn-xs" disabled={!units.length} onclick={() => draw('map', null)}><PenLine size={13} />On the map</button>
	<button class="btn btn-xs" disabled={!units.length} onclick={() => draw('section', null)}><PenLine size={13} />On the section</button>
	<button
		class="btn btn-xs"
		disabled={!units.length}
		onclick={async () => {
			const l = fresh({
				vertices: [
					[
						Math.round((workspace.project!.extent!.minX + workspace.project!.extent!.maxX) / 2),
						Math.round((workspace.project!.extent!.minY + workspace.project!.extent!.maxY) / 2),
						null
					]
				]
			});
			await change([...lines, l]);
			startTyping(l);
		}}>Typed</button
	>
	{#if layers.length}<button
			class="btn btn-xs"
			disabled={!units.length}
			onclick={() => change([...lines, fresh({ name: layers[0]!.name, layer: { name: layers[0]!.name, property: '', value: '' } })])}
			>From a layer</button
		>{/if}
</div>
{#each lines as l (l.id)}
	<fieldset class="rule mb-2 border p-2 text-sm">
		<legend class="sr-only">{l.name}</legend>
		<div class="mb-1.5 flex items-center gap-2">
			<input
				type="checkbox"
				class="checkbox checkbox-xs"
				aria-label="{l.name} is on"
				title="Takes part in the model"
				checked={l.on}
				onchange={(e) => set(l.id, { on: e.currentTarget.checked })}
			/>
			<input
				class="input input-xs min-w-0 flex-1"
				aria-label="Name of the line"
				value={l.name}
				onchange={(e) => set(l.id, { name: e.currentTarget.value.trim() || l.name })}
			/>
			<button
				class="btn btn-ghost btn-xs btn-square"
				aria-label="Remove {l.name}"
				onclick={() => change(lines.filter((o) => o.id !== l.id))}><Trash2 size={14} /></button
			>
		</div>
		<div class="grid grid-cols-[5.2rem_1fr] gap-1.5">
			<select
				class="select select-xs"
				aria-label="What {l.name} tells"
				title={HELP[l.tells]}
				value={l.tells}
				onchange={(e) => tell(l, { tells: e.currentTarget.value as Tells })}
				>{#each tellsOf(l.unit) as t (t)}<option value={t} title={HELP[t]}>{wordsOf(t)}</option>{/each}</select
			>
			<select
				class="select select-xs min-w-0"
				aria-label="Unit of {l.name}"
				value={l.unit}
				onchange={(e) => tell(l, { unit: e.currentTarget.value })}
				>{#each units as u (u.id)}<option value={u.id}>{u.name}</option>{/each}</select
			>
			{#if l.tells === 'middle'}<label class="col-span-2 flex items-center gap-2" title="True thickness of the sheet along this line"
					>thickness<input
						class="input input-xs numbers w-20"
						aria-label="Thickness at {l.name}"
						type="number"
						min="0"
						step="any"
						value={l.thickness ?? ''}
						onchange={(e) => e.currentTarget.valueAsNumber > 0 && set(l.id, { thickness: e.currentTarget.valueAsNumber })}
					/>{unit}</label
				>{/if}
			<label class="col-span-2 flex items-center gap-2" title="Standard error across the surface; 0 honours the line exactly"
				>error ±<input
					class="input input-xs numbers w-20"
					type="number"
					min="0"
					step="any"
					value={l.error}
					onchange={(e) => e.currentTarget.valueAsNumber >= 0 && set(l.id, { error: e.currentTarget.valueAsNumber })}
				/>{unit}</label
			>
			{#if l.layer}
				{@const layer = l.layer}
				<select
					class="select select-xs col-span-2"
					aria-label="Layer of {l.name}"
					value={layer.name}
					onchange={(e) => set(l.id, { layer: { name: e.currentTarget.value, property: '', value: '' } })}
					>{#each layers as t (t.id)}<option value={t.name}>{t.name}</option>{/each}</select
				>
				<select
					class="select select-xs"
					aria-label="Property of {layer.name}"
					value={layer.property}
					onchange={(e) =>
						set(l.id, { layer: { ...layer, property: e.currentTarget.value, value: values(layer.name, e.currentTarget.value)[0] ?? '' } })}
					><option value="">all</option>{#each properties(layer.name) as p (p)}<option value={p}>{p}</option>{/each}</select
				>
				{#if layer.property}<select
						class="select select-xs min-w-0"
						aria-label="Value of {layer.property}"
						value={layer.value}
						onchange={(e) => set(l.id, { layer: { ...layer, value: e.currentTarget.value } })}
						>{#each values(layer.name, layer.property) as v (v)}<option value={v}>{v || '(empty)'}</option>{/each}</select
					>{/if}
			{:else}
				<p class="quiet col-span-2 flex items-center justify-between">
					<span class="numbers"
						>{l.vertices?.length ?? 0}
						{l.vertices?.length === 1 ? 'place' : 'places'}{l.vertices?.some((v) => v[2] === null) ? ', on the terrain' : ''}</span
					><span class="flex gap-1"
						><button class="btn btn-xs" onclick={() => startTyping(l)} aria-expanded={typing === l.id}>Type</button><button
							class="btn btn-xs"
							onclick={() => draw(l.vertices?.some((v) => v[2] !== null) ? 'section' : 'map', l.id)}>Draw again</button
						></span
					>
				</p>
				{#if typing === l.id}
					<textarea
						class="textarea textarea-xs numbers col-span-2 h-24"
						aria-label="Places of {l.name}"
						placeholder="easting northing elevation"
						bind:value={typed}></textarea>
					{#if problem}<p class="text-error col-span-2" role="alert">{problem}</p>{/if}
					<button class="btn btn-xs btn-primary col-span-2" onclick={() => keepTyped(l.id)}>Keep the places</button>
				{/if}
			{/if}
		</div>
	</fieldset>
{/each}
