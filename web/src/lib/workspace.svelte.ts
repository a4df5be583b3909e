import { kindOf } from './workbench/kinds';
import { getContext, setContext } from 'svelte';
import { decodeDrawnRaster } from '#core/formats/drawn-raster';
import { readPack } from '#core/formats/pack';
import type { Raster } from '#core/grids/raster';
import { TABLE_KINDS } from '#core/tables/kinds';
import { ranksOf, withParts, type RankOf } from '#core/units/at-rank';
import type { Box } from '#core/geometry/box';
import type { SolidMesh } from '#core/mesh/cut-lattice';
import { withoutBlocks } from '#core/model/blocks';
import { ApiProblem, changesAnswered } from './api/client';
import type { Given } from './api/contract';
import { OfProject, type Here } from './api/of-project';
import { hasSeen } from './api/snapshots';
import { followEvents } from './api/events';
import { loadThing } from './things';
import type { DrawTask, GeologyPolygons, Making, Message, ModelScene, Paint, Probe, Selection, Thing } from './workspace-parts';
import { Bench } from './workbench/bench.svelte';
import { markRefused } from './ui/refusals';
import { keepModel, keptModel } from './workbench/last-model';
import { afterPress, afterRows } from './workbench/selection';
import { DataSets } from './workbench/sets.svelte';
import { Stratigraphy } from './workbench/stratigraphy.svelte';
import { openSolids, OtherSolids, type ShownSolids, type ShownUnit } from './workbench/solids.svelte';
import { geologyOfSolids, groupsOf, solidsAtRank } from './workbench/at-rank';
import type {
	Finding,
	FindingList,
	Interpretation,
	Job,
	ModelReport,
	NextChange,
	OpenProject,
	ProjectObject,
	SectionLine
} from './api/types';

export type { DrawTask, GeologyPolygons, Message, ModelScene, Paint, Probe, Selection, Thing } from './workspace-parts';

/** Large data of a project that are loaded when something shows them. */
type Need = 'terrain' | 'model' | 'geology' | 'report' | 'things' | 'holes';

/** A section with the corridor that holds for it. */
export type Section = SectionLine & { corridor: number };

/** Parts of the interpretation, and how each is stored. */
const STORED = {
	column: 'setColumn',
	lumping: 'setLumping',
	faults: 'setFaults',
	section: 'setSection',
	spacing: 'setSpacing',
	shaping: 'setShaping'
} as const;

/** State of one open project that all parts of the screen share. */
export class Workspace {
	project = $state<OpenProject | null>(null);
	objects = $state<ProjectObject[]>([]);
	counts = $state({ held: 0, noted: 0 });
	/** What undo and redo would do. */
	changes = $state.raw<{ undo: NextChange | null; redo: NextChange | null }>({ undo: null, redo: null });
	interpretation = $state<Interpretation | null>(null);
	findings = $state<FindingList | null>(null);
	jobs = $state<Job[]>([]);
	report = $state.raw<ModelReport | null>(null);
	terrain = $state.raw<Raster | null>(null);
	model = $state.raw<ModelScene | null>(null);
	geology = $state.raw<GeologyPolygons | null>(null);
	/** Layers, surfaces and pictures that were brought in. */
	things = $state.raw<Thing[]>([]);
	private painted = $state.raw<Paint | null>(null);
	/** The extent while it is dragged by its handles; null when they are not shown. */
	extentDraft = $state.raw<Box | null>(null);
	probe = $state.raw<Probe | null>(null);
	selection = $state.raw<Selection | null>(null);
	draw = $state.raw<DrawTask | null>(null);
	/** A result that is being thought of: what of, by which recipe, as far as it is known. */
	making = $state.raw<Making | null>(null);
	/** A routine that is made of some results, or is to be run. */
	routine = $state.raw<{ objects?: readonly string[] } | null>(null);
	/** What that would make, at a first look. */
	preview = $state.raw<Thing | null>(null);
	/** Places that the result at hand tells of: those that a method misses most, crossings of lines. */
	marks = $state.raw<readonly { x: number; y: number; label: string }[]>([]);
	/** Values of a grid that are pointed at in its legend: the cells that have them stand out. */
	gridMark = $state.raw<{ id: string; low: number; high: number } | null>(null);
	/** The line of a section while it is drawn on the map, up to the pointer. */
	sketch = $state.raw<[number, number][]>([]);
	messages = $state<Message[]>([]);
	/** The connection for live events is up. */
	live = $state(false);
	private keys: Record<string, string> = {};
	private loaded = new Map<string, Promise<Thing>>();
	private unfollow: () => void = () => {};
	private nextMessage = 1;
	private storing: Promise<unknown> = Promise.resolve();

