import { ProjectState, SHARED_STEPS } from './project-state.svelte';
import { kindOf } from './kinds';
import { decodeDrawnRaster } from '#core/formats/drawn-raster';
import { readPack } from '#core/formats/pack';
import type { Raster } from '#core/grids/raster';
import { ranksOf, type RankOf } from '#core/units/at-rank';
import type { SolidMesh } from '#core/mesh/cut-lattice';
import { withoutBlocks } from '#core/model/blocks';
import { loadThing } from '../things';
import type { DrawTask, GeologyPolygons, ModelScene, Paint, Probe, Selection, Thing } from '../workspace-parts';
import { DataSets } from './sets.svelte';
import { Stratigraphy } from './stratigraphy.svelte';
import { keptSection } from './section-sets';
import { showInTurn } from './on-its-way';
import { Arrival, openSolids, OtherSolids, type ShownSolids, type ShownUnit } from './solids.svelte';
import { polygonsOfFaces } from '#core/sections/geology-map';
import { geologyOfSolids, groupsOf, solidsAtRank } from './at-rank';
import type { Finding, ModelReport, ProjectObject, SectionBeside } from '../api/types';

/** Large data of a project that are loaded when something shows them. */
type Need = 'terrain' | 'model' | 'geology' | 'report' | 'things' | 'holes';

/** A section with the corridor that holds for it. */
export type Section = Omit<SectionBeside, 'revision'> & { corridor: number };

const THING_FORMS: readonly string[] = ['grid', 'places', 'lines', 'faces', 'surface', 'drawing'];

/** What is drawn besides tables, terrain and models: brought in, or made by a recipe. */
const isThing = (o: ProjectObject): boolean =>
	o.kind !== 'terrain' && THING_FORMS.includes(o.form ?? '') && !SHARED_STEPS.includes(o.kind) && (o.fileId !== null || !o.missing);

/** The large data of a project, and how they are shown: hidden or not, at which rank, in which of its sections. */
export abstract class ShownState extends ProjectState {
	report = $state.raw<ModelReport | null>(null);
	terrain = $state.raw<Raster | null>(null);
	model = $state.raw<ModelScene | null>(null);
	geology = $state.raw<GeologyPolygons | null>(null);
	/** Layers, surfaces and pictures that were brought in. */
	things = $state.raw<Thing[]>([]);
	probe = $state.raw<Probe | null>(null);
	selection = $state.raw<Selection | null>(null);
	draw = $state.raw<DrawTask | null>(null);
	/** The line of a section while it is drawn on the map, up to the pointer. */
	sketch = $state.raw<[number, number][]>([]);
	private painted = $state.raw<Paint | null>(null);
	private keys: Record<string, string> = {};
	private loaded = new Map<string, Promise<Thing>>();

	readonly sets = new DataSets({
		api: this.api,
		tables: () => this.tables,
		made: (id) => this.placesThings.find((t) => t.id === id)?.set ?? null,
		interpretation: () => this.interpretation,
		schemes: () => this.stratigraphy.schemes,
		extent: () => this.project?.extent ?? null,
		bench: () => this.bench.state,
		failed: (error) => this.tell(error)
	});

	readonly others = new OtherSolids({
		api: this.api,
		objects: () => this.objects,
		failed: (error) => this.tell(error)
	});

	readonly stratigraphy = new Stratigraphy({
		api: this.api,
		object: (kind) => this.object(kind),
		attempt: (what) => this.attempt(what),
		refresh: () => this.refresh()
	});

	/** Rows with places that recipes made. */
	get placesThings() {
		return this.things.flatMap((t) => (t.kind === 'places' ? [t] : []));
	}

	/** Grids that were brought in or made. */
	get gridThings() {
		return this.things.flatMap((t) => (t.kind === 'grid' ? [t] : []));
	}

	/** A unit of the model by its number, as it is called and coloured now. */
	modelUnit(number: number) {
		const id = this.model?.unitIds[number];
		return this.allUnits.find((u) => u.id === id);
	}

