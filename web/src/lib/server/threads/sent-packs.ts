import { writePack, type Pack } from '#core/formats/pack';
import { packDelta } from '#core/formats/pack-delta';

/** Packs that were sent last, so that the next one can say only what changed since. */
const sent = new Map<string, { pack: Pack; bytes: number }>();
const MOST_BYTES = 256 * 1024 * 1024;

/**
 * A pack with its key, or what changed since one that was sent before and is still known.
 * @param what it is of, whatever its state
 * @param key of the state that it is of
 * @param since key of the state that the client has
 * @param make gets the pack that the client has, where it is known
 */
export function packSince(what: string, key: string, since: string | null, make: (before: Pack | null) => Pack): Uint8Array {
	const before = since === null ? null : (sent.get(`${what} ${since}`)?.pack ?? null);
	const made = make(before);
	const pack = { ...made, info: { ...made.info, key } };
	const name = `${what} ${key}`;
	sent.delete(name);
	sent.set(name, { pack, bytes: Object.values(pack.arrays).reduce((sum, a) => sum + a.byteLength, 0) });
	let total = 0;
	for (const [old, { bytes }] of [...sent].reverse()) {
		total += bytes;
		if (total > MOST_BYTES && old !== name) sent.delete(old);
	}
	return writePack((before && packDelta(before, pack)) ?? pack);
}
