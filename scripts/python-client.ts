import { writeFileSync } from 'node:fs';
import { pythonClient } from '../web/src/lib/server/api/python-client';

/** Writes the client for Python, from the operations of the API: `node dist/python-client.js`. */
writeFileSync('docs/malachite.py', pythonClient());