	/** Where open findings lie: at the collar of their hole. One a hole, what holds rows back before what is noted. */
	get findingPlaces(): { x: number; y: number; z: number; severity: 'held' | 'noted'; message: string; address: string }[] {
		const collars = new Map((this.sets.paths?.holes ?? []).map((h) => [h.name, h.collar]));
		const worst = new Map<string, { finding: Finding; count: number }>();
		for (const f of this.findings?.findings ?? []) {
			if (f.seen !== null || !f.hole || !collars.has(f.hole)) continue;
			const known = worst.get(f.hole);
			if (!known) worst.set(f.hole, { finding: f, count: 1 });
			else {
				known.count++;
				if (f.severity === 'held' && known.finding.severity === 'noted') known.finding = f;
			}
		}
		return [...worst].map(([hole, { finding: f, count }]) => {
			const [x, y, z] = collars.get(hole)!;
			return {
				x,
				y,
				z,
				severity: f.severity,
				message: `${hole}: ${f.message}${count > 1 ? ` (and ${count - 1} more)` : ''}`,
				address: `/${this.id}/check?table=${f.table}&row=${f.n}`
			};
		});
	}

	/** What the model is coloured by; nothing as soon as the model is another one. */
	get paint(): Paint | null {
		return this.painted && this.painted.key === this.model?.key ? this.painted : null;
	}

	set paint(paint: Paint | null) {
		this.painted = paint;
	}

	/** The model without the fault blocks that are hidden. */
	readonly shownMesh = $derived.by((): SolidMesh | null =>
		this.model
			? withoutBlocks(this.model.mesh, new Set(this.model.blocks.flatMap((b, i) => (this.shown(`block:${b.id}`) ? [] : [i]))))
			: null
	);

	/** The rank of a scheme that units are put together at; null when they are shown as they are. */
	readonly atRank = $derived.by(
		(): RankOf | null => ranksOf(this.stratigraphy.schemes).find((r) => r.key === this.bench.state.rank) ?? null
	);

	/** Units of the model at hand at that rank, from the top of the column down; empty when they are shown as they are. */
	readonly groups = $derived.by(() => (this.atRank ? groupsOf(this.atRank, this.allUnits) : []));

	/** Units as panes and legends show them. */
	get shownUnits(): readonly ShownUnit[] {
		return this.atRank ? this.groups : this.allUnits;
	}

	/** Geology at the surface, as units are shown. */
	readonly shownGeology = $derived.by((): GeologyPolygons | null =>
		this.atRank ? this.model && this.ownSolids && geologyOfSolids(this.ownSolids, this.model.hasTerrain) : this.geology
	);

	private asShown(solids: ShownSolids | null): ShownSolids | null {
		return solids && this.atRank ? solidsAtRank(solids, this.atRank) : solids;
	}

	/** The solids of the model at hand as panes show them, without the fault blocks that are hidden. */
	readonly ownSolids = $derived.by((): ShownSolids | null => {
		if (!this.model || !this.shownMesh) return null;
		const units = this.model.unitIds.map((_, i) => this.modelUnit(i));
		const o = this.object('model');
		return this.asShown({
			id: o?.id ?? '',
			name: o?.name ?? '',
			key: this.model.key,
			mesh: this.shownMesh,
			units,
			column: this.allUnits.filter((u) => units.some((x) => x?.id === u.id)),
			faults: this.model.faults,
			outOfDate: o?.outOfDate ?? false,
			light: this.model.light
		});
	});

	/** What panes can show as solids: models, kept ones, and results of that form. */
	get solidObjects(): ProjectObject[] {
		return this.objects.filter((o) => o.form === 'solids' && !o.missing && o.contentHash);
	}

	/** Solids for a pane. @param id of their object; null is the model at hand */
	solids(id: string | null): ShownSolids | null {
		return id === null || id === this.modelId || !this.solidObjects.some((o) => o.id === id)
			? this.ownSolids
			: this.asShown(this.others.shown(id));
	}

