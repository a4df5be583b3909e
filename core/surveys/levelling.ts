import { factorPlain, solveLower, solveUpper, strideOf } from '../linear/cholesky';
import { fail } from '../problem';
import { crossingsOf, valueOn, type Crossing, type SurveyLine } from './lines';

/** A place where a line and a tie disagree. */
interface Misty {
	line: string;
	tie: string;
	x: number;
	y: number;
	/** Line less tie. */
	before: number;
	after: number;
}

interface Levelled {
	/** What is added to each station of the lines and of the ties, in the order of their rows. */
	lines: Float64Array[];
	ties: Float64Array[];
	misties: Misty[];
	/** Root mean square of the misties. */
	before: number;
	after: number;
	/** Lines and ties that cross nothing, and stay as they are. */
	alone: string[];
}

/** How hard lines and ties hold on to what they are, beside one crossing: it decides only what crossings do not, for the ties. */
const HOLD = 1e-6;
const HOLD_OF_TIES = 1e-3;

/**
 * Levels lines by the ties that cross them: each line and tie gets a polynomial along it, and all of them together make the misties
 * least (least squares; Foster, Jines & van der Weg 1970). What crossings can not tell, as when all rise together, stays as the ties have it.
 * @param degree 0 lifts each line as a whole, 1 tilts it, 2 bends it; a line with too few crossings takes a lower one
 * @throws ProblemError `no-ties`, `no-crossings`
 */
export function level(
	lines: readonly SurveyLine[],
	ties: readonly SurveyLine[],
	x: ArrayLike<number>,
	y: ArrayLike<number>,
	values: ArrayLike<number>,
	degree: number,
	gap = Infinity
): Levelled {
	if (ties.length === 0) fail('no-ties', 'no line is a tie', 'Say which lines are ties, for example T*.', 'ties');
	if (lines.length === 0) fail('no-ties', 'all lines are ties', 'Say which lines are ties, and leave some that are not.', 'ties');
	const found = crossingsOf(lines, ties, x, y, gap).flatMap((c) => {
		const d = valueOn(lines[c.line]!, values, c.onLine) - valueOn(ties[c.tie]!, values, c.onTie);
		return Number.isFinite(d) ? [{ ...c, d }] : [];
	});
	if (found.length === 0)
		fail(
			'no-crossings',
			'no line crosses a tie where both have a value',
			'Do lines and ties lie in one coordinate system? Is the gap too short?',
			'ties'
		);
	const all = [...lines, ...ties];
	const crossingsAt = all.map((_, k) => found.filter((c) => (k < lines.length ? c.line === k : c.tie === k - lines.length)).length);
	const terms = all.map((_, k) => (crossingsAt[k]! === 0 ? 0 : Math.min(degree, crossingsAt[k]! - 1) + 1));
	const start: number[] = [];
	let n = 0;
	for (const t of terms) {
		start.push(n);
		n += t;
	}
	/** Powers of the place along a line, from −1 to 1. */
	const basis = (l: SurveyLine, count: number, at: number): number[] => {
		const length = l.distance[l.distance.length - 1]! || 1;
		const u = (2 * at) / length - 1;
		return Array.from({ length: count }, (_, p) => u ** p);
	};
	const along = (l: SurveyLine, [k, share]: readonly [number, number]) =>
		l.distance[k]! + share * ((l.distance[k + 1] ?? l.distance[k]!) - l.distance[k]!);
	const stride = strideOf(n);
	const matrix = new Float64Array(n * stride);
	const right = new Float64Array(n);
	for (let i = 0; i < n; i++) matrix[i * stride + i] = i < (start[lines.length] ?? n) ? HOLD : HOLD_OF_TIES;
	const rowOf = (c: Crossing): [number, number][] => {
		const t = lines.length + c.tie;
		return [
			...basis(lines[c.line]!, terms[c.line]!, along(lines[c.line]!, c.onLine)).map((v, p): [number, number] => [start[c.line]! + p, v]),
			...basis(ties[c.tie]!, terms[t]!, along(ties[c.tie]!, c.onTie)).map((v, p): [number, number] => [start[t]! + p, -v])
		];
	};
	for (const c of found) {
		const row = rowOf(c);
		for (const [i, a] of row) {
			right[i]! -= a * c.d;
			for (const [j, b] of row) if (j <= i) matrix[i * stride + j]! += a * b;
		}
	}
	if (factorPlain(matrix, n, stride) >= 0)
		fail('no-crossings', 'the crossings do not determine the lines', 'Take a lower degree.', 'degree');
	const factor = { n, stride, l: matrix, norm: 0 };
	const solved = solveUpper(factor, solveLower(factor, right));
	const corrections = all.map((l, k) =>
		Float64Array.from(l.distance, (d) => basis(l, terms[k]!, d).reduce((s, v, p) => s + v * solved[start[k]! + p]!, 0))
	);
	const misties = found.map((c): Misty => {
		const change = rowOf(c).reduce((s, [i, a]) => s + a * solved[i]!, 0);
		return { line: lines[c.line]!.name, tie: ties[c.tie]!.name, x: c.x, y: c.y, before: c.d, after: c.d + change };
	});
	const rms = (list: readonly number[]) => Math.sqrt(list.reduce((s, v) => s + v * v, 0) / list.length);
	return {
		lines: corrections.slice(0, lines.length),
		ties: corrections.slice(lines.length),
		misties,
		before: rms(misties.map((m) => m.before)),
		after: rms(misties.map((m) => m.after)),
		alone: all.filter((_, k) => crossingsAt[k] === 0).map((l) => l.name)
	};
}

