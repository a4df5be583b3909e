import { existsSync, mkdirSync, readFileSync, renameSync, statSync, writeFileSync } from 'node:fs';
import { freemem } from 'node:os';
import { join } from 'node:path';
import { surfacesIn, surfaceOf, solidOf, unitsIn } from '#core/mesh/extract';
import { fileName, writeObj, writeStl, writeVtp, type NamedMesh } from '#core/formats/meshes';
import { AIR, FAULT, LIMIT, OUTSIDE, TERRAIN } from '#core/mesh/cut-lattice';
import { buildModel, estimateBuild } from '#core/model/build';
import { validateFiner } from '#core/model/finer';
import { inTasks, unitsInTasks, type Run } from '#core/model/compute';
import type { Ground } from '#core/model/fit-ground';
import { allContacts, faultsOf, unitsOf } from '#core/model/whole';
import { checkHoles, groundInput } from '#core/project/pipeline';
import { findingCounts, flagsOf, reportOf } from '#core/project/report';
import { fail } from '#core/problem';
import { readDelimited, writeCsv } from '#core/tables/delimited';
import { numberReader } from '#core/tables/numbers';
import { loadProject, withExtent } from './files';
import { buildResults } from './results';
import { threadPool } from './threads';

interface Step {
	step: string;
	seconds: number;
	/** Greatest resident memory of the process up to the end of the step, MB. */
	peakMB: number;
}

/**
 * `build PROJECT.json --out DIR [--classify points.csv]`: everything from files to files.
 * @returns how many errors the verdict on the model names
 */
export async function build(projectPath: string, out: string, classify: string | null, say: (line: string) => void): Promise<number> {
	const pool = threadPool();
	try {
		return await buildWith(pool.run, projectPath, out, classify, say);
	} finally {
		await pool.close();
	}
}

