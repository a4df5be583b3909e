/** Triangles of a model that are read at once; of one that has more, so many for a first look. */
const FIRST_LOOK = 100_000;

/**
 * Reads and shows a model; a large one is looked at coarsely while it is on its way, where nothing is seen yet.
 * @param read at most so many triangles, or all
 * @param seen whether something is shown already: that is better to look at than few triangles
 * @param wanted whether it is still this one that is to be shown when all of it has come
 */
export async function showInTurn<S extends { light: boolean }>(
	read: (most?: number) => Promise<S>,
	show: (scene: S) => void,
	{ seen, wanted }: { seen: boolean; wanted(): boolean }
): Promise<void> {
	const first = await read(seen ? undefined : FIRST_LOOK);
	show(first);
	if (!first.light) return;
	const whole = await read();
	if (wanted()) show(whole);
}