	/** The operations of this project, about the model at hand. */
	readonly api = new OfProject(
		() => this.id,
		() => this.modelId
	);
	readonly bench = new Bench(this.api, (error) => this.tell(error));
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

	/** The model that was worked on last in this browser, until the workbench has been read. */
	private guessed: string | null;

	constructor(readonly id: string) {
		this.guessed = keptModel(id);
	}

	/** The models of the project, in their order. */
	get models(): ProjectObject[] {
		return this.objects.filter((o) => o.kind === 'model');
	}

	/** The model that is worked on: the one that was chosen, as long as it is there, or the first. */
	get modelId(): string | null {
		const wanted = this.bench.state.model ?? this.guessed;
		return (this.models.find((m) => m.id === wanted) ?? this.models[0])?.id ?? (this.objects.length ? null : wanted);
	}

	/** Goes on with another model. */
	async goToModel(id: string): Promise<void> {
		this.bench.state.model = id;
		this.guessed = id;
		keepModel(this.id, id);
		await this.attempt(() => this.refresh());
	}

	/** An object of a kind that every project has: of the model at hand, or of all models. */
	object(kind: string): ProjectObject | undefined {
		return this.objects.find((o) => o.kind === kind && (o.modelId === null || o.modelId === this.modelId));
	}

	/** Rows with places that recipes made. */
	get placesThings() {
		return this.things.flatMap((t) => (t.kind === 'places' ? [t] : []));
	}

	/** Grids that were brought in or made. */
	get gridThings() {
		return this.things.flatMap((t) => (t.kind === 'grid' ? [t] : []));
	}

	/** Results that somebody made. */
	get made(): ProjectObject[] {
		return this.objects.filter(
			(o) => o.modelId === null && o.form !== null && o.fileId === null && o.kind !== 'table' && !SHARED_STEPS.includes(o.kind)
		);
	}

	private readonly madeIds = $derived(new Set(this.made.map((o) => o.id)));

	/** The job that builds an object now, or is about to. */
	jobOf(object: string): Job | undefined {
		return this.jobs.find((j) => j.objectId === object && OPEN.includes(j.state));
	}

	/** The build that an object is a part of now. */
	buildOf(object: string): Job | undefined {
		const own = this.jobOf(object);
		return own && this.jobs.find((j) => j.kind === 'build' && OPEN.includes(j.state) && j.after.includes(own.id));
	}

	get tables(): ProjectObject[] {
		const rank = (o: ProjectObject) => TABLE_KINDS.findIndex((k) => k.kind === o.state['kind']);
		return this.objects.filter((o) => o.kind === 'table').sort((a, b) => rank(a) - rank(b) || (a.name < b.name ? -1 : 1));
	}

	get units() {
		return this.interpretation?.column.units ?? [];
	}

	/** Units of the column and of the divisions. */
	get allUnits() {
		return withParts(this.units, this.interpretation?.shaping.divisions ?? []);
	}

	/** A unit of the model by its number, as it is called and coloured now. */
	modelUnit(number: number) {
		const id = this.model?.unitIds[number];
		return this.allUnits.find((u) => u.id === id);
	}