async function buildWith(
	run: Run,
	projectPath: string,
	out: string,
	classify: string | null,
	say: (line: string) => void
): Promise<number> {
	const threaded = inTasks(run);
	const steps: Step[] = [];
	let started = performance.now();
	const done = (step: string) => {
		const now = performance.now();
		steps.push({ step, seconds: Number(((now - started) / 1000).toFixed(3)), peakMB: Math.round(process.resourceUsage().maxRSS / 1024) });
		say(`${step}: ${((now - started) / 1000).toFixed(2)} s`);
		started = now;
	};
	// What must fail is found before the work.
	if (existsSync(out) && !statSync(out).isDirectory()) fail('out-is-file', `${out} is a file`, 'Name a directory after --out.', '--out');
	const points = classify ? pointsOf(classify) : null;
	const { project: read, tables, terrain, things, options } = await loadProject(projectPath);
	const project = withExtent(read);
	done('read');
	const holes = checkHoles(tables, options);
	done('check');
	const { input, contacts } = groundInput(tables, holes, { ...project, terrain, things });
	if (project.finer)
		validateFiner(
			project.finer,
			project.spacing,
			[...project.column, ...(project.shaping?.divisions.flatMap((d) => d.column) ?? [])].map((u) => u.id)
		);
	const estimate = estimateBuild(input, project.spacing, project.finer);
	if (estimate.bytes > freemem() * 0.9)
		fail(
			'not-enough-memory',
			`a spacing of ${project.spacing} ${project.lengthUnit} needs about ${(estimate.bytes / 1e9).toFixed(1)} GB; ${(freemem() / 1e9).toFixed(1)} GB are free`,
			'Use a wider spacing or a smaller extent.',
			'spacing'
		);
	done('contacts');
	const ground = await threaded.fit(input);
	done('fields');
	const built = await buildModel(ground, { spacing: project.spacing, ...threaded, leastPart: project.leastPart, finer: project.finer });
	const units = unitsOf(ground);
	const placed = allContacts(ground);
	done('solids');
	const flags = await flagsOf(ground, tables, holes, project.lumping, project.shaping, project.spacing, threaded.evaluate);
	const { report, misfits } = reportOf(ground, built, project.spacing, flags);
	done('misfits and logs');

	mkdirSync(join(out, 'volumes'), { recursive: true });
	mkdirSync(join(out, 'surfaces'), { recursive: true });
	const put = (name: string, content: string | Uint8Array) => {
		// Written beside and moved into place, so that a file is whole or not there.
		writeFileSync(join(out, `${name}.part`), content);
		renameSync(join(out, `${name}.part`), join(out, name));
	};
	const origin = [project.extent.minX, project.extent.minY, 0] as const;
	const mesh = built.mesh;
	const putMesh = (folder: string, named: NamedMesh) => {
		const base = `${folder}/${fileName(named.name)}`;
		put(`${base}.obj`, writeObj([named]));
		put(`${base}.stl`, writeStl([named], origin));
		put(`${base}.vtp`, writeVtp([named]));
	};
	for (const unit of unitsIn(mesh)) putMesh('volumes', { name: units[unit]!.name, color: units[unit]!.color, mesh: solidOf(mesh, unit) });
	for (const s of surfacesIn(mesh)) {
		const name =
			s === TERRAIN
				? 'terrain'
				: s === LIMIT
					? 'limit of the model'
					: s >= FAULT
						? faultsOf(ground)[s - FAULT]!.name
						: `${units[s]!.contact === 'intrusive' ? 'boundary' : 'base'} of ${units[s]!.name}`;
		putMesh('surfaces', { name, color: units[s]?.color ?? '#4a4a4a', mesh: surfaceOf(mesh, s) });
	}
	put(
		'volumes.csv',
		writeCsv(
			['unit', 'name', 'part_of', `volume_${project.lengthUnit}3`],
			report.volumes.map((v) => [v.unit, v.name, v.partOf ?? '', v.volume])
		)
	);
	put(
		'misfits.csv',
		writeCsv(
			['surface', 'hole', 'depth', 'x', 'y', 'z', 'distance'],
			misfits.map((m) => {
				const c = placed[m.contact]!;
				return [units[c.surface]!.name, c.hole, c.depth, c.x, c.y, c.z, m.distance ?? ''];
			})
		)
	);
	const columnIds = project.column.map((u) => u.id);
	const agreements = [
		...(report.agreement ? [{ suffix: '', own: columnIds, agreement: report.agreement }] : []),
		...ground.divisions.flatMap((d) =>
			report.partAgreements
				.filter((p) => p.division === d.id)
				.map((p) => ({
					suffix: `-${fileName(p.name)}`,
					own: [...d.ground.input.column.map((u) => u.id), ...columnIds],
					agreement: p.agreement
				}))
		)
	];
	for (const { suffix, own, agreement } of agreements) {
		put(
			`mismatches${suffix}.csv`,
			writeCsv(
				['hole', 'from', 'to', 'logged', 'modelled', 'x', 'y', 'z'],
				agreement.mismatches.map((m) => [m.hole, m.from, m.to, m.logged, m.modelled, m.x, m.y, m.z])
			)
		);
		const ids = [...own, ''];
		put(
			`agreement${suffix}.csv`,
			writeCsv(
				['logged', ...own, 'outside'],
				agreement.units.map((u) => [u.unit, ...ids.map((id) => u.modelled.find((m) => (m.unit ?? '') === id)?.length ?? 0)])
			)
		);
	}
	put(
		'blocks.csv',
		writeCsv(
			['block', 'name', `volume_${project.lengthUnit}3`],
			report.blocks.map((b) => [b.id, b.name, b.volume])
		)
	);
	put(
		'offsets.csv',
		writeCsv(
			['fault', 'unit', 'places', `least_${project.lengthUnit}`, `mean_${project.lengthUnit}`, `most_${project.lengthUnit}`],
			report.offsets.map((o) => [o.fault, o.unit, o.places, o.least, o.mean, o.most])
		)
	);
	done('write');
	let notMade: { name: string; why: string }[] = [];
	if (project.recipes?.length) {
		mkdirSync(join(out, 'results'), { recursive: true });
		const loaded = { project: read, tables, terrain, things, options };
		notMade = await buildResults({ loaded, project, holes, first: { ground, built }, run }, put);
		for (const l of notMade) say(`not made: ${l.name}: ${l.why}`);
		done('results');
	}
	if (points) {
		put('classified.csv', await classifyPoints(points, ground, run));
		done('classify');
	}
	const findings = [...holes.checked.findings, ...contacts.findings];
	put(
		'report.json',
		JSON.stringify(
			{
				project: project.name,
				lengthUnit: project.lengthUnit,
				rows: findingCounts(findings),
				contacts: { placed: contacts.points.length, faulted: contacts.faulted },
				...report,
				...(project.recipes?.length ? { notMade } : {}),
				steps
			},
			null,
			'\t'
		) + '\n'
	);
	say(`${unitsIn(mesh).length} units, ${report.triangles} triangles; report in ${join(out, 'report.json')}`);
	const errors = report.findings.filter((f) => f.severity === 'held');
	for (const f of errors) say(`error: ${f.message}. ${f.hint}`);
	const others = report.findings.length - errors.length;
	if (others) say(`${others} ${others === 1 ? 'thing was' : 'things were'} noted, see the report`);
	return errors.length;
}

function pointsOf(path: string): Float64Array {
	if (!existsSync(path)) fail('no-file', `${path} does not exist`, 'Name a CSV file after --classify.', '--classify');
	const raw = readDelimited(readFileSync(path), path);
	const columns = ['x', 'y', 'z'].map((c) => raw.header.findIndex((h) => h.toLowerCase() === c));
	if (columns.includes(-1))
		fail('unmapped-columns', `${path} needs the columns x, y and z`, `Its columns are: ${raw.header.join(', ')}.`, path);
	const read = numberReader(raw.reading);
	const xyz = new Float64Array(3 * raw.lines.length);
	raw.lines.forEach((line, i) => {
		columns.forEach((c, k) => (xyz[3 * i + k] = read(raw.columns[c]![i]!)));
		if (![0, 1, 2].every((k) => Number.isFinite(xyz[3 * i + k])))
			fail('not-a-number', `${path}, line ${line}: x, y and z must be numbers`, undefined, path);
	});
	return xyz;
}

async function classifyPoints(xyz: Float64Array, ground: Ground, run: Run): Promise<string> {
	const units = await unitsInTasks(ground, xyz, run);
	return writeCsv(
		['x', 'y', 'z', 'unit'],
		Array.from(units, (u, i) => [
			xyz[3 * i]!,
			xyz[3 * i + 1]!,
			xyz[3 * i + 2]!,
			u === AIR ? 'air' : u === OUTSIDE ? 'outside' : unitsOf(ground)[u]!.id
		])
	);
}
