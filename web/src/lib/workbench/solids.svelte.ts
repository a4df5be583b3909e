import { decodeDrawnMesh } from '#core/formats/drawn-mesh';
import type { Pack } from '#core/formats/pack';
import type { SolidMesh } from '#core/mesh/cut-lattice';
import type { BlockMesh, FaultBlock } from '#core/model/blocks';
import type { Shaping } from '#core/project/shaping';
import { withParts } from '#core/units/at-rank';
import type { Unit } from '#core/units/column';
import type { OfProject } from '$lib/api/of-project';
import type { ProjectObject } from '$lib/api/types';
import type { ModelScene } from '../workspace-parts';
import { showInTurn } from './on-its-way';

/** A unit as panes show it. */
export type ShownUnit = Pick<Unit, 'id' | 'name' | 'color'> & {
	/** Name of the unit that it is a part of by a division. */
	within?: string;
};

/** Solids as a pane shows them, whichever model they are of. */
export interface ShownSolids {
	id: string;
	name: string;
	/** Key of what they were built from. */
	key: string;
	mesh: SolidMesh;
	/** By label. */
	units: readonly (ShownUnit | undefined)[];
	/** From the top of the column down. */
	column: readonly ShownUnit[];
	faults: readonly { id: string; name: string }[];
	outOfDate: boolean;
	/** Where only a first look at it has come: how far the whole is. */
	light: Arrival | null;
}

/** How far a model is on its way while few triangles of it are seen. */
export class Arrival {
	/** From 0 to 1. */
	share = $state(0);

	get words(): string {
		const share = this.share ? `, ${Math.round(100 * this.share)} %` : '';
		return `First look: the whole model is on its way${share}…`;
	}
}

interface Loaded {
	scene: ModelScene;
	/** Units that the pack itself names and colours. */
	described: readonly ShownUnit[] | null;
}

/** What the parts of drawn solids hold. @param light how far the whole is, where this is a first look at it */
export function openSolids(key: string, packs: readonly Pack[], light: Arrival | null): Loaded {
	const i = packs.find((p) => 'units' in p.info)!.info as unknown as {
		units: string[];
		faults: { id: string; name: string }[];
		hasTerrain: boolean;
		volumes: [number, number][];
		blocks?: FaultBlock[];
		described?: ShownUnit[];
	};
	const mesh: BlockMesh = { ...decodeDrawnMesh(packs), volumes: new Map(i.volumes) };
	return {
		// What is told by vertex of the whole fits no first look.
		scene: {
			key: light ? `${key} light` : key,
			mesh,
			blocks: i.blocks ?? [],
			unitIds: i.units,
			faults: i.faults,
			hasTerrain: i.hasTerrain,
			light
		},
		described: i.described ?? null
	};
}

/** The units of a model or a kept one, those of divisions after those of the column, as they are called now. */
function unitsOfSolids(objects: readonly ProjectObject[], o: ProjectObject): readonly ShownUnit[] {
	const parts = o.state['parts'] as Record<string, Record<string, unknown>> | undefined;
	const state = (kind: string) => parts?.[kind] ?? objects.find((x) => x.kind === kind && x.modelId === o.id)?.state ?? {};
	const shaping = state('shaping') as Partial<Shaping>;
	return withParts((state('column')['units'] ?? []) as Unit[], shaping.divisions ?? []);
}

/** Solids besides those of the model at hand: loaded when a pane shows them, and again when they are built anew. */
export class OtherSolids {
	private loaded = $state.raw<ReadonlyMap<string, Loaded>>(new Map());
	private readonly loading = new Set<string>();

	constructor(
		private readonly of: {
			api: OfProject;
			objects(): readonly ProjectObject[];
			failed(error: unknown): void;
		}
	) {}

	/** Says that a pane shows an object; call inside an effect. */
	need(id: string): void {
		const o = this.of.objects().find((x) => x.id === id);
		if (!o || o.missing || !o.contentHash || this.loaded.get(id)?.scene.key === o.contentHash) return;
		const turn = `${id} ${o.contentHash}`;
		if (this.loading.has(turn)) return;
		this.loading.add(turn);
		const { api, objects } = this.of;
		const arrival = new Arrival();
		showInTurn({
			arrival,
			read: (wanted) => api.bytes('getObjectPack', { object: id, drawn: true, ...wanted }),
			open: (packs, light) => openSolids(o.contentHash, packs, light ? arrival : null),
			show: (own) => (this.loaded = new Map(this.loaded).set(id, own)),
			seen: this.loaded.has(id),
			// Built anew meanwhile, it is asked for again.
			wanted: () => objects().find((x) => x.id === id)?.contentHash === o.contentHash
		})
			.catch((error: unknown) => this.of.failed(error))
			.finally(() => this.loading.delete(turn));
	}

	/** An object as panes show it; null until it has come. */
	shown(id: string): ShownSolids | null {
		const o = this.of.objects().find((x) => x.id === id);
		const own = this.loaded.get(id);
		if (!o || !own) return null;
		const named = own.described ?? unitsOfSolids(this.of.objects(), o);
		const { scene } = own;
		return {
			id,
			name: o.name,
			key: scene.key,
			mesh: scene.mesh,
			units: scene.unitIds.map((u) => named.find((x) => x.id === u)),
			column: named.filter((u) => scene.unitIds.includes(u.id)),
			faults: scene.faults,
			outOfDate: o.outOfDate,
			light: scene.light
		};
	}
}
