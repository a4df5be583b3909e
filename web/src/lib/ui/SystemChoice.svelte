<script lang="ts">
	import { ask } from '$lib/api/client';

	/** A coordinate system, found by its code, its name or where it is used. */
	let {
		value = $bindable(),
		label,
		degrees = false,
		none = ''
	}: {
		value: number;
		label: string;
		/** Systems in degrees are taken, too. */
		degrees?: boolean;
		/** What 0 is called, where it can be chosen. */
		none?: string;
	} = $props();
	interface System {
		epsg: number;
		name: string;
		unit: string;
		area: string;
	}
	const id = $props.id();
	let text = $state('');
	let found = $state.raw<System[]>([]);
	let known = $state.raw<System | null>(null);
	let unknown = $state(false);
	let open = $state(false);
	let at = $state(0);
	let turn = 0;

	$effect(() => {
		const code = value;
		if (!code) {
			known = null;
			unknown = false;
			return;
		}
		void ask('coordinateSystem', { code }).then(
			(s) => {
				if (code !== value) return;
				known = s;
				unknown = false;
			},
			() => {
				if (code !== value) return;
				known = null;
				unknown = true;
			}
		);
	});
	async function search() {
		const mine = ++turn;
		at = 0;
		if (text.trim().length < 2) return void (found = []);
		const { systems } = await ask('findCoordinateSystems', { search: text.trim() }).catch(() => ({ systems: [] }));
		if (mine !== turn) return;
		found = systems;
		open = true;
	}
	const bad = (s: System) => !degrees && s.unit === 'degree';
	function choose(s: System | undefined) {
		if (!s || bad(s)) return;
		value = s.epsg;
		text = '';
		found = [];
		open = false;
	}
	function keys(event: KeyboardEvent) {
		if (event.key === 'ArrowDown') at = Math.min(found.length - 1, at + 1);
		else if (event.key === 'ArrowUp') at = Math.max(0, at - 1);
		else if (event.key === 'Escape' && open) open = false;
		else if (event.key === 'Enter' && text.trim()) choose(found[at]);
		else return;
		event.preventDefault();
		event.stopPropagation();
	}
</script>

<div class="relative flex flex-col gap-1">
	<label for="{id}-search">{label}</label>
	<input
		id="{id}-search"
		class="input input-sm w-full"
		role="combobox"
		aria-expanded={open && found.length > 0}
		aria-controls="{id}-list"
		aria-activedescendant={open && found[at] ? `${id}-${found[at]!.epsg}` : undefined}
		autocomplete="off"
		placeholder={value ? 'another: code, name or country' : 'code, name or country'}
		bind:value={text}
		oninput={search}
		onkeydown={keys}
		onblur={() => setTimeout(() => (open = false), 150)}
	/>
	<p class="text-sm {unknown ? 'text-error' : 'quiet'}" aria-live="polite">
		{#if known}<span class="numbers">EPSG:{known.epsg}</span>
			{known.name}, in {known.unit === 'degree' ? 'degrees' : known.unit}{known.area ? `; ${known.area}` : ''}{:else if unknown}EPSG:{value} is
			not known{:else}{none}{/if}
		{#if value && none}<button type="button" class="link" onclick={() => (value = 0)}>take {none} instead</button>{/if}
	</p>
	{#if open && text.trim().length > 1}
		<ul
			id="{id}-list"
			role="listbox"
			aria-label="Systems found"
			class="bg-base-100 rule absolute top-14 right-0 left-0 z-30 max-h-64 overflow-y-auto border shadow-lg"
		>
			{#each found as s, i (s.epsg)}
				<!-- svelte-ignore a11y_click_events_have_key_events -->
				<li
					id="{id}-{s.epsg}"
					role="option"
					aria-selected={i === at}
					aria-disabled={bad(s)}
					class="cursor-pointer px-3 py-1.5 text-sm {i === at ? 'bg-base-200' : ''} {bad(s) ? 'quiet' : ''}"
					onclick={() => choose(s)}
				>
					<span class="numbers">{s.epsg}</span>
					{s.name}<span class="quiet block truncate">{bad(s) ? 'in degrees: no model can be made in it' : s.area}</span>
				</li>
			{:else}
				<li class="quiet px-3 py-2 text-sm" role="option" aria-selected="false" aria-disabled="true">No system is called that.</li>
			{/each}
		</ul>
	{/if}
</div>
