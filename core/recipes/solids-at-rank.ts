import * as yup from 'yup';
import { mergedUnits } from '../mesh/merged-units';
import { unitsIn } from '../mesh/extract';
import { UNKNOWN } from '../palette';
import { fail } from '../problem';
import { ranksOf, unitsAtRank } from '../units/at-rank';
import type { Scheme } from '../units/scheme';
import { solidsOf, unitsByNumber } from './opened';
import { rankOf } from './parameters';
import { recipe, theOne, type Described } from './recipe';
import { MODEL } from './roles';

const schemesOf = (inputs: readonly Described[]) => (theOne(inputs, 'schemes').state['schemes'] ?? []) as Scheme[];

/** @throws ProblemError `no-scheme`, `unknown-rank` */
function chosenRank(inputs: readonly Described[], wanted: string) {
	const ranks = ranksOf(schemesOf(inputs));
	if (ranks.length === 0) fail('no-scheme', 'there is no scheme of ranks', 'Read or type one under Interpret, Ranks.', 'schemes');
	return (
		ranks.find((r) => r.key === wanted) ??
		ranks.find((r) => r.name.toLowerCase() === wanted.toLowerCase()) ??
		fail('unknown-rank', `there is no rank "${wanted}"`, `There are ${ranks.map((r) => r.name).join('; ')}.`, 'rank')
	);
}

/** The solids of a model with its units put together at a rank of a scheme. */
export const solidsAtRank = recipe<{ rank: string }>({
	id: 'solids-at-rank',
	title: 'Model at a rank',
	about: 'Solids: units of a model put together to what they are parts of, groups of formations say, with their volumes.',
	version: 1,
	form: 'solids',
	roles: { model: MODEL, schemes: { title: 'Schemes', kinds: ['schemes'], least: 1, most: 1 } },
	parameters: yup.object({ rank: rankOf('schemes') }).noUnknown() as never,
	suggest: (inputs) => ({ rank: ranksOf(schemesOf(inputs))[0]?.key ?? '' }),
	called: (inputs, { rank }) =>
		`${theOne(inputs, 'model').name} at ${ranksOf(schemesOf(inputs)).find((r) => r.key === rank)?.name ?? 'a rank'}`,
	refuse: (inputs, { rank }) => void chosenRank(inputs, rank),
	run(inputs, { rank }) {
		const given = theOne(inputs, 'model');
		const units = unitsByNumber(given);
		const groups = unitsAtRank(chosenRank(inputs, rank), units);
		const into: number[] = [];
		groups.forEach((g, i) => g.of.forEach((label) => (into[label] = i)));
		const { volumes, ...arrays } = mergedUnits(solidsOf(given), into);
		const there = new Set(unitsIn({ volumes, ...arrays }));
		const described = groups.map((g) => ({ id: g.id, name: g.name, color: g.color || UNKNOWN, contact: units[g.of.at(-1)!]!.contact }));
		const { faults, hasTerrain, blocks } = given.pack!.info;
		return {
			pack: {
				info: { units: described.map((d) => d.id), described, faults, hasTerrain, blocks, volumes: [...volumes] } as never,
				arrays: { ...arrays }
			},
			report: {
				units: described.filter((_, i) => there.has(i)),
				volumes: described.flatMap((d, i) =>
					there.has(i)
						? [{ unit: d.name, volume: volumes.get(i) ?? 0, of: groups[i]!.of.map((label) => units[label]!.name).join(', ') }]
						: []
				),
				triangles: arrays.front.length
			}
		};
	}
});
