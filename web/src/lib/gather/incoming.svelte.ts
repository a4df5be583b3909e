import { tableKind, type TableKind } from '#core/tables/kinds';
import type { Reading } from '#core/tables/raw-table';
import { ApiProblem, call, get, upload } from '$lib/api/client';
import type { Job, Preview } from '$lib/api/types';
import { spaced } from '$lib/ui/numbers';
import type { Workspace } from '$lib/workspace.svelte';

const text = (error: unknown): string => (error instanceof ApiProblem ? error.text : error instanceof Error ? error.message : String(error));
let next = 1;

/** A file, or one table of it, on its way into the project. */
export class Incoming {
	readonly key = next++;
	title = $state('');
	/** Share of what goes on. */
	share = $state(0);
	preview = $state.raw<Preview | null>(null);
	problem = $state('');
	job = $state<string | null>(null);
	report = $state('');

	constructor(
		private readonly workspace: Workspace,
		readonly name: string
	) {}

	/** Sends a file. @returns further tables that it holds */
	async send(file: File): Promise<Incoming[]> {
		try {
			const p = await upload<Preview>(this.workspace.path(`/files?name=${encodeURIComponent(file.name)}`), file, (s) => (this.share = s));
			this.take(p);
			const others = (p.parts ?? []).filter((x) => x.name !== p.reading?.part && x.rows > 0);
			return Promise.all(
				others.map(async (part) => {
					const item = new Incoming(this.workspace, this.name);
					await item.ask(p.file.id, { reading: { part: part.name } });
					return item;
				})
			);
		} catch (error) {
			this.problem = text(error);
			return [];
		}
	}

	private take(p: Preview): void {
		this.preview = p;
		this.problem = '';
		if (this.title) return;
		const base = p.as === 'table' ? (p.reading?.part ?? tableKind(p.kind!).label) : p.as === 'terrain' ? 'Terrain' : this.name.replace(/\.\w+$/, '');
		const taken = new Set(this.workspace.objects.map((o) => o.name));
		this.title = base;
		for (let n = 2; taken.has(this.title); n++) this.title = `${base} ${n}`;
	}

	private async ask(file: string, asked: object): Promise<void> {
		try {
			this.take(await call<Preview>('POST', this.workspace.path(`/files/${file}/preview`), asked));
		} catch (error) {
			this.problem = text(error);
		}
	}

	/** Another kind of table: roles are guessed anew. */
	setKind(kind: TableKind): Promise<void> {
		return this.ask(this.preview!.file.id, { kind, reading: this.preview!.reading });
	}

	setRole(header: string, role: string): Promise<void> {
		const p = this.preview!;
		const mapping = { ...p.mapping!, [header]: role };
		const many = role === 'keep' || tableKind(p.kind!).roles.find((r) => r.key === role)?.many;
		if (role !== 'leave' && !many) for (const h of p.header!) if (h !== header && mapping[h] === role) mapping[h] = 'leave';
		return this.ask(p.file.id, { kind: p.kind, mapping, reading: p.reading, units: p.units });
	}

	setUnit(header: string, unit: string): Promise<void> {
		const p = this.preview!;
		const units = { ...p.units };
		if (unit) units[header] = unit;
		else delete units[header];
		return this.ask(p.file.id, { kind: p.kind, mapping: p.mapping, reading: p.reading, units });
	}

	/** The cells are cut otherwise: everything else is guessed anew. */
	setReading(change: Partial<Reading>): Promise<void> {
		const { delimiter, decimal, thousands, headerLine, unitsLine, comment, part } = this.preview!.reading!;
		// What follows from the cut is guessed again unless it is what was changed.
		const kept = 'delimiter' in change ? (part === undefined ? {} : { part }) : { delimiter, decimal, thousands, headerLine, unitsLine, comment, ...(part === undefined ? {} : { part }) };
		return this.ask(this.preview!.file.id, { reading: { ...kept, ...change } });
	}

	/** Brings it in and waits for the outcome. */
	async apply(extra: object = {}): Promise<void> {
		const p = this.preview!;
		this.problem = '';
		this.share = 0;
		try {
			const body = p.as === 'table' ? { kind: p.kind, mapping: p.mapping, reading: p.reading, units: p.units } : {};
			const { job } = await call<{ job: string }>('POST', this.workspace.path('/imports'), { fileId: p.file.id, name: this.title, as: p.as, ...body, ...extra });
			this.job = job;
			await this.finished(job);
		} catch (error) {
			this.problem = text(error);
		}
		this.job = null;
	}

	private async finished(id: string): Promise<void> {
		for (;;) {
			const job = await get<Job>(this.workspace.path(`/jobs/${id}`));
			this.share = job.share;
			if (job.state === 'done') {
				this.report = reportOf(job.outcome!, this.workspace.project!.lengthUnit);
				return this.workspace.refresh();
			}
			if (job.state === 'failed' || job.state === 'cancelled') {
				this.problem = job.outcome?.problem ? [job.outcome.problem.title, job.outcome.problem.hint].filter(Boolean).join('. ') : (job.outcome?.message ?? 'It did not work.');
				return;
			}
			await new Promise((r) => setTimeout(r, 250));
		}
	}
}

/** What was read, in one line. */
export function reportOf(o: NonNullable<Job['outcome']>, unit: string): string {
	if (o.rows !== undefined) return `${spaced(o.rows)} rows read, ${spaced(o.held ?? 0)} held back, ${spaced(o.noted ?? 0)} noted${o['changes'] ? `; ${String(o['changes'])}` : ''}`;
	if (o['cells'] !== undefined) return `${spaced(Number(o['cells']))} cells read, ${spaced(Number(o['missing']))} without a value, ${spaced(Number(o['min']), 1)} to ${spaced(Number(o['max']), 1)} ${unit}`;
	return String(o['said'] ?? 'read');
}
