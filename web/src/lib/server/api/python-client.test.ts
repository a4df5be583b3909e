import { readFileSync } from 'node:fs';
import { expect, it } from 'vitest';
import { pythonClient } from './python-client';

it('the client for Python in the docs is that of the operations', () => {
	// Made anew by `node dist/python-client.js`.
	expect(readFileSync('docs/malachite.py', 'utf8')).toBe(pythonClient());
});
