import { ShownState } from './workbench/shown-state.svelte';
import { getContext, setContext } from 'svelte';
import type { Box } from '#core/geometry/box';
import type { Given } from './api/contract';
import { type Here } from './api/of-project';
import type { Making, Thing } from './workspace-parts';
import { afterPress, afterRows } from './workbench/selection';

export type { DrawTask, GeologyPolygons, Message, ModelScene, Paint, Probe, Selection, Thing } from './workspace-parts';
export type { Section } from './workbench/shown-state.svelte';

/** Parts of the interpretation, and how each is stored. */
const STORED = {
	column: 'setColumn',
	lumping: 'setLumping',
	faults: 'setFaults',
	section: 'setSection',
	spacing: 'setSpacing',
	shaping: 'setShaping'
} as const;

type SectionChange = NonNullable<Given<'changeSections'>['body']>['sections'][number];

/** State of one open project that all parts of the screen share: what it holds, how that is shown, and what is done with it. */
export class Workspace extends ShownState {
	/** The extent while it is dragged by its handles; null when they are not shown. */
	extentDraft = $state.raw<Box | null>(null);
	/** A result that is being thought of: what of, by which recipe, as far as it is known. */
	making = $state.raw<Making | null>(null);
	/** Something was looked up, and its details are wanted: where they are a drawer, that opens. */
	lookedUp = $state.raw<object | null>(null);
	/** A routine that is made of some results, or is to be run. */
	routine = $state.raw<{ objects?: readonly string[] } | null>(null);
	/** What that would make, at a first look. */
	preview = $state.raw<Thing | null>(null);
	/** Places that the result at hand tells of: those that a method misses most, crossings of lines. */
	marks = $state.raw<readonly { x: number; y: number; label: string }[]>([]);
	/** Values of a grid that are pointed at in its legend: the cells that have them stand out. */
	gridMark = $state.raw<{ id: string; low: number; high: number } | null>(null);
	private storing: Promise<unknown> = Promise.resolve();

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
		return this.inTurn(() => {
			const revision = parts() === seen ? this.interpretation?.[kind].revision : from;
			return this.api.ask(STORED[part], { body: { ...values, revision } } as unknown as Here<(typeof STORED)[P]>);
		});
	}

	/** Adds sections as one change. */
	addSections(sections: NonNullable<Given<'addSections'>['body']>['sections']): Promise<boolean> {
		return this.inTurn(() => this.api.ask('addSections', { body: { sections } }));
	}

	/** Changes sections as one change, from the revisions that are shown: what the change before has left as it was starts from that. */
	changeSections(changes: readonly Omit<SectionChange, 'revision'>[]): Promise<boolean> {
		const now = ({ id, ...change }: Omit<SectionChange, 'revision'>) => {
			const s = this.interpretation?.sections.find((x) => x.id === id);
			return { revision: s?.revision ?? 0, parts: JSON.stringify(Object.keys(change).map((key) => s?.[key as keyof typeof s])) };
		};
		const seen = changes.map(now);
		return this.inTurn(() => {
			const sections = changes.map((c, i) => {
				const { revision, parts } = now(c);
				return { ...c, revision: parts === seen[i]!.parts ? revision : seen[i]!.revision };
			});
			return this.api.ask('changeSections', { body: { sections } });
		});
	}

	/** Takes sections out as one change. */
	removeSections(ids: readonly string[]): Promise<boolean> {
		const users = this.made.filter((o) => o.inputs.some((i) => ids.includes(i))).map((o) => o.name);
		const are = `${users.join(', ')} ${users.length === 1 ? 'is' : 'are'} made of ${ids.length === 1 ? 'it' : 'them'}`;
		if (users.length && !confirm(`${are}. Take out all the same?`)) return Promise.resolve(false);
		return this.inTurn(() => this.api.ask('removeSections', { body: { ids: [...ids], used: users.length > 0 } }));
	}

	/** Stores something after what is being stored, and shows it. */
	private inTurn(store: () => Promise<unknown>): Promise<boolean> {
		const stored = this.storing.then(() =>
			this.attempt(async () => {
				await store();
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

const KEY = Symbol('workspace');
export const setWorkspace = (w: () => Workspace) => setContext(KEY, w);
/** The workspace of the page; a function, since the project of a page can change. */
export const useWorkspace = (): Workspace => getContext<() => Workspace>(KEY)();
