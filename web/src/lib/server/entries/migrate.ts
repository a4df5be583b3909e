import { closeDatabase } from '../db/client';
import { migrateDatabase } from '../db/migrate';

/** Brings the schema up to date, for those who run the application from its sources. */
await migrateDatabase();
await closeDatabase();
