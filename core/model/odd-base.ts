import type { ValueDatum } from '../fields/data';
import { fieldOrNone, type FitOptions } from '../fields/fit';
import type { Field } from '../fields/field';
import type { Steps } from '../fields/steps';
import { dot, subtract, type Vec3 } from '../geometry/vector';
import type { GroundFinding } from './ground';
import { meanOf, planeOf } from './intercepts';
import { FEWEST_HOLES, holePlaces, turnsOf, type HoleDatum } from './neighbours';
import { oddOnes } from './vary';

/** With more contacts than this each look takes long, and one of them does little. */
const MOST = 1500;
/** A base that is steeper than this is no base of a layer. */
const STEEP = 0.3;

/**
 * Contacts of an erosional base that are far off what the other holes say of it. A channel may be met by one hole only, so they are honoured
 * all the same, which bends the surface near them only; but they are named.
 * @param field of the base, through all its contacts
 * @param what in words, as "the base of Cover"
 */
export function* oddAtBase(
	what: string,
	points: readonly HoleDatum[],
	field: Field,
	faultCount: number,
	options: FitOptions,
	certain: ReadonlySet<string>
): Steps<GroundFinding[]> {
	const own = points.filter((p) => p.hole !== '');
	if (own.length < FEWEST_HOLES || own.length > MOST) return [];
	const places = own.map((p): Vec3 => [p.x, p.y, p.z]);
	const [center, normal] = [meanOf(places), planeOf(places)];
	if (Math.abs(normal[2]) < STEEP) return [];
	const { unit, metric, follow } = field;
	const around: FitOptions = { ...options, drift: 'none', frame: { center: field.center, unit, metric, follow } };
	const fit = (values: ValueDatum[]) => fieldOrNone({ groupCount: 0, faultCount, points: [], values, gradients: [], bounds: [] }, around);
	const heights = own.map((p, i): ValueDatum => ({
		...{ x: p.x, y: p.y, z: p.z, block: p.block },
		value: dot(subtract(places[i]!, center), normal) / normal[2]
	}));
	const odd = yield* oddOnes(own, heights, [], fit, holePlaces(own), turnsOf(holePlaces(own)), unit, 1e-3 * options.range);
	return [...odd]
		.filter(([i]) => !certain.has(own[i]!.hole))
		.map(([i, off]) => ({
			kind: 'alone-at-base',
			severity: 'noted',
			message: `${own[i]!.hole} has ${what} ${off.toFixed(off < 10 ? 1 : 0)} off what its neighbours say`,
			hint: 'It is honoured, near it. A channel, a wrong code or a slip in a depth?',
			at: places[i]!,
			hole: own[i]!.hole
		}));
}
