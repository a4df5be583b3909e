import { writeFileSync } from 'node:fs';
import { projectFileSchema } from '#core/project/project-file';
import { jsonSchemaOf } from '../web/src/lib/server/api/json-schema';

/** Writes the JSON Schema of the project file, from the guard that checks it: `node dist/schemas.js`. */
const schema = {
	$schema: 'https://json-schema.org/draft/2020-12/schema',
	title: 'Malachite project file',
	...jsonSchemaOf(projectFileSchema)
};
writeFileSync('docs/project-file.schema.json', `${JSON.stringify(schema, null, '\t')}\n`);
