import { call, get, session } from '$lib/api/client';
import type { SettingName } from './pane-settings';
import type { View } from '$lib/panes/views';
import { benchChanges, completeBench, plainBench, type BenchState, type PaneState } from './state';

export interface Viewpoint {
	id: string;
	name: string;
	stage: string;
	createdBy: string;
	createdAt: string;
}

const SAVE_AFTER = 800;

/** How the workbench looks in this browser. Every change is kept a moment later; only what was changed here is sent. */
export class Bench {
	state = $state<BenchState>(plainBench());
	viewpoints = $state.raw<Viewpoint[]>([]);
	/** The state as it is kept, as far as this page knows. */
	private saved: BenchState = plainBench();
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
		const kept = await get<{ state: BenchState }>(this.path('/workbench'));
		await this.listViewpoints();
		this.saved = completeBench(kept.state);
		this.state = completeBench(kept.state);
		this.opened = true;
		if (viewpoint) await this.goTo(viewpoint);
	}

	async listViewpoints(): Promise<void> {
		this.viewpoints = (await get<{ viewpoints: Viewpoint[] }>(this.path('/viewpoints'))).viewpoints;
	}

	/** Takes over the styles that are kept, after they were undone. */
	async takeStyles(): Promise<void> {
		const { state } = await get<{ state: BenchState }>(this.path('/workbench'));
		if (JSON.stringify(state.styles) === JSON.stringify(this.state.styles)) return;
		this.saved = { ...this.saved, styles: state.styles };
		this.state.styles = structuredClone(state.styles);
	}

	/** Follows the state; call inside an effect. */
	follow(): void {
		if (!this.opened || !benchChanges(this.saved, this.state)) return;
		if (this.timer) clearTimeout(this.timer);
		this.timer = setTimeout(() => void this.save(), SAVE_AFTER);
	}

	/** Keeps what has not been kept yet, one change after the other. @param leaving the page goes away: the browser sends it on */
	async save(leaving = false): Promise<void> {
		if (this.timer) clearTimeout(this.timer);
		this.timer = null;
		if (!this.opened || (this.sending && !leaving)) return;
		const state = $state.snapshot(this.state) as BenchState;
		const changes = benchChanges(this.saved, state);
		if (!changes) return;
		if (leaving) {
			const body = JSON.stringify({ changes });
			this.saved = state;
			void fetch(`/api/v1${this.path('/workbench')}`, {
				method: 'PATCH',
				keepalive: body.length < 60_000,
				headers: { 'content-type': 'application/json', 'x-malachite-session': session },
				body
			});
			return;
		}
		this.sending = true;
		try {
			await call('PATCH', this.path('/workbench'), { changes });
			this.saved = state;
		} catch (error) {
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
export function settingsOf<V extends View, T extends { [K in keyof T]: K extends SettingName<V> ? unknown : never }>(
	pane: PaneState,
	view: V,
	defaults: T
): T {
	const kept = (pane.settings[view] ?? {}) as Record<string, unknown>;
	const fits = (a: unknown, b: unknown) => b === null || a === null || (typeof a === typeof b && Array.isArray(a) === Array.isArray(b));
	const own = Object.fromEntries(
		Object.entries(defaults).map(([key, value]) => [key, Object.hasOwn(kept, key) && fits(kept[key], value) ? kept[key] : value])
	);
	pane.settings[view] = own;
	return pane.settings[view] as T;
}
