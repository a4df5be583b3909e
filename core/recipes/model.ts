import * as yup from 'yup';
import { LABELS } from '../formats/drawn-mesh';
import { unpackValue, type Pack } from '../formats/pack';
import { inDrawingOrder } from '../mesh/drawing-order';
import type { Misfit } from '../mesh/misfit';
import { blockNumbers, blocksOf, type BlockMesh } from '../model/blocks';
import { buildModel, estimateBuild, type BuiltModel } from '../model/build';
import type { FinerParts } from '../model/finer';
import type { Ground } from '../model/fit-ground';
import { volumeFindings } from '../model/verdict';
import { allContacts, faultsOf, unitsOf, withTerrain } from '../model/whole';
import { checkHoles } from '../project/pipeline';
import { finerSchema } from '../project/guards';
import { flagsOf, reportOf, type ModelReport } from '../project/report';
import { recipe, theOne } from './recipe';

/** A built model as it is stored, and as recipes take it: its mesh with fault blocks, and the distance of every contact. */
export function packOfModel(ground: Ground, built: BuiltModel, misfits: readonly Misfit[]): Pack {
	const { frontLeaf, backLeaf, ...mesh } = built.mesh;
	const { blocks, ofLeaf } = blocksOf(ground, built.leaves);
	const own: BlockMesh = { ...mesh, frontBlock: blockNumbers(frontLeaf, ofLeaf), backBlock: blockNumbers(backLeaf, ofLeaf) };
	const { volumes, ...arrays } = inDrawingOrder(own, LABELS);
	return {
		info: {
			units: unitsOf(ground).map((u) => u.id),
			faults: faultsOf(ground).map((f) => ({ id: f.id, name: f.name })),
			hasTerrain: ground.input.terrain !== null,
			volumes: [...volumes],
			blocks,
			misfits: allContacts(ground).map((c, i) => ({ ...c, distance: misfits[i]!.distance })),
			orientations: ground.input.orientations
		},
		arrays
	};
}

interface ModelParameters {
	spacing: number;
	leastPart?: number | undefined;
	finer?: FinerParts | undefined;
}

/** The solids, packed for storing and for the panes, with the report and the misfit of every contact. */
export const model = recipe<ModelParameters>({
	id: 'model',
	title: 'Model',
	about: 'Closed solids of all units that touch without gaps, and the surfaces between them.',
	version: 10,
	weight: 14,
	form: 'solids',
	roles: { fields: { title: 'Fields', kinds: ['fields'], least: 1, most: 1 } },
	parameters: yup.object({
		spacing: yup.number().positive().max(1e6).required().meta({ label: 'Spacing', unit: 'length' }),
		leastPart: yup.number().min(0).max(1e15),
		finer: finerSchema.default(undefined).optional()
	}) as never,
	step: {
		inputs: ['fields'],
		fedBy: ['terrain'],
		tables: ['collars', 'surveys', 'intervals'],
		depends: ({ state }) => ({ spacing: state['spacing'], leastPart: state['leastPart'] ?? 0, finer: state['finer'] ?? null })
	},
	estimate: (inputs, { spacing, finer }, { extent }) => ({
		bytes: extent ? estimateBuild({ extent, column: theOne(inputs, 'fields').units }, spacing, finer).bytes : 0,
		seconds: 0
	}),
	async run(inputs, { spacing, leastPart = 0, finer }, { ground: facts, tasks, progress }) {
		const { tables, options } = facts!;
		const interpretation = facts!.interpretation!;
		const ground = withTerrain(unpackValue<Ground>(theOne(inputs, 'fields').pack!), interpretation.terrain);
		const built = await buildModel(ground, { spacing, leastPart, finer, progress, ...tasks });
		const flags = await flagsOf(
			ground,
			tables,
			checkHoles(tables, options),
			interpretation.lumping,
			interpretation.shaping!,
			spacing,
			tasks.evaluate
		);
		const { report, misfits } = reportOf(ground, built, spacing, flags);
		return { pack: packOfModel(ground, built, misfits), report: { ...report } };
	},
	follow(now, before) {
		const [report, old] = [now as unknown as ModelReport, before as Partial<ModelReport>];
		// In another box all volumes are others.
		const volumes = old.box === report.box ? (old.volumes ?? []) : [];
		return { ...report, findings: [...report.findings, ...volumeFindings(volumes, report.volumes)] };
	}
});
