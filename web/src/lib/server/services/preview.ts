import { and, desc, eq, isNull, sql } from 'drizzle-orm';
import { coreOfName } from '#core/formats/picture';
import type { TableKind } from '#core/tables/kinds';
import type { Reading } from '#core/tables/raw-table';
import type { Written } from '#core/tables/written';
import { db } from '../db/client';
import { object } from '../db/schema';
import type { ForeignKind } from '../threads/foreign-tasks';
import { readForeign } from '../threads/readers';
import { fileBytes, fileRow } from '../store/files';
import { findProject } from '../store/projects';
import type { TableState } from '../threads/stored-table';
import { holeNames } from '../store/tables';
import { tableState } from '../threads/stored-table';

/** Of a text this much is enough to show its first rows; up to this size the whole is looked at, so that guesses go by all rows. */
const PREVIEW_BYTES = 2 * 1024 * 1024;
const WHOLE_BYTES = 24 * 1024 * 1024;
const PREVIEW_SECONDS = 60;

/** What the user has said of a file. */
export interface Asked {
	as?: ForeignKind | undefined;
	kind?: TableKind | undefined;
	mapping?: Record<string, string> | undefined;
	reading?: Partial<Reading> | undefined;
	units?: Record<string, string> | undefined;
	written?: Written | undefined;
}

const isText = (head: Uint8Array): boolean => !head.subarray(0, 4096).includes(0) && !(head[0] === 0x50 && head[1] === 0x4b);

/** The first part of a text file, cut after its last whole line. */
function wholeLines(bytes: Uint8Array, size: number): Uint8Array {
	if (size <= bytes.length) return bytes;
	const end = bytes.lastIndexOf(10);
	return end > 0 ? bytes.subarray(0, end + 1) : bytes;
}

/** What a file is taken to be, and its first rows as they are understood. */
export async function previewFile(projectId: string, fileId: string, asked: Asked = {}) {
	const f = await fileRow(projectId, fileId);
	const head = await fileBytes(fileId, PREVIEW_BYTES);
	const bounds = { seconds: PREVIEW_SECONDS };
	let bytes = f.size <= head.length ? head : isText(head) && f.size > WHOLE_BYTES ? wholeLines(head, f.size) : await fileBytes(fileId);
	const thing = await readForeign('previewThing', { bytes, fileName: f.name, ...(asked.as ? { as: asked.as } : {}) }, bounds);
	if (thing.as === 'picture') return { file: f, ...thing, core: coreOfName(f.name, await holeNames(db(), projectId)) };
	if (thing.as !== 'table') {
		// A grid or a layer that is a long text was only begun.
		if (bytes.length < f.size) {
			bytes = await fileBytes(fileId);
			return { file: f, ...(await readForeign('previewThing', { bytes, fileName: f.name, as: thing.as }, bounds)) };
		}
		return { file: f, ...thing };
	}
	const p = await findProject(db(), projectId);
	const { as: _as, ...said } = asked;
	const message = {
		bytes,
		fileName: f.name,
		id: f.id,
		holes: [...(await holeNames(db(), projectId))],
		extent: p.extent,
		lengthUnit: p.lengthUnit
	};
	const given = Object.fromEntries(Object.entries(said).filter(([, v]) => v !== undefined));
	const read = await readForeign('previewTable', { ...message, asked: given }, bounds);
	const remembered = asked.kind || asked.mapping ? null : await rememberedReading(projectId, read.header);
	if (!remembered) return { file: f, as: 'table' as const, ...read, remembered: false };
	const { kind, mapping, units, written } = remembered;
	return {
		file: f,
		as: 'table' as const,
		...(await readForeign(
			'previewTable',
			{ ...message, asked: { ...given, kind, mapping, units, ...(written ? { written } : {}) } },
			bounds
		)),
		remembered: true
	};
}

/** How the last table with the same columns was read; in this project first, then in any other. */
async function rememberedReading(
	projectId: string,
	header: readonly string[]
): Promise<Pick<TableState, 'kind' | 'mapping' | 'units' | 'written'> | null> {
	const rows = await db()
		.select({ state: object.state })
		.from(object)
		.where(and(eq(object.kind, 'table'), isNull(object.removedAt), sql`${object.state}->'header' = ${JSON.stringify(header)}::jsonb`))
		.orderBy(sql`(${object.projectId} = ${projectId}) desc`, desc(object.updatedAt))
		.limit(1);
	return rows[0] ? tableState(rows[0].state) : null;
}
