import { UNKNOWN } from '../palette';
import * as yup from 'yup';
import { unpackValue } from '../formats/pack';
import { buildPlanned, estimateBuild } from '../model/build';
import { crossedPlan } from '../model/cross';
import type { Ground } from '../model/fit-ground';
import { faultsOf, unitsOf, withTerrain } from '../model/whole';
import { unitsIn } from '../mesh/extract';
import { TERRAIN } from '../mesh/labels';
import { blockNumbers } from '../model/blocks';
import { fail } from '../problem';
import type { Unit } from '../units/column';
import { gridOf, proposeCell } from './opened';
import { lengthOf } from './parameters';
import { playing, recipe, theOne } from './recipe';

/** The units of one model by those of another: exact common solids, and their volumes. */
export const crossedModels = recipe<{ spacing: number }>({
	id: 'crossed-models',
	title: 'Crossed models',
	about: 'Solids: where which unit of one model is within which unit of another, with the volume of each pair.',
	version: 1,
	weight: 14,
	form: 'solids',
	roles: {
		first: { title: 'Units of', kinds: ['model'], part: 'fields', least: 1, most: 1 },
		second: { title: 'by units of', kinds: ['model'], part: 'fields', least: 1, most: 1 },
		terrain: { title: 'Terrain', kinds: ['terrain'], least: 0, most: 1 }
	},
	parameters: yup.object({ spacing: lengthOf('Spacing') }).noUnknown() as never,
	suggest: (_inputs, project) => ({ spacing: 2 * proposeCell(project) }),
	estimate: (inputs, { spacing }, { extent }) => {
		const units = inputs.flatMap((g) => g.units);
		return { bytes: extent ? estimateBuild({ extent, column: units }, spacing).bytes : 0, seconds: 0 };
	},
	async run(inputs, { spacing }, { tasks, progress }) {
		const terrain = playing(inputs, 'terrain')[0];
		const raster = terrain ? gridOf(terrain) : null;
		const [first, second] = [theOne(inputs, 'first'), theOne(inputs, 'second')];
		const [a, b] = [first, second].map((g) => withTerrain(unpackValue<Ground>(g.pack!), raster)) as [Ground, Ground];
		const count = unitsOf(a).length * unitsOf(b).length;
		if (count >= TERRAIN)
			fail('too-many-units', `${count} pairs of units are more than ${TERRAIN - 1}`, 'Lump units in one of the models.');
		const built = await buildPlanned(crossedPlan(a, b), { spacing, progress, ...tasks });
		const { volumes, frontLeaf, backLeaf, ...arrays } = built.mesh;
		// Between two pairs lies the base of the younger one, whichever model it comes from.
		const surface = arrays.surface.map((s, t) => (s < TERRAIN ? younger(arrays.front[t]!, arrays.back[t]!) : s));
		const named = (units: readonly { id: string }[], as: readonly Unit[]) => units.map((u) => as.find((x) => x.id === u.id) ?? plain(u.id));
		const [unitsA, unitsB] = [named(unitsOf(a), first.units), named(unitsOf(b), second.units)];
		const pairs = unitsA.flatMap((u) =>
			unitsB.map((v) => ({
				id: `${u.id} × ${v.id}`,
				name: `${u.name} × ${v.name}`,
				color: mixed(u.color, v.color),
				first: u.id,
				second: v.id
			}))
		);
		const ofLeaf = built.leaves.map(() => 0);
		const there = new Set(unitsIn(built.mesh));
		const rows = pairs.flatMap(({ first: of, second: by }, i) =>
			there.has(i) ? [{ first: of, second: by, volume: volumes.get(i) ?? 0 }] : []
		);
		return {
			pack: {
				info: {
					units: pairs.map((p) => p.id),
					described: pairs.map(({ id, name, color }) => ({ id, name, color })),
					faults: [...faultsOf(a), ...faultsOf(b)].map((f) => ({ id: f.id, name: f.name })),
					hasTerrain: raster !== null,
					volumes: [...volumes],
					blocks: [{ id: '', sides: [], name: 'not cut by faults' }]
				},
				arrays: { ...arrays, surface, frontBlock: blockNumbers(frontLeaf, ofLeaf), backBlock: blockNumbers(backLeaf, ofLeaf) }
			},
			report: {
				units: pairs.filter((_, i) => there.has(i)).map(({ id, name, color }) => ({ id, name, color })),
				spacing,
				volumes: rows,
				whole: rows.reduce((sum, r) => sum + r.volume, 0),
				triangles: arrays.front.length
			}
		};
	}
});

const plain = (id: string): Unit => ({ id, name: id, color: UNKNOWN, contact: 'conformable' });

const younger = (a: number, b: number): number => (a < 0 ? b : b < 0 ? a : Math.min(a, b));

/** The colour of the first, a third of the way to that of the second. */
function mixed(a: string, b: string): string {
	const channel = (hex: string, k: number) => parseInt(hex.slice(1 + 2 * k, 3 + 2 * k), 16);
	const part = (k: number) => Math.round((2 * channel(a, k) + channel(b, k)) / 3);
	return `#${[0, 1, 2].map((k) => part(k).toString(16).padStart(2, '0')).join('')}`;
}
