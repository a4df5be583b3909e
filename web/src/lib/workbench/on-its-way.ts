import { partsOfDrawn } from '#core/formats/drawn-mesh';
import { readPack, type Pack } from '#core/formats/pack';
import { lineBroke } from '$lib/api/client';

/** Triangles of a model that are read at once; of one that has more, so many for a first look. */
const FIRST_LOOK = 100_000;
/** Parts that are asked for at a time: one is made ready while another is on the line. */
const AT_A_TIME = 2;
/** After so many seconds a part is asked for again when the line broke. */
const PAUSES = [1, 2, 4, 8];

/** What is asked of a model: at most so many triangles, or one of its parts. */
export type Wanted = { most: number } | { part: number };

interface Coming<S> {
	/** The bytes of a pack of drawn solids. */
	read(wanted: Wanted): Promise<Uint8Array>;
	/** @param light whether this is but a first look */
	open(packs: readonly Pack[], light: boolean): S;
	show(shown: S): void;
	/** Whether something is shown already: that is better to look at than few triangles. */
	seen: boolean;
	/** Whether it is still this one that is to be shown. */
	wanted(): boolean;
	/** Told how much of a large one has come, from 0 to 1. */
	arrival: { share: number };
	pause?(seconds: number): Promise<void>;
}

const wait = (seconds: number) => new Promise<void>((r) => setTimeout(r, 1000 * seconds));

/**
 * Reads and shows a model; a large one is looked at coarsely while it is on its way, where nothing is seen yet. It comes in parts:
 * where the line breaks, only those that were on it are asked for again.
 * @throws ApiProblem when the line stays broken; what is shown stays
 */
export async function showInTurn<S>(coming: Coming<S>): Promise<void> {
	const { read, open, show, seen, wanted, arrival, pause = wait } = coming;
	const steadily = async (what: Wanted): Promise<Pack> => {
		for (let tried = 0; ; tried++) {
			try {
				return readPack(await read(what));
			} catch (error) {
				if (!lineBroke(error) || !wanted() || tried === PAUSES.length) throw error;
				await pause(PAUSES[tried]!);
			}
		}
	};
	if (!seen) {
		const first = await steadily({ most: FIRST_LOOK });
		const light = first.info['light'] === true;
		show(open([first], light));
		if (!light) return;
	}
	const packs: Pack[] = [await steadily({ part: 0 })];
	const parts = partsOfDrawn(packs[0]!);
	const came = () => (arrival.share = packs.length / parts);
	came();
	let next = 1;
	const readOn = async () => {
		while (next < parts && wanted()) {
			packs.push(await steadily({ part: next++ }));
			came();
		}
	};
	await Promise.all(Array.from({ length: AT_A_TIME }, readOn));
	if (!wanted()) return;
	// Built anew meanwhile, some parts are of another model.
	if (packs.some((p) => p.info['of'] !== packs[0]!.info['of'])) return showInTurn({ ...coming, seen: true });
	show(open(packs, false));
}
