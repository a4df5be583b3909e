import { packOfRaster } from '#core/formats/raster-pack';
import { mkdirSync, readFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { describeReadings, packReadings, readingsOf } from '#core/datasets/readings';
import { fileName } from '#core/formats/meshes';
import { inTasks } from '#core/model/compute';
import { checkHoles } from '#core/project/pipeline';
import { parseProjectFile } from '#core/project/project-file';
import { fail } from '#core/problem';
import { readRoutine, runRoutine, type Routine, type RoutineThing } from '#core/recipes/routine';
import { isOfHoles } from '#core/tables/kinds';
import { loadParsed } from './files';
import { resultFiles, writeWhole } from './result-files';
import { threadPool } from './threads';

interface RunOptions {
	/** Files by the name of the input. */
	inputs: Readonly<Record<string, string>>;
	values: Readonly<Record<string, string>>;
	/** A parameter that takes one value after the other, each in a folder of its own. */
	repeat: { parameter: string; values: readonly string[] } | null;
	out: string;
	crs: number;
	lengthUnit: 'm' | 'ft';
	/** PROJ string of the system, where one is needed. */
	definition?: string | undefined;
}

/** `run ROUTINE.json --input NAME=FILE … --out DIR`: a routine on files, without a database. @throws ProblemError */
export async function run(path: string, o: RunOptions, say: (line: string) => void): Promise<void> {
	const routine = readRoutine(jsonOf(path));
	for (const name of Object.keys(o.inputs))
		if (!routine.inputs.some((i) => i.name === name) && name !== 'collars' && name !== 'surveys')
			fail(
				'unknown-input',
				`${routine.name} has no input "${name}"`,
				`Its inputs are ${routine.inputs.map((i) => i.name).join(', ') || 'none'}.`,
				name
			);
	const given = await openInputs(routine, o);
	const pool = threadPool();
	try {
		const runs = o.repeat ? o.repeat.values.map((v) => ({ [o.repeat!.parameter]: v })) : [{}];
		for (const set of runs) {
			const folder = o.repeat ? join(o.out, fileName(Object.values(set)[0]!)) : o.out;
			mkdirSync(folder, { recursive: true });
			const made = await runRoutine(routine, given, typed(routine, { ...o.values, ...set }), {
				project: {
					name: routine.name,
					lengthUnit: o.lengthUnit,
					crs: o.crs,
					extent: null,
					...(o.definition ? { definition: o.definition } : {})
				},
				ground: null,
				progress: () => {},
				tasks: inTasks(pool.run)
			});
			for (const [name, { recipe, product }] of made) {
				const wanted = routine.results.includes(name);
				say(`${name}: ${String(product.report['words'] ?? 'made')}`);
				if (!wanted) continue;
				const base = fileName(name);
				writeWhole(folder, `${base}.json`, `${JSON.stringify(product.report, null, '\t')}\n`);
				const written = await resultFiles(recipe.form, product.pack, name, o.crs, []);
				if (written) writeWhole(folder, `${base}.${written[0]}`, written[1]);
			}
		}
	} finally {
		await pool.close();
	}
}

function jsonOf(path: string): unknown {
	let text: string;
	try {
		text = readFileSync(path, 'utf8');
	} catch {
		return fail('missing-file', `the routine ${path} can not be read`, 'Check its name.', path);
	}
	try {
		return JSON.parse(text);
	} catch (error) {
		return fail('bad-routine', `${path} is not JSON: ${(error as Error).message}`, undefined, path);
	}
}

/** Values from the command line: numbers where the routine has numbers. @throws ProblemError `bad-value` */
function typed(routine: Routine, values: Readonly<Record<string, string>>): Record<string, string | number | null> {
	return Object.fromEntries(
		Object.entries(values).map(([name, text]) => {
			const p = routine.parameters.find((x) => x.name === name);
			if (!p) return [name, text];
			if (typeof p.value === 'number' || (p.value === null && text.trim() !== '' && Number.isFinite(Number(text)))) {
				const v = Number(text);
				return Number.isFinite(v) && text.trim() !== ''
					? [name, v]
					: fail('bad-value', `${name} must be a number; it is "${text}"`, undefined, name);
			}
			return [name, text];
		})
	);
}

/** The files of a routine, as its steps take them. Tables are checked as in a project: what is held back takes no part. */
async function openInputs(routine: Routine, o: RunOptions): Promise<Map<string, RoutineThing>> {
	const file = (name: string) => resolve(o.inputs[name]!);
	const all = [
		...routine.inputs.filter((i) => o.inputs[i.name]),
		// Collars and surveys place the rows of holes, whether the routine names them or not.
		...(['collars', 'surveys'] as const)
			.filter((kind) => o.inputs[kind] && !routine.inputs.some((i) => i.name === kind))
			.map((kind) => ({ name: kind, form: 'table' as const, kind }))
	];
	const placed = all.some((i) => i.form === 'table' && i.kind === 'collars');
	const hanging = all.find((i) => i.form === 'table' && i.kind && isOfHoles(i.kind));
	if (hanging && !placed)
		fail(
			'no-collars',
			`"${hanging.name}" holds rows of holes: nobody knows where they are`,
			'Give the collars, too: --input collars=FILE',
			hanging.name
		);
	const project = parseProjectFile(
		{
			malachite: 1,
			name: routine.name,
			crs: o.crs,
			lengthUnit: o.lengthUnit,
			tables: all.filter((i) => i.form === 'table').map((i) => ({ name: i.name, file: file(i.name), kind: i.kind ?? 'places' })),
			grids: all.filter((i) => i.form === 'grid').map((i) => ({ name: i.name, file: file(i.name) })),
			layers: all.filter((i) => i.form === 'lines').map((i) => ({ name: i.name, file: file(i.name) })),
			column: [],
			lumping: {},
			faults: [],
			spacing: 10
		},
		'the inputs'
	);
	const loaded = await loadParsed(project, '.');
	const holes = checkHoles(loaded.tables, loaded.options);
	const out = new Map<string, RoutineThing>();
	const plain = { state: {}, report: {}, units: [] };
	for (const t of loaded.tables) {
		const readings = readingsOf(t, holes.checked, holes.holes, null, o.lengthUnit);
		out.set(t.name, {
			...plain,
			form: 'table',
			kind: 'table',
			name: t.name,
			rows: describeReadings(readings),
			pack: packReadings(readings)
		});
	}
	for (const [name, raster] of loaded.things.grids)
		out.set(name, { ...plain, form: 'grid', kind: 'grid', name, pack: packOfRaster(raster) });
	for (const [name, features] of loaded.things.layers)
		out.set(name, { ...plain, form: 'lines', kind: 'layer', name, pack: { info: { features }, arrays: {} } });
	return out;
}
