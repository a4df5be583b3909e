import * as yup from 'yup';
import { freemem } from 'node:os';
import { columnSchema, faultSchema, finerSchema, textRecordSchema, traceSchema, unitSchema } from '#core/project/guards';
import { shapingSchema, validateShaping, type Shaping } from '#core/project/shaping';
import { validateColumn, proposeLumping, type Unit } from '#core/units/column';
import { refuseCircles, validateFault } from '#core/model/faults';
import { validateTrace } from '#core/sections/section';
import { estimateBuild } from '#core/model/build';
import { validateFiner, type FinerParts } from '#core/model/finer';
import { fail } from '#core/problem';
import { db } from '../db/client';
import { interpretation } from '../jobs/ground-input';
import { runTableTask, runTask } from '../threads/threads';
import { doChange, lockObject } from '../graph/changes';
import { checkProject } from '../services/check';
import { sectionsIn, toldSection } from '../graph/sections';
import { checkInput, tablesOf } from '../graph/check-input';
import { loadGraph, loadModel, one, seenProject } from '../graph/graph';
import { findProject } from '../store/projects';
import type { Step } from '../graph/steps';
import { firstState, wholeState } from '../graph/models';
import { codeCounts } from '../services/summaries';
import { listTables, readOr, type Damage } from '../store/tables';
import {
	columnAnswer,
	estimateAnswer,
	faultsAnswer,
	firstStepsAnswer,
	interceptsAnswer,
	interpretationAnswer,
	lumpingAnswer,
	sectionAnswer,
	shapingAnswer,
	spacingAnswer,
	takenAnswer
} from '$lib/api/answers/ground';
import { operation } from './operation';
import { stateIfWhole, stateOf, type StateOf, type StoredKind } from '../graph/states';
import { requireToFollow } from '../graph/followed';

const revision = yup.number().integer().required();
/** Settings that the checks depend on. */
const CHECKED = ['column', 'lumping', 'rules', 'schemes'];

/** Replaces part of the state of the one object of a kind, as a change that can be undone. */
export async function setState<K extends StoredKind>(
	projectId: string,
	model: string | null,
	kind: K,
	label: string,
	rev: number,
	state: Record<string, unknown>
) {
	const { id } = one(await loadModel(db(), projectId, model), kind);
	await doChange(projectId, label, async (tx) => {
		const row = await lockObject(tx, projectId, id, rev);
		return [{ kind: 'state', object: id, before: row.state, after: { ...wholeState(row, kind), ...state } }];
	});
	if (CHECKED.includes(kind)) await checkProject(projectId);
	const after = one(await loadModel(db(), projectId, model), kind);
	return { revision: after.revision, state: stateOf(after, kind) };
}

const FIRST_STEPS = ['units', 'extent', 'spacing', 'section'] as const;
const STEP_NAMES = { units: 'units and their order', extent: 'the extent', spacing: 'the spacing', section: 'a first section' };
const listed = (words: string[]) => (words.length < 2 ? words.join() : `${words.slice(0, -1).join(', ')} and ${words.at(-1)}`);

/** What the data propose, and what it was worked out from. */
async function proposals(projectId: string, model: string | null) {
	const { extent } = await findProject(db(), projectId);
	const graph = await loadModel(db(), projectId, model);
	const state = <K extends StoredKind>(kind: K) => stateOf(one(graph, kind), kind);
	const steps = await runTableTask('proposeFirstSteps', {
		...(await tablesOf(await checkInput(db(), projectId, model))),
		known: {
			column: state('column')['units'] as Unit[],
			lumping: state('lumping')['codes'] as Record<string, string>,
			extent,
			taken: (state('shaping') as unknown as Shaping).divisions.flatMap((d) => d.column.map((u) => u.id)),
			hasSection: (state('section')['trace'] as unknown[]).length > 1
		}
	});
	return { steps, graph, spacing: state('model')['spacing'] as number };
}

/** Memory and cells that a spacing needs, and whether they are there. */
async function estimate(projectId: string, model: string | null, spacing: number, finer?: FinerParts) {
	const p = await findProject(db(), projectId);
	if (!p.extent)
		return fail('no-extent', 'the project has no extent yet', 'Set it by hand, from the terrain or from the collars.', 'extent');
	const graph = await loadModel(db(), projectId, model);
	const units = stateOf(one(graph, 'column'), 'column').units;
	const { cells, bytes } = estimateBuild(
		{ extent: p.extent, column: units },
		spacing,
		finer ?? stateOf(one(graph, 'model'), 'model').finer
	);
	return { cells, bytes, free: freemem(), fits: bytes < freemem() * 0.9 };
}

