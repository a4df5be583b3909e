import { zipSync } from 'fflate';
import { layersFiles } from '../demo/generate';

/** Its files: they take a while to make, and are the same every time. */
let made: ReturnType<typeof layersFiles> | null = null;

/** The demo as an archive, at a wider spacing so that tests stay short. */
export async function demoArchive(spacing = 120): Promise<Uint8Array> {
	const { files } = await (made ??= layersFiles());
	const project = JSON.parse(new TextDecoder().decode(files.get('project.json')!)) as { spacing: number };
	project.spacing = spacing;
	const entries = Object.fromEntries([...files].filter(([name]) => !name.startsWith('planted/')));
	return zipSync({ ...entries, 'project.json': new TextEncoder().encode(JSON.stringify(project)) }, { level: 1 });
}
