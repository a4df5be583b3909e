import type {
	codeGroupsAnswer,
	columnEvidenceAnswer,
	logChangesAnswer,
	logCodesAnswer,
	logDifferencesAnswer,
	logPreviewAnswer
} from './answers/logs';
import type { Comparison } from '#core/model/compare';
import type { FinerParts } from '#core/model/finer';
import type { Agreement, UnitVolume } from '#core/project/report';
import type { Shaping } from '#core/project/shaping';
import type { Box } from '#core/geometry/box';
import type { FaultSpec } from '#core/model/ground';
import type { TableKind } from '#core/tables/kinds';
import type { Reading } from '#core/tables/raw-table';
import type { PathRow } from '#core/holes/path';
import type { Unit } from '#core/units/column';
import type { objectAnswer } from './answers/projects';
import type { recipeListAnswer, resultAnswer, suggestionAnswer } from './answers/results';
import type { Answer } from './answers/shapes';

/** What the API answers, as far as the screens use it. */
export interface Project {
	id: string;
	name: string;
	author: string;
	description: string;
	crs: number;
	lengthUnit: string;
	/** Mark between whole and fraction in what is typed. */
	decimal: '.' | ',';
	extent: Box | null;
	revision: number;
	updatedAt: string;
	/** In the list of projects: when it was last worked on. */
	lastWork: string;
}

/** A change that can be undone, or done again. */
export interface NextChange {
	id: number;
	label: string;
	by: string;
	/** Made in another browser. */
	elsewhere: boolean;
}

/** A file that waits to be brought in. */
export interface Card {
	id: string;
	fileId: string;
	name: string;
	title: string;
	choice: Record<string, unknown>;
}

export type ProjectObject = Answer<typeof objectAnswer>;
/** A result that somebody made, with all that is told of it. */
export type MadeResult = Answer<typeof resultAnswer>;
export type LogChanges = Answer<typeof logChangesAnswer>;
export type LogPreview = Answer<typeof logPreviewAnswer>;
export type LogDifferences = Answer<typeof logDifferencesAnswer>;
export type ColumnEvidence = Answer<typeof columnEvidenceAnswer>;
export type CodeGroups = Answer<typeof codeGroupsAnswer>;
export type LogCodes = Answer<typeof logCodesAnswer>;
export type RecipeInfo = Answer<typeof recipeListAnswer>['recipes'][number];
export type Suggestion = Answer<typeof suggestionAnswer>;

/** A section beside the main one; what it has not of its own is that of the main one. */
export interface SectionLine {
	name: string;
	trace: [number, number][];
	/** Name of the set that it stands in. */
	set?: string | undefined;
	corridor?: number | undefined;
	exaggeration?: number | undefined;
}

export interface Interpretation {
	codes: { code: string; count: number }[];
	proposal: Record<string, string>;
	column: { revision: number; units: Unit[] };
	lumping: { revision: number; codes: Record<string, string> };
	faults: { revision: number; faults: FaultSpec[] };
	section: { revision: number; trace: [number, number][]; corridor: number; lines?: SectionLine[] };
	model: { revision: number; spacing: number; leastPart?: number; finer?: FinerParts };
	shaping: { revision: number } & Shaping;
}

export interface Finding {
	id: number;
	table: string | null;
	rule: string;
	severity: 'held' | 'noted';
	n: number;
	line: number;
	role: string | null;
	hole: string | null;
	message: string;
	hint: string;
	others: number[] | null;
	proposal: string | null;
	/** How many rows it is about. */
	count: number;
	/** Why it was left as it is; null while it is open. */
	seen: string | null;
}

export interface FindingList {
	/** They are of the tables as they are now. */
	checked: boolean;
	tables: { id: string; name: string; kind: TableKind; label: string; rowCount: number }[];
	findings: Finding[];
}

export interface Job {
	id: string;
	kind: string;
	title: string;
	/** The object that it builds. */
	objectId: string | null;
	/** Of a build, the jobs that it consists of. */
	after: string[];
	state: 'blocked' | 'waiting' | 'running' | 'cancelling' | 'done' | 'failed' | 'cancelled';
	what: string;
	share: number;
	outcome: {
		problem?: { title: string; hint?: string };
		seconds?: number;
		rows?: number;
		held?: number;
		noted?: number;
		message?: string;
		[key: string]: unknown;
	} | null;
	createdAt: string;
}

