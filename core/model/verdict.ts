import { rasterCovers } from '../grids/raster';
import { lengthSaid, type GroundFinding, type GroundInput } from './ground';

/** What logs and model say of one unit, length units along holes. */
export interface LoggedUnit {
	name: string;
	logged: number;
	agreed: number;
	/** Volume in the model. */
	volume: number;
	/** Length where the model has another unit in holes that are named as off what their neighbours say, and how many holes these are. */
	named: { length: number; holes: number };
}

/** Below this share of the logged length a unit is as good as gone. */
const GONE = 0.05;
/** Below this share of agreement a unit is not what was logged. */
const WRONG = 0.5;
/** The same for all logs together: doubtful, and wrong. */
const DOUBTFUL_ALL = 0.9;
const WRONG_ALL = 0.7;
/** Units with less of all logged length than this are too little to judge by agreement. */
const LITTLE = 0.002;

const percent = (v: number) => `${(100 * v).toFixed(v > 0 && v < 0.1 ? 1 : 0)} %`;

/**
 * Judges a model as a whole: whether what was logged is there, how far logs and model agree, whether the terrain covers the extent, and
 * whether the data lie in it. What is held is an error that whoever uses the model must know of.
 * @param logged all units that holes show; empty where there are no logs
 */
export function verdictOf(input: GroundInput, logged: readonly LoggedUnit[]): GroundFinding[] {
	const out: GroundFinding[] = [];
	const say = (kind: string, severity: GroundFinding['severity'], message: string, hint: string) =>
		out.push({ kind, severity, message, hint });
	const all = logged.reduce((s, u) => s + u.logged, 0);
	const agreed = logged.reduce((s, u) => s + u.agreed, 0);
	for (const u of logged) {
		const share = u.agreed / u.logged;
		if (!(u.volume > 0) || share < GONE)
			say(
				'unit-vanished',
				'held',
				`${u.name} was logged over ${lengthSaid(input, u.logged)} along holes, and ${u.volume > 0 ? `${percent(share)} of that is ${u.name} in the model` : 'has no volume in the model'}`,
				'Look at what the engine noted, at the findings of its boundaries under Check, and at its place in the column.'
			);
		else if (share < WRONG && u.logged > LITTLE * all)
			say(
				'unit-disagrees',
				'held',
				`of what was logged as ${u.name} only ${percent(share)} is ${u.name} in the model${u.named.length > 0 ? `; ${percent(u.named.length / u.logged)} of it lies in ${u.named.holes === 1 ? 'a hole that is' : `${u.named.holes} holes that are`} named as off what the neighbours say` : ''}`,
				u.named.length > (u.logged - u.agreed) / 2
					? 'Look at the holes that are named: if their rows are wrong, mend them or leave them out, and the model is right; if they are not, believe them and build it anew.'
					: 'Look at the list of mismatches: wrong codes, a fault that was not drawn, or a spacing too wide for it.'
			);
	}
	if (all > 0 && agreed / all < DOUBTFUL_ALL)
		say(
			'logs-disagree',
			agreed / all < WRONG_ALL ? 'held' : 'noted',
			`logs and model agree over ${percent(agreed / all)} of the logged length`,
			'Look at the list of mismatches, the longest first.'
		);
	const { terrain, extent: e } = input;
	if (terrain) {
		const n = 40;
		let covered = 0;
		for (let j = 0; j < n; j++)
			for (let i = 0; i < n; i++)
				if (rasterCovers(terrain, e.minX + ((i + 0.5) / n) * (e.maxX - e.minX), e.minY + ((j + 0.5) / n) * (e.maxY - e.minY))) covered++;
		const share = covered / n ** 2;
		if (share < 0.995)
			say(
				'terrain-short',
				share < 0.5 ? 'held' : 'noted',
				covered === 0 ? 'the terrain lies outside the extent' : `the terrain covers ${percent(share)} of the extent`,
				'Elsewhere the elevation at its edge is taken. Let the model end where the terrain is known (Interpret, Shape, Limits), bring in a larger terrain, or make the extent smaller.'
			);
	}
	const inBox = (p: { x: number; y: number; z: number }) =>
		p.x >= e.minX && p.x <= e.maxX && p.y >= e.minY && p.y <= e.maxY && p.z >= e.minZ && p.z <= e.maxZ;
	const inside = input.contacts.filter(inBox).length;
	if (input.contacts.length > 0 && inside < input.contacts.length / 2)
		say(
			'extent-misses-data',
			inside === 0 ? 'held' : 'noted',
			inside === 0 ? 'no contact lies in the extent' : `${inside} of ${input.contacts.length} contacts lie in the extent`,
			'Set the extent under Build, or look at the coordinate system of the collars.'
		);
	return out;
}

/** A unit whose volume changed by more than this share since the last build is named. */
const MUCH = 1 / 3;

/** What changed much since the model was built last. Units that are in one of the two only are other units, not changed ones. */
export function volumeFindings(
	before: readonly { unit: string; volume: number }[],
	now: readonly { unit: string; name: string; volume: number }[]
): GroundFinding[] {
	return now.flatMap(({ unit, name, volume }): GroundFinding[] => {
		const was = before.find((b) => b.unit === unit)?.volume;
		if (was === undefined || !(was > 0) || Math.abs(volume / was - 1) <= MUCH) return [];
		const change =
			volume > was ? `grew by ${percent(volume / was - 1)}` : volume > 0 ? `shrank by ${percent(1 - volume / was)}` : 'is gone';
		return [
			{
				kind: 'volume-changed',
				severity: 'noted',
				message: `${name} ${change} since the last build`,
				hint: 'If that is not what you changed, look at the list of changes: undo leads back.'
			}
		];
	});
}
