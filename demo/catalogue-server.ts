import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { CATALOGUE_BOX, coverage, features, RECORDS, thumbnail, type CatalogueRecord } from './catalogue';
import { toGeographic, toProjected } from './geographic';

/**
 * The regional catalogue: a small simulated service that speaks OGC API Records, Features and Coverages, so that a real one can take
 * its place. `node catalogue.js`, on loopback, port `MALACHITE_CATALOGUE_PORT` (5812; 0: any that is free, it says which).
 *
 * `PUT /simulation` with `{"fault": "slow" | "cut" | "refused" | "odd" | "none"}` makes it behave badly, for tests: answers that take
 * seconds, a connection that is cut in the middle of a download, a sign-in that is refused, records that lie nowhere.
 */
const port = Number(process.env['MALACHITE_CATALOGUE_PORT'] ?? 5812);
let fault: 'none' | 'slow' | 'cut' | 'refused' | 'odd' = 'none';
/** Downloads by address, so that a part asked for later is a part of the same bytes. */
const downloads = new Map<string, { bytes: Uint8Array; media: string }>();

class HttpProblem extends Error {
	constructor(
		readonly status: number,
		message: string
	) {
		super(message);
	}
}

function send(
	response: ServerResponse,
	status: number,
	media: string,
	body: string | Uint8Array,
	headers: Record<string, string> = {}
): void {
	response.writeHead(status, { 'content-type': media, 'content-length': String(Buffer.byteLength(body)), ...headers });
	response.end(body);
}
const json = (response: ServerResponse, value: unknown, media = 'application/json') => send(response, 200, media, JSON.stringify(value));

/** `bbox=west,south,east,north` in longitude and latitude, as a projected box; the whole area when it is not given. */
function boxOf(url: URL): readonly [number, number, number, number] {
	const text = url.searchParams.get('bbox');
	if (!text) return CATALOGUE_BOX;
	const b = text.split(',').map(Number);
	if (b.length !== 4 || !b.every(Number.isFinite) || b[0]! >= b[2]! || b[1]! >= b[3]!)
		throw new HttpProblem(400, 'bbox must be west,south,east,north');
	const corners = [toProjected(b[0]!, b[1]!), toProjected(b[2]!, b[1]!), toProjected(b[0]!, b[3]!), toProjected(b[2]!, b[3]!)];
	return [
		Math.min(...corners.map((c) => c[0])),
		Math.min(...corners.map((c) => c[1])),
		Math.max(...corners.map((c) => c[0])),
		Math.max(...corners.map((c) => c[1]))
	];
}

const overlaps = (a: readonly number[], b: readonly number[]): boolean => a[0]! < b[2]! && b[0]! < a[2]! && a[1]! < b[3]! && b[1]! < a[3]!;

function recordOf(r: CatalogueRecord, base: string) {
	const [w, s] = toGeographic(CATALOGUE_BOX[0], CATALOGUE_BOX[1]);
	const [e, n] = toGeographic(CATALOGUE_BOX[2], CATALOGUE_BOX[3]);
	const [width, height] = [CATALOGUE_BOX[2] - CATALOGUE_BOX[0], CATALOGUE_BOX[3] - CATALOGUE_BOX[1]];
	const bytes = r.resolution
		? (width / r.resolution) * (height / r.resolution) * (r.kind === 'picture' ? 1 : 4)
		: r.id === 'geology'
			? 400_000
			: 40_000;
	return {
		type: 'Feature',
		id: r.id,
		geometry: {
			type: 'Polygon',
			coordinates: [
				[
					[w, s],
					[e, s],
					[e, n],
					[w, n],
					[w, s]
				]
			]
		},
		properties: {
			title: r.title,
			description: r.description,
			type: r.kind,
			as: r.as,
			resolution: r.resolution,
			created: r.date,
			license: r.licence,
			size: Math.round(bytes),
			area: width * height
		},
		links: [
			{ rel: 'preview', type: 'image/png', href: `${base}/collections/${r.id}/thumbnail` },
			{
				rel: 'item',
				type: r.kind === 'features' ? 'application/geo+json' : r.kind === 'picture' ? 'application/zip' : 'image/tiff; application=geotiff',
				href: `${base}/collections/${r.id}/${r.kind === 'features' ? 'items' : 'coverage'}`
			}
		]
	};
}

