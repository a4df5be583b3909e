const two = (n: number): string => String(n).padStart(2, '0');

/** A moment by the clock of the reader, as ISO writes it: 2026-11-27 23:45. */
export function moment(at: string | number | Date): string {
	const d = new Date(at);
	if (Number.isNaN(d.getTime())) return '';
	return `${d.getFullYear()}-${two(d.getMonth() + 1)}-${two(d.getDate())} ${two(d.getHours())}:${two(d.getMinutes())}`;
}

/** The day of a moment, by the clock of the reader. */
export const day = (at: string | number | Date): string => moment(at).slice(0, 10);

/** The zone that moments are shown in, as in UTC+02:00, with its name. */
export function zone(at: Date = new Date()): string {
	const minutes = -at.getTimezoneOffset();
	const offset = `${minutes < 0 ? '−' : '+'}${two(Math.floor(Math.abs(minutes) / 60))}:${two(Math.abs(minutes) % 60)}`;
	return `UTC${minutes === 0 ? '' : offset} (${Intl.DateTimeFormat().resolvedOptions().timeZone})`;
}
