<script lang="ts">
	import type { Given } from '$lib/api/contract';
	import { Plus, Trash2 } from '$lib/icons';
	import { BLANK } from '#core/palette';
	import { timeColor } from '#core/styles/time-colors';
	import { internationalChart } from '#core/units/international-chart';
	import { chronology, schemeProblems, type Scheme, type SchemeUnit } from '#core/units/scheme';
	import { typedNumber } from '$lib/ui/typed-numbers';
	import type { Workspace } from '$lib/workspace.svelte';

	/** Schemes of ranks: read, typed or built from a log; what contradicts itself in them; logs at a rank. */
	let { workspace }: { workspace: Workspace } = $props();

	const ground = $derived(workspace.stratigraphy);
	let chosen = $state('');
	const scheme = $derived(ground.schemes.find((s) => s.id === chosen) ?? ground.schemes[0] ?? null);
	const problems = $derived(scheme ? schemeProblems(scheme) : []);
	const order = $derived(scheme ? chronology(scheme) : []);
	let openUnit = $state('');
	let remarks = $state.raw<string[]>([]);
	let reading = $state(false);
	let pasted = $state('');
	let starting = $state<'' | 'paste' | 'columns'>('');
	let table = $state('');
	let columns = $state<string[]>([]);
	let newRank = $state('');
	let newName = $state('');
	let rank = $state(0);
	let source = $state('');
	let making = $state(false);

	const logs = $derived(
		workspace.tables.filter((t) => {
			const roles = Object.values((t.state['mapping'] ?? {}) as Record<string, string>);
			return roles.includes('hole') && (roles.includes('to') || roles.includes('thickness'));
		})
	);
	const coded = $derived(logs.filter((t) => Object.values(t.state['mapping'] as Record<string, string>).includes('code')));
	const headers = $derived(
		Object.entries((logs.find((t) => t.id === table)?.state['mapping'] ?? {}) as Record<string, string>)
			.filter(([, role]) => ['code', 'keep'].includes(role))
			.map(([h]) => h)
	);
	const freeId = (name: string, known: readonly { id: string }[]) => {
		const plain =
			name
				.toLowerCase()
				.replace(/[^a-z0-9]+/g, '-')
				.replace(/^-|-$/g, '')
				.slice(0, 30) || 'unit';
		let own = plain;
		for (let k = 2; known.some((u) => u.id === own); k++) own = `${plain}-${k}`;
		return own;
	};
	const freeSchemeName = (name: string) => {
		let own = name;
		for (let k = 2; ground.schemes.some((s) => s.name === own); k++) own = `${name} ${k}`;
		return own;
	};
	const change = (what: (s: Scheme) => Scheme) => {
		const { id } = scheme!;
		return ground.setSchemes((all) => all.map((s) => (s.id === id ? what(s) : s)));
	};
	const changeUnit = (id: string, what: Partial<SchemeUnit>) =>
		change((s) => ({ ...s, units: s.units.map((u) => (u.id === id ? { ...u, ...what } : u)) }));

	async function take(body: Given<'readScheme'>['body']) {
		reading = true;
		remarks = [];
		await workspace.attempt(async () => {
			const read = await workspace.api.ask('readScheme', { body });
			if (!(await ground.setSchemes((all) => [...all, read.scheme]))) return;
			({ remarks } = read);
			chosen = read.scheme.id;
			starting = pasted = '';
		});
		reading = false;
	}
	async function file(event: Event & { currentTarget: HTMLInputElement }) {
		const [f] = event.currentTarget.files ?? [];
		const input = event.currentTarget;
		if (!f) return;
		if (f.size > 2_000_000) workspace.say('A scheme of more than 2 MB is not read: it has one row a unit.');
		else await take({ name: freeSchemeName(f.name.replace(/\.\w+$/, '').slice(0, 150) || 'Scheme'), text: await f.text() });
		input.value = '';
	}
	async function addChart() {
		const id = freeId('time-chart', ground.schemes);
		if (
			await ground.setSchemes((all) => [
				...all,
				{ ...internationalChart(id, (n) => timeColor(n) ?? ''), name: freeSchemeName('International time chart') }
			])
		)
			chosen = id;
	}
	async function addEmpty() {
		const id = freeId('scheme', ground.schemes);
		if (
			await ground.setSchemes((all) => [...all, { id, name: freeSchemeName('Scheme'), ranks: ['group', 'formation', 'member'], units: [] }])
		)
			chosen = id;
	}
	async function addUnit(parent: SchemeUnit | null) {
		const name = newName.trim();
		if (!name || !scheme) return;
		const unit: SchemeUnit = {
			id: freeId(name, scheme.units),
			name,
			rank: parent ? Math.min(scheme.ranks.length - 1, parent.rank + 1) : 0,
			parent: parent && parent.rank + 1 < scheme.ranks.length ? parent.id : '',
			top: null,
			base: null,
			error: null,
			color: '',
			lithology: ''
		};
		if (await change((s) => ({ ...s, units: [...s.units, unit] }))) newName = '';
	}
	function age(id: string, key: 'top' | 'base' | 'error', text: string) {
		const typed = text.trim() ? typedNumber(text, workspace.project?.decimal === ',' ? ',' : '.') : null;
		if (typed && 'problem' in typed) return workspace.say(typed.problem);
		const v = typed?.value ?? null;
		if (v !== null && !(v >= 0 && v <= 20_000)) return workspace.say(`${text} is no age: 0 to 20 000 million years.`);
		void changeUnit(id, { [key]: v });
	}
	async function makeLog() {
		making = true;
		await workspace.attempt(async () => {
			const made = await workspace.api.ask('newRankLog', { object: source || coded[0]!.id, body: { scheme: scheme!.id, rank } });
			await workspace.refresh();
			workspace.say(
				`${made.name} is there${made.unknown.length ? `; the scheme does not know ${made.unknown.slice(0, 6).join(', ')}` : ''}.`
			);
		});
		making = false;
	}
	const parents = (u: SchemeUnit) => scheme!.units.filter((p) => p.rank < u.rank);
