import { writeFileSync } from 'node:fs';
import { addressesModule } from '../web/src/lib/server/api/addresses';
import { pythonClient } from '../web/src/lib/server/api/python-client';

/** Writes the client for Python and the addresses that the screens ask, from the operations of the API: `node dist/clients.js`. */
writeFileSync('docs/malachite.py', pythonClient());
writeFileSync('web/src/lib/api/addresses.ts', addressesModule());