async function answer(request: IncomingMessage, response: ServerResponse): Promise<void> {
	const base = `http://${request.headers.host ?? address()}`;
	const url = new URL(request.url ?? '/', base);
	const parts = url.pathname.split('/').filter(Boolean);
	if (request.method === 'PUT' && parts[0] === 'simulation') {
		let body = '';
		for await (const chunk of request) body += String(chunk);
		fault = (JSON.parse(body) as { fault: typeof fault }).fault;
		return json(response, { fault });
	}
	if (request.method !== 'GET') throw new HttpProblem(405, 'only GET is possible here');
	if (fault === 'slow') await new Promise((r) => setTimeout(r, 4000));
	if (fault === 'refused' && parts[0] === 'collections') throw new HttpProblem(401, 'sign in first: the key is missing or not known');
	if (parts.length === 0)
		return json(response, {
			title: 'Regional catalogue of the Isle of Tarrow',
			description: 'Simulated; all data are made up',
			links: [
				{ rel: 'conformance', href: `${base}/conformance` },
				{ rel: 'data', href: `${base}/collections` }
			]
		});
	if (parts[0] === 'conformance')
		return json(response, {
			conformsTo: [
				'http://www.opengis.net/spec/ogcapi-records-1/1.0/conf/core',
				'http://www.opengis.net/spec/ogcapi-features-1/1.0/conf/core',
				'http://www.opengis.net/spec/ogcapi-features-1/1.0/conf/geojson',
				'http://www.opengis.net/spec/ogcapi-coverages-1/0.0/conf/geotiff'
			]
		});
	if (parts[0] !== 'collections') throw new HttpProblem(404, 'there is nothing here');
	if (parts.length === 1)
		return json(response, { collections: [{ id: 'records', itemType: 'record' }, ...RECORDS.map((r) => ({ id: r.id, title: r.title }))] });
	if (parts[1] === 'records') {
		const words = (url.searchParams.get('q') ?? '').toLowerCase().split(/\s+/).filter(Boolean);
		const found = overlaps(boxOf(url), CATALOGUE_BOX)
			? RECORDS.filter((r) => words.every((w) => `${r.title} ${r.description} ${r.kind}`.toLowerCase().includes(w)))
			: [];
		return json(
			response,
			{
				type: 'FeatureCollection',
				numberMatched: found.length,
				features: found.map((r) => ({ ...recordOf(r, base), ...(fault === 'odd' ? { geometry: { coordinates: [] } } : {}) }))
			},
			'application/geo+json'
		);
	}
	const record = RECORDS.find((r) => r.id === parts[1]);
	if (!record) throw new HttpProblem(404, `there is no collection "${parts[1]}"`);
	if (parts[2] === 'thumbnail') return send(response, 200, 'image/png', thumbnail(record));
	if (parts[2] === 'items' && record.kind === 'features')
		return deliver(request, response, url.href, async () => ({
			bytes: new TextEncoder().encode(JSON.stringify({ type: 'FeatureCollection', features: features(record, boxOf(url)) })),
			media: 'application/geo+json'
		}));
	if (parts[2] === 'coverage' && record.kind !== 'features') {
		const every = Math.max(1, Math.min(100, Math.round(Number(url.searchParams.get('scale-factor') ?? 1)) || 1));
		return deliver(request, response, url.href, async () => {
			const c = await coverage(record, boxOf(url), every);
			if (!c) throw new HttpProblem(404, 'the box lies outside the coverage');
			return c;
		});
	}
	throw new HttpProblem(404, 'there is nothing here');
}

/** Sends bytes, or the part that a Range header asks for. */
async function deliver(
	request: IncomingMessage,
	response: ServerResponse,
	address: string,
	make: () => Promise<{ bytes: Uint8Array; media: string }>
): Promise<void> {
	let d = downloads.get(address);
	if (!d) {
		downloads.set(address, (d = await make()));
		if (downloads.size > 20) downloads.delete(downloads.keys().next().value!);
	}
	const from = Number(/^bytes=(\d+)-$/.exec(request.headers.range ?? '')?.[1] ?? 0);
	if (from >= d.bytes.length) return send(response, 416, 'text/plain', 'nothing is left');
	const part = d.bytes.subarray(from);
	const headers = {
		'accept-ranges': 'bytes',
		...(from ? { 'content-range': `bytes ${from}-${d.bytes.length - 1}/${d.bytes.length}` } : {})
	};
	if (fault !== 'cut') return send(response, from ? 206 : 200, d.media, part, headers);
	response.writeHead(from ? 206 : 200, { 'content-type': d.media, 'content-length': String(part.length), ...headers });
	response.write(part.subarray(0, Math.ceil(part.length / 2)), () => setTimeout(() => response.destroy(), 50));
}

const server = createServer((request, response) => {
	answer(request, response).catch((error: unknown) => {
		const status = error instanceof HttpProblem ? error.status : 500;
		if (!response.headersSent)
			send(
				response,
				status,
				'application/problem+json',
				JSON.stringify({ type: 'about:blank', title: error instanceof Error ? error.message : String(error), status })
			);
		else response.destroy();
	});
});
const address = () => `127.0.0.1:${(server.address() as AddressInfo).port}`;
server.listen(port, '127.0.0.1', () => console.log(`regional catalogue on http://${address()}`));