/** @throws ProblemError `not-enough-memory` before anything starts */
export async function requireMemory(projectId: string, model: string | null, spacing: number): Promise<void> {
	const e = await estimate(projectId, model, spacing);
	if (!e.fits)
		fail(
			'not-enough-memory',
			`a spacing of ${spacing} needs about ${(e.bytes / 1e9).toFixed(1)} GB for ${e.cells.toLocaleString('en')} cells; ${(e.free / 1e9).toFixed(1)} GB are free`,
			'Use a wider spacing or a smaller extent.',
			'spacing'
		);
}

export const interpretOperations = [
	operation({
		id: 'getInterpretation',
		ofModel: true,
		followed: true,
		method: 'get',
		path: '/projects/{project}/interpretation',
		tag: 'Interpret',
		summary: 'Codes, units, column, faults, section line and spacing',
		answer: interpretationAnswer,
		reply: 'The interpretation with the revision of each part',
		run: async ({ params, model }) => {
			const projectId = params['project']!;
			const { lengthUnit } = await findProject(db(), projectId);
			const graph = await loadModel(db(), projectId, model);
			// What is damaged is shown as it began, and said: the rest of the project can be worked on, and that set anew.
			const damaged: Damage[] = [];
			await listTables(db(), projectId, undefined, damaged);
			const part = <K extends StoredKind>(kind: K) => {
				const o = one(graph, kind);
				return { revision: o.revision, ...(readOr(o, () => stateOf(o, kind), damaged) ?? (firstState(kind) as StateOf<K>)) };
			};
			for (const o of graph)
				if (['rules', 'schemes', 'ties', 'absences'].includes(o.kind)) readOr(o, () => stateOf(o, o.kind as StoredKind), damaged);
			const codes = await codeCounts(projectId, lengthUnit, damaged);
			const [column, lumping] = [part('column'), part('lumping')];
			const [main, ...beside] = sectionsIn(graph);
			return {
				codes,
				proposal: proposeLumping(
					codes.map((c) => c.code),
					column.units,
					lumping.codes
				),
				damaged,
				column,
				lumping,
				faults: part('faults'),
				section: { id: main!.id, name: main!.name, ...part('section'), corridor: part('section').corridor ?? 0 },
				sections: beside.map((s) =>
					toldSection(
						s,
						readOr(s, () => stateOf(s, 'section'), damaged)
					)
				),
				model: part('model'),
				shaping: part('shaping')
			};
		}
	}),
	operation({
		id: 'getFirstSteps',
		ofModel: true,
		method: 'get',
		path: '/projects/{project}/first-steps',
		tag: 'Interpret',
		summary:
			'What a project still needs before a model can be built, proposed from its data: units for codes without one and their order with the holes that say so, extent, spacing, a first section',
		answer: firstStepsAnswer,
		reply: 'The proposals; null where there is nothing to propose',
		run: async ({ params, model }) => (await proposals(params['project']!, model)).steps
	}),
	operation({
		id: 'takeFirstSteps',
		ofModel: true,
		method: 'post',
		path: '/projects/{project}/first-steps',
		tag: 'Interpret',
		summary: 'Take over some of what is proposed, as one change',
		body: yup.object({ take: yup.array(yup.string().oneOf(FIRST_STEPS).required()).min(1).max(FIRST_STEPS.length).required() }).noUnknown(),
		answer: takenAnswer,
		reply: 'What was taken',
		run: async ({ params, model, body }) => {
			const projectId = params['project']!;
			const { steps, graph, spacing } = await proposals(projectId, model);
			const taken = FIRST_STEPS.filter(
				(s) => body.take.includes(s) && steps[s] !== null && !(s === 'spacing' && steps.spacing === spacing)
			);
			if (taken.length === 0) return { taken };
			await doChange(projectId, `Take over ${listed(taken.map((s) => STEP_NAMES[s]))}`, async (tx) => {
				const done: Step[] = [];
				const state = async (kind: string, values: Record<string, unknown>) => {
					const { id, revision: known } = one(graph, kind);
					const row = await lockObject(tx, projectId, id, known);
					done.push({ kind: 'state', object: id, before: row.state, after: { ...row.state, ...values } });
				};
				if (taken.includes('units')) {
					await state('column', { units: steps.units!.column });
					await state('lumping', { codes: steps.units!.lumping });
				}
				if (taken.includes('spacing')) await state('model', { spacing: steps.spacing });
				if (taken.includes('section')) await state('section', { trace: steps.section!.trace, corridor: steps.section!.corridor });
				if (taken.includes('extent')) done.push({ kind: 'project', before: { extent: null }, after: { extent: steps.extent } });
				return done;
			});
			await checkProject(projectId);
			return { taken };
		}
	}),
	operation({
		id: 'setColumn',
		ofModel: true,
		method: 'put',
		path: '/projects/{project}/column',
		tag: 'Interpret',
		summary: 'Units in age order, youngest first, with contact kinds and colours',
		body: yup.object({ units: columnSchema, revision }).noUnknown(),
		answer: columnAnswer,
		reply: 'The column',
		run: async ({ params, model, body }) => {
			if (body.units.length > 1) validateColumn(body.units);
			return setState(params['project']!, model, 'column', 'Change the stratigraphic column', body.revision, { units: body.units });
		}
	}),
	operation({
		id: 'setLumping',
		ofModel: true,
		method: 'put',
		path: '/projects/{project}/lumping',
		tag: 'Interpret',
		summary: 'Which unit each code is taken to be',
		body: yup
			.object({
				codes: textRecordSchema.required(),
				/** Units that come into the column with it, above its last. */
				add: yup.array(unitSchema.required()).max(200).default(undefined).optional(),
				revision
			})
			.noUnknown(),
		answer: lumpingAnswer,
		reply: 'The lumping',
		run: async ({ params, model, body }) => {
			const projectId = params['project']!;
			const graph = await loadModel(db(), projectId, model);
			const add = (body.add ?? []) as Unit[];
			const column = one(graph, 'column');
			const known = stateOf(column, 'column').units;
			const after = [...known.slice(0, -1), ...add, ...known.slice(-1)];
			if (add.length && after.length > 1) validateColumn(after);
			const units = new Set(after.map((u) => u.id));
			for (const [code, unit] of Object.entries(body.codes))
				if (unit && !units.has(unit)) fail('unknown-unit', `"${unit}" is no unit of the column`, 'Add the unit first.', `codes.${code}`);
			const { id } = one(graph, 'lumping');
			await doChange(projectId, add.length ? `Make ${listed(add.map((u) => u.name))} of codes` : 'Give codes to units', async (tx) => {
				const row = await lockObject(tx, projectId, id, body.revision);
				const steps: Step[] = [
					{ kind: 'state', object: id, before: row.state, after: { ...wholeState(row, 'lumping'), codes: body.codes } }
				];
				if (add.length) {
					const own = await lockObject(tx, projectId, column.id, column.revision);
					steps.unshift({ kind: 'state', object: own.id, before: own.state, after: { ...own.state, units: after } });
				}
				return steps;
			});
			await checkProject(projectId);
			const now = one(await loadModel(db(), projectId, model), 'lumping');
			return { revision: now.revision, state: stateOf(now, 'lumping') };
		}
	}),
	operation({
		id: 'setFaults',
		ofModel: true,
		method: 'put',
		path: '/projects/{project}/faults',
		tag: 'Interpret',
		summary: 'The faults: traces on the map, dips, what they cut; or the model whose faults they are, as they are there from then on',
		body: yup
			.object({
				/** With null for `follows` they may be left out: then those that it has stay. */
				faults: yup.array(faultSchema.required()).max(30),
				/** Id of a model; null for faults of its own. */
				follows: yup.string().uuid().nullable(),
				revision
			})
			.noUnknown()
			.test('some', 'give faults, or the model whose faults they are', (b) => b.faults !== undefined || b.follows !== undefined),
		answer: faultsAnswer,
		reply: 'The faults',
		run: async ({ params, model, body }) => {
			const graph = await loadModel(db(), params['project']!, model);
			const units = stateOf(one(graph, 'column'), 'column').units.map((u) => u.id);
			// What is damaged is set anew here.
			const known: StateOf<'faults'> = stateIfWhole(one(graph, 'faults'), 'faults') ?? { faults: [] };
			if (body.follows) {
				requireToFollow(await loadGraph(db(), params['project']!), one(graph, 'model').id, body.follows);
				return setState(params['project']!, model, 'faults', 'Follow the faults of another model', body.revision, {
					faults: known.faults,
					follows: body.follows
				});
			}
			if (known.follows && body.follows === undefined)
				fail(
					'follows-another',
					'the faults of this model are those of another one',
					'Change them there, or keep them as its own first (follows: null).',
					'follows'
				);
			const faults = body.faults ?? known.faults;
			for (const f of faults) validateFault(f, units);
			refuseCircles(faults);
			if (new Set(faults.map((f) => f.id)).size !== faults.length) fail('doubled-fault', 'two faults have one id', undefined, 'faults');
			return setState(
				params['project']!,
				model,
				'faults',
				known.follows ? 'Keep the faults as its own' : 'Change the faults',
				body.revision,
				{ faults, follows: undefined }
			);
		}
	}),
	operation({
		id: 'setShaping',
		ofModel: true,
		method: 'put',
		path: '/projects/{project}/shaping',
		tag: 'Interpret',
		summary:
			'What shapes the model beside holes, column and faults: lines and layers, data sets, trends, limits, given bases, divisions of units. What is not given stays',
		body: shapingSchema.shape({ revision }),
		answer: shapingAnswer,
		reply: 'The shaping',
		run: async ({ params, model, body: { revision: known, ...shaping } }) => {
			const graph = await loadModel(db(), params['project']!, model);
			const whole = shapingSchema.cast({ ...wholeState(one(graph, 'shaping'), 'shaping'), ...shaping }) as Shaping;
			validateShaping(whole, stateOf(one(graph, 'column'), 'column').units);
			return setState(params['project']!, model, 'shaping', 'Change the shape of the ground', known, whole);
		}
	}),
	operation({
		id: 'listIntercepts',
		ofModel: true,
		method: 'get',
		path: '/projects/{project}/intercepts',
		tag: 'Interpret',
		summary:
			'Where holes cross each intrusion that may be a sheet, how far each crossing is off its neighbours, and which of a hole is the nearest to them',
		answer: interceptsAnswer,
		reply: 'By unit, the intercepts by hole and depth',
		run: async ({ params, model }) => {
			const projectId = params['project']!;
			return runTask(
				'findIntercepts',
				await interpretation(await seenProject(db(), projectId), model ?? null, ['collars', 'surveys', 'intervals', 'contactPoints'])
			);
		}
	}),
	operation({
		id: 'setSection',
		ofModel: true,
		method: 'put',
		path: '/projects/{project}/section',
		tag: 'Examine',
		summary: 'The line of the main section, and the width of its corridor',
		body: yup.object({ trace: traceSchema, corridor: yup.number().min(0).max(1e6).required(), revision }).noUnknown(),
		answer: sectionAnswer,
		reply: 'The section',
		run: async ({ params, model, body }) => {
			validateTrace(body.trace);
			const { revision, state } = await setState(params['project']!, model, 'section', 'Move the section', body.revision, {
				trace: body.trace,
				corridor: body.corridor
			});
			return { revision, state: { trace: state.trace, corridor: state.corridor ?? 0 } };
		}
	}),
	operation({
		id: 'setSpacing',
		ofModel: true,
		method: 'put',
		path: '/projects/{project}/spacing',
		tag: 'Build',
		summary:
			'The wanted edge length of the model’s triangles, the volume below which loose parts are dropped, and where the model is to be finer',
		body: yup
			.object({
				spacing: yup.number().positive().max(1e6).required(),
				leastPart: yup.number().min(0).max(1e15),
				finer: finerSchema.default(undefined).optional(),
				revision
			})
			.noUnknown(),
		answer: spacingAnswer,
		reply: 'The spacing',
		run: async ({ params, model, body }) => {
			if (body.finer) {
				const graph = await loadModel(db(), params['project']!, model);
				const shaping = stateOf(one(graph, 'shaping'), 'shaping');
				validateFiner(
					body.finer,
					body.spacing,
					[...stateOf(one(graph, 'column'), 'column').units, ...shaping.divisions.flatMap((d) => d.column)].map((u) => u.id)
				);
			}
			return setState(params['project']!, model, 'model', 'Change the spacing', body.revision, {
				spacing: body.spacing,
				...(body.leastPart === undefined ? {} : { leastPart: body.leastPart }),
				...(body.finer === undefined ? {} : { finer: body.finer })
			});
		}
	}),
	operation({
		id: 'estimateBuild',
		ofModel: true,
		method: 'get',
		path: '/projects/{project}/estimate',
		tag: 'Build',
		summary: 'Cells and memory that a spacing needs',
		answer: estimateAnswer,
		reply: 'Cells, bytes, free bytes, and whether they fit',
		query: yup.object({ spacing: yup.number().positive().required() }).noUnknown(),
		run: async ({ params, model, query }) => estimate(params['project']!, model, query.spacing)
	})
];
