import * as yup from 'yup';
import { placing } from '#core/geometry/coordinates';
import { fail } from '#core/problem';
import { systemOf } from '../store/crs';
import { LARGEST_FILE } from '../store/files';

/** Address of the regional catalogue; the simulated one by default. */
export const catalogueUrl = (): string =>
	(process.env['MALACHITE_CATALOGUE_URL'] ?? `http://127.0.0.1:${process.env['MALACHITE_CATALOGUE_PORT'] ?? 5812}`).replace(/\/$/, '');

const PATIENCE_MS = 10_000;
const MOST_TRIES = 5;

/** A record as it is shown; what a service says is guarded like what a user says. */
/** A polygon of places: what a service says of it is believed no more than what else it says. */
const isOutline = (v: unknown): v is { coordinates: [number, number][][] } => {
	const ring = (v as { coordinates?: unknown[] } | null)?.coordinates?.[0];
	return (
		Array.isArray(ring) &&
		ring.length >= 3 &&
		ring.every((p) => Array.isArray(p) && p.length >= 2 && p.every((x) => typeof x === 'number' && Number.isFinite(x)))
	);
};

const recordSchema = yup.object({
	id: yup.string().max(200).required(),
	properties: yup
		.object({
			title: yup.string().max(500).required(),
			description: yup.string().max(5000).default(''),
			as: yup.string().oneOf(['terrain', 'grid', 'layer', 'picture']).required(),
			resolution: yup.number().nullable().default(null),
			created: yup.string().max(40).default(''),
			license: yup.string().max(5000).default(''),
			size: yup.number().default(0),
			area: yup.number().default(0)
		})
		.required(),
	geometry: yup.mixed<{ coordinates: [number, number][][] }>(isOutline).required(),
	links: yup.array(yup.object({ rel: yup.string().required(), href: yup.string().url().max(2000).required() }).required()).required()
});

interface CatalogueEntry {
	id: string;
	title: string;
	description: string;
	as: 'terrain' | 'grid' | 'layer' | 'picture';
	resolution: number | null;
	date: string;
	licence: string;
	/** Bytes of the whole, and square metres that it covers. */
	size: number;
	area: number;
	/** Longitude and latitude: west, south, east, north. */
	box: [number, number, number, number];
	item: string;
}

/** Asks the service; what goes wrong is said in plain words. */
async function ask(address: string, init: RequestInit = {}): Promise<Response> {
	// Only the service itself is asked, wherever its links point.
	if (new URL(address).origin !== new URL(catalogueUrl()).origin)
		return fail('catalogue-link', 'the regional catalogue points to another server', 'Ask whoever runs it.');
	const key = process.env['MALACHITE_CATALOGUE_KEY'];
	let response: Response;
	try {
		response = await fetch(address, {
			redirect: 'error',
			signal: AbortSignal.timeout(PATIENCE_MS),
			...init,
			headers: { ...(init.headers as Record<string, string>), ...(key ? { authorization: `Bearer ${key}` } : {}) }
		});
	} catch (error) {
		if (error instanceof Error && error.name === 'TimeoutError')
			return fail(
				'catalogue-slow',
				`the regional catalogue did not answer within ${PATIENCE_MS / 1000} s`,
				'Try again in a moment, or ask for a smaller area.'
			);
		if (init.signal?.aborted) throw error;
		return fail(
			'catalogue-down',
			'the regional catalogue does not answer',
			`Check that it runs at ${catalogueUrl()}, or go on without it: files can be brought in by hand.`
		);
	}
	if (response.status === 401 || response.status === 403)
		return fail(
			'catalogue-refused',
			'the regional catalogue refused the sign-in',
			'Set MALACHITE_CATALOGUE_KEY to a key that it knows and start the server again.'
		);
	if (!response.ok) {
		const said = await response.json().then(
			(b: { title?: string }) => b.title ?? '',
			() => ''
		);
		return fail(
			'catalogue-answer',
			`the regional catalogue answered ${response.status}${said ? `: ${said.slice(0, 200)}` : ''}`,
			'Change the area or the words, or try again later.'
		);
	}
	return response;
}

