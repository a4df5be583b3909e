import { and, eq, inArray } from 'drizzle-orm';
import { recipeOf } from '#core/recipes/register';
import { db } from '../db/client';
import { file } from '../db/schema';
import type { ObjectRow } from '../graph/graph';
import { builtReports } from '../store/results';

/**
 * How a result was made, from the files on, in words that can go into a report: what was brought in comes before what is made of it.
 * A model is one step: it tells of itself under Build.
 */
export async function accountOf(
	projectId: string,
	graph: readonly ObjectRow[],
	node: ObjectRow
): Promise<{ name: string; words: string }[]> {
	const byId = new Map(graph.map((o) => [o.id, o]));
	const whole = (o: ObjectRow) => (o.modelId ? (graph.find((m) => m.kind === 'model' && m.modelId === o.modelId) ?? o) : o);
	const order: ObjectRow[] = [];
	const met = new Set<string>();
	const visit = (o: ObjectRow): void => {
		if (met.has(o.id)) return;
		met.add(o.id);
		if (!o.modelId)
			for (const e of o.edges) {
				const input = byId.get(e.input);
				if (input) visit(whole(input));
			}
		order.push(o);
	};
	visit(node);
	const files = order.flatMap((o) => o.fileId ?? []);
	const [named, reports] = await Promise.all([
		files.length
			? db()
					.select({ id: file.id, name: file.name })
					.from(file)
					.where(and(eq(file.projectId, projectId), inArray(file.id, files)))
			: [],
		builtReports(
			db(),
			projectId,
			order.flatMap((o) => o.contentHash || [])
		)
	]);
	const nameOf = new Map(named.map((f) => [f.id, f.name]));
	return order.map((o) => {
		const recipe = recipeOf(o.kind);
		const said = reports.get(o.contentHash)?.report['words'];
		if (o.modelId) return { name: o.name, words: 'A model of this project.' };
		if (!recipe || recipe.step) {
			const from = o.fileId ? nameOf.get(o.fileId) : undefined;
			return { name: o.name, words: from ? `Read from ${from}.` : 'Typed or drawn in this project.' };
		}
		if (typeof said === 'string') return { name: o.name, words: said };
		const of = o.edges.flatMap((e) => byId.get(e.input) ?? []).map((i) => whole(i).name);
		return { name: o.name, words: `${recipe.title}${of.length ? ` of ${[...new Set(of)].join(', ')}` : ''}.` };
	});
}
