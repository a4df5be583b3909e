import { and, eq, inArray } from 'drizzle-orm';
import { writePack, type Pack } from '#core/formats/pack';
import { fail } from '#core/problem';
import { createHash } from 'node:crypto';
import { db, type Executor } from '../db/client';
import { result } from '../db/schema';

const of = (projectId: string, key: string) => and(eq(result.projectId, projectId), eq(result.key, key));

export async function hasResult(on: Executor, projectId: string, key: string): Promise<boolean> {
	const [row] = await on.select({ key: result.key }).from(result).where(of(projectId, key));
	return row !== undefined;
}

/**
 * A stored result. One that is missing is never taken for nothing, and one that was damaged in the store is dropped from it.
 * @throws ProblemError `not-built`
 */
export async function resultBytes(on: Executor, projectId: string, key: string): Promise<Uint8Array> {
	const [row] = await on.select({ bytes: result.bytes, sha256: result.sha256 }).from(result).where(of(projectId, key));
	if (row?.sha256 && row.sha256 !== hashOf(row.bytes)) {
		await db().delete(result).where(of(projectId, key));
		return fail('not-built', 'this result was damaged in the store', 'Build again under Build: it is made anew.');
	}
	return row
		? new Uint8Array(row.bytes)
		: fail('not-built', 'this result is not stored any more', 'Build again under Build: what is missing is made anew.');
}

const hashOf = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex');

/** Stores a result under its key; when another worker was first, that one stays (equal inputs give equal results). */
export async function storeResult(
	on: Executor,
	values: { key: string; projectId: string; kind: string; report: Record<string, unknown>; seconds: number; pack: Pack }
): Promise<void> {
	const { pack, ...rest } = values;
	const bytes = Buffer.from(writePack(pack).buffer);
	await on
		.insert(result)
		.values({ ...rest, bytes, sha256: hashOf(bytes) })
		.onConflictDoNothing();
}

/** What is said of stored results, by key. */
export async function builtReports(
	on: Executor,
	projectId: string,
	keys: readonly string[]
): Promise<Map<string, { report: Record<string, unknown>; seconds: number; createdAt: Date }>> {
	if (keys.length === 0) return new Map();
	const rows = await on
		.select({ key: result.key, report: result.report, seconds: result.seconds, createdAt: result.createdAt })
		.from(result)
		.where(and(eq(result.projectId, projectId), inArray(result.key, [...keys])));
	return new Map(rows.map(({ key, ...r }) => [key, r]));
}

export async function builtReport(
	on: Executor,
	projectId: string,
	key: string
): Promise<{ report: Record<string, unknown>; seconds: number; createdAt: Date } | null> {
	const [row] = await on
		.select({ report: result.report, seconds: result.seconds, createdAt: result.createdAt })
		.from(result)
		.where(of(projectId, key));
	return row ?? null;
}
