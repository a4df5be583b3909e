import { createHash } from 'node:crypto';
import { asc, eq } from 'drizzle-orm';
import { fail } from '#core/problem';
import { db } from '../db/client';
import { file, fileChunk } from '../db/schema';

export const LARGEST_FILE = 256 * 1024 * 1024;
const CHUNK = 1024 * 1024;

/** Stores a raw file as it comes in. All or nothing: one transaction. */
export async function storeFile(projectId: string, name: string, body: ReadableStream<Uint8Array> | Uint8Array): Promise<{ id: string; size: number; sha256: string }> {
	return db().transaction(async (tx) => {
		const [row] = await tx.insert(file).values({ projectId, name, size: 0, sha256: '' }).returning({ id: file.id });
		const hash = createHash('sha256');
		let n = 0;
		let size = 0;
		let waiting: Buffer[] = [];
		let held = 0;
		const flush = async () => {
			if (held === 0) return;
			const bytes = Buffer.concat(waiting);
			waiting = [];
			held = 0;
			await tx.insert(fileChunk).values({ fileId: row!.id, n: n++, bytes });
		};
		const take = async (part: Uint8Array) => {
			size += part.length;
			if (size > LARGEST_FILE) fail('file-too-large', `${name} is larger than ${LARGEST_FILE / 1048576} MiB`, 'Split it into several tables, or coarsen the raster.', 'file');
			hash.update(part);
			waiting.push(Buffer.from(part.buffer, part.byteOffset, part.byteLength));
			held += part.length;
			if (held >= CHUNK) await flush();
		};
		if (body instanceof Uint8Array) for (let i = 0; i < body.length; i += CHUNK) await take(body.subarray(i, i + CHUNK));
		else for await (const part of body as unknown as AsyncIterable<Uint8Array>) await take(part);
		await flush();
		if (size === 0) fail('empty-file', `${name} is empty`, 'Choose the file again; nothing was stored.', 'file');
		const sha256 = hash.digest('hex');
		await tx.update(file).set({ size, sha256 }).where(eq(file.id, row!.id));
		return { id: row!.id, size, sha256 };
	});
}

/** The whole file, or its first bytes. */
export async function fileBytes(fileId: string, atMost = Infinity): Promise<Uint8Array> {
	const parts: Buffer[] = [];
	let size = 0;
	for (let n = 0; size < atMost; n += 8) {
		const chunks = await db().select({ bytes: fileChunk.bytes, n: fileChunk.n }).from(fileChunk).where(eq(fileChunk.fileId, fileId)).orderBy(asc(fileChunk.n)).offset(n).limit(8);
		for (const c of chunks) {
			parts.push(c.bytes);
			size += c.bytes.length;
		}
		if (chunks.length < 8) break;
	}
	const all = Buffer.concat(parts);
	return new Uint8Array(all.buffer, all.byteOffset, Math.min(all.length, atMost));
}

export async function fileRow(projectId: string, fileId: string) {
	const [row] = await db().select().from(file).where(eq(file.id, fileId));
	if (!row || row.projectId !== projectId) return fail('not-found', 'there is no such file in this project');
	return row;
}
