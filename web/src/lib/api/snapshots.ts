/** Header of an answer: which transactions it has seen. */
export const SNAPSHOT_HEADER = 'x-malachite-snapshot';

/**
 * Whether what a transaction changed was there when an answer was read (PostgreSQL: "Snapshot Components", `xmin:xmax:xip_list`).
 * @param xid number of the transaction
 * @param snapshot as the header has it; one that is none has seen nothing
 */
export function hasSeen(snapshot: string | null, xid: string): boolean {
	const parts = /^(\d+):(\d+):((?:\d+,)*\d*)$/.exec(snapshot ?? '');
	if (!parts || !/^\d+$/.test(xid)) return false;
	const id = BigInt(xid);
	if (id < BigInt(parts[1]!)) return true;
	if (id >= BigInt(parts[2]!)) return false;
	return !parts[3]!.split(',').includes(xid);
}
