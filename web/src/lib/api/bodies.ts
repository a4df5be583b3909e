import type { Schema } from 'yup';

/** Whether something has a value of its own: what an object has in it may be needed all the same. */
type HasOwn<D> = undefined extends D ? false : D extends readonly unknown[] ? true : D extends object ? false : true;
/** What must be sent; what has a value of its own, or may be missing, need not be said. */
type Needed<T, D> = {
	[K in keyof T]-?: undefined extends T[K] ? never : K extends keyof D ? (HasOwn<D[K]> extends true ? never : K) : K;
}[keyof T];
type Fields<T, D> = { [K in Needed<T, D>]: T[K] } & { [K in Exclude<keyof T, Needed<T, D>>]?: T[K] | undefined };

/** A body as a handler gets it: guarded as it was sent, so that what was left out is not there, whatever it is by itself. */
export type TakenBy<S> = S extends Schema<infer T, infer _C, infer D> ? Fields<NonNullable<T>, D> : unknown;

type Sent<T> = T extends readonly (infer U)[] ? readonly Sent<U>[] : T extends object ? { [K in keyof T]: Sent<T[K]> } : T;
/** The same as it is sent. */
export type SentBy<S> = Sent<TakenBy<S>>;
