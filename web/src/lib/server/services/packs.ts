import { gunzip, gzip } from 'node:zlib';
import { promisify } from 'node:util';
import { sha256 } from '../store/hash';

const compress = promisify(gzip);
const expand = promisify(gunzip);

/** Packs made for the panes, compressed, by the key of all that they are made of. The least lately used go first. */
const packs = new Map<string, Promise<Buffer>>();
const sizes = new Map<string, number>();
const MOST_BYTES = 256 * 1024 * 1024;

function compressed(key: string, make: () => Promise<Uint8Array>): Promise<Buffer> {
	const known = packs.get(key);
	packs.delete(key);
	const pack = known ?? make().then((bytes) => compress(bytes, { level: 1 }));
	packs.set(key, pack);
	pack.then(
		(bytes) => {
			sizes.set(key, bytes.length);
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
export async function sendPack(
	key: string,
	request: Request,
	make: () => Promise<Uint8Array>,
	media = 'application/octet-stream'
): Promise<Response> {
	const etag = `"${sha256(key)}"`;
	const headers = { etag, 'cache-control': 'private, no-cache', vary: 'accept-encoding' };
	if (request.headers.get('if-none-match') === etag) return new Response(null, { status: 304, headers });
	const bytes = await compressed(key, make);
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
