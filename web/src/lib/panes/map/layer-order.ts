/** A list with one of it put before another. */
export function moved(order: readonly string[], name: string, before: string): string[] {
	const list = order.filter((n) => n !== name);
	const at = list.indexOf(before);
	list.splice(at < 0 ? list.length : at, 0, name);
	return list;
}

/** A list with one of it some places later; it stays in the list. */
export function shifted(order: readonly string[], name: string, by: number): string[] {
	const list = [...order];
	const at = list.indexOf(name);
	if (at < 0) return list;
	list.splice(Math.min(list.length - 1, Math.max(0, at + by)), 0, ...list.splice(at, 1));
	return list;
}