	get stale(): number {
		return this.objects.filter((o) => o.outOfDate && o.kind !== 'section').length;
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

	get running(): Job[] {
		return this.jobs.filter((j) => j.kind !== 'node' && OPEN.includes(j.state));
	}

	unitOfCode(code: string): string {
		return this.interpretation?.lumping.codes[code] ?? '';
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
			outOfDate: o?.outOfDate ?? false
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

	/** The main section and those of the set. */
	get sections(): Section[] {
		const s = this.interpretation?.section;
		if (!s || s.trace.length < 2) return [];
		return [{ name: 'A', trace: s.trace }, ...(s.lines ?? [])].map((l) => ({ corridor: s.corridor, ...l }));
	}

	/** The section that is looked at; while one is drawn, that one. */
	get section(): Section | null {
		if (this.draw?.what === 'section' && this.sketch.length > 1)
			return { name: 'A', trace: this.sketch, corridor: this.interpretation?.section.corridor ?? 0 };
		const list = this.sections;
		return list[Math.min(this.bench.state.section, list.length - 1)] ?? null;
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

	/** Ids of the selected objects. */
	get pickedObjects(): readonly string[] {
		const s = this.selection;
		return s?.kind === 'object' ? [s.id] : s?.kind === 'objects' ? s.ids : [];
	}

	/** An object was pressed in a list or a picture. */
	press(id: string, event: Pick<MouseEvent, 'ctrlKey' | 'metaKey' | 'shiftKey'>): void {
		this.making = null;
		this.routine = null;
		this.selection = afterPress(this.selection, id, event);
	}

	/** Rows of a table were pressed or swept over in a picture. */
	pressRows(table: string, rows: readonly number[], event: Pick<MouseEvent, 'ctrlKey' | 'metaKey'>): void {
		this.making = null;
		this.selection = afterRows(this.selection, table, rows, event);
	}

	/** Moves a boundary of a version of a log. */
	moveBoundary(log: string, hole: string, from: number, to: number): Promise<boolean> {
		return this.attempt(async () => {
			const o = this.objects.find((x) => x.id === log);
			await this.api.ask('relog', { object: log, body: { act: { do: 'move', hole, from, to }, revision: o?.revision ?? 0 } });
			await this.refresh();
		});
	}

	say(text: string, tone: Message['tone'] = 'note', link?: Message['link']): void {
		const id = this.nextMessage++;
		this.messages.push({ id, tone, text, ...(link ? { link } : {}) });
		if (tone === 'note') setTimeout(() => this.dismiss(id), link ? 20_000 : 5000);
	}

	/** What a model still needs before it can be built, in words. */
	get lacking(): string[] {
		const lumped = Object.values(this.interpretation?.lumping.codes ?? {}).some(Boolean);
		return [
			...(this.project?.extent ? [] : ['an extent']),
			...(this.units.length ? [] : ['units in the column']),
			...(this.units.length && this.interpretation?.codes.length && !lumped ? ['a unit for the codes of the logs'] : [])
		];
	}

	/** What ended while the page was not looked at: in the title until it is. */
	ended = $state('');

	dismiss(id: number): void {
		this.messages = this.messages.filter((m) => m.id !== id);
	}

	/** Runs an act; what goes wrong is said. @returns whether it went well */
	async attempt(act: () => Promise<unknown>): Promise<boolean> {
		try {
			await act();
			return true;
		} catch (error) {
			this.tell(error);
			return false;
		}
	}

	/** Says what went wrong. */
	tell(error: unknown): void {
		if (error instanceof ApiProblem && error.status >= 400 && error.status < 500) markRefused(error.text);
		this.say(error instanceof ApiProblem ? error.text : error instanceof Error ? error.message : String(error), 'error');
	}

	/** @param viewpoint id of a viewpoint to open with; the workbench as it was left otherwise */
	async open(viewpoint: string | null = null): Promise<void> {
		await Promise.all([this.refresh(), this.bench.open(viewpoint).catch((error) => this.tell(error))]);
		if (this.modelId !== this.asOf && this.modelId !== (this.asOf ?? this.models[0]?.id)) await this.refresh();
		if (this.modelId) keepModel(this.id, this.modelId);
		this.listen();
	}

	close(): void {
		this.unfollow();
		void this.bench.save(true);
	}

	/** Numbers of the last refresh that was begun and of the last one that was taken. */
	private asked = 0;
	private answered = 0;
	/** The model that the interpretation is of. */
	private asOf: string | null = null;
	/** What the answers of the last refresh have seen, and the refresh that is under way. */
	private snapshots: (string | null)[] = [];
	private reading: Promise<unknown> = Promise.resolve();

	/** Reads again what may have changed, and of the large data only what has. */
	refresh(): Promise<void> {
		const done = this.read();
		this.reading = done.catch(() => {});
		return done;
	}

	private async read(): Promise<void> {
		try {
			await this.readAll();
		} catch (error) {
			if (!(error instanceof ApiProblem) || error.status !== 404) throw error;
			const { objects } = await this.api.ask('getProject');
			if (objects.some((o) => o.id === this.modelId)) throw error;
			// The model at hand was taken out, here or in another window: on with the first of those that are there.
			this.objects = objects;
			this.bench.state.model = null;
			this.guessed = null;
			await this.readAll();
		}
	}

	private async readAll(): Promise<void> {
		const turn = ++this.asked;
		const of = this.modelId;
		const answers = await Promise.all([
			this.api.askFollowed('getProject'),
			this.api.askFollowed('getInterpretation'),
			this.api.askFollowed('listFindings'),
			this.api.askFollowed('listJobs')
		]);
		const [main, interpretation, findings, work] = answers;
		// An answer that comes after that to a later question is of an older state.
		if (turn < this.answered) return;
		this.answered = turn;
		this.asOf = of;
		this.snapshots = answers.map((a) => a.snapshot);
		this.project = main.body.project;
		this.objects = main.body.objects;
		this.counts = main.body.findings;
		this.changes = main.body.changes;
		this.interpretation = interpretation.body;
		this.findings = findings.body;
		this.jobs = work.body.jobs;
		await this.loadData();
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
	private async loadData(): Promise<void> {
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
					this.model = openSolids(model, await this.api.bytes('getMesh', { drawn: true })).scene;
				}),
			geology: () =>
				this.changed('geology', model, async () => {
					this.geology = model ? await this.api.ask('getGeology') : null;
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

	private listen(): void {
		let waiting: ReturnType<typeof setTimeout> | null = null;
		let missed = false;
		/** News that may not have been read yet; none of it is known by a transaction when all must be read again. */
		let news: string[] = [];
		const look = async () => {
			waiting = null;
			const asked = news;
			news = [];
			// Who made a change here reads what came of it, and what is being read now may know of it.
			await changesAnswered();
			await new Promise((r) => setTimeout(r, 20));
			await this.reading;
			if (asked.some((xid) => !this.snapshots.every((s) => hasSeen(s, xid)))) await this.attempt(() => this.refresh());
		};
		const soon = (data = '') => {
			news.push(transactionOf(data));
			if (waiting) clearTimeout(waiting);
			waiting = setTimeout(() => void look(), 80);
		};
		this.unfollow = followEvents(this.id, {
			// The first time, too: what happened after the page was loaded and before it could hear of it would never be seen.
			connected: () => {
				soon();
				if (missed) void this.bench.listViewpoints().catch(() => {});
				missed = false;
				this.live = true;
			},
			lost: () => {
				this.live = false;
				missed = true;
			},
			topics: {
				objects: (data) => soon(data),
				viewpoints: () => void this.bench.listViewpoints().catch(() => {}),
				findings: (data) => soon(data),
				job: (data) => {
					const job = JSON.parse(data) as Job;
					const known = this.jobs.find((j) => j.id === job.id);
					if (known) Object.assign(known, job);
					else this.jobs.unshift({ ...job, after: [], outcome: null, createdAt: new Date().toISOString() });
					if (['done', 'failed', 'cancelled'].includes(job.state)) {
						soon(data);
						if (job.kind === 'build' && job.state === 'done') {
							const what = job.title.replace(/^Build /, '');
							this.say(what === 'model' ? 'The model is built.' : `Built: ${what}.`, 'note', {
								label: 'Look at it',
								href: `/${this.id}/examine`
							});
							if (document.hidden) this.ended = 'Built';
						}
						// What a build consists of is told with it.
						if (job.state === 'failed' && job.kind !== 'node')
							void this.api
								.ask('getJob', { job: job.id })
								.then((j) => this.say(`${j.title}: ${j.outcome?.problem?.title ?? 'failed'}. ${j.outcome?.problem?.hint ?? ''}`, 'error'));
					}
				}
			}
		});
	}

	/** Stores part of the interpretation from the revision that is shown. */
	async store<P extends keyof typeof STORED>(
		part: P,
		values: Omit<NonNullable<(Given<(typeof STORED)[P]> & { body?: object })['body']>, 'revision'>
	): Promise<boolean> {
		const kind: Exclude<keyof typeof STORED, 'spacing'> | 'model' = part === 'spacing' ? 'model' : part;
		const parts = () =>
			JSON.stringify(Object.keys(values).map((key) => (this.interpretation?.[kind] as Record<string, unknown> | undefined)?.[key]));
		const [seen, from] = [parts(), this.interpretation?.[kind].revision];
		// One after the other. What was made from parts that the one before has left as they were starts from its revision; else the
		// server refuses it, so that nothing is overwritten unseen.
		const stored = this.storing.then(() =>
			this.attempt(async () => {
				const revision = parts() === seen ? this.interpretation?.[kind].revision : from;
				await this.api.ask(STORED[part], { body: { ...values, revision } } as unknown as Here<(typeof STORED)[P]>);
				await this.refresh();
			})
		);
		this.storing = stored;
		return stored;
	}

	/** The extent was dragged by a handle; it is kept when the handle is let go. */
	dragExtent(box: Box, done: boolean): void {
		this.extentDraft = box;
		if (done) void this.storeExtent(box);
	}

	async storeExtent(extent: Box): Promise<boolean> {
		return this.attempt(async () => {
			await this.api.ask('patchProject', { body: { extent, revision: this.project!.revision } });
			await this.refresh();
		});
	}

	/** Asks a job to stop. */
	cancel(job: string): Promise<boolean> {
		return this.attempt(() => this.api.ask('cancelJob', { job }));
	}

	undo(forward: boolean): Promise<unknown> {
		const done = this.storing.then(() =>
			this.attempt(async () => {
				// As it stands now: what was stored a moment ago counts, too.
				const { changes: list } = await this.api.ask('listChanges');
				const next = forward ? list.filter((c) => c.undone).at(-1) : list.find((c) => !c.undone);
				if (!next) return this.say(forward ? 'There is nothing to do again.' : 'There is nothing to undo.');
				const others =
					next.elsewhere &&
					confirm(
						`"${next.label}" was made in another window${next.by ? ` by ${next.by}` : ''}. Take it ${forward ? 'up again' : 'back'} all the same?`
					);
				if (next.elsewhere && !others) return;
				const { label, changes } = await this.api.ask(forward ? 'redo' : 'undo', { body: { change: next.id, others } });
				this.changes = changes;
				this.say(`${forward ? 'Done again' : 'Undone'}: ${label}`);
				await Promise.all([this.refresh(), this.bench.takeStyles()]);
			})
		);
		this.storing = done;
		return done;
	}

	/** Builds everything that is out of date, of all models. */
	async buildAll(): Promise<void> {
		await this.attempt(async () => {
			await this.api.start('build', { body: { all: true } });
			this.jobs = (await this.api.ask('listJobs')).jobs;
		});
	}

	async build(): Promise<void> {
		if (this.lacking.length)
			return this.say(`Before a model can be built it needs ${this.lacking.join(' and ')}.`, 'error', {
				label: 'Go to Build',
				href: `/${this.id}/build`
			});
		await this.attempt(async () => {
			await this.api.start('build');
			this.jobs = (await this.api.ask('listJobs')).jobs;
		});
	}
}

/** The transaction that an event tells of. */
function transactionOf(data: string): string {
	try {
		return String((JSON.parse(data) as { xid?: unknown }).xid ?? '');
	} catch {
		return '';
	}
}

const OPEN: readonly string[] = ['blocked', 'waiting', 'running', 'cancelling'];
/** Kinds of what all models share, and nobody makes. */
const SHARED_STEPS: readonly string[] = ['holes', 'section'];
const THING_FORMS: readonly string[] = ['grid', 'places', 'lines', 'faces', 'surface', 'drawing'];

/** What is drawn besides tables, terrain and models: brought in, or made by a recipe. */
const isThing = (o: ProjectObject): boolean =>
	o.kind !== 'terrain' && THING_FORMS.includes(o.form ?? '') && !SHARED_STEPS.includes(o.kind) && (o.fileId !== null || !o.missing);

const KEY = Symbol('workspace');
export const setWorkspace = (w: () => Workspace) => setContext(KEY, w);
/** The workspace of the page; a function, since the project of a page can change. */
export const useWorkspace = (): Workspace => getContext<() => Workspace>(KEY)();
