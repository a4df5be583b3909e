/** How codes travel while they are dragged, as JSON. */
const KIND = 'application/x-codes+json';

export function dragCodes(transfer: DataTransfer | null, codes: readonly string[]): void {
	if (!transfer) return;
	transfer.setData(KIND, JSON.stringify(codes));
	transfer.effectAllowed = 'move';
}

/** The codes that are dragged, of those that there are; none where something else is. */
export function draggedCodes(transfer: Pick<DataTransfer, 'getData'> | null, known: readonly { code: string }[]): string[] {
	try {
		const said: unknown = JSON.parse(transfer?.getData(KIND) || '[]');
		const there = new Set(known.map((c) => c.code));
		return Array.isArray(said) ? said.filter((c): c is string => typeof c === 'string' && there.has(c)) : [];
	} catch {
		return [];
	}
}