export interface Preview {
	file: { id: string; name: string; size: number };
	as: 'table' | 'terrain' | 'grid' | 'layer' | 'surface' | 'picture';
	format?: 'delimited' | 'xlsx' | 'ods' | 'las' | 'ags';
	/** Tables of a workbook with their rows, or layers of a file with their things. */
	parts?: { name: string; rows?: number; count?: number }[];
	/** Its card among the files that wait. */
	card?: string | null;
	written?: Record<string, string>;
	/** Columns of dates that could be read in two ways. */
	ambiguous?: string[];
	/** A coordinate system that the file describes without a code. */
	system?: string | null;
	notes?: string[];
	kind?: TableKind;
	header?: string[];
	stated?: string[] | null;
	reading?: Reading;
	rows?: string[][];
	mapping?: Record<string, string>;
	units?: Record<string, string>;
	remembered?: boolean;
	missing?: string[];
	trouble?: { row: number; column: string; message: string }[];
	problem?: { message: string; hint?: string } | null;
	epsg?: number | null;
	says?: string;
	terrain?: { nx: number; ny: number; dx: number; dy: number; min: number; max: number; missing: number; epsg: number | null };
	picture?: { width: number; height: number; placement: unknown };
	/** What the name of a picture tells of a place in a hole. */
	core?: { hole: string; from: number; to: number } | null;
}

export interface ModelReport {
	agreement?: Agreement | null;
	partAgreements?: { division: string; name: string; agreement: Agreement }[];
	faultMisfits?: { id: string; name: string; places: number; misfit: number }[];
	offsets?: { fault: string; unit: string; places: number; least: number; mean: number; most: number }[];
	spacing: number;
	cells: number;
	triangles: number;
	volumeError: number;
	volumes: (Omit<UnitVolume, 'parts'> & { parts?: number[] })[];
	surfaces: {
		unit: string;
		name: string;
		contacts: number;
		measured: number;
		rms: number;
		max: number;
		area?: number;
		supported?: number;
	}[];
	support?: number;
	specks?: { dropped: number; volume: number };
	blocks?: { id: string; name: string; volume: number }[];
	findings: { kind: string; severity?: 'noted' | 'held'; message: string; hint: string }[];
	contacts: { placed: number; faulted: number; findings: { message: string; hint: string }[] };
	orientations: { count: number; unused: number };
	seconds: Record<string, number>;
	misfits: {
		surface: number;
		hole: string;
		depth: number;
		x: number;
		y: number;
		z: number;
		distance: number | null;
		table: string;
		row: number;
	}[];
	builtAt: string;
	outOfDate: boolean;
}

/** A built model that was kept under a name. */
export interface KeptModel {
	id: string;
	name: string;
	createdBy: string;
	createdAt: string;
	spacing: number;
	volumes: { unit: string; volume: number }[];
}

export type ModelComparison = Omit<Comparison, 'moved'>;

/** A hole with its path table. */
export interface HoleSheet {
	name: string;
	collar: [number, number, number];
	end: [number, number, number];
	totalDepth: number;
	path: PathRow[];
	/** By id of the table: rows in use, and rows that are left out. */
	rows: { table: string; count: number; left: number }[];
}

export interface RowPage {
	table: {
		id: string;
		name: string;
		kind: TableKind;
		revision: number;
		header: string[];
		mapping: Record<string, string>;
		rowCount: number;
		calculated?: { name: string; expression: string }[];
	};
	/** Calculated columns; a cell for each row. */
	calculated: { name: string; unit: string; problem: string | null; cells: string[] }[];
	total: number;
	rows: {
		n: number;
		line: number;
		excluded: boolean;
		cells: string[];
		findings: { rule: string; severity: 'held' | 'noted'; role: string | null; message: string; hint: string }[];
		originals: Record<string, string>;
		edited: Record<string, { by: string; at: string }>;
	}[];
}
