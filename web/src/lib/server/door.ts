import type { IncomingMessage } from 'node:http';

/** Why a request is not let in. */
interface Refusal {
	status: number;
	type: string;
	title: string;
	hint: string;
}

const LOOPBACK = ['localhost', '127.0.0.1', '[::1]'];
const SAFE = new Set(['GET', 'HEAD', 'OPTIONS']);

/** Names that this server answers to: those of loopback, the address it listens on, and those in `MALACHITE_HOSTS` (between commas). */
export function knownHosts(environment: Record<string, string | undefined> = process.env): Set<string> {
	const own = environment['HOST'] && !['0.0.0.0', '::', '[::]'].includes(environment['HOST']) ? [environment['HOST']] : [];
	const named = (environment['MALACHITE_HOSTS'] ?? '').split(',').map((h) => h.trim().toLowerCase());
	return new Set([...LOOPBACK, ...own, ...named].filter((h) => h !== ''));
}

/** Whether an address is written as addresses are. */
function isWritten(url: string): boolean {
	try {
		decodeURIComponent(url.split('?')[0]!);
		return true;
	} catch {
		return false;
	}
}

/** Name of a Host header, without its port. */
const nameOf = (host: string): string => host.toLowerCase().replace(/:\d+$/, '');

/**
 * Whether a request may come in. A name that is not this server's may have been bound to its address by somebody else; a page from
 * elsewhere must neither act here nor read.
 */
export function refusal(request: Pick<IncomingMessage, 'method' | 'url' | 'headers'>, hosts: ReadonlySet<string>): Refusal | null {
	const { headers } = request;
	const host = headers.host ?? '';
	if (!hosts.has(nameOf(host)))
		return {
			status: 421,
			type: 'unknown-host',
			title: `this server is not called "${host.slice(0, 100)}"`,
			hint: 'Use the address that it was started with. Further names are set by MALACHITE_HOSTS.'
		};
	if (!isWritten(request.url ?? ''))
		return {
			status: 400,
			type: 'bad-address',
			title: 'the address is not written as addresses are',
			hint: 'Write other characters than letters and digits as %XX in UTF-8.'
		};
	const elsewhere: Refusal = {
		status: 403,
		type: 'foreign-page',
		title: 'a page from elsewhere may not do this',
		hint: 'Open Malachite itself.'
	};
	const { origin } = headers;
	const site = headers['sec-fetch-site'];
	const own =
		origin !== undefined && /^https?:\/\//.test(origin) && origin.replace(/^https?:\/\//, '').toLowerCase() === host.toLowerCase();
	if (origin !== undefined && !own) return elsewhere;
	const foreign = site !== undefined && site !== 'same-origin' && site !== 'none';
	if (!foreign) return null;
	if (!SAFE.has(request.method ?? '')) return elsewhere;
	// Following a link from elsewhere is no harm; drawing data into a page from elsewhere is.
	return request.url?.startsWith('/api/') && headers['sec-fetch-mode'] !== 'navigate' ? elsewhere : null;
}

/** Headers of every answer, static files too; a page brings a policy of its own in their place. */
export const GUARDS: Readonly<Record<string, string>> = {
	'content-security-policy':
		"default-src 'none'; script-src 'self' 'wasm-unsafe-eval'; connect-src 'self'; font-src 'self'; img-src 'self'; style-src 'self'; frame-ancestors 'none'; base-uri 'none'; form-action 'none'",
	'x-content-type-options': 'nosniff',
	'x-frame-options': 'DENY',
	'referrer-policy': 'same-origin',
	'cross-origin-opener-policy': 'same-origin',
	'cross-origin-resource-policy': 'same-origin',
	'permissions-policy': 'accelerometer=(), camera=(), display-capture=(), geolocation=(), gyroscope=(), microphone=(), payment=(), usb=()'
};
