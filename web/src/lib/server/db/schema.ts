import { sql } from 'drizzle-orm';
import {
	bigint,
	bigserial,
	boolean,
	customType,
	doublePrecision,
	index,
	integer,
	jsonb,
	pgTable,
	primaryKey,
	text,
	timestamp,
	uniqueIndex,
	uuid
} from 'drizzle-orm/pg-core';
import type { Box } from '#core/geometry/box';
import type { BenchState } from '$lib/workbench/state';

/** Why an object could not be built. */
/** Blocked until others are done, waiting in the queue, running, asked to stop; and how it ended. */
export type JobState = 'blocked' | 'waiting' | 'running' | 'cancelling' | 'done' | 'failed' | 'cancelled';

export interface BuildFailure {
	key: string;
	type: string;
	title: string;
	hint?: string | undefined;
}

const bytea = customType<{ data: Buffer }>({ dataType: () => 'bytea' });
const at = (name: string) => timestamp(name, { withTimezone: true }).notNull().defaultNow();

/** A project: what its objects have in common. */
export const project = pgTable('project', {
	id: uuid('id').primaryKey().defaultRandom(),
	name: text('name').notNull(),
	author: text('author').notNull().default(''),
	description: text('description').notNull().default(''),
	/** EPSG code; 0 is a local grid. */
	crs: integer('crs').notNull().default(0),
	lengthUnit: text('length_unit').$type<'m' | 'ft'>().notNull().default('m'),
	/** Mark between whole and fraction in what is typed: a point or a comma. */
	decimal: text('decimal').$type<'.' | ','>().notNull().default('.'),
	extent: jsonb('extent').$type<Box | null>(),
	revision: integer('revision').notNull().default(1),
	/** Key of the tables and settings that the stored findings are of; empty when they were never checked. */
	checkedKey: text('checked_key').notNull().default(''),
	/** Since when the findings wait for a check; written with every change, so that a check that died is made up for. */
	checkDue: timestamp('check_due', { withTimezone: true }),
	/** Since when it lies in the bin. */
	removedAt: timestamp('removed_at', { withTimezone: true }),
	createdAt: at('created_at'),
	updatedAt: at('updated_at')
});

/** A raw file, kept as it came, in chunks of at most a mebibyte. */
export const file = pgTable(
	'file',
	{
		id: uuid('id').primaryKey().defaultRandom(),
		projectId: uuid('project_id')
			.notNull()
			.references(() => project.id, { onDelete: 'cascade' }),
		name: text('name').notNull(),
		size: bigint('size', { mode: 'number' }).notNull(),
		sha256: text('sha256').notNull(),
		createdAt: at('created_at')
	},
	(t) => [index('file_project').on(t.projectId)]
);
export const fileChunk = pgTable(
	'file_chunk',
	{
		fileId: uuid('file_id')
			.notNull()
			.references(() => file.id, { onDelete: 'cascade' }),
		n: integer('n').notNull(),
		bytes: bytea('bytes').notNull()
	},
	(t) => [primaryKey({ columns: [t.fileId, t.n] })]
);

/** A node of the build graph: a source or something derived. */
export const object = pgTable(
	'object',
	{
		id: uuid('id').primaryKey().defaultRandom(),
		projectId: uuid('project_id')
			.notNull()
			.references(() => project.id, { onDelete: 'cascade' }),
		kind: text('kind').notNull(),
		name: text('name').notNull(),
		/** Counts changes; an edit names the revision it started from. */
		revision: integer('revision').notNull().default(1),
		/** Of a source: hash of what it holds. Of something derived: key of the recipe and inputs it was last built from. */
		contentHash: text('content_hash').notNull().default(''),
		/** What the object holds besides rows and files, or the parameters of its recipe. */
		state: jsonb('state').$type<Record<string, unknown>>().notNull(),
		fileId: uuid('file_id').references(() => file.id),
		/** The model that it is a part of; null for what all models share. */
		modelId: uuid('model_id'),
		/** Of something derived: built again by itself when it is out of date. */
		auto: boolean('auto').notNull().default(false),
		/** Why it could not be built, and under which key that was tried. */
		failure: jsonb('failure').$type<BuildFailure | null>(),
		createdBy: text('created_by').notNull().default(''),
		/** Its place among those of its kind; equal places go by age. */
		position: integer('position').notNull().default(0),
		/** Of a table: which of its stored versions counts. A reload makes another; the one before stays as long as it can be gone back to. */
		version: integer('version').notNull().default(1),
		/** When it was taken out of the project; it stays as long as that can be undone. */
		removedAt: timestamp('removed_at', { withTimezone: true }),
		createdAt: at('created_at'),
		updatedAt: at('updated_at')
	},
	(t) => [
		index('object_project').on(t.projectId),
		index('object_model').on(t.modelId),
		uniqueIndex('source_name')
			.on(t.projectId, t.name)
			.where(sql`${t.removedAt} is null and ${t.fileId} is not null`)
	]
);

