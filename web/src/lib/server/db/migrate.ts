import { migrate } from 'drizzle-orm/node-postgres/migrator';
import { fileURLToPath } from 'node:url';
import { db } from './client';

/** Brings the database to the present schema. `dist` and `web` lie beside each other. */
export async function migrateDatabase(): Promise<void> {
	await migrate(db(), {
		migrationsFolder: process.env['MALACHITE_MIGRATIONS'] ?? fileURLToPath(new URL('../web/migrations', import.meta.url))
	});
}
