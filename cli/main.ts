import { mkdirSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';
import { parseArgs } from 'node:util';
import { checkHoles, groundInput } from '#core/project/pipeline';
import { findingCounts } from '#core/project/report';
import { fail, ProblemError } from '#core/problem';
import { build } from './build';
import { doubt } from './doubt';
import { loadProject } from './files';
import { run } from './run';

const USAGE = `malachite build PROJECT.json --out DIR [--classify points.csv] [--strict]
malachite check PROJECT.json [--out findings.json]
malachite run ROUTINE.json --input NAME=FILE … --out DIR [--set NAME=VALUE …] [--repeat NAME=V1,V2,…] [--crs EPSG] [--feet]
malachite doubt PROJECT.json --out DIR [--members 50] [--seed 1] [--contact 2] [--orientation 5] [--fault-dip 5] [--fault-trace 10]

build  reads the files that the project file names, builds the model and writes volumes, surfaces and report.json.
       --strict ends with 3 when the verdict on the model names an error (a unit that was logged and is not there, and such).
       --classify also writes classified.csv: the unit of each point (columns x, y, z) of a CSV file.
check  writes the findings of the project's tables as JSON.
run    runs a routine on files and writes its results; --set sets one of its parameters, --repeat runs it once for each value,
       each into a folder of its own. Rows of holes need --input collars=FILE. --crs is the system of all files.
doubt  builds many models from data moved within their errors (one standard deviation: contacts and fault traces in the
       unit of the project, orientations and fault dips in degrees) and writes doubt.json (spread of the volumes) and
       doubt.vti (probability of each unit and entropy by cell).
The project file is described by docs/project-file.schema.json.
`;

async function check(path: string, out: string | undefined): Promise<void> {
	const { project, tables, terrain, things, options } = await loadProject(path);
	const holes = checkHoles(tables, options);
	// Without an extent nobody knows which contacts lie in the model.
	const contacts = project.extent
		? groundInput(tables, holes, { ...project, extent: project.extent, terrain, things }).contacts.findings
		: [];
	const findings = [...holes.checked.findings, ...contacts].map((f) => {
		const table = tables.find((t) => t.name === f.table);
		return { ...f, ...(table && f.row >= 0 ? { line: table.lines[f.row] } : {}) };
	});
	const json = JSON.stringify({ project: project.name, rows: findingCounts(findings), findings }, null, '\t') + '\n';
	if (!out) return void process.stdout.write(json);
	mkdirSync(dirname(out), { recursive: true });
	writeFileSync(out, json);
}

/** NAME=VALUE. @throws ProblemError `bad-option` */
function pair(text: string, option: string): [string, string] {
	const at = text.indexOf('=');
	return at > 0 ? [text.slice(0, at), text.slice(at + 1)] : fail('bad-option', `${option} needs NAME=VALUE; it is "${text}"`);
}

async function main(): Promise<void> {
	const { values, positionals } = parseArgs({
		allowPositionals: true,
		options: {
			out: { type: 'string' },
			classify: { type: 'string' },
			strict: { type: 'boolean', default: false },
			help: { type: 'boolean', short: 'h' },
			input: { type: 'string', multiple: true, default: [] },
			set: { type: 'string', multiple: true, default: [] },
			repeat: { type: 'string' },
			crs: { type: 'string', default: '0' },
			feet: { type: 'boolean', default: false },
			members: { type: 'string', default: '50' },
			seed: { type: 'string', default: '1' },
			contact: { type: 'string', default: '2' },
			orientation: { type: 'string', default: '5' },
			'fault-dip': { type: 'string', default: '5' },
			'fault-trace': { type: 'string', default: '10' }
		}
	});
	const [command, path] = positionals;
	if (values.help || !command || !path || !['build', 'check', 'doubt', 'run'].includes(command)) {
		process.stderr.write(USAGE);
		process.exitCode = values.help ? 0 : 2;
		return;
	}
	if (command === 'check') return check(path, values.out);
	if (!values.out) {
		process.stderr.write(`${command} needs --out DIR\n`);
		process.exitCode = 2;
		return;
	}
	if (command === 'run') {
		const crs = Number(values.crs);
		if (!(Number.isInteger(crs) && crs >= 0)) fail('bad-option', `--crs must be an EPSG code; it is "${values.crs}"`);
		const repeat = values.repeat === undefined ? null : pair(values.repeat, '--repeat');
		await run(
			path,
			{
				inputs: Object.fromEntries(values.input.map((t) => pair(t, '--input'))),
				values: Object.fromEntries(values.set.map((t) => pair(t, '--set'))),
				repeat: repeat && { parameter: repeat[0], values: repeat[1].split(',').map((v) => v.trim()) },
				out: values.out,
				crs,
				lengthUnit: values.feet ? 'ft' : 'm'
			},
			(line) => process.stderr.write(`${line}\n`)
		);
		return;
	}
	if (command === 'doubt') {
		const number = (name: 'members' | 'seed' | 'contact' | 'orientation' | 'fault-dip' | 'fault-trace'): number => {
			const v = Number(values[name]);
			if (!(Number.isFinite(v) && v >= 0)) fail('bad-option', `--${name} must be a number from 0 on; it is "${values[name]}"`);
			return v;
		};
		await doubt(
			path,
			values.out,
			{
				members: Math.max(2, Math.round(number('members'))),
				seed: number('seed'),
				errors: {
					contact: number('contact'),
					orientation: number('orientation'),
					faultDip: number('fault-dip'),
					faultTrace: number('fault-trace')
				}
			},
			(line) => process.stderr.write(`${line}\n`)
		);
		return;
	}
	const errors = await build(path, values.out, values.classify ?? null, (line) => process.stderr.write(`${line}\n`));
	if (errors && values.strict) process.exitCode = 3;
}

try {
	await main();
} catch (error) {
	process.exitCode = 1;
	if (error instanceof ProblemError)
		process.stderr.write(`${error.problem.message}\n${error.problem.hint ? `${error.problem.hint}\n` : ''}`);
	else if (error instanceof Error && 'code' in error && error.code === 'ENOSPC')
		process.stderr.write('The disk is full. Make room and try again; files already written are whole.\n');
	else
		process.stderr.write(
			`This should not have happened: ${error instanceof Error ? error.message : String(error)}${process.env['MALACHITE_TRACE'] && error instanceof Error ? `\n${error.stack}` : ''}\n`
		);
}
