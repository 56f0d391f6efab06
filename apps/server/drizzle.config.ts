import { defineConfig } from 'drizzle-kit';

/** `npx drizzle-kit generate` in this folder writes a migration from what has changed in the schema. */
export default defineConfig({ dialect: 'sqlite', schema: './src/database/schema.ts', out: './drizzle' });