/** Records that touch an area. @param box west, south, east, north in degrees */
export async function searchCatalogue(box: readonly number[], words: string): Promise<CatalogueEntry[]> {
	const response = await ask(`${catalogueUrl()}/collections/records/items?bbox=${box.join(',')}&q=${encodeURIComponent(words)}`);
	const body = (await response.json()) as { features?: unknown[] };
	const records = await yup
		.array(recordSchema.required())
		.max(1000)
		.required()
		.validate(body.features)
		.catch(() =>
			fail(
				'catalogue-answer',
				'the regional catalogue answered something that is no list of records',
				'Check that its address is that of an OGC API Records service.'
			)
		);
	return records.map((r) => {
		const ring = r.geometry.coordinates[0]!;
		const [x, y] = [ring.map((p) => p[0]), ring.map((p) => p[1])];
		const { title, description, resolution, size, area, created, license, as } = r.properties;
		// Whatever else a record says stays there.
		return {
			title,
			description,
			resolution,
			size,
			area,
			id: r.id,
			as: as as CatalogueEntry['as'],
			date: created,
			licence: license,
			box: [Math.min(...x), Math.min(...y), Math.max(...x), Math.max(...y)],
			item: r.links.find((l) => l.rel === 'item')?.href ?? ''
		};
	});
}

/** The picture of a record. */
export async function cataloguePicture(id: string): Promise<Uint8Array> {
	return new Uint8Array(await (await ask(`${catalogueUrl()}/collections/${encodeURIComponent(id)}/thumbnail`)).arrayBuffer());
}

/**
 * Downloads an item, clipped to an area. When the connection is cut it goes on where it was.
 * @throws ProblemError when nothing more comes after some tries; nothing is stored by then
 */
export async function downloadItem(
	entry: CatalogueEntry,
	box: readonly number[],
	every: number,
	signal: AbortSignal,
	progress: (share: number) => void
): Promise<Uint8Array> {
	const address = `${entry.item}?bbox=${box.join(',')}${every > 1 ? `&scale-factor=${every}` : ''}`;
	const parts: Uint8Array[] = [];
	let size = 0;
	let total = 0;
	for (let tries = 0; ; tries++) {
		const before = size;
		const response = await ask(address, {
			signal: AbortSignal.any([signal, AbortSignal.timeout(60_000)]),
			headers: size ? { range: `bytes=${size}-` } : {}
		});
		if (size && response.status !== 206) {
			// The service can not go on in the middle: from the start.
			parts.length = 0;
			size = 0;
		}
		total = size + Number(response.headers.get('content-length') ?? 0);
		try {
			for await (const part of response.body as unknown as AsyncIterable<Uint8Array>) {
				parts.push(part);
				size += part.length;
				if (size > LARGEST_FILE)
					return fail(
						'file-too-large',
						`${entry.title} is larger than ${LARGEST_FILE / 1048576} MiB in this area`,
						'Choose a smaller area or a coarser resolution.'
					);
				progress(total ? size / total : 0);
			}
			if (!total || size >= total) break;
		} catch (error) {
			if (signal.aborted) throw error;
		}
		if (size === before || tries >= MOST_TRIES + 10) {
			if (tries >= MOST_TRIES)
				return fail(
					'catalogue-cut',
					`the connection was cut after ${size} of ${total} bytes`,
					'Nothing was stored. Try again; smaller areas come through sooner.'
				);
		}
	}
	return new Uint8Array(Buffer.concat(parts));
}

/** A box of a project in degrees: west, south, east, north. @throws ProblemError `no-system` */
export function geographicBox(
	crs: number,
	e: { minX: number; minY: number; maxX: number; maxY: number }
): [number, number, number, number] {
	const system =
		systemOf(crs) ??
		fail(
			'no-system',
			'the project is on a local grid, so the catalogue can not be asked for its area',
			'Set the coordinate system of the project, or type longitudes and latitudes.',
			'crs'
		);
	const map = placing({ from: system.definition, to: systemOf(4326)!.definition })!;
	const corners = [map(e.minX, e.minY), map(e.maxX, e.minY), map(e.minX, e.maxY), map(e.maxX, e.maxY)];
	// Six decimals are a tenth of a metre; outwards, so that nothing is lost at the edge.
	const out = (v: number, up: boolean) => (up ? Math.ceil(v * 1e6) : Math.floor(v * 1e6)) / 1e6;
	return [
		out(Math.min(...corners.map((c) => c[0])), false),
		out(Math.min(...corners.map((c) => c[1])), false),
		out(Math.max(...corners.map((c) => c[0])), true),
		out(Math.max(...corners.map((c) => c[1])), true)
	];
}
