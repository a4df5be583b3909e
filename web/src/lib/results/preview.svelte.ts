import { readPack } from '#core/formats/pack';
import { problemText } from '$lib/api/client';
import { thingOfPack } from '$lib/things';
import type { Workspace } from '$lib/workspace.svelte';

/** Milliseconds without a change before a preview is asked for. */
const PAUSE = 250;

/** A first look at what parameters would make, drawn on the map while they are turned. */
export class Preview {
	/** What is said of it: the report of the recipe. */
	report = $state.raw<Record<string, unknown> | null>(null);
	problem = $state('');
	busy = $state(false);
	private timer: ReturnType<typeof setTimeout> | null = null;
	private asked: AbortController | null = null;

	constructor(private readonly workspace: Workspace) {}

	/** Asks for a preview soon; an older question that has no answer yet is given up. */
	show(recipe: string, inputs: Record<string, string[]>, parameters: Record<string, unknown>): void {
		if (this.timer) clearTimeout(this.timer);
		this.asked?.abort();
		this.timer = setTimeout(() => void this.ask(recipe, inputs, parameters), PAUSE);
	}

	private async ask(recipe: string, inputs: Record<string, string[]>, parameters: Record<string, unknown>): Promise<void> {
		const own = (this.asked = new AbortController());
		this.busy = true;
		try {
			const bytes = await this.workspace.api.bytes('previewResult', { body: { recipe, inputs, parameters } }, own.signal);
			if (own !== this.asked) return;
			const pack = readPack(bytes);
			const { form, report } = pack.info as { form: string; report: Record<string, unknown> };
			this.workspace.preview = thingOfPack('preview', 'Preview', form, pack);
			this.report = report;
			this.problem = '';
		} catch (error) {
			if (own !== this.asked) return;
			this.workspace.preview = null;
			this.report = null;
			this.problem = problemText(error);
		} finally {
			if (own === this.asked) this.busy = false;
		}
	}

	/** Takes it off the map. */
	end(): void {
		if (this.timer) clearTimeout(this.timer);
		this.asked?.abort();
		this.asked = null;
		this.busy = false;
		this.problem = '';
		this.report = null;
		this.workspace.preview = null;
	}
}
