import { untrack } from 'svelte';
import type { LogData, ModelLog } from '#core/logs/log-parts';
import { modelLog } from '#core/logs/model-log';
import type { LogTrack } from '#core/logs/spec';
import type { RowPage } from '$lib/api/types';
import type { ShownSolids } from '$lib/workbench/solids.svelte';
import type { Workspace } from '$lib/workspace.svelte';

/** What logs of holes are drawn from, loaded as their tracks need it. Made while a component is set up. */
export class LogFeed {
	private texts = $state.raw<Map<string, Map<number, string>>>(new Map());
	/** Findings by hole; depths of rows that are held back are read with them. */
	private findingDepths = $state.raw<Map<string, number>>(new Map());
	private modelLogs = new WeakMap<ShownSolids, Map<number, ModelLog>>();

	constructor(
		private readonly workspace: Workspace,
		private readonly shown: () => { names: readonly string[]; tracks: readonly LogTrack[] }
	) {
		const { sets } = workspace;
		// Texts that are no classes are read row by row, hole by hole.
		$effect(() => {
			const { names, tracks } = this.shown();
			for (const t of tracks)
				for (const s of t.series) {
					if (!sets.of(s.table)?.texts.some((x) => x.key === s.column)) continue;
					for (const hole of names) {
						const key = `${s.table} ${s.column} ${hole} ${workspace.objects.find((o) => o.id === s.table)?.contentHash}`;
						if (untrack(() => this.texts.has(key))) continue;
						untrack(() => this.texts.set(key, new Map()));
						void this.rowsOf(s.table, hole).then(
							(page) => {
								const position = page.table.header.findIndex(
									(h) => (page.table.mapping[h] === 'keep' ? h : page.table.mapping[h]) === s.column
								);
								if (position < 0) return;
								this.texts = new Map(this.texts).set(key, new Map(page.rows.map((r) => [r.n, r.cells[position]!])));
							},
							(error) => workspace.tell(error)
						);
					}
				}
		});
		$effect(() => {
			const { names, tracks } = this.shown();
			if (!tracks.some((t) => t.kind === 'findings')) return;
			for (const f of workspace.findings?.findings ?? []) {
				if (!f.table || !f.hole || !names.includes(f.hole) || untrack(() => this.findingDepths.has(`${f.table} ${f.hole}`))) continue;
				const key = `${f.table} ${f.hole}`;
				untrack(() => this.findingDepths.set(key, 0));
				void this.rowsOf(f.table, f.hole).then(
					(page) => {
						const position = page.table.header.findIndex((h) => ['from', 'depth'].includes(page.table.mapping[h] ?? ''));
						if (position < 0) return;
						const next = new Map(this.findingDepths);
						for (const r of page.rows) next.set(`${f.table} row ${r.n}`, Number(r.cells[position]!.replace(',', '.')));
						this.findingDepths = next;
					},
					() => {}
				);
			}
		});
		// Models beside the logs: loaded when a track shows them.
		$effect(() => {
			for (const t of this.shown().tracks)
				for (const s of t.kind === 'model' ? t.series : []) {
					if (s.table === workspace.modelId) workspace.need('model');
					workspace.needSolids(s.table);
				}
		});
	}

	private rowsOf(table: string, hole: string): Promise<RowPage> {
		return this.workspace.api.ask('listRows', { object: table, limit: 1000, hole });
	}

	private textAt(table: string, key: string, row: number): string {
		for (const [k, rows] of this.texts) if (k.startsWith(`${table} ${key} `) && rows.has(row)) return rows.get(row)!;
		return '';
	}

	readonly modelOf = (of: string, hole: number): ModelLog | null => {
		const { workspace } = this;
		const solids = workspace.solidObjects.some((o) => o.id === of) ? workspace.solids(of) : null;
		const { paths } = workspace.sets;
		if (!solids || !paths) return null;
		let known = this.modelLogs.get(solids);
		if (!known) this.modelLogs.set(solids, (known = new Map()));
		let own = known.get(hole);
		if (!own) known.set(hole, (own = modelLog(solids.name, solids.mesh, solids.units, paths, hole)));
		return own;
	};

	/** Null until the holes have come. */
	get data(): LogData | null {
		const { workspace } = this;
		const { sets } = workspace;
		const { paths } = sets;
		if (!paths) return null;
		return {
			paths,
			set: (t) => sets.of(t),
			style: (s) => sets.style(s),
			defaults: sets.defaults,
			text: (table, key, row) => this.textAt(table, key, row),
			findings: (hole) =>
				(workspace.findings?.findings ?? []).flatMap((f) => {
					if (f.hole !== hole || f.seen !== null) return [];
					const depth = this.findingDepths.get(`${f.table} row ${f.n}`) ?? 0;
					return Number.isNaN(depth) ? [] : [{ depth, severity: f.severity, message: f.message }];
				}),
			photographs: (hole) =>
				workspace.things.flatMap((t) => (t.kind === 'picture' && t.core?.hole === hole ? [{ ...t.core, href: t.url, name: t.name }] : [])),
			model: this.modelOf,
			lengthUnit: workspace.project?.lengthUnit ?? 'm'
		};
	}
}
