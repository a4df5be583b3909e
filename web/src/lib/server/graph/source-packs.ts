import { readPack } from '#core/formats/pack';
import type { Coordinates } from '#core/geometry/coordinates';
import { fail, ProblemError } from '#core/problem';
import { db, type Executor } from '../db/client';
import { readForeign } from '../threads/readers';
import { fileBytes, fileRow } from '../store/files';
import type { ObjectRow } from './graph';
import { resultBytes, storeResult } from '../store/results';
import { broughtState } from './states';

/** How the file of a raster, layer or surface was read. */
export interface SourceReading {
	every?: number;
	clip?: [number, number, number, number];
	/** Of a file with several layers, the one that was taken. */
	part?: string;
}

/** Reads the file of a raster, a layer or a surface, in the system of the project. */
export async function readSource(
	as: 'terrain' | 'grid' | 'layer' | 'surface',
	bytes: Uint8Array,
	fileName: string,
	coordinates: Coordinates,
	how: SourceReading,
	signal?: AbortSignal
) {
	const message = { bytes, fileName, coordinates };
	const options = signal ? { signal } : {};
	switch (as) {
		case 'layer':
			return readForeign('readLayer', { ...message, ...(how.part ? { part: how.part } : {}) }, options);
		case 'surface':
			return readForeign('readSurface', message, options);
		default:
			return readForeign(
				'readGrid',
				{ ...message, ...(how.every ? { every: how.every } : {}), ...(how.clip ? { clip: how.clip } : {}) },
				options
			);
	}
}

/** What a raster, layer or surface holds. When it is not stored any more, its file is read again. @throws ProblemError `not-built` */
export async function sourcePack(on: Executor, projectId: string, node: ObjectRow): Promise<Uint8Array> {
	try {
		return await resultBytes(on, projectId, node.contentHash);
	} catch (error) {
		const as = node.kind;
		if (!(error instanceof ProblemError) || (as !== 'terrain' && as !== 'grid' && as !== 'layer' && as !== 'surface')) throw error;
		if (!node.fileId)
			return fail('not-built', `what ${node.name} holds is not stored any more`, 'Take it out and bring its file in again.');
		const file = await fileRow(projectId, node.fileId);
		const { coordinates = {}, how = {} } = broughtState(node);
		const { pack } = await readSource(as, await fileBytes(node.fileId), file.name, coordinates, how);
		await storeResult(db(), { key: node.contentHash, projectId, kind: as, report: {}, seconds: 0, pack: readPack(pack) });
		return pack;
	}
}
