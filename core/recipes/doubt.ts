import * as yup from 'yup';
import { unpackValue } from '../formats/pack';
import { ensemble } from '../model/ensemble';
import type { Ground } from '../model/fit-ground';
import { withTerrain } from '../model/whole';
import { gridOf, proposeCell, refuseTooFine } from './opened';
import { lengthOf, numberOf, wholeOf } from './parameters';
import { playing, recipe, theOne } from './recipe';

const MOST_CELLS = 3_000_000;

interface DoubtParameters {
	members: number;
	spacing: number;
	seed: number;
	contact: number;
	orientation: number;
	faultDip: number;
	faultTrace: number;
}

/** Many models from data moved within their errors. */
export const doubt = recipe<DoubtParameters>({
	id: 'doubt',
	title: 'Doubt of a model',
	about: 'Blocks: how likely each unit is, from many models of data that are moved within their errors.',
	version: 1,
	answers: 'how-sure',
	weight: 40,
	form: 'blocks',
	roles: {
		fields: { title: 'Model', kinds: ['model'], part: 'fields', least: 1, most: 1 },
		terrain: { title: 'Terrain', kinds: ['terrain'], least: 0, most: 1 }
	},
	parameters: yup
		.object({
			members: wholeOf('Models', 2, 1000),
			spacing: lengthOf('Cell'),
			seed: wholeOf('Seed', 0, 2 ** 31),
			contact: numberOf('Error of contacts', 0, 1e5, 'length'),
			orientation: numberOf('Error of orientations', 0, 90, 'degrees'),
			faultDip: numberOf('Error of fault dips', 0, 45, 'degrees'),
			faultTrace: numberOf('Error of fault traces', 0, 1e5, 'length')
		})
		.noUnknown() as never,
	suggest: (_inputs, project) => ({
		members: 20,
		spacing: 2 * proposeCell(project),
		seed: 1,
		contact: 1,
		orientation: 5,
		faultDip: 2,
		faultTrace: 5
	}),
	estimate(inputs, { spacing }, { extent: e }) {
		if (!e) return { bytes: 0, seconds: 0 };
		const cells = ((e.maxX - e.minX) * (e.maxY - e.minY) * (e.maxZ - e.minZ)) / spacing ** 3;
		refuseTooFine(cells, spacing, MOST_CELLS, 'spacing');
		return { bytes: cells * 4 * (2 * theOne(inputs, 'fields').units.length + 4), seconds: 0 };
	},
	async run(inputs, { members, spacing, seed, ...errors }, { tasks, progress }) {
		const terrain = playing(inputs, 'terrain')[0];
		const ground = withTerrain(unpackValue<Ground>(theOne(inputs, 'fields').pack!), terrain ? gridOf(terrain) : null);
		const { probability, entropy, volumes, ...rest } = await ensemble(ground.input, { members, spacing, seed, errors, progress, ...tasks });
		const units = ground.input.column.map((u) => u.id);
		return {
			pack: { info: { ...rest, units }, arrays: { probability, entropy } },
			report: { failed: rest.failed, volumes: volumes.map((v, i) => ({ unit: units[i]!, ...v })), members, spacing, seed, errors }
		};
	}
});
