import type { LoggedRun } from './runs';

/** Runs of a hole: name, from, to. */
export const runs = (...list: [string, number, number][]): LoggedRun[] => list.map(([name, from, to]) => ({ name, from, to }));
