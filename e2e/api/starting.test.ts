import { expect, it } from 'vitest';
import { startServer } from '../server';

it('two servers that are given no port take one each, and a third says that the port of the first is taken and ends', async () => {
	const servers = await Promise.all([startServer(), startServer()]);
	try {
		expect(servers[0]!.url).not.toBe(servers[1]!.url);
		const { port } = new URL(servers[0]!.url);
		await expect(startServer({ PORT: port })).rejects.toThrow(`port ${port} is taken; choose another with MALACHITE_PORT`);
		// The one that was there goes on, and it sends nobody to another address.
		expect((await fetch(`${servers[0]!.url}/api/v1/health`)).ok).toBe(true);
		expect((await fetch(`${servers[0]!.url}/api/v1/projects`, { headers: { origin: servers[0]!.url } })).ok).toBe(true);
	} finally {
		for (const s of servers) await s.stop();
	}
});