	/** Selects a unit that was pressed in a pane; one that the model at hand has not leads to what it is of. */
	selectUnit(id: string, of: ShownSolids | null): void {
		this.selection = this.shownUnits.some((u) => u.id === id) || !of ? { kind: 'unit', id } : { kind: 'object', id: of.id };
	}

	/** Solids besides those of the model at hand that panes show. */
	get otherSolids(): ShownSolids[] {
		const ids = new Set(
			Object.values(this.bench.state.panes).flatMap((list) =>
				list.flatMap((p) => {
					const own = p.settings[p.view] ?? {};
					return [own['solids'], own['over']].filter((id): id is string => typeof id === 'string' && id !== this.modelId);
				})
			)
		);
		return [...ids].flatMap((id) => this.asShown(this.others.shown(id)) ?? []);
	}

	/** Loads solids that a pane shows; call inside an effect. */
	needSolids(id: string | null): void {
		if (id !== null && id !== this.modelId) this.others.need(id);
	}

	shown(name: string): boolean {
		const hidden = this.bench.state.hidden[name];
		if (hidden !== undefined) return !hidden;
		// A result lies over everything else: it waits until it is asked for, as what stands densely does.
		if (name.startsWith('thing:')) return !this.madeIds.has(name.slice(6));
		if (!name.startsWith('data:')) return true;
		const table = this.objects.find((o) => o.id === name.slice(5));
		return !table || !kindOf(table).dense;
	}

	/** Shows what is hidden, and the other way round. */
	toggle(name: string): void {
		this.bench.state.hidden[name] = this.shown(name);
	}

	/** Whether the values of a grid are elevations: then space and sections draw it at its height, and not as colours on the ground. */
	raised(id: string): boolean {
		return this.bench.state.hidden[`draped:${id}`] ?? false;
	}

	opacityOf(name: string): number {
		return this.bench.state.opacity[name] ?? 1;
	}

	/** Tables whose rows stand along holes, and those with places on the map. */
	get alongTables(): ProjectObject[] {
		return this.tables.filter((t) => ['along', 'depth'].includes(kindOf(t).at) && !kindOf(t).directions);
	}

	get mapTables(): ProjectObject[] {
		return this.tables.filter((t) => kindOf(t).at === 'map');
	}

	/** The table that holes are drawn with. */
	get along(): string | null {
		const { along } = this.bench.state;
		const list = this.alongTables;
		return (list.find((t) => t.id === along) ?? list.find((t) => t.state['kind'] === 'intervals') ?? list[0])?.id ?? null;
	}

	/** The main section and those beside it, as far as they have a line. */
	get sections(): Section[] {
		const { section, sections = [] } = this.interpretation ?? {};
		if (!section) return [];
		const all: Omit<Section, 'corridor'>[] = [{ id: section.id, name: section.name, trace: section.trace }, ...sections];
		return all.filter((s) => s.trace.length > 1).map((s) => ({ corridor: section.corridor, ...s }));
	}

	/** The section that is looked at; while one is drawn, that one. */
	get section(): Section | null {
		if (this.draw?.what === 'section' && this.sketch.length > 1)
			return {
				id: '',
				name: this.interpretation?.section.name ?? '',
				trace: this.sketch,
				corridor: this.interpretation?.section.corridor ?? 0
			};
		return keptSection(this.sections, this.bench.state.section) ?? null;
	}

	/** Names of the selected holes, those of selected rows among them. */
	get selectedHoles(): Set<string> {
		const s = this.selection;
		if (s?.kind === 'hole') return new Set([s.name]);
		if (s?.kind === 'holes') return new Set(s.names);
		const set = s?.kind === 'rows' ? this.sets.of(s.table) : null;
		if (s?.kind !== 'rows' || !set || set.place === 'map' || !this.sets.paths) return new Set();
		const rows = new Set(s.rows);
		const names = new Set<string>();
		for (let i = 0; i < set.rowCount; i++) if (rows.has(set.row[i]!)) names.add(this.sets.paths.holes[set.hole[i]!]!.name);
		return names;
	}

