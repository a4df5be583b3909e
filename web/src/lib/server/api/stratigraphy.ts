import * as yup from 'yup';
import { ageSourcesSchema, type AgeSources } from '#core/stratigraphy/hole-ages';
import { MOST_CORRELATED } from '#core/stratigraphy/correlation';
import type { SetAbsence } from '#core/stratigraphy/units-in-holes';
import { crossings, type Tie } from '#core/stratigraphy/ties';
import { recodeToRank } from '#core/units/at-rank';
import { schemeProblems, validateScheme, type Scheme } from '#core/units/scheme';
import { fail } from '#core/problem';
import { NOTE, type AddedRow } from '#core/tables/version';
import { absencesSchema, schemesSchema, tiesSchema } from '#core/project/stratigraphy';
import {
	absencesAnswer,
	agesAnswer,
	unitInHolesAnswer,
	proposedTiesAnswer,
	rankLogAnswer,
	readSchemeAnswer,
	schemesAnswer,
	tiesAnswer
} from '$lib/api/answers/stratigraphy';
import { newLogAnswer } from '$lib/api/answers/logs';
import { db } from '../db/client';
import { loadModel, one } from '../graph/graph';
import { objectBytes } from '../graph/inputs';
import { requireLog, startLog } from '../graph/logs';
import { checkProject } from '../services/check';
import { checkInput, tablesOf } from '../graph/check-input';
import { actor } from '../store/actor';
import { runTableTask, runTask } from '../threads/threads';
import { setState } from './interpret';
import { json, operation } from './operation';
import { oneTable } from './tables';
import { stateOf } from '../graph/states';

const revision = yup.number().integer().required();
const holes = () => yup.array(yup.string().min(1).max(200).required()).min(1).max(5000);
const logOf = yup.object({ table: yup.string().uuid().required(), column: yup.string().min(1).max(500).required() }).noUnknown();
const name = () => yup.string().trim().min(1).max(200);
/** Text of a pasted or dropped table; a scheme has hundreds of rows, not millions. */
const LONGEST_TEXT = 2_000_000;

const problemsOf = (schemes: readonly Scheme[]) => schemes.flatMap((s) => schemeProblems(s).map((p) => ({ scheme: s.id, ...p })));

async function stored(projectId: string) {
	const graph = await loadModel(db(), projectId);
	const [schemes, ties, absences] = [one(graph, 'schemes'), one(graph, 'ties'), one(graph, 'absences')];
	return {
		schemes: { revision: schemes.revision, list: stateOf(schemes, 'schemes').schemes },
		ties: { revision: ties.revision, list: stateOf(ties, 'ties').ties },
		absences: { revision: absences.revision, list: stateOf(absences, 'absences').absences }
	};
}

const tiesAs = (rev: number, ties: readonly Tie[]) => ({
	revision: rev,
	ties,
	crossing: crossings(ties).map(([a, b]) => [a.id, b.id])
});

/** All tables for the thread that keeps them, as a model has them. */
const forHoles = async (projectId: string, model: string | null) => tablesOf(await checkInput(db(), projectId, model));

