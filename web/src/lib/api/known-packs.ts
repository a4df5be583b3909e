import { readPack, type Pack } from '#core/formats/pack';
import { isDelta, withDelta } from '#core/formats/pack-delta';
import { getBytes } from './client';

/** Packs as they came last, opened: of the next state only what changed is asked for, and what did not change stays the same object. */
export class KnownPacks<T> {
	private readonly known = new Map<string, { key: unknown; pack: Pack; opened: T }>();

	/** @param open makes of a pack what is wanted */
	constructor(private readonly open: (pack: Pack) => T) {}

	/** What an address holds now. @throws ApiProblem */
	async get(address: string): Promise<T> {
		const before = this.known.get(address);
		const answer = readPack(
			await getBytes(typeof before?.key === 'string' ? `${address}?since=${encodeURIComponent(before.key)}` : address)
		);
		const { key } = answer.info;
		if (before && isDelta(answer)) {
			const pack = changed(before.pack, answer);
			if (!pack) {
				this.known.delete(address);
				return this.get(address);
			}
			const opened = isSame(before.pack, pack) ? before.opened : this.open(pack);
			this.known.set(address, { key, pack, opened });
			return opened;
		}
		const opened = this.open(answer);
		this.known.set(address, { key, pack: answer, opened });
		return opened;
	}
}

/** Null when the answer is not of what is known: then all of it is asked for. */
function changed(before: Pack, delta: Pack): Pack | null {
	try {
		return withDelta(before, delta);
	} catch (error) {
		if (error instanceof RangeError) return null;
		throw error;
	}
}

function isSame(a: Pack, b: Pack): boolean {
	const info = ({ info: { key: _, ...rest } }: Pack) => JSON.stringify(rest);
	const names = Object.keys(b.arrays);
	return names.length === Object.keys(a.arrays).length && names.every((name) => a.arrays[name] === b.arrays[name]) && info(a) === info(b);
}
