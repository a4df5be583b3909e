import type { Given } from '$lib/api/contract';
import { tableKind, type TableKind } from '#core/tables/kinds';
import type { Reading } from '#core/tables/raw-table';
import { problemText } from '$lib/api/client';
import type { Job, Preview } from '$lib/api/types';
import { spaced } from '$lib/ui/numbers';
import type { Workspace } from '$lib/workspace.svelte';
import { doubtsOf } from './doubts';

let next = 1;
const KEEP_AFTER = 400;

/** A file, or one table of it, on its way into the project. The server keeps it, with what was said of it, until it is brought in or put aside. */
type ImportBody = Given<'importFile'>['body'];

export class Incoming {
	readonly key = next++;
	title = $state('');
	/** Share of what goes on. */
	share = $state(0);
	preview = $state.raw<Preview | null>(null);
	problem = $state('');
	job = $state<string | null>(null);
	report = $state('');
	/** Its card on the server. */
	card: string | null = null;
	/** Its card is unfolded. */
	open = $state(false);
	/** How coordinates are brought into the project's system, and where a picture lies; null until that was looked at. */
	coordinates = $state.raw<Record<string, unknown> | null>(null);
	place = $state.raw<Record<string, unknown> | null>(null);
	/** The one layer of a file that is wanted; all without it. */
	part = $state('');
	/** Of a raster: every which cell, only within the extent, not the terrain but another grid. */
	every = $state(1);
	clip = $state(false);
	asGrid = $state(false);
	private timer: ReturnType<typeof setTimeout> | null = null;

	/** @param taken titles of others that wait */
	constructor(
		private readonly workspace: Workspace,
		readonly name: string,
		private readonly taken: () => string[] = () => []
	) {}

	/** The file has places of its own, in some coordinate system. */
	get located(): boolean {
		const p = this.preview;
		return (
			p !== null &&
			p.as !== 'picture' &&
			(p.as !== 'table' || ['easting', 'northing'].every((r) => Object.values(p.mapping ?? {}).includes(r)))
		);
	}

	/** A second terrain is a grid like others. */
	get isGrid(): boolean {
		return this.preview?.as === 'terrain' && (this.asGrid || this.workspace.object('terrain') !== undefined);
	}

	/** What is not certain about it, in words. */
	get asks(): string[] {
		const collars = this.workspace.tables.some((t) => t.state['kind'] === 'collars');
		return this.preview ? doubtsOf(this.preview, collars) : [];
	}

	/** What is said beside the roles of columns. */
	private get options(): Record<string, unknown> {
		const p = this.preview!;
		const { crs, extent } = this.workspace.project!;
		const stated = p.epsg ?? p.terrain?.epsg ?? null;
		return {
			...(this.located ? (this.coordinates ?? (stated && crs && stated !== crs ? { fromEpsg: stated } : {})) : {}),
			...(p.as === 'picture' ? (this.place ?? (p.picture?.placement === null && p.core ? { core: p.core } : {})) : {}),
			...(p.as === 'layer' && this.part ? { part: this.part } : {}),
			...(p.as === 'terrain'
				? {
						as: this.isGrid ? 'grid' : 'terrain',
						...(this.every > 1 ? { every: this.every } : {}),
						...(this.clip && extent ? { clip: [extent.minX, extent.minY, extent.maxX, extent.maxY] } : {})
					}
				: {})
		};
	}

	/** The files that wait already, with their previews on the way. */
	static async waiting(workspace: Workspace, taken: () => string[]): Promise<Incoming[]> {
		const { cards } = await workspace.api.ask('listIncoming');
		return cards.map((c) => {
			const item = new Incoming(workspace, c.name, taken);
			item.open = cards.length === 1;
			item.card = c.id;
			item.title = c.title;
			void item.ask(c.fileId, c.choice, false);
			return item;
		});
	}

	/** Sends a file. @returns further tables that it holds */
	async send(file: File): Promise<Incoming[]> {
		try {
			const p = await this.workspace.api.upload('uploadFile', { name: file.name }, file, (s) => (this.share = s));
			this.card = p.card ?? null;
			this.take(p);
			const others = p.as === 'table' ? (p.parts ?? []).filter((x) => x.name !== p.reading?.part && Number(x.rows) > 0) : [];
			return Promise.all(
				others.map(async (part) => {
					const item = new Incoming(this.workspace, this.name, this.taken);
					const choice = { reading: { part: part.name } };
					item.card = (await this.workspace.api.ask('addIncoming', { body: { fileId: p.file.id, choice } })).card;
					await item.ask(p.file.id, choice);
					return item;
				})
			);
		} catch (error) {
			this.problem = problemText(error);
			return [];
		}
	}

	/** Puts it aside. */
	async remove(): Promise<void> {
		if (this.timer) clearTimeout(this.timer);
		if (this.card && !this.report) await this.workspace.api.ask('removeIncoming', { card: this.card }).catch(() => {});
	}

	private take(p: Preview): void {
		this.preview = p;
		this.problem = '';
		if (!this.title) {
			const base =
				p.as === 'table' ? (p.reading?.part ?? tableKind(p.kind!).label) : p.as === 'terrain' ? 'Terrain' : this.name.replace(/\.\w+$/, '');
			const taken = new Set([...this.workspace.objects.map((o) => o.name), ...this.taken()]);
			this.title = base;
			for (let n = 2; taken.has(this.title); n++) this.title = `${base} ${n}`;
		}
		this.keep();
	}

