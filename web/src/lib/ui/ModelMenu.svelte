<script lang="ts">
	import { ArrowUp, ChevronDown, Copy, Plus, Trash2 } from '$lib/icons';
	import type { ProjectObject } from '$lib/api/types';
	import { stateOfMade } from '$lib/results/choices';
	import StateMark from '$lib/results/StateMark.svelte';
	import type { Workspace } from '$lib/workspace.svelte';
	import Popover from './Popover.svelte';

	/** The models of the project, and which of them is worked on. */
	let { workspace }: { workspace: Workspace } = $props();
	let open = $state(false);
	const models = $derived(workspace.models);
	const own = $derived(models.find((m) => m.id === workspace.modelId));
	const unitsOf = (m: ProjectObject) =>
		(workspace.objects.find((o) => o.kind === 'column' && o.modelId === m.id)?.state['units'] as unknown[] | undefined)?.length ?? 0;

	/** Starts a model, and goes on with it. */
	const add = (from?: string) =>
		workspace.attempt(async () => {
			const { id } = await workspace.api.ask('addModel', { body: from ? { from } : {} });
			await workspace.refresh();
			await workspace.goToModel(id);
		});
	const rename = (m: ProjectObject, input: HTMLInputElement) =>
		workspace.attempt(async () => {
			const name = input.value.trim();
			if (!name || name === m.name) return void (input.value = m.name);
			try {
				await workspace.api.ask('changeModel', { object: m.id, body: { name, revision: m.revision } });
			} catch (error) {
				input.value = m.name;
				throw error;
			}
			await workspace.refresh();
		});
	const first = (m: ProjectObject) =>
		workspace.attempt(async () => {
			const order = models.map((x) => x.id);
			const at = order.indexOf(m.id);
			order.splice(at - 1, 2, m.id, order[at - 1]!);
			await workspace.api.ask('orderModels', { body: { models: order } });
			await workspace.refresh();
		});
	const remove = (m: ProjectObject) =>
		workspace.attempt(async () => {
			const users = workspace.made.filter((o) => o.inputs.some((i) => workspace.objects.find((x) => x.id === i)?.modelId === m.id));
			if (
				users.length &&
				!confirm(`${users.map((u) => u.name).join(', ')} ${users.length === 1 ? 'is' : 'are'} made of ${m.name}. Take it out all the same?`)
			)
				return;
			await workspace.api.ask('removeModel', { object: m.id });
			await workspace.refresh();
			workspace.say(`${m.name} is taken out. Ctrl Z brings it back.`);
		});
</script>

{#if own}
	<div class="relative min-w-10">
		<button
			class="btn btn-ghost btn-sm w-full max-w-44 gap-1 px-2 font-normal"
			aria-expanded={open}
			title="The model that is worked on; press for others"
			onclick={() => (open = !open)}><span class="truncate">{own.name}</span><ChevronDown size={14} class="shrink-0" /></button
		>
		{#if open}
			<Popover label="Models" at="left-0 top-9" close={() => (open = false)}>
				<div class="w-84 p-3">
					<h2 class="panel-title mb-1">Models</h2>
					<ul class="max-h-80 overflow-y-auto text-sm" aria-label="Models">
						{#each models as m, i (m.id)}
							<li class="rule flex items-center gap-1.5 border-b py-1 last:border-0">
								<input
									type="radio"
									class="radio radio-xs"
									name="model"
									aria-label="Work on {m.name}"
									checked={m.id === own.id}
									onchange={() => workspace.goToModel(m.id)}
								/>
								<StateMark state={stateOfMade(m, workspace.jobOf(m.id) !== undefined)} />
								<input
									class="input input-xs input-ghost min-w-0 flex-1 px-1 {m.id === own.id ? 'font-semibold' : ''}"
									aria-label="Name of model {i + 1}"
									maxlength="200"
									value={m.name}
									onchange={(e) => rename(m, e.currentTarget)}
								/>
								<span class="quiet numbers text-xs whitespace-nowrap"
									>{unitsOf(m)} units, {m.state['spacing']} {workspace.project?.lengthUnit}</span
								>
								{#if i > 0}<button
										class="btn btn-ghost btn-xs btn-square"
										aria-label="Move {m.name} up"
										title="Move up"
										onclick={() => first(m)}><ArrowUp size={13} /></button
									>{/if}
								<button class="btn btn-ghost btn-xs btn-square" aria-label="Duplicate {m.name}" title="Duplicate" onclick={() => add(m.id)}
									><Copy size={13} /></button
								>
								<button
									class="btn btn-ghost btn-xs btn-square"
									disabled={models.length === 1}
									aria-label="Take out {m.name}"
									title={models.length === 1 ? 'The only model stays' : 'Take it out'}
									onclick={() => remove(m)}><Trash2 size={13} /></button
								>
							</li>
						{/each}
					</ul>
					<button class="btn btn-xs mt-2" onclick={() => add()}><Plus size={13} />New model</button>
					<p class="quiet mt-2 text-xs">Each has its own column, codes, faults and shape. All share holes, checks and sections.</p>
				</div>
			</Popover>
		{/if}
	</div>
{/if}