</script>

<p class="quiet mb-2 text-sm">Groups, formations, members, or units of time, each a part of one of a higher rank, with their ages.</p>
<div class="mb-2 flex flex-wrap gap-1">
	<label class="btn btn-xs {reading ? 'btn-disabled' : ''}"
		>Read a file<input type="file" class="sr-only" accept=".csv,.txt,.tsv,text/*" onchange={file} disabled={reading} /></label
	>
	<button class="btn btn-xs" aria-expanded={starting === 'paste'} onclick={() => (starting = starting === 'paste' ? '' : 'paste')}
		>Paste a table</button
	>
	{#if logs.length}<button
			class="btn btn-xs"
			aria-expanded={starting === 'columns'}
			onclick={() => (starting = starting === 'columns' ? '' : 'columns')}>From a log</button
		>{/if}
	<button class="btn btn-xs" onclick={addEmpty}>Empty</button>
	<button class="btn btn-xs" onclick={addChart}>Time chart</button>
</div>
{#if starting === 'paste'}
	<form
		class="mb-3 flex flex-col gap-1"
		onsubmit={(e) => {
			e.preventDefault();
			if (!pasted.trim()) return workspace.say('Paste rows first: Unit and Parent, or one column a rank.');
			void take({ name: freeSchemeName('Scheme'), text: pasted });
		}}
	>
		<label class="text-sm" for="scheme-text">One row a unit (Rank, Unit, Parent, ages), or one column a rank, the highest first</label>
		<textarea id="scheme-text" class="textarea textarea-xs numbers h-28 w-full" bind:value={pasted} maxlength="2000000"></textarea>
		<button class="btn btn-xs btn-primary self-start" disabled={reading}>Read it</button>
	</form>
{:else if starting === 'columns'}
	<form
		class="mb-3 flex flex-col gap-1 text-sm"
		onsubmit={(e) => {
			e.preventDefault();
			if (!table || columns.filter(Boolean).length < 2)
				return workspace.say('Choose a log and two of its columns, the highest rank first.');
			void take({ name: freeSchemeName('From the log'), table, columns: columns.filter(Boolean) });
		}}
	>
		<select class="select select-xs" aria-label="Log with columns of ranks" bind:value={table} onchange={() => (columns = [])}
			><option value="">a log …</option>{#each logs as t (t.id)}<option value={t.id}>{t.name}</option>{/each}</select
		>
		{#if table}
			{#each [0, 1, 2, 3] as i (i)}
				{#if i < 2 || columns[i - 1]}
					<select class="select select-xs" aria-label="Column of rank {i + 1}" bind:value={columns[i]}
						><option value="">{i === 0 ? 'highest rank …' : 'next rank …'}</option>{#each headers as h (h)}<option value={h}>{h}</option
							>{/each}</select
					>
				{/if}
			{/each}
		{/if}
		<button class="btn btn-xs btn-primary self-start" disabled={reading}>Build it</button>
	</form>
{/if}
{#if remarks.length}
	<div class="bg-base-200 mb-2 p-2 text-sm" role="status">
		<p>Read, with {remarks.length === 1 ? 'one remark' : `${remarks.length} remarks`}:</p>
		<ul class="list-disc pl-4">
			{#each remarks.slice(0, 20) as r, i (i)}<li>{r}</li>{/each}
		</ul>
	</div>
{/if}
{#if !scheme}
	<p class="text-sm">No scheme yet.</p>
{:else}
	<div class="mb-2 flex items-center gap-1">
		{#if ground.schemes.length > 1}
			<select class="select select-xs" aria-label="Scheme" value={scheme.id} onchange={(e) => (chosen = e.currentTarget.value)}
				>{#each ground.schemes as s (s.id)}<option value={s.id}>{s.name}</option>{/each}</select
			>
		{/if}
		<input
			class="input input-xs min-w-0 flex-1"
			aria-label="Name of the scheme"
			value={scheme.name}
			maxlength="200"
			onchange={(e) => e.currentTarget.value.trim() && change((s) => ({ ...s, name: e.currentTarget.value.trim() }))}
		/>
		<button
			class="btn btn-ghost btn-xs btn-square"
			aria-label="Take the scheme {scheme.name} out"
			onclick={() => ground.setSchemes((all) => all.filter((s) => s.id !== scheme!.id))}><Trash2 size={13} /></button
		>
	</div>
	<p class="quiet mb-1 text-sm">
		{#each scheme.ranks as r, i (i)}{i ? ' › ' : ''}{r} ({scheme.units.filter((u) => u.rank === i).length}){/each}
	</p>
	<form
		class="mb-2 flex gap-1"
		onsubmit={(e) => {
			e.preventDefault();
			const r = newRank.trim();
			if (!r) return;
			void change((s) => ({ ...s, ranks: [...s.ranks, r] })).then((done) => done && (newRank = ''));
		}}
	>
		<input class="input input-xs w-32" placeholder="a lower rank" aria-label="Name of a lower rank" maxlength="60" bind:value={newRank} />
		<button class="btn btn-xs" disabled={!newRank.trim()}>Add rank</button>
	</form>
	{#if problems.length}
		<section class="mb-2" aria-label="What contradicts itself">
			<h3 class="text-sm font-medium">{problems.length === 1 ? 'One contradiction' : `${problems.length} contradictions`}</h3>
			<ul>
				{#each problems.slice(0, 50) as p, i (i)}
					<li><button class="link text-left text-sm" title={p.hint} onclick={() => (openUnit = p.unit)}>{p.message}</button></li>
				{/each}
			</ul>
		</section>
	{/if}
	<ul class="rule mb-2 border-t text-sm" aria-label="Units of {scheme.name}">
		{#each order as u (u.id)}
			<li class="rule border-b">
				<button
					class="hover:bg-base-200 flex w-full items-center gap-2 py-1 text-left"
					style="padding-left:{4 + 14 * u.rank}px"
					aria-expanded={openUnit === u.id}
					onclick={() => (openUnit = openUnit === u.id ? '' : u.id)}
				>
					<span class="h-3.5 w-3.5 shrink-0 border" style="background:{u.color || BLANK}"></span>
					<span class="min-w-0 flex-1 truncate {u.rank === 0 ? 'font-medium' : ''}">{u.name}</span>
					<span class="quiet numbers text-xs"
						>{u.top ?? ''}{u.top !== null || u.base !== null ? '–' : ''}{u.base ?? ''}{u.base !== null ? ' Ma' : ''}</span
					>
				</button>
				{#if openUnit === u.id}
					<div class="bg-base-200 grid grid-cols-2 gap-1 p-2 text-xs">
						<label class="col-span-2 flex flex-col"
							>Name<input
								class="input input-xs"
								value={u.name}
								maxlength="200"
								onchange={(e) => e.currentTarget.value.trim() && changeUnit(u.id, { name: e.currentTarget.value.trim() })}
							/></label
						>
						<label class="flex flex-col"
							>Rank<select
								class="select select-xs"
								value={u.rank}
								onchange={(e) =>
									changeUnit(u.id, {
										rank: Number(e.currentTarget.value),
										...(scheme!.units.some((p) => p.id === u.parent && p.rank < Number(e.currentTarget.value)) ? {} : { parent: '' })
									})}
								>{#each scheme.ranks as r, i (i)}<option value={i}>{r}</option>{/each}</select
							></label
						>
						<label class="flex flex-col"
							>Part of<select
								class="select select-xs"
								value={u.parent}
								onchange={(e) => changeUnit(u.id, { parent: e.currentTarget.value, otherParents: undefined })}
								><option value="">nothing</option>{#each parents(u) as p (p.id)}<option value={p.id}>{p.name}</option>{/each}</select
							></label
						>
						<label class="flex flex-col"
							>Top, Ma<input
								class="input input-xs numbers"
								value={u.top ?? ''}
								onchange={(e) => age(u.id, 'top', e.currentTarget.value)}
							/></label
						>
						<label class="flex flex-col"
							>Base, Ma<input
								class="input input-xs numbers"
								value={u.base ?? ''}
								onchange={(e) => age(u.id, 'base', e.currentTarget.value)}
							/></label
						>
						<label class="flex flex-col"
							>± Ma<input
								class="input input-xs numbers"
								value={u.error ?? ''}
								onchange={(e) => age(u.id, 'error', e.currentTarget.value)}
							/></label
						>
						<label class="flex flex-col"
							>Colour<input
								type="color"
								class="h-6 w-full"
								value={u.color || BLANK}
								onchange={(e) => changeUnit(u.id, { color: e.currentTarget.value })}
							/></label
						>
						<label class="col-span-2 flex flex-col"
							>Rock<input
								class="input input-xs"
								value={u.lithology}
								maxlength="200"
								onchange={(e) => changeUnit(u.id, { lithology: e.currentTarget.value.trim() })}
							/></label
						>
						<button
							class="btn btn-xs col-span-2 justify-self-start"
							onclick={() =>
								change((s) => ({
									...s,
									units: s.units.filter((x) => x.id !== u.id).map((x) => (x.parent === u.id ? { ...x, parent: u.parent } : x))
								}))}><Trash2 size={12} />Take {u.name} out</button
						>
					</div>
				{/if}
			</li>
		{/each}
	</ul>
	<form
		class="mb-4 flex gap-1"
		onsubmit={(e) => {
			e.preventDefault();
			void addUnit(scheme!.units.find((u) => u.id === openUnit) ?? null);
		}}
	>
		<input
			class="input input-xs min-w-0 flex-1"
			placeholder={openUnit ? `a part of ${scheme.units.find((u) => u.id === openUnit)?.name ?? ''}` : 'a unit'}
			aria-label="Name of a new unit"
			maxlength="200"
			bind:value={newName}
		/>
		<button class="btn btn-xs" disabled={!newName.trim()}><Plus size={12} />Add</button>
	</form>
	{#if coded.length && scheme.units.length}
		<section class="rule flex flex-col gap-1 border-t pt-2 text-sm">
			<h3 class="font-medium">A log at a rank</h3>
			<p class="quiet">A version of a log in which each code is the unit of this rank that it is a part of. It follows the log.</p>
			<div class="flex flex-wrap gap-1">
				<select class="select select-xs" aria-label="Log" value={source || coded[0]!.id} onchange={(e) => (source = e.currentTarget.value)}
					>{#each coded as t (t.id)}<option value={t.id}>{t.name}</option>{/each}</select
				>
				<select class="select select-xs" aria-label="Rank" bind:value={rank}
					>{#each scheme.ranks as r, i (i)}<option value={i}>{r}</option>{/each}</select
				>
				<button class="btn btn-xs" disabled={making} onclick={makeLog}>{making ? 'Making it …' : 'Make it'}</button>
			</div>
		</section>
	{/if}
{/if}
