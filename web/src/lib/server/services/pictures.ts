import { readPack } from '#core/formats/pack';
import { readPicture, type CorePlace } from '#core/formats/picture';
import { db } from '../db/client';
import { fileBytes } from '../store/files';
import { loadGraph, type ObjectRow } from '../graph/graph';
import { hasResult, resultBytes } from '../store/results';
import { broughtState } from '../graph/states';

/** A picture as a browser can show it: PNG or JPEG. */
export async function shownPicture(projectId: string, o: ObjectRow): Promise<{ bytes: Uint8Array; media: string }> {
	const made = (await hasResult(db(), projectId, o.contentHash)) ? await resultBytes(db(), projectId, o.contentHash) : null;
	return made ? { bytes: readPack(made).arrays['png'] as Uint8Array, media: 'image/png' } : readPicture(await fileBytes(o.fileId!), o.name);
}

interface CorePhotograph extends CorePlace {
	name: string;
	/** Data URI. */
	href: string;
}

/** Photographs of the core of some holes, whole. */
export async function corePhotographs(projectId: string, holes: readonly string[]): Promise<CorePhotograph[]> {
	const out: CorePhotograph[] = [];
	for (const o of await loadGraph(db(), projectId)) {
		const core = o.kind === 'picture' ? broughtState(o).core : undefined;
		if (!core || !holes.includes(core.hole)) continue;
		const { bytes, media } = await shownPicture(projectId, o);
		out.push({ ...core, name: o.name, href: `data:${media};base64,${Buffer.from(bytes).toString('base64')}` });
	}
	return out;
}
