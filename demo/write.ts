import { mkdirSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { layersFiles } from './generate';
import { tarrowFiles } from './tarrow/project';

/** Writes the demo files below a folder: `node write.js FOLDER`. */
const folder = process.argv[2];
if (!folder) throw new Error('say which folder to write to');
const planted = [...(await layersFiles()).files].filter(([name]) => name.startsWith('planted/'));
const files = new Map([...(await tarrowFiles()), ...planted]);
for (const [name, bytes] of files) {
	const path = join(folder, name);
	mkdirSync(dirname(path), { recursive: true });
	writeFileSync(path, bytes);
}
console.log(`${files.size} files of the demo in ${folder}`);
