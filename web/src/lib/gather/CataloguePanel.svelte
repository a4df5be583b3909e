<script lang="ts">
	import { DRAWN, QUIET } from '#core/palette';
	import 'ol/ol.css';
	import OlMap from 'ol/Map';
	import View from 'ol/View';
	import Feature from 'ol/Feature';
	import Graticule from 'ol/layer/Graticule';
	import VectorLayer from 'ol/layer/Vector';
	import VectorSource from 'ol/source/Vector';
	import Draw, { createBox } from 'ol/interaction/Draw';
	import { fromExtent } from 'ol/geom/Polygon';
	import { Fill, Stroke, Style, Text } from 'ol/style';
	import { PenLine, Search } from '$lib/icons';
	import { addressOf, problemText } from '$lib/api/client';
	import { bytes, spaced } from '$lib/ui/numbers';
	import type { Workspace } from '$lib/workspace.svelte';

	/** Searches the regional catalogue for an area and brings in what is chosen. */
	let { workspace }: { workspace: Workspace } = $props();
	interface Entry {
		id: string;
		title: string;
		description: string;
		as: string;
		resolution: number | null;
		date: string;
		licence: string;
		size: number;
		area: number;
		box: [number, number, number, number];
	}
	let box = $state<[number, number, number, number] | null>(null);
	let words = $state('');
	let entries = $state<Entry[] | null>(null);
	let problem = $state('');
	let busy = $state(false);
	let every = $state<Record<string, number>>({});
	let progress = $state<Record<string, { share: number; what: string; job: string } | string>>({});
	let map: OlMap | null = null;
	const shapes = new VectorSource<Feature>();
	let drawing = $state(false);

	async function search() {
		busy = true;
		problem = '';
		try {
			const r = await workspace.api.ask('searchCatalogue', { q: words, bbox: box?.join(',') });
			box = r.box;
			entries = r.records;
		} catch (error) {
			entries = null;
			problem = problemText(error);
		}
		busy = false;
	}

	/** Bytes that an area of a record comes to, roughly. */
	function estimate(e: Entry): number {
		if (!box) return e.size;
		const [w, s, east, n] = box;
		const share =
			(Math.max(0, Math.min(east, e.box[2]) - Math.max(w, e.box[0])) * Math.max(0, Math.min(n, e.box[3]) - Math.max(s, e.box[1]))) /
			((e.box[2] - e.box[0]) * (e.box[3] - e.box[1]));
		return (e.size * share) / (every[e.id] ?? 1) ** 2;
	}

	async function fetchEntry(e: Entry) {
		const taken = new Set(workspace.objects.map((o) => o.name));
		let name = e.title;
		for (let n = 2; taken.has(name); n++) name = `${e.title} ${n}`;
		try {
			const job = await workspace.api.start('fetchFromCatalogue', { record: e.id, body: { box: box!, every: every[e.id] ?? 1, name } });
			for (;;) {
				const j = await workspace.api.ask('getJob', { job });
				if (['done', 'failed', 'cancelled'].includes(j.state)) {
					progress[e.id] =
						j.state === 'done'
							? `Brought in as ${name}`
							: j.outcome?.problem
								? [j.outcome.problem.title, j.outcome.problem.hint].filter(Boolean).join('. ')
								: 'Cancelled; nothing was stored.';
					break;
				}
				progress[e.id] = { share: j.share, what: j.what, job };
				await new Promise((r) => setTimeout(r, 250));
			}
			await workspace.refresh();
		} catch (error) {
			progress[e.id] = problemText(error);
		}
	}

	function show(node: HTMLDivElement) {
		const style = (f: { get(key: string): unknown }) =>
			new Style({
				stroke: new Stroke({ color: f.get('area') ? DRAWN : QUIET, width: f.get('area') ? 2 : 1 }),
				fill: new Fill({ color: f.get('area') ? 'rgba(43,95,168,.12)' : 'rgba(140,136,119,.08)' }),
				text: new Text({ text: f.get('area') ? 'area' : '', fill: new Fill({ color: DRAWN }), font: '12px "IBM Plex Sans"' })
			});
		map = new OlMap({
			target: node,
			layers: [
				new VectorLayer({ source: shapes, style: (f) => style(f) }),
				new Graticule({ strokeStyle: new Stroke({ color: 'rgba(30,42,38,.25)', width: 1 }), showLabels: true, wrapX: false })
			],
			view: new View({ projection: 'EPSG:4326', center: [0, 0], zoom: 2, enableRotation: false }),
			controls: []
		});
		return { destroy: () => map?.setTarget(undefined) };
	}

	$effect(() => {
		shapes.clear();
		for (const e of entries ?? []) shapes.addFeature(new Feature({ geometry: fromExtent(e.box) }));
		// While it is typed, an area may have no size yet.
		if (box && box[0] < box[2] && box[1] < box[3]) shapes.addFeature(new Feature({ geometry: fromExtent(box), area: true }));
		if (shapes.getFeatures().length) map?.getView().fit(shapes.getExtent()!, { padding: [20, 20, 20, 20], maxZoom: 14 });
	});

	function draw() {
		if (!map) return;
		drawing = true;
		const tool = new Draw({ type: 'Circle', geometryFunction: createBox(), source: new VectorSource() });
		tool.on('drawend', (e) => {
			box = e.feature
				.getGeometry()!
				.getExtent()
				.map((v) => Number(v.toFixed(5))) as [number, number, number, number];
			drawing = false;
			setTimeout(() => map?.removeInteraction(tool));
			void search();
		});
		map.addInteraction(tool);
	}
	const SIDES = ['West', 'South', 'East', 'North'] as const;
	function type(i: number, value: number) {
		const next = [...(box ?? [0, 0, 0, 0])] as [number, number, number, number];
		next[i] = value;
		box = next;
	}
