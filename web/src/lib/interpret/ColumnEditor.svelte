<script lang="ts">
	import { ArrowDown, ArrowUp, GripVertical, Plus, Trash2 } from '$lib/icons';
	import { CONTACT_KINDS, type ContactKind, type Unit } from '#core/units/column';
	import { newUnit } from './new-unit';

	/** Units in age order. */
	let {
		units,
		change,
		taken = []
	}: { units: Unit[]; change: (units: Unit[]) => Promise<boolean> | void; /** Ids that other units have. */ taken?: string[] } = $props();
	let name = $state('');
	let dragged = $state<number | null>(null);

	const KIND_HELP: Record<ContactKind, string> = {
		conformable: 'its base is parallel to the layers around it',
		erosional: 'its base cuts what is older',
		onlapping: 'it was laid down against an older surface',
		intrusive: 'it cuts what is older, with a boundary all round'
	};

	async function add(event: SubmitEvent) {
		event.preventDefault();
		const made = newUnit(
			name,
			units,
			taken.map((id) => ({ id }))
		);
		if ((await change([...units, made])) !== false) name = '';
	}
	function move(from: number, to: number) {
		if (to < 0 || to >= units.length || from === to) return;
		const list = [...units];
		const [u] = list.splice(from, 1);
		list.splice(to, 0, u!);
		void change(list);
	}
	const set = (i: number, values: Partial<Unit>) => change(units.map((u, k) => (k === i ? { ...u, ...values } : u)));
</script>

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
				<input
					type="color"
					class="h-5 w-7 cursor-pointer"
					aria-label="Colour of {u.name}"
					value={u.color}
					onchange={(e) => set(i, { color: e.currentTarget.value })}
				/>
				<input
					class="input input-xs min-w-0 flex-1"
					aria-label="Name of unit {i + 1}"
					value={u.name}
					onchange={(e) => e.currentTarget.value.trim() && set(i, { name: e.currentTarget.value.trim() })}
				/>
				<button
					class="btn btn-ghost btn-xs btn-square"
					aria-label="Make {u.name} younger"
					title="Younger"
					disabled={i === 0}
					onclick={() => move(i, i - 1)}><ArrowUp size={14} /></button
				>
				<button
					class="btn btn-ghost btn-xs btn-square"
					aria-label="Make {u.name} older"
					title="Older"
					disabled={i === units.length - 1}
					onclick={() => move(i, i + 1)}><ArrowDown size={14} /></button
				>
				<button
					class="btn btn-ghost btn-xs btn-square"
					aria-label="Remove {u.name}"
					title="Remove"
					onclick={() => change(units.filter((_, k) => k !== i))}><Trash2 size={14} /></button
				>
			</div>
			{#if i < units.length - 1}
				<div class="mt-1 flex items-center gap-2 pl-5">
					<svg width="54" height="10" aria-hidden="true">
						{#if u.contact === 'conformable'}<path d="M0 5h54" stroke="currentColor" fill="none" />{:else if u.contact === 'intrusive'}<path
								d="M0 5h54"
								stroke="currentColor"
								fill="none"
								stroke-dasharray="2 2"
							/><path d="M4 5l3 4M14 5l3 4M24 5l3 4M34 5l3 4M44 5l3 4" stroke="currentColor" />{:else}<path
								d="M0 5q4.5-7 9 0t9 0t9 0t9 0t9 0t9 0"
								stroke="currentColor"
								fill="none"
							/>{/if}
					</svg>
					<select
						class="select select-xs flex-1"
						aria-label="Contact kind of {u.name}"
						title={KIND_HELP[u.contact]}
						value={u.contact}
						onchange={(e) => set(i, { contact: e.currentTarget.value as ContactKind })}
					>
						{#each CONTACT_KINDS as k (k)}<option value={k} title={KIND_HELP[k]}>{k}</option>{/each}
					</select>
					{#if u.contact === 'intrusive'}
						<select
							class="select select-xs w-24"
							aria-label="Form of {u.name}"
							title="A sheet (dyke, vein) has two walls that follow each other; a body closes on itself"
							value={u.form ?? ''}
							onchange={(e) => set(i, { form: (e.currentTarget.value || undefined) as Unit['form'] })}
						>
							<option value="">as it looks</option><option value="body">body</option><option value="sheet">sheet</option>
						</select>
					{/if}
				</div>
				{#if u.contact === 'intrusive' && u.form !== 'sheet'}
					<label
						class="quiet mt-1 flex items-center gap-1.5 pl-5 text-xs"
						title="As a body. Where holes end inside it, nothing says how it goes on: it closes there, or keeps its outline to the end of the model"
					>
						where holes end inside, it
						<select
							class="select select-xs w-36"
							aria-label="{u.name} beyond its holes"
							value={u.opens ?? ''}
							onchange={(e) => set(i, { opens: (e.currentTarget.value || undefined) as Unit['opens'] })}
						>
							<option value="">closes</option><option value="down">goes on downwards</option><option value="up">goes on upwards</option
							><option value="both">goes on both ways</option>
						</select>
					</label>
				{/if}
				{#if u.contact === 'intrusive' && u.form !== 'body'}
					<label
						class="quiet mt-1 flex items-center gap-1.5 pl-5 text-xs"
						title="As a sheet. On: it ends on the way to a hole that passes it without meeting it. Off: it keeps its thickness there, and the hole is left aside"
					>
						<input
							type="checkbox"
							class="checkbox checkbox-xs"
							checked={u.thinsOut !== false}
							onchange={(e) => set(i, { thinsOut: e.currentTarget.checked ? undefined : false })}
						/>{u.name} thins out where holes pass it
					</label>
					{@const others = units.filter((o) => o.contact === 'intrusive' && o.id !== u.id && o.form !== 'body')}
					{#if others.length || u.endsAt !== undefined}
						<label
							class="quiet mt-1 flex items-center gap-1.5 pl-5 text-xs"
							title="As a sheet. It is there on one side of another sheet only, and reaches it. As the holes have it: where they meet it up to a younger sheet, and pass it beyond"
						>
							ends at
							<select
								class="select select-xs min-w-0 flex-1"
								aria-label="{u.name} ends at"
								value={u.endsAt === undefined ? 'holes' : u.endsAt === null ? 'none' : `unit ${u.endsAt}`}
								onchange={(e) => {
									const v = e.currentTarget.value;
									set(i, { endsAt: v === 'holes' ? undefined : v === 'none' ? null : v.slice(5) });
								}}
							>
								<option value="holes">what the holes say</option><option value="none">no other sheet</option>
								{#each others as o (o.id)}<option value="unit {o.id}">{o.name}</option>{/each}
								{#if u.endsAt && !others.some((o) => o.id === u.endsAt)}<option value="unit {u.endsAt}"
										>{u.endsAt}, which is no sheet</option
									>{/if}
							</select>
						</label>
					{/if}
				{/if}
			{:else}
				<p class="quiet pl-5 text-xs">basement: no base</p>
			{/if}
		</li>
	{/each}
</ol>
<form class="mt-3 flex gap-2" onsubmit={add}>
	<input
		class="input input-sm min-w-0 flex-1"
		placeholder="name of a unit"
		aria-label="Name of the new unit"
		required
		maxlength="200"
		bind:value={name}
	/><button class="btn btn-sm"><Plus size={15} />Add</button>
</form>
