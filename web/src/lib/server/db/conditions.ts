import { or, sql, type SQL } from 'drizzle-orm';

/** True where one of some conditions is; of an empty list none is. Drizzle's own `or` of an empty list is no condition at all, and deletes everything. */
export const anyOf = (conditions: readonly SQL[]): SQL => (conditions.length ? or(...conditions)! : sql`false`); // eslint-disable-line no-restricted-syntax
