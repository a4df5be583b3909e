import { getContext, setContext } from 'svelte';
import { TABLE_KINDS } from '#core/tables/kinds';
import type { Workspace } from '$lib/workspace.svelte';
import { bundled } from './bundles';
import { Incoming } from './incoming.svelte';

/** Files on their way into one project: what was dropped, on whatever stage, and what waited from before. */
export class Arrivals {
	items = $state<Incoming[]>([]);
	/** Name of what is being brought in, while all are. */
	now = $state<string | null>(null);
	private stopped = false;
	private asked = false;

	constructor(private readonly workspace: Workspace) {}

	/** What waited when the project was left, or the page was closed, waits here again. */
	async open(): Promise<void> {
		if (this.asked) return;
		this.asked = true;
		const taken = () => this.titles();
		this.items = [...(await Incoming.waiting(this.workspace, taken)), ...this.items];
	}

	private titles(): string[] {
		return this.items.map((i) => i.title);
	}

	async take(files: FileList | File[] | null | undefined): Promise<void> {
		const folded = (files?.length ?? 0) > 1;
		for (const file of await bundled(Array.from(files ?? []))) {
			const item = new Incoming(this.workspace, file.name, () => this.titles());
			item.open = !folded;
			this.items.push(item);
			const others = await item.send(file);
			if (others.length) item.open = false;
			this.items.push(...others);
		}
	}

	/** Those that wait and ask nothing. */
	get certain(): Incoming[] {
		return this.items.filter((i) => i.preview && !i.report && i.job === null && i.asks.length === 0);
	}

	/** Those that wait and ask something. */
	get asking(): Incoming[] {
		return this.items.filter((i) => !i.report && i.job === null && (i.problem !== '' || (i.preview !== null && i.asks.length > 0)));
	}

	/** Brings in all that ask nothing: terrain and collars first, for the others are checked against them. */
	async bringAll(): Promise<void> {
		this.stopped = false;
		const rank = (i: Incoming) => (i.preview!.as === 'table' ? 1 + TABLE_KINDS.findIndex((k) => k.kind === i.preview!.kind) : 0);
		for (const item of [...this.certain].sort((a, b) => rank(a) - rank(b))) {
			if (this.stopped) break;
			this.now = item.title;
			item.open = false;
			await item.apply();
		}
		this.now = null;
	}

	/** Goes no further; what is being read is read to its end. */
	stop(): void {
		this.stopped = true;
	}

	remove(item: Incoming): void {
		void item.remove();
		this.items = this.items.filter((x) => x.key !== item.key);
	}
}

const KEY = Symbol('arrivals');
export const setArrivals = (arrivals: () => Arrivals) => setContext(KEY, arrivals);
export const useArrivals = (): Arrivals => getContext<() => Arrivals>(KEY)();
