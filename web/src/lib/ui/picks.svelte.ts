import { SvelteSet } from 'svelte/reactivity';

/** What is picked of a list, by key; with Shift everything from the last one that was pressed. */
export class Picks<K> {
	readonly keys = new SvelteSet<K>();
	private last: K | null = null;

	/** @param list keys as they are shown */
	press(key: K, list: readonly K[], withShift: boolean): void {
		const on = !this.keys.has(key);
		const [a, b] = [this.last === null ? -1 : list.indexOf(this.last), list.indexOf(key)];
		for (const k of withShift && a >= 0 && b >= 0 ? list.slice(Math.min(a, b), Math.max(a, b) + 1) : [key])
			if (on) this.keys.add(k);
			else this.keys.delete(k);
		this.last = key;
	}

	/** All that are shown, or none of them when all are picked. */
	all(list: readonly K[]): void {
		const on = !list.every((k) => this.keys.has(k));
		for (const k of list)
			if (on) this.keys.add(k);
			else this.keys.delete(k);
	}

	/** Those of a list that are picked: what is not there any more does not count. */
	of(list: readonly K[]): K[] {
		return list.filter((k) => this.keys.has(k));
	}

	clear(): void {
		this.keys.clear();
		this.last = null;
	}
}
