<script lang="ts">
	import { untrack } from 'svelte';
	import { Download, Play, X } from '$lib/icons';
	import type { Routine } from '#core/recipes/routine';
	import { problemText } from '$lib/api/client';
	import { saveText } from '$lib/ui/save';
	import type { Workspace } from '$lib/workspace.svelte';

	/** A way of working as a text file: made of results, or run on what is chosen. */
	let { workspace }: { workspace: Workspace } = $props();
	const asked = untrack(() => workspace.routine!);
	let routine = $state.raw<Routine | null>(null);
	let name = $state('');
	/** Parameters that are to be set when it is run, as `step parameter`. */
	let open = $state<Record<string, boolean>>({});
	let inputs = $state<Record<string, string>>({});
	let values = $state<Record<string, string | number | null>>({});
	let repeated = $state('');
	let list = $state('');
	let problem = $state('');
	let busy = $state(false);
	const saving = asked.objects !== undefined;

	async function attempt(act: () => Promise<void>) {
		busy = true;
		problem = '';
		try {
			await act();
		} catch (error) {
			problem = problemText(error);
		} finally {
			busy = false;
		}
	}
	const idOf = (step: string) => workspace.objects.find((o) => o.name === step)?.id ?? '';
	const propose = (chosen: { object: string; parameter: string; name: string }[]) =>
		workspace.api.ask('proposeRoutine', { body: { name: name.trim() || 'Routine', objects: asked.objects ?? [], open: chosen } });
	if (saving)
		untrack(() => {
			name = asked.objects!.map((id) => workspace.objects.find((o) => o.id === id)?.name ?? '').join(', ');
			void attempt(async () => {
				routine = await propose([]);
			});
		});
	const save = () =>
		attempt(async () => {
			const chosen = Object.entries(open).flatMap(([key, yes]) => {
				if (!yes) return [];
				const [step, parameter] = JSON.parse(key) as [string, string];
				return [{ object: idOf(step), parameter, name: parameter }];
			});
			// Two steps may have a parameter of one name: then it is told whose it is.
			const counts = new Map<string, number>();
			for (const c of chosen) counts.set(c.name, (counts.get(c.name) ?? 0) + 1);
			for (const c of chosen)
				if (counts.get(c.name)! > 1) c.name = `${c.parameter} of ${workspace.objects.find((o) => o.id === c.object)?.name ?? ''}`;
			const made = await propose(chosen);
			saveText(`${made.name}.json`, `${JSON.stringify(made, null, '\t')}\n`, 'application/json');
			workspace.say(`${made.name} is saved. It is text: read it, change it, keep its versions.`);
			workspace.routine = null;
		});

	async function load(event: Event) {
		const input = event.currentTarget as HTMLInputElement;
		const file = input.files?.[0];
		input.value = '';
		if (!file) return;
		await attempt(async () => {
			if (file.size > 4e6) throw new Error(`${file.name} is too large to be a routine.`);
			let json: unknown;
			try {
				json = JSON.parse(await file.text());
			} catch {
				throw new Error(`${file.name} is not JSON, and so no routine.`);
			}
			const r = json as Partial<Routine>;
			if (r.malachite !== 'routine' || !Array.isArray(r.inputs) || !Array.isArray(r.steps)) throw new Error(`${file.name} is no routine.`);
			routine = { ...(json as Routine), parameters: r.parameters ?? [] };
			// What has the same name is most likely meant.
			inputs = Object.fromEntries(routine.inputs.map((i) => [i.name, fits(i.form).find((o) => o.name === i.name)?.id ?? '']));
			values = Object.fromEntries(routine.parameters.map((p) => [p.name, p.value]));
			repeated = '';
		});
	}
	function fits(form: string) {
		const forms: Record<string, readonly string[]> = { table: ['table', 'places'], grid: ['grid'], lines: ['lines', 'faces'] };
		return workspace.objects.filter((o) => o.form !== null && o.modelId === null && (forms[form] ?? []).includes(o.form));
	}
	const many = $derived(
		list
			.split(/[,;\n]/)
			.map((v) => v.trim())
			.filter(Boolean)
	);
	const isNumber = (p: string) => typeof routine?.parameters.find((x) => x.name === p)?.value === 'number';
	const run = () =>
		attempt(async () => {
			const { objects } = await workspace.api.ask('runRoutine', {
				body: {
					routine: routine as unknown as Record<string, unknown>,
					inputs: $state.snapshot(inputs),
					values: $state.snapshot(values),
					...(repeated ? { repeat: { parameter: repeated, values: many.map((v) => (isNumber(repeated) ? Number(v) : v)) } } : {})
				}
			});
			await workspace.api.start('build', { body: { objects: objects.map((o) => o.id) } });
			await workspace.refresh();
			workspace.routine = null;
			workspace.selection =
				objects.length === 1 ? { kind: 'object', id: objects[0]!.id } : { kind: 'objects', ids: objects.map((o) => o.id) };
			for (const o of objects.slice(0, 1)) workspace.bench.state.hidden[`thing:${o.id}`] = false;
		});
	const missing = $derived(routine?.inputs.filter((i) => !inputs[i.name]) ?? []);
