import { versionHeader } from '#core/tables/version';
import { fail, ProblemError } from '#core/problem';
import { db } from '../db/client';
import { checkIsDue } from '../graph/changes';
import { insertLog, requireLog } from '../graph/logs';
import { checkProject } from '../services/check';
import { announce } from '../store/events';
import { listTables } from '../store/tables';
import type { JobContext } from './job-context';
import { payloadOf } from './payloads';
import { inProject } from '../store/projects';

/** Brings in the versions of logs of a project file, when the tables have been read. One whose log was not read is left out and named. */
export async function runLogs(c: JobContext): Promise<Record<string, unknown>> {
	const left: { name: string; why: string }[] = [];
	const { logs } = payloadOf(c, 'logs');
	for (const l of logs) {
		c.signal.throwIfAborted();
		const tables = await listTables(db(), c.projectId);
		// A job that is begun again goes on where it was.
		if (tables.some((t) => t.id === l.id)) continue;
		try {
			const source =
				tables.find((t) => t.name === l.of) ?? fail('unknown-input', `"${l.of}" is not in the project`, 'It may not have been read.');
			requireLog(source, l.column);
			const header = versionHeader(source.state.header);
			await inProject(c.projectId, async (tx) => {
				await insertLog(tx, c.projectId, {
					id: l.id,
					name: l.name,
					of: source.id,
					column: l.column,
					recode: l.recode,
					added: l.added,
					unplaced: l.unplaced,
					edits: (l.marks?.edits ?? []).flatMap((e) =>
						header.includes(e.column)
							? [
									{
										n: e.row,
										position: header.indexOf(e.column),
										value: e.value,
										original: e.original,
										editedBy: e.by,
										editedAt: new Date(e.at)
									}
								]
							: []
					),
					excluded: (l.marks?.excluded ?? []).map((e) => ({ n: e.row, by: e.by, at: new Date(e.at) }))
				});
				await checkIsDue(tx, c.projectId);
				await announce(tx, { project: c.projectId, topic: 'objects' });
			});
		} catch (error) {
			if (!(error instanceof ProblemError)) throw error;
			left.push({ name: l.name, why: error.message });
		}
	}
	await checkProject(c.projectId);
	return {
		made: logs.length - left.length,
		left,
		...(left.length ? { message: `${left.map((l) => `${l.name}: ${l.why}`).join('; ')}. These were left out.` } : {})
	};
}