/** Whether the name of a line is meant by a list of patterns: names with * for anything, parted by commas. */
export function namedBy(patterns: string): (name: string) => boolean {
	const list = patterns
		.split(/[,;]/)
		.map((p) => p.trim().toLowerCase())
		.filter(Boolean)
		.map((p) => p.split('*'));
	return (name) => list.some((parts) => fits(parts, name.trim().toLowerCase()));
}

/** Whether a text is made of parts in their order with anything between them: looked for from left to right, never back. */
function fits(parts: readonly string[], text: string): boolean {
	const [first, last] = [parts[0]!, parts[parts.length - 1]!];
	if (parts.length === 1) return text === first;
	if (!text.startsWith(first) || text.length < first.length + last.length || !text.endsWith(last)) return false;
	let at = first.length;
	for (const part of parts.slice(1, -1)) {
		const found = text.indexOf(part, at);
		if (found < 0) return false;
		at = found + part.length;
	}
	return at <= text.length - last.length;
}

/**
 * What reading on a heading adds: a + b cos θ + c sin θ of the direction of a line, so that the crossings of lines and ties agree best.
 * The constant can not be told from crossings and stays out.
 * @returns cosine and sine part; null when all lines run along one direction
 */
export function headingError(
	lines: readonly SurveyLine[],
	ties: readonly SurveyLine[],
	x: ArrayLike<number>,
	y: ArrayLike<number>,
	values: ArrayLike<number>
): { cosine: number; sine: number; crossings: number } | null {
	let [cc, cs, ss, cd, sd, n] = [0, 0, 0, 0, 0, 0];
	for (const c of crossingsOf(lines, ties, x, y)) {
		const [l, t] = [lines[c.line]!, ties[c.tie]!];
		const d = valueOn(l, values, c.onLine) - valueOn(t, values, c.onTie);
		if (!Number.isFinite(d) || Number.isNaN(l.azimuth) || Number.isNaN(t.azimuth)) continue;
		const [a, b] = [(l.azimuth * Math.PI) / 180, (t.azimuth * Math.PI) / 180];
		const [u, v] = [Math.cos(a) - Math.cos(b), Math.sin(a) - Math.sin(b)];
		[cc, cs, ss, cd, sd, n] = [cc + u * u, cs + u * v, ss + v * v, cd + u * d, sd + v * d, n + 1];
	}
	const det = cc * ss - cs * cs;
	if (n === 0) return null;
	if (det > 1e-6 * cc * ss) return { cosine: (cd * ss - sd * cs) / det, sine: (sd * cc - cd * cs) / det, crossings: n };
	// Lines along one axis tell that part alone.
	if (cc > ss && cc > 1e-9) return { cosine: cd / cc, sine: 0, crossings: n };
	return ss > 1e-9 ? { cosine: 0, sine: sd / ss, crossings: n } : null;
}
