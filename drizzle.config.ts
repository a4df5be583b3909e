import { defineConfig } from 'drizzle-kit';

export default defineConfig({ dialect: 'postgresql', schema: './web/src/lib/server/db/schema.ts', out: './web/migrations' });
