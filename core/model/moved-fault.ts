import { inBlock, type Field } from '../fields/field';
import { RADIANS } from '../geometry/angles';
import { solvePositive } from '../kernels/cholesky-kernel';
import type { Vec3 } from '../geometry/vector';
import { downFault, faultDistance, faultField, heightOf, linesOf } from './fault-field';
import type { FaultSpec, GroundInput } from './ground';

/** A place that lies on one side of a fault, 1 for its hanging wall, with its signed distance to where that was drawn. */
interface OnSide {
	x: number;
	y: number;
	z: number;
	sense: 1 | -1;
	off: number;
}

/** What lies on the wrong side by this share of how far a fault may be off counts as much as all of that. */
const TIGHT = 0.05;
/** What lies farther on the wrong side than so many times that counts less and less: it may be wrong itself (Huber 1964). */
const LARGE = 2;
/** Rounds in which it still counts by its distance, so that there is one answer; then by less (Cauchy's weights, Holland & Welsch 1977). */
const CONVEX = 40;
const ROUNDS = 80;
/** Rounds after which steps are halved, so that none goes to and fro. */
const WHOLE_STEPS = 20;
/** Dips stay this far from 0 and 90°. */
const LEAST_DIP = 1;

/** Ways to move a fault: its trace to one side, about its middle, its dip. */
const WAYS = [[2], [0], [0, 1], [0, 2], [0, 1, 2]];
/** One more move has to explain so much of what lies on the wrong side, in squares of what is tight. */
const PLAIN = 8;

type Move = [number, number, number];

/** A place on one side, with what each move carries the fault there as a share of what it does where it does most. */
interface Known extends Pick<OnSide, 'sense' | 'off'> {
	by: Move;
}

/**
 * The least moves that have all places lie on their sides: least squares over what lies on the wrong one, and over the moves as shares of how far
 * the fault may be off; what is far off counts for little.
 * @param free those of the three moves that are made
 * @returns also what still lies on the wrong side
 */
function leastMove(known: readonly Known[], free: readonly number[], reach: number): { move: Move; wrong: number } {
	const tight = TIGHT * reach;
	let move: Move = [0, 0, 0];
	const wrongBy = ({ sense, off, by }: Known): number => -sense * (off - by[0] * move[0] - by[1] * move[1] - by[2] * move[2]);
	for (let round = 0; round < ROUNDS; round++) {
		const normal = free.map((i) => free.map((j) => (i === j ? 1 / reach ** 2 : 0)));
		const right = free.map(() => 0);
		for (const k of known) {
			const wrong = wrongBy(k);
			if (wrong <= 0) continue;
			const share = Math.min(1, (LARGE * tight) / wrong);
			const weight = (round < CONVEX ? share : share * share) / tight ** 2;
			free.forEach((m, i) => {
				right[i]! += weight * k.by[m]! * k.off;
				free.forEach((n, j) => (normal[i]![j]! += weight * k.by[m]! * k.by[n]!));
			});
		}
		const next = solvePositive(
			free.length,
			(a, stride) => normal.forEach((row, i) => row.forEach((v, j) => (a[i * stride + j] = v))),
			right
		);
		if (!next) break;
		const step = round < WHOLE_STEPS ? 1 : 0.5;
		const last = move;
		move = [...last];
		free.forEach((m, i) => (move[m] = last[m]! + step * (next[i]! - last[m]!)));
		if (round >= CONVEX && move.every((m, i) => Math.abs(m - last[i]!) < 1e-9 * reach)) break;
	}
	const wrong = known.reduce((sum, k) => {
		const by = Math.max(0, wrongBy(k)) / tight;
		return sum + (by <= LARGE ? by * by : LARGE * LARGE * (1 + 2 * Math.log(by / LARGE)));
	}, 0);
	return { move, wrong };
}

/**
 * A fault that was drawn a little off, moved as a whole: its trace to one side, about its middle, or its dip, by as little as has what lies on
 * its sides lie there, and in the plainest way that explains it. What bends it otherwise grows with the square of the depth below its trace.
 * @param reach how far it may be off, above 0, length units
 * @param top mean elevation of the trace
 * @param size length and height of the ground, over which a turn moves it as far as a shift does
 */