/** A file that waits to be brought in, with what was said of it so far. */
export const incoming = pgTable(
	'incoming',
	{
		id: uuid('id').primaryKey().defaultRandom(),
		projectId: uuid('project_id')
			.notNull()
			.references(() => project.id, { onDelete: 'cascade' }),
		fileId: uuid('file_id')
			.notNull()
			.references(() => file.id, { onDelete: 'cascade' }),
		title: text('title').notNull(),
		/** Kind, roles, reading, units … as far as the user has chosen them. */
		choice: jsonb('choice').$type<Record<string, unknown>>().notNull(),
		createdAt: at('created_at')
	},
	(t) => [index('incoming_project').on(t.projectId, t.createdAt), index('incoming_file').on(t.fileId)]
);

/** What an object is made from. */
export const objectInput = pgTable(
	'object_input',
	{
		objectId: uuid('object_id')
			.notNull()
			.references(() => object.id, { onDelete: 'cascade' }),
		inputId: uuid('input_id')
			.notNull()
			.references(() => object.id, { onDelete: 'cascade' }),
		/** The part it plays in the recipe; empty in a step of a model, where the kind says it. */
		role: text('role').notNull().default('')
	},
	(t) => [primaryKey({ columns: [t.objectId, t.inputId, t.role] }), index('object_input_input').on(t.inputId)]
);

/** Cells and line numbers of a run of rows of an imported table, as they stand in the file (see objects/stored-table.ts). */
export const tableChunk = pgTable(
	'table_chunk',
	{
		objectId: uuid('object_id')
			.notNull()
			.references(() => object.id, { onDelete: 'cascade' }),
		version: integer('version').notNull().default(1),
		chunk: integer('chunk').notNull(),
		bytes: bytea('bytes').notNull()
	},
	(t) => [primaryKey({ columns: [t.objectId, t.version, t.chunk] })]
);

/** A cell that was edited: it stands for the one in the file, which stays. */
export const cellEdit = pgTable(
	'cell_edit',
	{
		objectId: uuid('object_id')
			.notNull()
			.references(() => object.id, { onDelete: 'cascade' }),
		version: integer('version').notNull().default(1),
		n: integer('n').notNull(),
		/** Position in the header. */
		position: integer('position').notNull(),
		value: text('value').notNull(),
		original: text('original').notNull(),
		editedBy: text('edited_by').notNull().default(''),
		editedAt: at('edited_at')
	},
	(t) => [primaryKey({ columns: [t.objectId, t.version, t.n, t.position] })]
);

/** A row that was left out. */
export const rowExclusion = pgTable(
	'row_exclusion',
	{
		objectId: uuid('object_id')
			.notNull()
			.references(() => object.id, { onDelete: 'cascade' }),
		version: integer('version').notNull().default(1),
		n: integer('n').notNull(),
		excludedBy: text('excluded_by').notNull().default(''),
		excludedAt: at('excluded_at')
	},
	(t) => [primaryKey({ columns: [t.objectId, t.version, t.n] })]
);

/** A finding that somebody has looked at and left as it is. */
export const seenFinding = pgTable(
	'seen_finding',
	{
		objectId: uuid('object_id')
			.notNull()
			.references(() => object.id, { onDelete: 'cascade' }),
		version: integer('version').notNull().default(1),
		rule: text('rule').notNull(),
		n: integer('n').notNull(),
		reason: text('reason').notNull(),
		seenBy: text('seen_by').notNull().default(''),
		seenAt: at('seen_at')
	},
	(t) => [primaryKey({ columns: [t.objectId, t.version, t.rule, t.n] })]
);

/** What the checks found in the tables as they are now. */
export const finding = pgTable(
	'finding',
	{
		id: bigserial('id', { mode: 'number' }).primaryKey(),
		projectId: uuid('project_id')
			.notNull()
			.references(() => project.id, { onDelete: 'cascade' }),
		objectId: uuid('object_id').references(() => object.id, { onDelete: 'cascade' }),
		rule: text('rule').notNull(),
		severity: text('severity').$type<'held' | 'noted'>().notNull(),
		n: integer('n').notNull(),
		line: integer('line').notNull(),
		role: text('role'),
		hole: text('hole'),
		message: text('message').notNull(),
		hint: text('hint').notNull(),
		others: integer('others').array(),
		/** What the cell could be instead. */
		proposal: text('proposal'),
		/** How many rows it is about. */
		count: integer('count').notNull().default(1)
	},
	(t) => [index('finding_project').on(t.projectId), index('finding_row').on(t.objectId, t.n)]
);

