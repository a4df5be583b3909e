import { gunzip, gzip } from 'node:zlib';
import { promisify } from 'node:util';
import { fail } from '#core/problem';
import { sha256 } from '../store/hash';

const compress = promisify(gzip);
const expand = promisify(gunzip);

/** Packs made for the panes in their parts, compressed, by the key of all that they are made of. The least lately used go first. */
const packs = new Map<string, Promise<Buffer[]>>();
const sizes = new Map<string, number>();
const MOST_BYTES = 256 * 1024 * 1024;

function compressed(key: string, make: () => Promise<Uint8Array[]>): Promise<Buffer[]> {
	const known = packs.get(key);
	packs.delete(key);
	const pack = known ?? make().then((parts) => Promise.all(parts.map((bytes) => compress(bytes, { level: 1 }))));
	packs.set(key, pack);
	pack.then(
		(parts) => {
			sizes.set(
				key,
				parts.reduce((sum, p) => sum + p.length, 0)
			);
			let total = 0;
			for (const old of [...packs.keys()].reverse()) {
				total += sizes.get(old) ?? 0;
				if (total <= MOST_BYTES || old === key) continue;
				packs.delete(old);
				sizes.delete(old);
			}
		},
		() => packs.delete(key)
	);
	return pack;
}

/** Answers with a pack, compressed where the client takes that, made only once for a key; nothing when the client has it. */
export const sendPack = (key: string, request: Request, make: () => Promise<Uint8Array>, media?: string): Promise<Response> =>
	sendPart(key, 0, request, async () => [await make()], media);

/** The same for one of the parts that a large pack comes in: all are made with the first that is asked for. @throws ProblemError `not-found` */
export async function sendPart(
	key: string,
	part: number,
	request: Request,
	make: () => Promise<Uint8Array[]>,
	media = 'application/octet-stream'
): Promise<Response> {
	const etag = `"${sha256(part ? `${key} part ${part}` : key)}"`;
	const headers = { etag, 'cache-control': 'private, no-cache', vary: 'accept-encoding' };
	if (request.headers.get('if-none-match') === etag) return new Response(null, { status: 304, headers });
	const parts = await compressed(key, make);
	const bytes = parts[part] ?? fail('not-found', `there is no part ${part}`, `Ask for one from 0 to ${parts.length - 1}.`, 'part');
	const zipped = /\bgzip\b/.test(request.headers.get('accept-encoding') ?? '');
	return new Response((zipped ? bytes : await expand(bytes)) as BodyInit, {
		headers: { ...headers, 'content-type': media, ...(zipped ? { 'content-encoding': 'gzip' } : {}) }
	});
}

/** Packs that were asked for last, in room that threads share: a large one is not read from the store for each part of it. */
const recent = new Map<string, Promise<Uint8Array>>();
const MOST_RECENT = 3;

export function recentShared(key: string, read: () => Promise<Uint8Array>): Promise<Uint8Array> {
	const known = recent.get(key);
	recent.delete(key);
	const pack = known ?? read().then(shared);
	recent.set(key, pack);
	pack.catch(() => recent.delete(key));
	for (const old of recent.keys()) if (recent.size > MOST_RECENT) recent.delete(old);
	return pack;
}

/** Bytes that threads share instead of copying them. */
function shared(bytes: Uint8Array): Uint8Array {
	const out = new Uint8Array(new SharedArrayBuffer(bytes.byteLength));
	out.set(bytes);
	return out;
}
