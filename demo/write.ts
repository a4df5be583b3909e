import { mkdirSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { demoFiles } from './generate';

/** Writes the demo files below a folder: `node write.js FOLDER`. */
const folder = process.argv[2];
if (!folder) throw new Error('say which folder to write to');
const { files } = await demoFiles();
for (const [name, bytes] of files) {
	const path = join(folder, name);
	mkdirSync(dirname(path), { recursive: true });
	writeFileSync(path, bytes);
}
console.log(`${files.size} files of the demo in ${folder}`);
