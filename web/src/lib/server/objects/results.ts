import { and, eq } from 'drizzle-orm';
import { readPack, writePack, type Pack } from '#core/formats/pack';
import type { Executor } from '../db/client';
import { object, result } from '../db/schema';

export async function findResult(on: Executor, key: string): Promise<Pack | null> {
	const [row] = await on.select({ bytes: result.bytes }).from(result).where(eq(result.key, key));
	return row ? readPack(new Uint8Array(row.bytes)) : null;
}

export async function hasResult(on: Executor, key: string): Promise<boolean> {
	const [row] = await on.select({ key: result.key }).from(result).where(eq(result.key, key));
	return row !== undefined;
}

export async function resultBytes(on: Executor, key: string): Promise<Uint8Array | null> {
	const [row] = await on.select({ bytes: result.bytes }).from(result).where(eq(result.key, key));
	return row ? new Uint8Array(row.bytes) : null;
}

/** Stores a result under its key; when another worker was first, that one stays (equal inputs give equal results). */
export async function storeResult(on: Executor, values: { key: string; projectId: string; kind: string; report: Record<string, unknown>; seconds: number; pack: Pack }): Promise<void> {
	const { pack, ...rest } = values;
	await on.insert(result).values({ ...rest, bytes: Buffer.from(writePack(pack).buffer) }).onConflictDoNothing();
}

/** Marks a derived object as built with a key. */
export async function markBuilt(on: Executor, objectId: string, key: string): Promise<void> {
	await on.update(object).set({ contentHash: key, updatedAt: new Date() }).where(eq(object.id, objectId));
}

/** Key of the last built result of a kind, or null. */
export async function builtKey(on: Executor, projectId: string, kind: string): Promise<string | null> {
	const [row] = await on.select({ hash: object.contentHash }).from(object).where(and(eq(object.projectId, projectId), eq(object.kind, kind)));
	return row?.hash || null;
}

export async function builtReport(on: Executor, key: string): Promise<{ report: Record<string, unknown>; seconds: number; createdAt: Date } | null> {
	const [row] = await on.select({ report: result.report, seconds: result.seconds, createdAt: result.createdAt }).from(result).where(eq(result.key, key));
	return row ?? null;
}
