import { readFile } from 'node:fs/promises';
import { fileURLToPath } from 'node:url';
import { fail } from '#core/problem';
import { filesNamed, type ProjectFile } from '#core/project/project-file';

const folder = (): string =>
	process.env['MALACHITE_DIST'] ? `${process.env['MALACHITE_DIST']}/demo` : fileURLToPath(new URL('./demo', import.meta.url));

/** The sample project as it was written when the application was built: its document and the files that this names. */
export async function sampleFiles(): Promise<Record<string, Uint8Array>> {
	const read = async (name: string) => new Uint8Array(await readFile(`${folder()}/${name}`));
	try {
		const text = await read('project.json');
		const names = ['surroundings.json', ...filesNamed(JSON.parse(new TextDecoder().decode(text)) as ProjectFile)];
		return Object.fromEntries([['project.json', text], ...(await Promise.all(names.map(async (n) => [n, await read(n)] as const)))]);
	} catch {
		return fail('not-found', 'this server has no sample data', 'They are written by `./malachite demo` and `./malachite start`.');
	}
}
