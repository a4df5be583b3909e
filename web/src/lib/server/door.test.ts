import { describe, expect, it } from 'vitest';
import { knownHosts, refusal } from './door';

const hosts = knownHosts({ HOST: '0.0.0.0', MALACHITE_HOSTS: 'ground.example, Other.Example' });
const ask = (headers: Record<string, string>, method = 'GET', url = '/api/v1/projects') =>
	refusal({ method, url, headers: { host: '127.0.0.1:5810', ...headers } }, hosts)?.status ?? 200;

describe('the door', () => {
	it.each([
		['127.0.0.1:5810', 200],
		['localhost', 200],
		['LOCALHOST:5810', 200],
		['[::1]:5810', 200],
		['ground.example:443', 200],
		['other.example', 200],
		['evil.example', 421],
		['127.0.0.1.evil.example', 421],
		['0.0.0.0:5810', 421],
		['', 421]
	])('of a request to %j answers %i', (host, status) => expect(ask({ host })).toBe(status));

	it('lets a page of its own act, and what is no page', () => {
		expect(ask({ origin: 'http://127.0.0.1:5810', 'sec-fetch-site': 'same-origin' }, 'POST')).toBe(200);
		expect(ask({}, 'POST')).toBe(200);
		expect(ask({ 'sec-fetch-site': 'none' })).toBe(200);
	});
	it.each([
		['another origin', { origin: 'http://evil.example' }],
		['another port', { origin: 'http://127.0.0.1:5811' }],
		['no origin that can be told', { origin: 'null' }],
		['a page from elsewhere that hides its origin', { 'sec-fetch-site': 'cross-site' }],
		['a page of a sister site', { 'sec-fetch-site': 'same-site' }]
	])('turns away who acts from %s', (_, headers) => {
		for (const method of ['POST', 'PUT', 'PATCH', 'DELETE']) expect(ask(headers as never, method)).toBe(403);
	});
	it('lets nobody draw data into a page from elsewhere, but follows a link', () => {
		const foreign = { 'sec-fetch-site': 'cross-site' };
		expect(ask({ ...foreign, 'sec-fetch-mode': 'no-cors' }, 'GET', '/api/v1/projects/x/events')).toBe(403);
		expect(ask({ ...foreign, 'sec-fetch-mode': 'cors' })).toBe(403);
		expect(ask({ ...foreign, 'sec-fetch-mode': 'navigate' })).toBe(200);
	});
	it('does not take an address that is none', () => expect(ask({}, 'GET', '/api/v1/projects/%E0%A4%A')).toBe(400));
});
