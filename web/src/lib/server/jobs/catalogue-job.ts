import { eq } from 'drizzle-orm';
import { fail } from '#core/problem';
import { db } from '../db/client';
import { file } from '../db/schema';
import { downloadItem, searchCatalogue } from '../services/catalogue';
import { storeFile } from '../store/files';
import { loadGraph } from '../graph/graph';
import { runImport } from './import-job';
import type { JobContext } from './job-context';
import { payloadOf } from './payloads';

const ENDINGS = { terrain: 'tif', grid: 'tif', picture: 'zip', layer: 'geojson' } as const;

/** Downloads a record of the regional catalogue and brings it in like a file. When any of it fails, nothing is stored. */
export async function runCatalogue(c: JobContext): Promise<Record<string, unknown>> {
	const { record, box, every, name } = payloadOf(c, 'catalogue');
	c.progress('asking the catalogue', 0);
	const entry =
		(await searchCatalogue(box, '')).find((e) => e.id === record) ??
		fail('not-found', `the regional catalogue has no "${record}" for this area`, 'Search again.');
	const bytes = await downloadItem(entry, box, every, c.signal, (share) => c.progress('downloading', 0.7 * share));
	const stored = await storeFile(c.projectId, `${record}.${ENDINGS[entry.as]}`, bytes);
	try {
		const graph = await loadGraph(db(), c.projectId);
		// A second terrain is a grid like others.
		const as = entry.as === 'terrain' && graph.some((o) => o.kind === 'terrain') ? 'grid' : entry.as;
		return await runImport({
			...c,
			payload: { fileId: stored.id, name, as, trustFile: true },
			progress: (w, s) => c.progress(w, 0.7 + 0.3 * s)
		});
	} catch (error) {
		await db().delete(file).where(eq(file.id, stored.id));
		throw error;
	}
}