</script>

<form
	aria-label={saving ? 'Save as a routine' : 'Run a routine'}
	onsubmit={(e) => {
		e.preventDefault();
		if (saving) void save();
		else if (routine) void run();
	}}
>
	<div class="flex items-center justify-between">
		<h2 class="panel-title">{saving ? 'Save as a routine' : 'Run a routine'}</h2>
		<button type="button" class="btn btn-ghost btn-xs btn-square" aria-label="Close" onclick={() => (workspace.routine = null)}
			><X size={14} /></button
		>
	</div>
	{#if saving}
		<p class="quiet mb-1.5 text-sm">
			The steps that lead here, as a text file that runs on other data: here, over the API, or from the command line.
		</p>
		<label class="mb-1.5 flex flex-col text-sm">Name<input class="input input-xs w-full" maxlength="200" bind:value={name} /></label>
		{#if routine}
			<p class="text-sm">It asks for: {routine.inputs.map((i) => i.name).join(', ') || 'nothing'}.</p>
			<h3 class="quiet mt-2 text-xs">Set each time it is run</h3>
			<div class="max-h-60 overflow-y-auto text-sm">
				{#each routine.steps as s (s.name)}
					<details>
						<summary class="cursor-pointer truncate" title={s.name}>{s.name}</summary>
						{#each Object.entries(s.parameters) as [key, value] (key)}
							<label class="ml-3 flex items-center gap-1.5"
								><input type="checkbox" class="checkbox checkbox-xs" bind:checked={open[JSON.stringify([s.name, key])]} /><span
									class="min-w-0 flex-1 truncate">{key}</span
								><span class="numbers quiet max-w-24 truncate" title={String(value ?? '')}>{value ?? '–'}</span></label
							>
						{/each}
					</details>
				{/each}
			</div>
			<button class="btn btn-primary btn-xs mt-2 w-full" disabled={busy}><Download size={13} />Save the file</button>
		{/if}
	{:else}
		<label class="mb-1.5 flex flex-col text-sm"
			>File<input type="file" class="file-input file-input-xs w-full" accept=".json,application/json" onchange={load} /></label
		>
		{#if routine}
			<p class="mb-1 text-sm font-medium">{routine.name}</p>
			{#if routine.about}<p class="quiet mb-1 text-sm">{routine.about}</p>{/if}
			<div class="flex flex-col gap-1.5 text-sm">
				{#each routine.inputs as i (i.name)}
					{@const can = fits(i.form)}
					<label class="flex flex-col" title={i.about}
						>{i.name}<select class="select select-xs w-full" bind:value={inputs[i.name]}>
							<option value="">{can.length ? 'Choose…' : 'There is none yet'}</option>
							{#each can as o (o.id)}<option value={o.id}>{o.name}</option>{/each}
						</select></label
					>
				{/each}
				{#each routine.parameters as p (p.name)}
					<label class="flex flex-col" title={p.about}
						>{p.name}<input
							class="input input-xs w-full"
							disabled={repeated === p.name}
							value={values[p.name] ?? ''}
							onchange={(e) => {
								const text = e.currentTarget.value.trim();
								values[p.name] = typeof p.value === 'number' ? Number(text) : text === '' && p.value === null ? null : text;
							}}
						/></label
					>
				{/each}
				{#if routine.parameters.length}
					<label class="flex flex-col"
						>Once for each value of<select class="select select-xs w-full" bind:value={repeated}>
							<option value="">– just once</option>
							{#each routine.parameters as p (p.name)}<option value={p.name}>{p.name}</option>{/each}
						</select></label
					>
					{#if repeated}<label class="flex flex-col"
							>Values, {many.length}<textarea
								class="textarea textarea-xs w-full"
								rows="3"
								placeholder="2024-01-01, 2024-02-01, …"
								bind:value={list}></textarea></label
						>{/if}
				{/if}
			</div>
			<button class="btn btn-primary btn-xs mt-2 w-full" disabled={busy || missing.length > 0 || (repeated !== '' && many.length === 0)}
				><Play size={13} />Run and build</button
			>
			{#if missing.length}<p class="quiet mt-1 text-sm">Choose what is given for {missing.map((i) => i.name).join(', ')}.</p>{/if}
		{/if}
	{/if}
	{#if problem}<p role="alert" class="text-error mt-1.5 text-sm">{problem}</p>{/if}
</form>
