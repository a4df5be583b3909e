import { problemText } from '$lib/api/client';
import type { RecipeInfo, Suggestion } from '$lib/api/types';
import type { Workspace } from '$lib/workspace.svelte';
import { firstChoice, fittingValues, freeOnes, NOTHING_OFFERED, recipes, type Offered } from './choices';

/** A recipe that is chosen, what it is made of and its parameters; their first values come from the server. */
export class RecipeChoice {
	list = $state.raw<RecipeInfo[]>([]);
	chosen = $state('');
	inputs = $state<Record<string, string[]>>({});
	parameters = $state<Record<string, unknown>>({});
	offered = $state.raw<Offered>(NOTHING_OFFERED);
	problem = $state('');
	/** First values are on their way for what was chosen last. */
	asking = $state(true);
	readonly recipe = $derived(this.list.find((r) => r.id === this.chosen));
	private turn = 0;

	constructor(private readonly workspace: Workspace) {}

	/** Reads the recipes that people make things by. @param fits leaves out others */
	async read(fits: (r: RecipeInfo) => boolean = () => true): Promise<void> {
		this.list = freeOnes(await recipes()).filter(fits);
	}

	/** Chooses a recipe, made of what suits it best. @param first ids that come first */
	choose(id: string, first: readonly string[] = []): void {
		this.chosen = id;
		this.inputs = this.recipe ? firstChoice(this.workspace.objects, this.recipe, this.workspace.modelId, first) : {};
	}

	/**
	 * First values for what is chosen; a value that was typed stays where it still fits.
	 * @returns what was suggested; null where something else was chosen meanwhile, or it could not be said
	 */
	async suggest(keep: Record<string, unknown>): Promise<Suggestion | null> {
		const own = ++this.turn;
		this.asking = true;
		this.problem = '';
		try {
			const s = await this.workspace.api.ask('suggestResult', { body: { recipe: this.chosen, inputs: this.inputs, parameters: keep } });
			if (own !== this.turn) return null;
			this.offered = s;
			if (this.recipe) this.parameters = fittingValues(this.recipe, s, keep);
			return s;
		} catch (error) {
			if (own === this.turn) this.problem = problemText(error);
			return null;
		} finally {
			if (own === this.turn) this.asking = false;
		}
	}
}
