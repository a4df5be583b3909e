import { createHash } from 'node:crypto';
import { open, rm } from 'node:fs/promises';
import { asc, eq } from 'drizzle-orm';
import { fail } from '#core/problem';
import { db, unheld } from '../db/client';
import { file, fileChunk } from '../db/schema';
import { spoolFile } from '../threads/readers';

export const LARGEST_FILE = 256 * 1024 * 1024;
const CHUNK = 1024 * 1024;

/** A body that was written to disk as it came in. */
interface Spooled {
	path: string;
	size: number;
	sha256: string;
}

/**
 * Writes a body to disk while it comes in, however slowly: no connection of the database waits for it. What is too large is read to its
 * end, but not kept, so that its sender hears the answer.
 * @throws ProblemError `file-too-large`, `empty-file`
 */
export async function spool(body: ReadableStream<Uint8Array>, name: string, most = LARGEST_FILE): Promise<Spooled> {
	const path = spoolFile();
	const out = await open(path, 'wx', 0o600);
	const hash = createHash('sha256');
	let size = 0;
	// By hand: a loop that is left would end the connection before the answer is sent.
	const reader = body.getReader();
	try {
		for (;;) {
			const { done, value } = await reader.read();
			if (done) break;
			size += value.length;
			if (size > 4 * most) break;
			if (size > most) continue;
			hash.update(value);
			await out.write(value);
		}
		if (size > most)
			fail(
				'file-too-large',
				`${name} is larger than ${most / 1048576} MiB`,
				'Split it into several tables, or coarsen the raster.',
				'file'
			);
		if (size === 0) fail('empty-file', `${name} is empty`, 'Choose the file again; nothing was stored.', 'file');
		return { path, size, sha256: hash.digest('hex') };
	} catch (error) {
		await rm(path, { force: true });
		throw error;
	} finally {
		await out.close();
	}
}

/** Stores a raw file. All or nothing: one transaction. */
export async function storeFile(
	projectId: string,
	name: string,
	body: ReadableStream<Uint8Array> | Uint8Array
): Promise<{ id: string; size: number; sha256: string }> {
	if (body instanceof Uint8Array)
		return store(projectId, name, { size: body.length, sha256: createHash('sha256').update(body).digest('hex') }, async (from, to) =>
			body.subarray(from, to)
		);
	const spooled = await spool(body, name);
	const source = await open(spooled.path);
	try {
		return await store(projectId, name, spooled, async (from, to) => {
			const bytes = new Uint8Array(to - from);
			await source.read(bytes, 0, bytes.length, from);
			return bytes;
		});
	} finally {
		await source.close();
		await rm(spooled.path, { force: true });
	}
}

async function store(
	projectId: string,
	name: string,
	{ size, sha256 }: Omit<Spooled, 'path'>,
	part: (from: number, to: number) => Promise<Uint8Array>
): Promise<{ id: string; size: number; sha256: string }> {
	if (size > LARGEST_FILE)
		fail(
			'file-too-large',
			`${name} is larger than ${LARGEST_FILE / 1048576} MiB`,
			'Split it into several tables, or coarsen the raster.',
			'file'
		);
	if (size === 0) fail('empty-file', `${name} is empty`, 'Choose the file again; nothing was stored.', 'file');
	return unheld(async (tx) => {
		const [row] = await tx.insert(file).values({ projectId, name, size, sha256 }).returning({ id: file.id });
		for (let n = 0, from = 0; from < size; n++, from += CHUNK) {
			const bytes = await part(from, Math.min(size, from + CHUNK));
			await tx.insert(fileChunk).values({ fileId: row!.id, n, bytes: Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength) });
		}
		return { id: row!.id, size, sha256 };
	});
}

/** The whole file, or its first bytes. */
export async function fileBytes(fileId: string, atMost = Infinity): Promise<Uint8Array> {
	const parts: Buffer[] = [];
	let size = 0;
	for (let n = 0; size < atMost; n += 8) {
		const chunks = await db()
			.select({ bytes: fileChunk.bytes, n: fileChunk.n })
			.from(fileChunk)
			.where(eq(fileChunk.fileId, fileId))
			.orderBy(asc(fileChunk.n))
			.offset(n)
			.limit(8);
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