export const stratigraphyOperations = [
	operation({
		id: 'listSchemes',
		method: 'get',
		path: '/projects/{project}/schemes',
		tag: 'Stratigraphy',
		summary: 'Schemes of ranks with their units, ages, and what contradicts itself in them',
		answer: schemesAnswer,
		reply: 'The schemes',
		run: async ({ params }) => {
			const { schemes } = await stored(params['project']!);
			return { revision: schemes.revision, schemes: schemes.list, problems: problemsOf(schemes.list) };
		}
	}),
	operation({
		id: 'setSchemes',
		method: 'put',
		path: '/projects/{project}/schemes',
		tag: 'Stratigraphy',
		summary: 'Replace the schemes; a unit can not be a part of itself, or of one of no higher rank',
		body: yup.object({ schemes: schemesSchema.required(), revision }).noUnknown(),
		answer: schemesAnswer,
		reply: 'The schemes as they are then',
		run: async ({ params, body }) => {
			const schemes = body.schemes as Scheme[];
			const names = new Set<string>();
			for (const s of schemes) {
				validateScheme(s);
				for (const key of [`id ${s.id}`, `name ${s.name.toLowerCase()}`]) {
					if (names.has(key)) fail('doubled-name', `two schemes are called ${s.name}`, 'Give one of them another name.', 'schemes');
					names.add(key);
				}
			}
			const after = await setState(params['project']!, null, 'schemes', 'Change the schemes', body.revision, { schemes });
			return { revision: after.revision, schemes, problems: problemsOf(schemes) };
		}
	}),
	operation({
		id: 'readScheme',
		method: 'post',
		path: '/projects/{project}/schemes/read',
		tag: 'Stratigraphy',
		summary:
			'Read a scheme from the text of a table (one row a unit with its parent, or one column a rank), or from columns of a log, the highest rank first; nothing is stored',
		body: yup
			.object({
				name: name().required(),
				text: yup.string().max(LONGEST_TEXT),
				table: yup.string().uuid(),
				columns: yup.array(yup.string().min(1).max(500).required()).min(1).max(20)
			})
			.noUnknown()
			.test('one', 'give text, or a table and its columns', (b) => (b.text === undefined) === Boolean(b.table && b.columns)),
		answer: readSchemeAnswer,
		reply: 'The scheme, what of the rows was let go, and what contradicts itself',
		run: async ({ params, body }) => {
			const projectId = params['project']!;
			const { schemes } = await stored(projectId);
			let id = 'scheme-1';
			for (let k = 2; schemes.list.some((s) => s.id === id); k++) id = `scheme-${k}`;
			const read =
				body.text !== undefined
					? await runTask('readSchemeText', { id, name: body.name, text: body.text })
					: await runTableTask('schemeOfColumns', {
							...(await forHoles(projectId, null)),
							objectId: (await oneTable(projectId, body.table!)).id,
							columns: body.columns!,
							id,
							name: body.name
						});
			return { ...read, problems: problemsOf([read.scheme]) };
		}
	}),
	operation({
		id: 'newRankLog',
		ofModel: true,
		method: 'post',
		path: '/projects/{project}/logs/{object}/at-rank',
		tag: 'Stratigraphy',
		summary: 'Make a version of a log at a rank of a scheme: each code becomes the unit of that rank that it is a part of',
		created: true,
		body: yup
			.object({ scheme: yup.string().max(40).required(), rank: yup.number().integer().min(0).max(19).required(), name: name() })
			.noUnknown(),
		answer: rankLogAnswer,
		reply: 'Its id and name, and the codes that the scheme does not know',
		run: async ({ params, model, body }) => {
			const projectId = params['project']!;
			const source = await oneTable(projectId, params['object']!);
			requireLog(source);
			const { schemes } = await stored(projectId);
			const scheme =
				schemes.list.find((s) => s.id === body.scheme) ?? fail('unknown-scheme', 'there is no such scheme', 'Choose another.', 'scheme');
			const rank =
				scheme.ranks[body.rank] ??
				fail('unknown-rank', `${scheme.name} has no such rank`, `Its ranks: ${scheme.ranks.join(', ')}.`, 'rank');
			const codes = await runTableTask('logCodes', { ...(await forHoles(projectId, model)), objectId: source.id });
			const { recode, unknown } = recodeToRank(
				scheme,
				codes.map((c) => c.code),
				body.rank
			);
			if (unknown.length === codes.length)
				fail(
					'nothing-known',
					`${scheme.name} knows none of the codes of ${source.name}`,
					`Codes: ${unknown.slice(0, 8).join(', ')}.`,
					'scheme'
				);
			const made = await startLog(projectId, body.name, `${source.name}, by ${rank}`, { of: source.id, recode });
			await checkProject(projectId);
			return json({ ...made, unknown }, 201);
		}
	}),
	operation({
		id: 'newAgeLog',
		ofModel: true,
		method: 'post',
		path: '/projects/{project}/logs/{object}/by-age',
		tag: 'Stratigraphy',
		summary: 'Make a version of a log in units of time: what is dated becomes the unit of a rank of a scheme that its age lies in',
		created: true,
		body: yup
			.object({
				ages: ageSourcesSchema.required(),
				/** The scheme that the units of time are of, where it is not the one that dates. */
				scheme: yup.string().min(1).max(40),
				rank: yup.number().integer().min(0).max(19).required(),
				column: yup.string().min(1).max(500).required(),
				holes: holes(),
				name: name()
			})
			.noUnknown(),
		answer: newLogAnswer,
		reply: 'Its id and name',
		run: async ({ params, model, body }) => {
			const projectId = params['project']!;
			const source = await oneTable(projectId, params['object']!);
			requireLog(source);
			const { schemes } = await stored(projectId);
			const tables = await forHoles(projectId, model);
			const stretches = await runTableTask('stretchesByAge', {
				...tables,
				holes: body.holes ?? null,
				log: { table: source.id, column: body.column },
				ages: body.ages as AgeSources,
				schemes: schemes.list,
				units: body.scheme ?? body.ages.scheme,
				rank: body.rank
			});
			const cut = await runTableTask('relogCells', {
				...tables,
				objectId: source.id,
				act: { do: 'stretch', stretches, code: '' },
				note: null
			});
			const at = { editedBy: actor().name, editedAt: new Date() };
			const made = await startLog(projectId, body.name, `${source.name}, by age`, {
				of: source.id,
				added: withNotes(cut.added, source.state.header),
				edits: cut.cells.map(([n, position, original, value]) => ({ n, position, value, original, ...at }))
			});
			await checkProject(projectId);
			return json(made, 201);
		}
	}),
	operation({
		id: 'listTies',
		method: 'get',
		path: '/projects/{project}/ties',
		tag: 'Stratigraphy',
		summary: 'Ties between holes, and which of them cross each other',
		answer: tiesAnswer,
		reply: 'The ties',
		run: async ({ params }) => {
			const { ties } = await stored(params['project']!);
			return tiesAs(ties.revision, ties.list);
		}
	}),
	operation({
		id: 'setTies',
		method: 'put',
		path: '/projects/{project}/ties',
		tag: 'Stratigraphy',
		summary: 'Replace the ties; two that are certain can not cross each other',
		largest: 4 * 1024 * 1024,
		body: yup.object({ ties: tiesSchema.required(), revision }).noUnknown(),
		answer: tiesAnswer,
		reply: 'The ties as they are then',
		run: async ({ params, body }) => {
			const ties = body.ties as Tie[];
			const ids = new Set<string>();
			for (const t of ties) {
				if (ids.has(t.id)) fail('doubled-id', `two ties have the id ${t.id}`, 'Give one of them another.', 'ties');
				ids.add(t.id);
			}
			for (const [a, b] of crossings(ties))
				if (a.kind === 'certain' && b.kind === 'certain')
					fail(
						'ties-cross',
						`${a.name || 'a tie'} and ${b.name || 'another'} cross between ${a.a.hole} and ${a.b.hole}`,
						'Say of one of them that it is doubtful, or take it out.',
						'ties'
					);
			const after = await setState(params['project']!, null, 'ties', 'Change the ties', body.revision, { ties });
			return tiesAs(after.revision, ties);
		}
	}),
	operation({
		id: 'getUnitInHoles',
		ofModel: true,
		method: 'get',
		path: '/projects/{project}/units-in-holes',
		tag: 'Stratigraphy',
		summary:
			'A unit of a scheme at any rank, or of the column, in every hole: thickness, depth of its top, what it is made of; or why it is not there',
		query: yup
			.object({
				unit: yup.string().min(1).max(200).required(),
				table: yup.string().uuid().required(),
				column: yup.string().min(1).max(500).default('unit'),
				scheme: yup.string().max(40)
			})
			.noUnknown(),
		answer: unitInHolesAnswer,
		reply: 'The holes',
		run: async ({ params, model, query }) => {
			const { schemes, absences } = await stored(params['project']!);
			const solids = one(await loadModel(db(), params['project']!, model), 'model');
			return runTableTask('unitInAllHoles', {
				// Faults are those of the model as it was built last.
				solids: solids.missing ? null : await objectBytes(params['project']!, solids),
				...(await forHoles(params['project']!, model)),
				holes: null,
				log: { table: query.table, column: query.column ?? 'unit' },
				scheme: query.scheme
					? (schemes.list.find((s) => s.id === query.scheme) ?? fail('unknown-scheme', 'there is no such scheme', undefined, 'scheme'))
					: null,
				unit: query.unit,
				set: absences.list
			});
		}
	}),
	operation({
		id: 'setAbsences',
		method: 'put',
		path: '/projects/{project}/absences',
		tag: 'Stratigraphy',
		summary: 'Why units are not in holes, where somebody sets right what is told from the logs; each with a reason',
		body: yup.object({ absences: absencesSchema.required(), revision }).noUnknown(),
		answer: absencesAnswer,
		reply: 'The absences as they are then',
		run: async ({ params, body }) => {
			const absences = body.absences as SetAbsence[];
			const seen = new Set<string>();
			for (const a of absences) {
				const key = `${a.hole}\n${a.unit}`;
				if (seen.has(key)) fail('doubled-absence', `${a.unit} in ${a.hole} is named twice`, 'Give one reason.', 'absences');
				seen.add(key);
			}
			const after = await setState(params['project']!, null, 'absences', 'Set an absence right', body.revision, { absences });
			return { revision: after.revision, absences };
		}
	}),
	operation({
		id: 'proposeTies',
		ofModel: true,
		method: 'post',
		path: '/projects/{project}/ties/propose',
		tag: 'Stratigraphy',
		summary: 'Ties between each hole of a row and the next: boundaries of the same units, or by the likeness of a curve',
		body: yup
			.object({
				holes: holes().min(2).max(MOST_CORRELATED).required(),
				log: logOf.required(),
				curve: logOf.default(undefined).optional(),
				/** How far from where the curves say a boundary may lie, length units. */
				reach: yup.number().positive().max(1e6)
			})
			.noUnknown(),
		answer: proposedTiesAnswer,
		reply: 'The proposals, and how alike the curves of each pair are',
		run: async ({ params, model, body }) =>
			runTableTask('proposedTies', {
				...(await forHoles(params['project']!, model)),
				holes: body.holes,
				log: body.log,
				curve: body.curve ?? null,
				reach: body.reach ?? null,
				ties: (await stored(params['project']!)).ties.list
			})
	}),
	operation({
		id: 'getAges',
		ofModel: true,
		method: 'post',
		path: '/projects/{project}/ages',
		tag: 'Stratigraphy',
		summary: 'Age–depth curves of holes: from boundaries with ages in a scheme, dated samples and zones, in order down the hole',
		body: yup.object({ holes: holes(), log: logOf.required(), ages: ageSourcesSchema.required() }).noUnknown(),
		answer: agesAnswer,
		reply: 'The curves with 5 and 95 of 100 and rates of accumulation, and why other holes have none',
		run: async ({ params, model, body }) => {
			const { curves, without } = await runTableTask('agesOfHoles', {
				...(await forHoles(params['project']!, model)),
				holes: body.holes ?? null,
				log: body.log,
				ages: body.ages as AgeSources,
				schemes: (await stored(params['project']!)).schemes.list
			});
			return {
				curves: curves.map(({ bundle: _, aside, ...c }) => ({
					...c,
					aside: aside.map(({ depth, age, name: n, from }) => ({ depth, age, name: n, from }))
				})),
				without
			};
		}
	})
];

/** Rows that were cut off, with a cell for the note that every version has. */
const withNotes = (added: readonly AddedRow[], header: readonly string[]): AddedRow[] =>
	header.includes(NOTE) ? [...added] : added.map((a) => ({ ...a, cells: [...a.cells, ''] }));
