import { sectionTitle } from '#core/sections/letters';
import { TABLE_KINDS } from '#core/tables/kinds';
import { withParts } from '#core/units/at-rank';
import { ApiProblem, changesAnswered, problemText } from '../api/client';
import { OfProject } from '../api/of-project';
import { hasSeen } from '../api/snapshots';
import { followEvents } from '../api/events';
import type { Message } from '../workspace-parts';
import { Bench } from './bench.svelte';
import { markRefused } from '../ui/refusals';
import { keepModel, keptModel } from './last-model';
import type { FindingList, Interpretation, Job, NextChange, OpenProject, ProjectObject } from '../api/types';

const OPEN: readonly string[] = ['blocked', 'waiting', 'running', 'cancelling'];
/** An object as lists call it: a section by its ends. */
const called = (o: ProjectObject): ProjectObject => (o.kind === 'section' ? { ...o, name: `Section ${sectionTitle(o.name)}` } : o);

/** Kinds of what all models share, and nobody makes. */
export const SHARED_STEPS: readonly string[] = ['holes', 'section'];

/** What the server tells of one open project, read again as it changes; and what is said to who looks at it. */
export abstract class ProjectState {
	project = $state<OpenProject | null>(null);
	objects = $state<ProjectObject[]>([]);
	counts = $state({ held: 0, noted: 0 });
	/** What undo and redo would do. */
	changes = $state.raw<{ undo: NextChange | null; redo: NextChange | null }>({ undo: null, redo: null });
	interpretation = $state<Interpretation | null>(null);
	findings = $state<FindingList | null>(null);
	jobs = $state<Job[]>([]);
	messages = $state<Message[]>([]);
	/** The connection for live events is up. */
	live = $state(false);
	private unfollow: () => void = () => {};
	private nextMessage = 1;

	/** The operations of this project, about the model at hand. */
	readonly api = new OfProject(
		() => this.id,
		() => this.modelId
	);
	readonly bench = new Bench(this.api, (error) => this.tell(error));

	/** The model that was worked on last in this browser, until the workbench has been read. */
	private guessed: string | null;

	constructor(readonly id: string) {
		this.guessed = keptModel(id);
	}

	/** Reads the large data that are shown, and have changed. */
	protected abstract loadData(): Promise<void>;

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

	/** Results that somebody made. */
	get made(): ProjectObject[] {
		return this.objects.filter(
			(o) => o.modelId === null && o.form !== null && o.fileId === null && o.kind !== 'table' && !SHARED_STEPS.includes(o.kind)
		);
	}

	protected readonly madeIds = $derived(new Set(this.made.map((o) => o.id)));

	/** The job that builds an object now, or is about to. */
	jobOf(object: string): Job | undefined {
		return this.jobs.find((j) => j.objectId === object && OPEN.includes(j.state));
	}

	/** The build that an object is a part of now. */
	buildOf(object: string): Job | undefined {
		const own = this.jobOf(object);
		return own && this.jobs.find((j) => j.kind === 'build' && OPEN.includes(j.state) && j.after.includes(own.id));
	}

	/** The build that the model at hand, or something of its own, is a part of now. */
	get modelBuild(): Job | undefined {
		const own = this.objects.filter((o) => o.modelId !== null && o.modelId === this.modelId);
		return own.map((o) => this.buildOf(o.id)).find((j) => j);
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

	get stale(): number {
		return this.objects.filter((o) => o.outOfDate && o.kind !== 'section').length;
	}

	get running(): Job[] {
		return this.jobs.filter((j) => j.kind !== 'node' && OPEN.includes(j.state));
	}

	unitOfCode(code: string): string {
		return this.interpretation?.lumping.codes[code] ?? '';
	}

	say(text: string, tone: Message['tone'] = 'note', link?: Message['link']): void {
		// What goes wrong in several parts of the screen at once is said once.
		if (tone === 'error' && this.messages.some((m) => m.text === text && m.tone === tone)) return;
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
		this.say(problemText(error), 'error');
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
			this.objects = objects.map(called);
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
		this.objects = main.body.objects.map(called);
		this.counts = main.body.findings;
		this.changes = main.body.changes;
		this.interpretation = interpretation.body;
		this.findings = findings.body;
		this.jobs = work.body.jobs;
		await this.loadData();
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
					// Of a build that was begun elsewhere it is still to be read what it waits for.
					if (!known && job.kind === 'build') soon(data);
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
}

/** The transaction that an event tells of. */
function transactionOf(data: string): string {
	try {
		return String((JSON.parse(data) as { xid?: unknown }).xid ?? '');
	} catch {
		return '';
	}
}
