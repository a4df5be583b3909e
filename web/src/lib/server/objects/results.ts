import { and, eq } from 'drizzle-orm';
import { writePack, type Pack } from '#core/formats/pack';
import { fail } from '#core/problem';
import type { Executor } from '../db/client';
import { object, result } from '../db/schema';

const of = (projectId: string, key: string) => and(eq(result.projectId, projectId), eq(result.key, key));

export async function hasResult(on: Executor, projectId: string, key: string): Promise<boolean> {
	const [row] = await on.select({ key: result.key }).from(result).where(of(projectId, key));
	return row !== undefined;
}

/** Keys of all stored results of a project. */
export async function storedKeys(on: Executor, projectId: string): Promise<Set<string>> {
	return new Set((await on.select({ key: result.key }).from(result).where(eq(result.projectId, projectId))).map((r) => r.key));
}

/**
 * A stored result. One that is missing is never taken for nothing.
 * @throws ProblemError `not-built`
 */
export async function resultBytes(on: Executor, projectId: string, key: string): Promise<Uint8Array> {
	const [row] = await on.select({ bytes: result.bytes }).from(result).where(of(projectId, key));
	return row
		? new Uint8Array(row.bytes)
		: fail('not-built', 'this result is not stored any more', 'Build again under Build: what is missing is made anew.');
}

/** Stores a result under its key; when another worker was first, that one stays (equal inputs give equal results). */
export async function storeResult(
	on: Executor,
	values: { key: string; projectId: string; kind: string; report: Record<string, unknown>; seconds: number; pack: Pack }
): Promise<void> {
	const { pack, ...rest } = values;
	await on
		.insert(result)
		.values({ ...rest, bytes: Buffer.from(writePack(pack).buffer) })
		.onConflictDoNothing();
}

/** Marks a derived object as built with a key. */
export async function markBuilt(on: Executor, objectId: string, key: string): Promise<void> {
	await on.update(object).set({ contentHash: key, updatedAt: new Date() }).where(eq(object.id, objectId));
}

/** Key of the last built result of a kind, or null. */
export async function builtKey(on: Executor, projectId: string, kind: string): Promise<string | null> {
	const [row] = await on
		.select({ hash: object.contentHash })
		.from(object)
		.where(and(eq(object.projectId, projectId), eq(object.kind, kind)));
	return row?.hash || null;
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
