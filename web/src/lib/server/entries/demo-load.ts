import { readFileSync } from 'node:fs';
import { filesNamed, type ProjectFile } from '#core/project/project-file';

/**
 * Loads the demo project through the API of a running server and builds it, when no project of its name is there:
 * `node demo-load.js URL FOLDER`.
 */
const [url, folder] = process.argv.slice(2) as [string, string];
const api = async (path: string, init?: RequestInit) => {
	const response = await fetch(`${url}/api/v1${path}`, init);
	const body = (await response.json()) as Record<string, never>;
	if (!response.ok) throw new Error(`${path}: ${JSON.stringify(body)}`);
	return body as Record<string, unknown>;
};
const wait = async (project: string, job: string) => {
	for (;;) {
		const j = (await api(`/projects/${project}/jobs/${job}`)) as { state: string; outcome: unknown; title: string };
		if (j.state === 'done') return;
		if (['failed', 'cancelled'].includes(j.state)) throw new Error(`${j.title}: ${JSON.stringify(j.outcome)}`);
		await new Promise((r) => setTimeout(r, 200));
	}
};

const document = JSON.parse(readFileSync(`${folder}/project.json`, 'utf8')) as ProjectFile;
const { projects } = (await api('/projects')) as { projects: { id: string; name: string }[] };
let project = projects.find((p) => p.name === document.name)?.id;
if (!project) {
	const { zipSync } = await import('fflate');
	const names = ['project.json', 'surroundings.json', ...filesNamed(document)];
	const archive = zipSync(Object.fromEntries(names.map((n) => [n, new Uint8Array(readFileSync(`${folder}/${n}`))])), { level: 1 });
	project = (
		(await api('/archives', { method: 'POST', headers: { 'content-type': 'application/zip' }, body: archive as unknown as BodyInit })) as {
			project: string;
		}
	).project;
}
// A first start that was cut off goes on here.
const { jobs } = (await api(`/projects/${project}/jobs`)) as { jobs: { id: string; state: string }[] };
for (const job of jobs) if (['waiting', 'running'].includes(job.state)) await wait(project, job.id);
const { objects } = (await api(`/projects/${project}`)) as { objects: { kind: string; missing: boolean }[] };
if (objects.some((o) => o.kind === 'model' && o.missing)) {
	const body = JSON.stringify({ all: true });
	const headers = { 'content-type': 'application/json' };
	await wait(project, ((await api(`/projects/${project}/build`, { method: 'POST', headers, body })) as { job: string }).job);
}
