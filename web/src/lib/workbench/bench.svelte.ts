import { call, get, session } from '$lib/api/client';
import type { View } from '$lib/panes/views';
import { completeBench, plainBench, type BenchState, type PaneState } from './state';

export interface Viewpoint {
	id: string;
	name: string;
	stage: string;
	createdBy: string;
	createdAt: string;
}

const SAVE_AFTER = 800;

/** How the workbench looks. Every change is kept with the project a moment later. */
export class Bench {
	state = $state<BenchState>(plainBench());
	viewpoints = $state.raw<Viewpoint[]>([]);
	private saved = '';
	/** When the state that this page knows was kept, by the clock of the server. */
	private keptAt = 0;
	private sending = false;
	/** Everything was read. Until then nothing is written: a state that could not be read must not be replaced by a plain one. */
	private opened = false;
	private timer: ReturnType<typeof setTimeout> | null = null;

	constructor(
		private readonly path: (rest: string) => string,
		private readonly failed: (error: unknown) => void
	) {}

	/** Loads the state as it was left, or a viewpoint; of a viewpoint that is not there any more that is said, and the state as it was left is shown. */
	async open(viewpoint: string | null): Promise<void> {
		const kept = await get<{ state: BenchState; keptAt: number }>(this.path('/workbench'));
		await this.listViewpoints();
		this.keptAt = kept.keptAt;
		this.state = completeBench(kept.state);
		this.saved = JSON.stringify(this.state);
		this.opened = true;
		if (viewpoint) await this.goTo(viewpoint);
	}

	async listViewpoints(): Promise<void> {
		this.viewpoints = (await get<{ viewpoints: Viewpoint[] }>(this.path('/viewpoints'))).viewpoints;
	}

	/** Takes over the styles that are kept, after they were undone. */
	async takeStyles(): Promise<void> {
		const kept = await get<{ state: BenchState; keptAt: number }>(this.path('/workbench'));
		if (JSON.stringify(kept.state.styles) === JSON.stringify(this.state.styles)) return;
		this.keptAt = kept.keptAt;
		this.state.styles = kept.state.styles;
		this.saved = JSON.stringify(this.state);
	}

	/** Follows the state; call inside an effect. */
	follow(): void {
		if (!this.opened) return;
		const text = JSON.stringify(this.state);
		if (text === this.saved) return;
		if (this.timer) clearTimeout(this.timer);
		this.timer = setTimeout(() => void this.save(), SAVE_AFTER);
	}

	/** Keeps what has not been kept yet, one state after the other. @param leaving the page goes away: the browser sends it on */
	async save(leaving = false): Promise<void> {
		if (this.timer) clearTimeout(this.timer);
		this.timer = null;
		const text = JSON.stringify(this.state);
		if (!this.opened || text === this.saved || (this.sending && !leaving)) return;
		this.saved = text;
		if (leaving) {
			void fetch(`/api/v1${this.path('/workbench')}`, {
				method: 'PUT',
				keepalive: text.length < 60_000,
				headers: { 'content-type': 'application/json', 'x-malachite-session': session },
				body: `{"state":${text},"since":${this.keptAt}}`
			});
			return;
		}
		this.sending = true;
		try {
			this.keptAt = (await call<{ keptAt: number }>('PUT', this.path('/workbench'), { state: JSON.parse(text) })).keptAt;
		} catch (error) {
			this.saved = '';
			this.failed(error);
			return;
		} finally {
			this.sending = false;
		}
		// What changed meanwhile.
		this.follow();
	}

	async keepViewpoint(name: string, stage: string): Promise<Viewpoint> {
		const v = await call<Viewpoint>('POST', this.path('/viewpoints'), { name, stage, state: JSON.parse(JSON.stringify(this.state)) });
		await this.listViewpoints();
		return v;
	}

	async goTo(id: string): Promise<void> {
		this.state = completeBench((await get<{ state: BenchState }>(this.path(`/viewpoints/${id}`))).state);
	}

	async remove(id: string): Promise<void> {
		await call('DELETE', this.path(`/viewpoints/${id}`));
		await this.listViewpoints();
	}

	panes(stage: string, initial: readonly View[]): PaneState[] {
		return this.state.panes[stage] ?? initial.map((view) => ({ view, settings: {} }));
	}
}

/** What a view keeps in its pane, with defaults where nothing fitting is kept; changes go to the pane. */
export function settingsOf<T extends object>(pane: PaneState, view: View, defaults: T): T {
	const kept = (pane.settings[view] ?? {}) as Record<string, unknown>;
	const fits = (a: unknown, b: unknown) => b === null || a === null || (typeof a === typeof b && Array.isArray(a) === Array.isArray(b));
	const own = Object.fromEntries(
		Object.entries(defaults).map(([key, value]) => [key, Object.hasOwn(kept, key) && fits(kept[key], value) ? kept[key] : value])
	);
	pane.settings[view] = own;
	return pane.settings[view] as T;
}
