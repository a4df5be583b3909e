import type { OfProject } from '$lib/api/of-project';
import type { AnswerOf } from '$lib/api/contract';
import type { SettingName } from './pane-settings';
import type { Stage } from '$lib/stages';
import type { View } from '$lib/panes/views';
import { benchChanges, completeBench, plainBench, type BenchState, type PaneState } from './state';

export type Viewpoint = AnswerOf<'listViewpoints'>['viewpoints'][number];

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
		private readonly api: OfProject,
		private readonly failed: (error: unknown) => void
	) {}

	/** Loads the state as it was left, or a viewpoint; of a viewpoint that is not there any more that is said, and the state as it was left is shown. */
	async open(viewpoint: string | null): Promise<void> {
		const kept = await this.api.ask('getWorkbench');
		await this.listViewpoints();
		this.saved = completeBench(kept.state);
		this.state = completeBench(kept.state);
		this.opened = true;
		if (viewpoint) await this.goTo(viewpoint);
	}

	async listViewpoints(): Promise<void> {
		this.viewpoints = (await this.api.ask('listViewpoints')).viewpoints;
	}

	/** Takes over the styles that are kept, after they were undone. */
	async takeStyles(): Promise<void> {
		const { state } = await this.api.ask('getWorkbench');
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
			this.saved = state;
			this.api.sendLeaving('changeWorkbench', { body: { changes } });
			return;
		}
		this.sending = true;
		try {
			await this.api.ask('changeWorkbench', { body: { changes } });
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

	async keepViewpoint(name: string, stage: Stage): Promise<Viewpoint> {
		const v = await this.api.ask('addViewpoint', { body: { name, stage, state: JSON.parse(JSON.stringify(this.state)) } });
		await this.listViewpoints();
		return v;
	}

	async goTo(id: string): Promise<void> {
		this.state = completeBench((await this.api.ask('getViewpoint', { viewpoint: id })).state);
	}

	async remove(id: string): Promise<void> {
		await this.api.ask('deleteViewpoint', { viewpoint: id });
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