	/** Keeps on the server what was said, a moment later. */
	keep(): void {
		if (this.timer) clearTimeout(this.timer);
		this.timer = setTimeout(() => {
			if (!this.card || !this.preview || this.job || this.report) return;
			this.workspace.api.ask('changeIncoming', { card: this.card, body: { title: this.title, choice: this.choice() } }).catch(() => {});
		}, KEEP_AFTER);
	}

	/** What is said of the file. */
	private choice(): { as: Preview['as'] } & Pick<ImportBody, 'kind' | 'mapping' | 'reading' | 'units' | 'written'> {
		const p = this.preview!;
		return p.as === 'table'
			? { as: p.as, kind: p.kind, mapping: p.mapping, reading: p.reading, units: p.units, written: p.written }
			: { as: p.as };
	}

	/** What was said last is being looked at; what is brought in must wait for it. */
	private asking: Promise<void> = Promise.resolve();
	private turn = 0;

	private ask(file: string, asked: object, keep = true): Promise<void> {
		const mine = ++this.turn;
		// What is said next builds on this, whether the answer is there or not.
		const { mapping, units, written } = asked as Partial<Preview>;
		if (this.preview && mapping) this.preview = { ...this.preview, mapping, ...(units ? { units } : {}), ...(written ? { written } : {}) };
		this.asking = this.workspace.api.ask('previewFile', { file, body: asked }).then(
			(preview) => {
				// An answer to what was said before is of no use any more.
				if (mine !== this.turn) return this.asking;
				this.take(preview);
				if (keep) this.keep();
			},
			(error: unknown) => {
				if (mine === this.turn) this.problem = problemText(error);
			}
		);
		return this.asking;
	}

	/** What the file is, where it was taken for something else. */
	setAs(as: Preview['as']): Promise<void> {
		return this.ask(this.preview!.file.id, { as });
	}

	/** Another kind of table: roles are guessed anew. */
	setKind(kind: TableKind): Promise<void> {
		return this.ask(this.preview!.file.id, { as: 'table', kind, reading: this.preview!.reading });
	}

	setRole(header: string, role: string): Promise<void> {
		const p = this.preview!;
		const mapping = { ...p.mapping!, [header]: role };
		const many = role === 'keep' || tableKind(p.kind!).roles.find((r) => r.key === role)?.many;
		if (role !== 'leave' && !many) for (const h of p.header!) if (h !== header && mapping[h] === role) mapping[h] = 'leave';
		const { [header]: _was, ...written } = p.written ?? {};
		return this.ask(p.file.id, { as: 'table', kind: p.kind, mapping, reading: p.reading, units: p.units, written });
	}

	setUnit(header: string, unit: string): Promise<void> {
		const p = this.preview!;
		const units = { ...p.units };
		if (unit) units[header] = unit;
		else delete units[header];
		return this.ask(p.file.id, { ...this.choice(), units });
	}

	/** How a column of inclinations or dates is written. */
	setHabit(header: string, habit: string): Promise<void> {
		return this.ask(this.preview!.file.id, { ...this.choice(), written: { ...this.preview!.written, [header]: habit } });
	}

	/** The cells are cut otherwise: everything else is guessed anew. */
	setReading(change: Partial<Reading>): Promise<void> {
		const { delimiter, decimal, thousands, headerLine, unitsLine, comment, part, quotes } = this.preview!.reading!;
		// What follows from the cut is guessed again unless it is what was changed.
		const own = { ...(part === undefined ? {} : { part }), ...(quotes === undefined ? {} : { quotes }) };
		const kept =
			'delimiter' in change || 'quotes' in change ? own : { delimiter, decimal, thousands, headerLine, unitsLine, comment, ...own };
		return this.ask(this.preview!.file.id, { as: 'table', reading: { ...kept, ...change } });
	}

	/** Brings it in and waits for the outcome. */
	async apply(): Promise<void> {
		await this.asking;
		const p = this.preview!;
		this.problem = '';
		this.share = 0;
		try {
			const job = await this.workspace.api.start('importFile', {
				body: {
					fileId: p.file.id,
					...(this.card ? { incomingId: this.card } : {}),
					name: this.title,
					...this.choice(),
					...this.options
				}
			});
			this.job = job;
			await this.finished(job);
		} catch (error) {
			this.problem = problemText(error);
		}
		this.job = null;
	}

	private async finished(id: string): Promise<void> {
		for (;;) {
			const job = await this.workspace.api.ask('getJob', { job: id });
			this.share = job.share;
			if (job.state === 'done') {
				this.report = reportOf(job.outcome!, this.workspace.project!.lengthUnit);
				this.open = false;
				return this.workspace.refresh();
			}
			if (job.state === 'failed' || job.state === 'cancelled') {
				this.problem = job.outcome?.problem
					? [job.outcome.problem.title, job.outcome.problem.hint].filter(Boolean).join('. ')
					: (job.outcome?.message ?? 'It did not work.');
				return;
			}
			await new Promise((r) => setTimeout(r, 250));
		}
	}
}

/** What was read, in one line. */
export function reportOf(o: NonNullable<Job['outcome']>, unit: string): string {
	const notes = Array.isArray(o['notes']) && o['notes'].length ? `; ${o['notes'].join('; ')}` : '';
	if (o.rows !== undefined)
		return `${spaced(o.rows)} rows read, ${spaced(o.held ?? 0)} held back, ${spaced(o.noted ?? 0)} noted${o['changes'] ? `; ${String(o['changes'])}` : ''}`;
	if (o['cells'] !== undefined)
		return `${spaced(Number(o['cells']))} cells read, ${spaced(Number(o['missing']))} without a value, ${spaced(Number(o['min']), 1)} to ${spaced(Number(o['max']), 1)} ${unit}${notes}`;
	return String(o['said'] ?? 'read');
}
