/** Lines of a minute that are written; what comes beyond them is counted. */
const MOST_A_MINUTE = 120;
const LONGEST = 2000;

let minute = 0;
let written = 0;
let dropped = 0;

const cut = (text: string): string => (text.length > LONGEST ? `${text.slice(0, LONGEST)}…` : text);

/** Writes one line of JSON to the log: bounded in length and in number, and never part of an answer. */
export function log(level: 'error' | 'note', what: string, error?: unknown, more: Record<string, string | number | undefined> = {}): void {
	const now = Math.floor(Date.now() / 60_000);
	if (now !== minute) {
		if (dropped)
			process.stderr.write(
				`${JSON.stringify({ time: new Date().toISOString(), level: 'note', what: 'lines were left out', count: dropped })}\n`
			);
		[minute, written, dropped] = [now, 0, 0];
	}
	if (++written > MOST_A_MINUTE) return void dropped++;
	const said =
		error === undefined
			? {}
			: error instanceof Error
				? { message: cut(error.message), stack: cut(error.stack ?? '') }
				: { message: cut(String(error)) };
	process.stderr.write(`${JSON.stringify({ time: new Date().toISOString(), level, what, ...more, ...said })}\n`);
}
