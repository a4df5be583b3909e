import { readFileSync } from 'node:fs';
import { expect, it } from 'vitest';
import { projectFileSchema } from '#core/project/project-file';
import { jsonSchemaOf } from './json-schema';

it('the description of the project file in the docs is that of the guard that checks it', () => {
	const {
		$schema: _,
		title: _title,
		...written
	} = JSON.parse(readFileSync('docs/project-file.schema.json', 'utf8')) as Record<string, unknown>;
	// Made anew by `node dist/schemas.js`.
	expect(written).toEqual(JSON.parse(JSON.stringify(jsonSchemaOf(projectFileSchema))));
});
