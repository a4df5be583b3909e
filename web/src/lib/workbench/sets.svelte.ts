import { unpackValue } from '#core/formats/pack';
import { NO_CLASS, type Column, type DataSet } from '#core/datasets/dataset';
import { unpackDataSet } from '#core/datasets/transfer';
import { withUnits } from '#core/datasets/units';
import { placeAt, type HolePaths } from '#core/datasets/hole-paths';
import { proposedStyle, unitDefaults } from '#core/styles/propose';
import type { Scheme } from '#core/units/scheme';
import { painter, type ClassDefaults, type DataStyle, type Painter } from '#core/styles/style';
import { KnownPacks } from '$lib/api/known-packs';
import type { OfProject } from '$lib/api/of-project';
import type { Interpretation, ProjectObject } from '$lib/api/types';
import type { Box } from '#core/geometry/box';
import type { BenchState } from './state';

/** What the data sets of a project depend on. */
interface SetContext {
	api: OfProject;
	tables: () => ProjectObject[];
	/** Rows that recipes made, by the id of their object. */
	made: (id: string) => DataSet | null;
	interpretation: () => Interpretation | null;
	schemes: () => readonly Scheme[];
	extent: () => Box | null;
	bench: () => BenchState;
	failed: (error: unknown) => void;
}

/** The holes and the rows of all tables in use, as columns, loaded when something shows them. */
export class DataSets {
	paths = $state.raw<HolePaths | null>(null);
	private raw = $state.raw<Record<string, DataSet>>({});
	private readonly tables = new KnownPacks(unpackDataSet);
	private readonly holes = new KnownPacks((pack) => unpackValue<HolePaths>(pack));
	private loading = new Map<string, string>();
	private key = '';
	/** Ends when the holes and what comes with them are there, or could not be read. */
	private following: Promise<void> = Promise.resolve();

	constructor(private readonly context: SetContext) {}

	/**
	 * Loads the holes again when the tables have changed, and with them the sets that are shown: rows name holes by number, so that both
	 * change at once.
	 * @param wanted tables that will be shown first
	 */
	async follow(key: string, wanted: readonly string[] = []): Promise<void> {
		if (key === this.key) return;
		this.key = key;
		const tables = this.context.tables();
		const ids = tables.map((t) => t.id).filter((id) => this.raw[id] || wanted.includes(id));
		for (const id of ids) this.loading.set(id, key);
		const hasCollars = tables.some((t) => t.state['kind'] === 'collars');
		const reading = Promise.all([
			hasCollars ? this.holes.get(this.context.api.address('getPaths')) : null,
			...ids.map((id) => this.fetch(id))
		] as const);
		this.following = reading.then(
			() => {},
			() => {}
		);
		try {
			const [paths, ...sets] = await reading;
			if (this.key !== key) return;
			this.paths = paths;
			this.raw = Object.fromEntries(sets.map((set) => [set.id, set]));
		} catch (error) {
			if (this.key === key) {
				this.key = '';
				this.loading.clear();
			}
			throw error;
		}
	}

	private async fetch(id: string): Promise<DataSet> {
		return this.tables.get(this.context.api.address('getPlacedTable', { object: id }));
	}

	private async load(id: string): Promise<void> {
		const key = this.key;
		if (this.loading.get(id) === key) return;
		this.loading.set(id, key);
		try {
			const set = await this.fetch(id);
			// It names holes by number: it is shown with the holes that it names, and not thrown away with those before.
			await this.following;
			if (this.key === key) this.raw = { ...this.raw, [id]: set };
		} catch (error) {
			this.loading.delete(id);
			// A table that is gone meanwhile is no error: it is not listed any more.
			if (this.context.tables().some((t) => t.id === id)) this.context.failed(error);
		}
	}

	/** A data set with its units as a column; null while it is on its way. */
	of(id: string | null): DataSet | null {
		if (!id) return null;
		const set = this.raw[id];
		if (!set) {
			if (this.context.tables().some((t) => t.id === id)) void this.load(id);
			return this.context.made(id);
		}
		return this.withUnits(set);
	}

	private unitCache = new WeakMap<DataSet, { of: unknown; set: DataSet }>();

	private withUnits(set: DataSet): DataSet {
		const i = this.context.interpretation();
		if (!i) return set;
		const of = `${i.column.revision} ${i.lumping.revision}`;
		const known = this.unitCache.get(set);
		if (known?.of === of) return known.set;
		const full = withUnits(set, i.column.units, i.lumping.codes);
		this.unitCache.set(set, { of, set: full });
		return full;
	}

	/** Colours that classes have by themselves: units theirs, names of geological time those of the chart. */
	get defaults(): ClassDefaults {
		const i = this.context.interpretation();
		return unitDefaults(i?.column.units ?? [], i?.lumping.codes ?? {}, this.context.schemes());
	}

	/** The style of a data set: as it was set, or one that suits it. */
	style(set: Pick<DataSet, 'id' | 'kind' | 'place' | 'columns' | 'rowCount'>): DataStyle {
		return this.context.bench().styles[set.id] ?? proposedStyle(set, this.context.extent());
	}

	setStyle(id: string, style: DataStyle): void {
		this.context.bench().styles[id] = style;
	}

	change(set: DataSet, change: Partial<DataStyle>): void {
		this.setStyle(set.id, { ...this.style(set), ...change });
	}

	painter(set: DataSet): Painter {
		return painter(set, this.style(set), this.defaults);
	}

	/** Position of a row, or null when its hole has no place. */
	placeOf(set: DataSet, i: number): [number, number, number] | null {
		if (set.place === 'map') return [set.xyz[3 * i]!, set.xyz[3 * i + 1]!, set.xyz[3 * i + 2]!];
		if (!this.paths) return null;
		const out: [number, number, number] = [0, 0, 0];
		placeAt(this.paths, set.hole[i]!, set.place === 'hole' ? 0 : (set.from[i]! + set.to[i]!) / 2, out);
		return out;
	}

	holeNumber(name: string): number {
		return this.paths?.holes.findIndex((h) => h.name === name) ?? -1;
	}
}

/** Text of a value with its unit, for details and probes. */
export function valueText(column: Column, i: number): string {
	if (column.type === 'category') return column.values[i] === NO_CLASS ? '' : (column.categories[column.values[i]!] ?? '');
	const v = column.values[i]!;
	if (Number.isNaN(v)) return '';
	if (column.type === 'date')
		return new Date(v * 86_400_000)
			.toISOString()
			.slice(0, v % 1 ? 16 : 10)
			.replace('T', ' ');
	return `${Number(v.toPrecision(6))}${column.unit ? ` ${column.unit}` : ''}`;
}