</script>

<section class="bg-base-100 rule mt-3 border p-4" aria-label="Regional catalogue">
	<div class="grid grid-cols-[300px_minmax(0,1fr)] gap-4">
		<div>
			<div use:show class="rule h-56 w-full border" role="application" aria-label="Area for the search"></div>
			<button class="btn btn-xs mt-1 w-full" onclick={draw} disabled={drawing}
				><PenLine size={13} />{drawing ? 'Press two corners on the map' : 'Draw the area'}</button
			>
			<div class="mt-2 grid grid-cols-2 gap-2 text-sm">
				{#each SIDES as side, i (side)}<label class="flex flex-col"
						>{side}, °<input
							class="input input-xs numbers"
							type="number"
							step="any"
							value={box?.[i] ?? ''}
							onchange={(e) => type(i, e.currentTarget.valueAsNumber)}
						/></label
					>{/each}
			</div>
			<button
				class="btn btn-ghost btn-xs mt-1"
				onclick={() => {
					box = null;
					void search();
				}}>Take the extent of the project</button
			>
		</div>
		<div class="min-w-0">
			<form
				class="mb-2 flex gap-2"
				onsubmit={(e) => {
					e.preventDefault();
					void search();
				}}
			>
				<input
					class="input input-sm flex-1"
					placeholder="terrain, magnetics, geology …; empty for everything"
					aria-label="Words to look for"
					bind:value={words}
				/><button class="btn btn-sm btn-primary" disabled={busy}><Search size={15} />Search</button>
			</form>
			{#if problem}<p role="alert" class="border-error text-error border-l-4 px-2">{problem}</p>{/if}
			{#if busy}<p class="quiet">Asking the catalogue…</p>{/if}
			{#if entries && entries.length === 0}<p class="quiet">
					Nothing for this area and these words. Draw a larger area, or leave the words out.
				</p>{/if}
			<ul>
				{#each entries ?? [] as e (e.id)}
					{@const state = progress[e.id]}
					<li class="rule flex gap-3 border-b py-2">
						<img src={addressOf('cataloguePicture', { record: e.id })} alt="" class="rule h-14 w-20 shrink-0 border object-cover" />
						<div class="min-w-0 flex-1">
							<p class="font-medium">{e.title}</p>
							<p class="quiet text-sm">{e.description}. {e.date}. {e.licence}</p>
							{#if typeof state === 'string'}<p class="text-sm" role="status">{state}</p>{:else if state}<div
									class="flex items-center gap-2 text-sm"
								>
									<progress class="progress progress-primary w-40" value={state.share} max="1" aria-label="Downloading {e.title}"
									></progress>{state.what}<button class="btn btn-xs" onclick={() => workspace.cancel(state.job)}>Cancel</button>
								</div>{/if}
						</div>
						<div class="numbers flex shrink-0 flex-col items-end gap-1 text-sm">
							{#if e.resolution}
								<label class="flex items-center gap-1"
									>at <select
										class="select select-xs w-24"
										value={every[e.id] ?? 1}
										onchange={(ev) => (every[e.id] = Number(ev.currentTarget.value))}
										>{#each [1, 2, 4, 8] as k (k)}<option value={k}>{spaced(e.resolution * k)} m</option>{/each}</select
									></label
								>
							{/if}
							<span class="quiet">about {bytes(estimate(e))}</span>
							<button class="btn btn-xs" disabled={typeof state === 'object'} onclick={() => fetchEntry(e)}>Bring in</button>
						</div>
					</li>
				{/each}
			</ul>
		</div>
	</div>
</section>