/** A derived result of a project, cached by the key of its recipe and inputs. Projects share nothing: one that is deleted takes nothing from another. */
export const result = pgTable(
	'result',
	{
		projectId: uuid('project_id')
			.notNull()
			.references(() => project.id, { onDelete: 'cascade' }),
		key: text('key').notNull(),
		kind: text('kind').notNull(),
		report: jsonb('report').$type<Record<string, unknown>>().notNull(),
		/** Seconds it took. */
		seconds: doublePrecision('seconds').notNull(),
		bytes: bytea('bytes').notNull(),
		/** Hash of the bytes; empty of what an earlier version stored. */
		sha256: text('sha256').notNull().default(''),
		createdAt: at('created_at')
	},
	(t) => [primaryKey({ columns: [t.projectId, t.key] })]
);

/** One step that can be undone. */
export const change = pgTable(
	'change',
	{
		id: bigserial('id', { mode: 'number' }).primaryKey(),
		projectId: uuid('project_id')
			.notNull()
			.references(() => project.id, { onDelete: 'cascade' }),
		label: text('label').notNull(),
		steps: jsonb('steps').$type<unknown[]>().notNull(),
		undone: boolean('undone').notNull().default(false),
		/** Who did it, and in which browser. */
		by: text('by').notNull().default(''),
		session: text('session').notNull().default(''),
		createdAt: at('created_at')
	},
	(t) => [index('change_project').on(t.projectId, t.id)]
);

/** Background work. */
export const job = pgTable(
	'job',
	{
		id: uuid('id').primaryKey().defaultRandom(),
		projectId: uuid('project_id')
			.notNull()
			.references(() => project.id, { onDelete: 'cascade' }),
		kind: text('kind').notNull(),
		title: text('title').notNull(),
		/** blocked (until others are done), waiting, running, cancelling, done, failed, cancelled */
		state: text('state').$type<JobState>().notNull().default('waiting'),
		/** Jobs that must be done before it; of a build, those that it consists of. */
		after: uuid('after').array().notNull().default([]),
		/** The object that it builds. */
		objectId: uuid('object_id'),
		payload: jsonb('payload').$type<Record<string, unknown>>().notNull(),
		what: text('what').notNull().default(''),
		share: doublePrecision('share').notNull().default(0),
		outcome: jsonb('outcome').$type<Record<string, unknown> | null>(),
		attempt: integer('attempt').notNull().default(0),
		heartbeat: timestamp('heartbeat', { withTimezone: true }),
		by: text('by').notNull().default(''),
		/** Browser that asked for it. */
		session: text('session').notNull().default(''),
		/** Sent with the request that started it; the same again starts nothing more. */
		requestKey: text('request_key'),
		createdAt: at('created_at'),
		endedAt: timestamp('ended_at', { withTimezone: true })
	},
	(t) => [
		index('job_project').on(t.projectId, t.createdAt),
		uniqueIndex('job_request').on(t.projectId, t.requestKey),
		index('job_state').on(t.state)
	]
);

/** How the workbench of a project looks: panes, styles, filters. Not part of the build graph, and not undone. */
export const workbench = pgTable('workbench', {
	projectId: uuid('project_id')
		.primaryKey()
		.references(() => project.id, { onDelete: 'cascade' }),
	state: jsonb('state').$type<Partial<BenchState>>().notNull(),
	updatedAt: at('updated_at')
});

/** How it looks in one browser; the state of the project is what a new one starts with. */
export const layout = pgTable(
	'layout',
	{
		projectId: uuid('project_id')
			.notNull()
			.references(() => project.id, { onDelete: 'cascade' }),
		browser: text('browser').notNull(),
		state: jsonb('state').$type<Partial<BenchState>>().notNull(),
		updatedAt: at('updated_at')
	},
	(t) => [primaryKey({ columns: [t.projectId, t.browser] })]
);

/** A state of the workbench under a name. */
export const viewpoint = pgTable(
	'viewpoint',
	{
		id: uuid('id').primaryKey().defaultRandom(),
		projectId: uuid('project_id')
			.notNull()
			.references(() => project.id, { onDelete: 'cascade' }),
		name: text('name').notNull(),
		/** Stage that it opens. */
		stage: text('stage').notNull(),
		state: jsonb('state').$type<Partial<BenchState>>().notNull(),
		createdBy: text('created_by').notNull().default(''),
		removedAt: timestamp('removed_at', { withTimezone: true }),
		createdAt: at('created_at')
	},
	(t) => [
		index('viewpoint_project').on(t.projectId, t.createdAt),
		uniqueIndex('viewpoint_name')
			.on(t.projectId, t.name)
			.where(sql`${t.removedAt} is null`)
	]
);