	private async changed(name: string, key: string, load: () => Promise<void>): Promise<void> {
		if (this.keys[name] === key) return;
		this.keys[name] = key;
		try {
			await load();
		} catch (error) {
			delete this.keys[name];
			throw error;
		}
	}

	private readonly needs = new Set<Need>();

	/** Says what is about to be shown; it is loaded now, and again when it changes. What nothing shows is never asked for. */
	need(...what: Need[]): void {
		const fresh = what.filter((n) => !this.needs.has(n));
		for (const n of fresh) this.needs.add(n);
		if (fresh.length && this.project) void this.attempt(() => this.loadData());
	}

	/** Loads what is needed and has changed, each by itself: what came is shown while the rest is on its way. */
	protected async loadData(): Promise<void> {
		const terrain = this.object('terrain');
		const model = this.object('model')?.contentHash ?? '';
		const tables = this.tables.map((t) => `${t.id} ${t.contentHash}`).join();
		const things = this.objects.filter(isThing);
		const loads: Record<Need, () => Promise<void>> = {
			terrain: () =>
				this.changed('terrain', terrain?.contentHash ?? '', async () => {
					this.terrain = terrain ? decodeDrawnRaster(readPack(await this.api.bytes('getTerrain', { drawn: true, most: 4000000 }))) : null;
				}),
			model: () =>
				this.changed('model', model, async () => {
					if (!model) return void (this.model = null);
					const arrival = new Arrival();
					await showInTurn({
						arrival,
						read: (wanted) => this.api.bytes('getMesh', { drawn: true, ...wanted }),
						open: (packs, light) => openSolids(model, packs, light ? arrival : null).scene,
						show: (scene) => (this.model = scene),
						seen: this.model !== null,
						wanted: () => this.keys['model'] === model
					});
				}),
			geology: () =>
				this.changed('geology', model, async () => {
					const of = `model:${this.object('model')?.id}`;
					this.geology = model
						? { units: polygonsOfFaces(readPack(await this.api.bytes('getDerived', { recipe: 'units-at-surface', of })).info['features']) }
						: null;
				}),
			// Volumes are told by the names of units, and as old as the column says.
			report: () =>
				this.changed('report', model && `${model} ${this.object('model')!.outOfDate} ${this.interpretation?.column.revision}`, async () => {
					this.report = model ? await this.api.ask('getModel') : null;
				}),
			things: () =>
				this.changed('things', things.map((o) => `${o.contentHash} ${o.name}`).join(), async () => {
					// What has not changed is not read again.
					const known = this.loaded;
					const keyOf = (o: ProjectObject) => `${o.id} ${o.contentHash} ${o.name} ${o.kind === 'picture' ? JSON.stringify(o.state) : ''}`;
					this.loaded = new Map(things.map((o) => [keyOf(o), known.get(keyOf(o)) ?? loadThing(this.api, o)]));
					// One that can not be read is said, and the others are there all the same.
					const read = await Promise.allSettled(this.loaded.values());
					this.things = read.flatMap((r) => (r.status === 'fulfilled' ? [r.value] : []));
					const failed = read.find((r) => r.status === 'rejected');
					if (failed) {
						this.loaded = new Map([...this.loaded].filter((_, i) => read[i]!.status === 'fulfilled'));
						throw (failed as PromiseRejectedResult).reason;
					}
				}),
			holes: () =>
				this.sets.follow(
					`${tables} ${this.counts.held} ${terrain?.contentHash ?? ''} ${this.project?.lengthUnit}`,
					[this.along, this.tables.find((t) => t.state['kind'] === 'collars')?.id].filter((id) => id != null)
				)
		};
		await Promise.all([...this.needs].map((n) => loads[n]()));
	}
}