export function movedAsWhole<F extends Pick<FaultSpec, 'trace' | 'pieces' | 'dip' | 'dipAzimuth'>>(
	f: F,
	sides: readonly OnSide[],
	reach: number,
	top: number,
	size: { length: number; height: number }
): F {
	const all = linesOf(f).flat();
	const middle = [0, 1].map((c) => all.reduce((s, p) => s + p[c]!, 0) / all.length);
	const [east, north] = [Math.sin(f.dipAzimuth * RADIANS), Math.cos(f.dipAzimuth * RADIANS)];
	const along = (x: number, y: number) => ((x - middle[0]!) * north - (y - middle[1]!) * east) / (size.length / 2);
	const [sine, deep] = [Math.sin(f.dip * RADIANS), size.height / Math.sin(f.dip * RADIANS)];
	const known = sides.map(({ x, y, z, sense, off }): Known => ({ sense, off, by: [1, along(x, y), (top - z) / sine / deep] }));
	const tries = WAYS.map((free) => {
		const { move, wrong } = leastMove(known, free, reach);
		return { move, cost: wrong + PLAIN * free.length };
	});
	const { move } = tries.reduce((best, t) => (t.cost < best.cost ? t : best));
	const [shift, turn, tilt] = move;
	const moved = ([x, y]: readonly [number, number]): [number, number] => {
		const by = (shift + turn * along(x, y)) / sine;
		return [x + by * east, y + by * north];
	};
	return {
		...f,
		trace: f.trace.map(moved),
		...(f.pieces ? { pieces: f.pieces.map((line) => line.map(moved)) } : {}),
		dip: Math.min(90, Math.max(LEAST_DIP, f.dip - Math.atan(tilt / deep) / RADIANS))
	};
}

/** Places down a fault and along its trace at which it is looked at how far it bends. */
const LOOKS = 8;

/**
 * The field of a fault beside what is known to lie on one side of it: it moves as a whole first, where no places at depth hold it, and then it
 * bends. Where it would bend farther than it may be off, it does not: what it bends to is wrong, or stands alone.
 * @param drawn its field as it was drawn
 */
export function besideSides(f: FaultSpec, drawn: Field, reach: number, input: GroundInput): Field {
	const sides = (input.faultSides ?? []).flatMap(({ fault, sense, hole, x, y, z }) =>
		fault === f.id && sense !== 0 ? [{ x, y, z, sense, hole }] : []
	);
	const asDrawn = inBlock(drawn, 0);
	const off = sides.map((s) => faultDistance(asDrawn, s.x, s.y, s.z));
	if (sides.every((s, i) => s.sense * off[i]! >= 0)) return drawn;
	const { minX, maxX, minY, maxY, minZ, maxZ } = input.extent;
	const height = heightOf(input);
	const tops = linesOf(f).flatMap((line) => line.map(([x, y]) => height(x, y)));
	const top = tops.reduce((a, b) => a + b, 0) / tops.length;
	const size = { length: Math.hypot(maxX - minX, maxY - minY), height: maxZ - minZ };
	const isHeld = f.places?.length || !(reach > 0);
	const moved = isHeld
		? f
		: movedAsWhole(
				f,
				sides.map((s, i) => ({ ...s, off: off[i]! })),
				reach,
				top,
				size
			);
	const whole = faultField(moved, input);
	const bent = faultField(
		moved,
		input,
		sides.map(({ hole, ...s }) => ({ ...s, group: 0, block: 0, source: hole }))
	);
	const [straight, own] = [inBlock(whole, 0), inBlock(bent, 0)];
	const isInside = ([x, y]: Vec3) => x >= minX && x <= maxX && y >= minY && y <= maxY;
	for (const line of linesOf(moved))
		for (let i = 1; i < line.length; i++)
			for (let k = 0; k <= LOOKS; k++) {
				const [[x0, y0], [x1, y1]] = [line[i - 1]!, line[i]!];
				const [x, y] = [x0 + ((x1 - x0) * k) / LOOKS, y0 + ((y1 - y0) * k) / LOOKS];
				const down = downFault(straight, [x, y, height(x, y)], [x1 - x0, y1 - y0, 0], minZ, LOOKS);
				if (down.some((p) => isInside(p) && !(Math.abs(faultDistance(own, p[0], p[1], p[2])) <= reach))) return whole;
			}
	return bent;
}
