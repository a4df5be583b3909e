import { readFileSync } from 'node:fs';
import { expect, it } from 'vitest';
import { addressesModule } from './addresses';
import { pythonClient } from './python-client';

// Both are made anew by `node dist/clients.js`.
it('the client for Python in the docs is that of the operations', () => {
	expect(readFileSync('docs/malachite.py', 'utf8')).toBe(pythonClient());
});

it('the screens ask at the addresses that the operations have', () => {
	expect(readFileSync('web/src/lib/api/addresses.ts', 'utf8')).toBe(addressesModule());
});
