import { clusters } from '../checks/rules/code-variants';
import { plainCode, proposeLumping, type Unit } from '../units/column';

/** A hole as it is logged, from the top down. */
export interface LoggedHole {
	codes: readonly string[];
	/** What was said of each; empty where nothing was. */
	words: readonly string[];
}

/** Codes without a unit that look like one, with what says so. */
interface GroupProposal {
	codes: string[];
	unit: string;
	why: 'spelling' | 'words' | 'neighbours';
	evidence: string;
}

/** So many rows must say so, and this share of those of a code. */
const LEAST_ROWS = 2;
const WORDS_SHARE = 0.6;
/** So often a code must stand between units, and so like must its neighbours be to those of the unit (cosine). */
const LEAST_MET = 3;
const ALIKE = 0.85;

/**
 * Proposes units for codes that have none: one that is spelled like a code or the name of the unit, one whose descriptions name the unit or its codes,
 * one that stands between the same neighbours as the unit and never beside it. Each code is proposed once, by the first that says so.
 * @param unitOf id of the unit of a code, empty when it has none
 */
export function proposeGroups(holes: readonly LoggedHole[], units: readonly Unit[], unitOf: (code: string) => string): GroupProposal[] {
	const all = [...new Set(holes.flatMap((h) => h.codes))].filter(Boolean);
	const open = new Set(all.filter((c) => !unitOf(c)));
	const found = new Map<string, GroupProposal>();
	const propose = (code: string, unit: string, why: GroupProposal['why'], evidence: string) => {
		if (!open.delete(code)) return;
		const key = `${unit} ${why} ${why === 'spelling' ? evidence : code}`;
		const known = found.get(key);
		if (known) known.codes.push(code);
		else found.set(key, { codes: [code], unit, why, evidence });
	};
	for (const cluster of clusters(all)) {
		const known = cluster.find((c) => unitOf(c));
		if (known) for (const c of cluster) propose(c, unitOf(known), 'spelling', `spelled like ${known}`);
	}
	const named = proposeLumping([...open], units);
	for (const [code, unit] of Object.entries(named)) propose(code, unit, 'spelling', 'named like the unit');
	byWords(holes, units, all, open, unitOf, propose);
	byNeighbours(holes, open, unitOf, propose);
	return [...found.values()];
}

type Propose = (code: string, unit: string, why: GroupProposal['why'], evidence: string) => void;

/** Words that are too common to name a unit. */
const COMMON = new Set([
	'formation',
	'group',
	'member',
	'unit',
	'upper',
	'lower',
	'middle',
	'beds',
	'with',
	'and',
	'grey',
	'dark',
	'light',
	'brown'
]);
const wordsOf = (text: string): string[] => text.toLowerCase().match(/[\p{L}]{4,}/gu) ?? [];

function byWords(
	holes: readonly LoggedHole[],
	units: readonly Unit[],
	all: readonly string[],
	open: ReadonlySet<string>,
	unitOf: (code: string) => string,
	propose: Propose
): void {
	// A word that names two units names none.
	const owner = new Map<string, string | null>();
	const names = (unit: string, text: string) => {
		for (const w of wordsOf(text)) if (!COMMON.has(w)) owner.set(w, owner.has(w) && owner.get(w) !== unit ? null : unit);
	};
	for (const u of units) names(u.id, u.name);
	for (const c of all) if (unitOf(c)) names(unitOf(c), c);
	const said = new Map<string, { rows: number; units: Map<string, { rows: number; word: string }> }>();
	for (const h of holes)
		h.codes.forEach((code, i) => {
			if (!open.has(code) || !h.words[i]) return;
			let own = said.get(code);
			if (!own) said.set(code, (own = { rows: 0, units: new Map() }));
			own.rows++;
			const met = new Map<string, string>();
			for (const w of wordsOf(h.words[i])) if (owner.get(w)) met.set(owner.get(w)!, w);
			for (const [unit, word] of met) own.units.set(unit, { rows: (own.units.get(unit)?.rows ?? 0) + 1, word });
		});
	for (const [code, { rows, units: by }] of said) {
		const [best, second] = [...by].sort((a, b) => b[1].rows - a[1].rows);
		if (!best || best[1].rows < LEAST_ROWS || best[1].rows < WORDS_SHARE * rows) continue;
		if (second && second[1].rows > 0.5 * best[1].rows) continue;
		propose(code, best[0], 'words', `${best[1].rows} of ${rows} descriptions say "${best[1].word}"`);
	}
}

function byNeighbours(holes: readonly LoggedHole[], open: ReadonlySet<string>, unitOf: (code: string) => string, propose: Propose): void {
	const met = new Map<string, Map<string, number>>();
	const beside = new Set<string>();
	const nameOf = (code: string) => unitOf(code) || `\u0000${plainCode(code)}`;
	for (const h of holes) {
		const runs = h.codes.filter((c, i) => i === 0 || nameOf(c) !== nameOf(h.codes[i - 1]!));
		runs.forEach((code, i) => {
			const own = open.has(code) ? code : unitOf(code);
			const [above, below] = [runs[i - 1], runs[i + 1]].map((c) => (c === undefined ? '' : unitOf(c)));
			if (!own) return;
			for (const n of [above, below]) if (n) beside.add(`${own} ${n}`);
			const place = met.get(own) ?? met.set(own, new Map()).get(own)!;
			if (above) place.set(`over ${above}`, (place.get(`over ${above}`) ?? 0) + 1);
			if (below) place.set(`under ${below}`, (place.get(`under ${below}`) ?? 0) + 1);
		});
	}
	const length = (m: ReadonlyMap<string, number>) => Math.hypot(...m.values());
	for (const code of open) {
		const own = met.get(code);
		if (!own || [...own.values()].reduce((a, b) => a + b, 0) < LEAST_MET) continue;
		let best = { unit: '', alike: ALIKE };
		for (const [unit, other] of met) {
			if (open.has(unit) || beside.has(`${code} ${unit}`)) continue;
			let dot = 0;
			for (const [k, n] of own) dot += n * (other.get(k) ?? 0);
			const alike = dot / (length(own) * length(other) || 1);
			if (alike > best.alike) best = { unit, alike };
		}
		if (best.unit) propose(code, best.unit, 'neighbours', 'it lies between the same units, and never beside it');
	}
}
