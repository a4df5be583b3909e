import { mkdirSync, renameSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { writeImageData } from '#core/formats/image-data';
import { inTasks } from '#core/model/compute';
import { ensemble, type EnsembleOptions } from '#core/model/ensemble';
import { checkHoles, groundInput } from '#core/project/pipeline';
import { loadProject, withExtent } from './files';
import { threadPool } from './threads';

/** `doubt PROJECT.json --out DIR`: an ensemble of models, its spread of volumes and its probabilities. */
export async function doubt(
	projectPath: string,
	out: string,
	options: Pick<EnsembleOptions, 'members' | 'seed' | 'errors'>,
	say: (line: string) => void
): Promise<void> {
	const { project: read, tables, terrain, things, options: checks } = await loadProject(projectPath);
	const project = withExtent(read);
	const { input } = groundInput(tables, checkHoles(tables, checks), { ...project, terrain, things });
	const pool = threadPool();
	try {
		const e = await ensemble(input, { ...options, spacing: project.spacing, ...inTasks(pool.run), progress: say });
		mkdirSync(out, { recursive: true });
		const put = (name: string, content: string | Uint8Array) => {
			writeFileSync(join(out, `${name}.part`), content);
			renameSync(join(out, `${name}.part`), join(out, name));
		};
		const cells = e.size[0] * e.size[1] * e.size[2];
		put(
			'doubt.vti',
			writeImageData(e.size, e.origin, e.cell, [
				{ name: 'entropy', values: e.entropy },
				...project.column.map((u, i) => ({ name: u.id, values: e.probability.subarray(i * cells, (i + 1) * cells) }))
			])
		);
		put(
			'doubt.json',
			JSON.stringify(
				{
					project: project.name,
					lengthUnit: project.lengthUnit,
					spacing: project.spacing,
					...options,
					members: e.members,
					failed: e.failed,
					volumes: e.volumes.map((v, i) => ({ unit: project.column[i]!.id, ...v }))
				},
				null,
				'\t'
			) + '\n'
		);
		say(`${e.members} models; spread of the volumes in ${join(out, 'doubt.json')}`);
	} finally {
		await pool.close();
	}
}
