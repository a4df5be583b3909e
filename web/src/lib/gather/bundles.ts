import { zipSync } from 'fflate';

const base = (f: File) => f.name.replace(/\.[^.]+$/, '').toLowerCase();
const ending = (f: File) => /\.([^.]+)$/.exec(f.name)?.[1]?.toLowerCase() ?? '';

/** Files that belong together (the parts of a shapefile, a picture and its world file) become one archive. */
export async function bundled(files: File[]): Promise<File[]> {
	const leaders = files.filter((f) => ending(f) === 'shp' || ['png', 'jpg', 'jpeg'].includes(ending(f)));
	const out: File[] = [];
	const used = new Set<File>();
	for (const leader of leaders) {
		const wanted = ending(leader) === 'shp' ? /^(dbf|shx|prj|cpg)$/ : /^([a-z]{2,4}w|wld)$/;
		const beside = files.filter((f) => f !== leader && base(f) === base(leader) && wanted.test(ending(f)));
		if (beside.length === 0) continue;
		const entries: Record<string, Uint8Array> = {};
		for (const f of [leader, ...beside]) {
			entries[f.name] = new Uint8Array(await f.arrayBuffer());
			used.add(f);
		}
		out.push(new File([zipSync(entries, { level: 1 }) as BlobPart], leader.name.replace(/\.[^.]+$/, '.zip')));
	}
	return [...out, ...files.filter((f) => !used.has(f))];
}
