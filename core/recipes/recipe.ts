import type { ObjectSchema } from 'yup';
import type { CheckOptions } from '../checks/check';
import type { Pack } from '../formats/pack';
import type { Box } from '../geometry/box';
import type { Rectangle } from '../grids/frame';
import type { inTasks } from '../model/compute';
import type { Interpretation } from '../project/pipeline';
import type { TableKind } from '../tables/kinds';
import type { Table } from '../tables/table';
import type { Unit } from '../units/column';

/** What a result looks like: panes, legends, exports and statistics know these, and no recipe. */
export const FORMS = ['table', 'places', 'lines', 'faces', 'grid', 'surface', 'solids', 'blocks', 'elements', 'drawing', 'figure'] as const;
export type Form = (typeof FORMS)[number];

/** Forms of what is brought in. */
const SOURCE_FORMS: Readonly<Record<string, Form>> = {
	table: 'table',
	terrain: 'grid',
	grid: 'grid',
	layer: 'lines',
	surface: 'surface',
	picture: 'drawing',
	'kept-model': 'solids'
};
export const formOfSource = (kind: string): Form | null => SOURCE_FORMS[kind] ?? null;

/** What screens and services ask of a model by themselves: they name this, and no recipe. One recipe answers each. */
export const QUESTIONS = ['units-at-surface', 'what-changed', 'how-sure', 'difference-of-grids', 'grid-of-readings'] as const;
export type Question = (typeof QUESTIONS)[number];

/** One part that inputs play in a recipe. */
export interface Role {
	/** What it is called beside the choice. */
	title: string;
	/** Forms or kinds of object that can play it. */
	forms?: readonly Form[];
	kinds?: readonly string[];
	/** What is taken is this part of a model, not its solids. */
	part?: string;
	/** Kinds of table that suit it best: they are proposed first. */
	prefers?: readonly TableKind[];
	least: number;
	most: number;
}

/** An input as a recipe meets it. */
export interface Given {
	/** Its object; of a part of a model that part. */
	id: string;
	role: string;
	kind: string;
	name: string;
	state: Readonly<Record<string, unknown>>;
	/** What was said of it when it was built; empty of a source. */
	report: Readonly<Record<string, unknown>>;
	/** Of a model: its units, as they are called now. */
	units: readonly Unit[];
	/** Of rows with columns: what there is in them. */
	rows?: RowsFacts;
	/** What it holds; of a table its readings (`datasets/readings.ts`); null where only its state counts. */
	pack: Pack | null;
}
/** An input before it is opened: enough for first values and estimates. */
export type Described = Omit<Given, 'pack'>;

/** What is known of rows with columns before they are opened. */
export interface RowsFacts {
	rows: number;
	columns: readonly { key: string; label: string; type: 'number' | 'date' | 'text'; unit: string }[];
	/** The rectangle that their places lie in; null where none has one. */
	box: Rectangle | null;
}

export interface ProjectFacts {
	name: string;
	lengthUnit: string;
	/** EPSG code; 0 is a local grid. */
	crs: number;
	extent: Box | null;
	/** Its coordinate system as a PROJ string; nothing for a local grid. */
	definition?: string;
}

/** What the steps of a model read besides their inputs: the tables, how they are checked, and what was said of the ground. */
interface GroundFacts {
	tables: readonly Table[];
	options: CheckOptions;
	/** Null where hole paths are made: they need none. */
	interpretation: Interpretation | null;
}

export interface RecipeContext {
	project: ProjectFacts;
	/** Where the recipe says `ground`. */
	ground: GroundFacts | null;
	progress(what: string, share: number): void;
	/** Only a first look is wanted: a grid may have a quarter of its cells. */
	preview?: boolean;
	/** What makes long work use threads. */
	tasks: ReturnType<typeof inTasks>;
}

export interface Product {
	pack: Pack;
	/** What is said of the result: plain JSON. `words` tell how it was made; a `finding` is listed under Check. */
	report: Record<string, unknown>;
}

/** What a step of a model depends on besides its inputs. */
interface StepFacts {
	lengthUnit: string;
	extent: Box | null;
	state: Readonly<Record<string, unknown>>;
	/** Contents of what the shape of the ground names, and ids of the tables: results name rows by them. */
	named: readonly string[];
	tables: readonly string[];
}

/** Where a step stands in the chain of a model. */
export interface Step {
	/** All models share it. */
	shared?: true;
	/** Kinds of its inputs among the other parts of the model. */
	inputs: readonly string[];
	/** Kinds of source that are inputs of it: kinds of table, or of what else is brought in. */
	fedBy: readonly string[];
	/** Kinds of table that its computation reads. */
	tables: readonly TableKind[];
	/** It takes what the shaping names, too: tables of logs, layers, grids and surfaces. */
	names?: true;
	depends(facts: StepFacts): unknown;
}

/** What a recipe needs of memory and time, roughly. */
export interface Estimate {
	bytes: number;
	seconds: number;
}

/** How one kind of object is made. One file a kind, all of this shape; the register lists them. */
export interface Recipe<P = Record<string, unknown>> {
	/** Kind of the objects that it makes. */
	id: string;
	title: string;
	/** One sentence: what comes out. */
	about: string;
	/** Counts up when the computation changes, so that what was built by an older one is out of date. */
	version: number;
	/** Null for a step that no pane draws by itself. */
	form: Form | null;
	roles: Readonly<Record<string, Role>>;
	/** Parameters with label, unit and bounds in their `meta` (see `describeParameters`). */
	parameters: ObjectSchema<P & Record<string, unknown>>;
	/** One of the steps that every model has: nobody makes one by hand. */
	step?: Step;
	/** How long it takes beside others, roughly; 1 when nothing is said. */
	weight?: number;
	/** Drawn whenever it is looked at, and never stored: what is made of it takes what is said of it, and nothing that it is drawn from. */
	live?: { takes(state: Readonly<Record<string, unknown>>): unknown };
	/** Quick enough to be looked at while its parameters are turned. */
	previews?: true;
	/** It is what answers this where nobody chose a recipe. */
	answers?: Question;
	/** Quick enough to be made while who asks waits, without a result of its own. */
	atOnce?: true;
	/** First values, from what is put in. */
	suggest?(inputs: readonly Described[], project: ProjectFacts): Partial<P>;
	/** A name for it; of its title and what is put in, where this is not said. */
	called?(inputs: readonly Described[], parameters: P): string;
	estimate?(inputs: readonly Described[], parameters: P, project: ProjectFacts): Estimate;
	/**
	 * What is wrong with parameters for these inputs, before anything is built.
	 * @throws ProblemError
	 */
	refuse?(inputs: readonly Described[], parameters: P): void;
	/** @throws ProblemError when it can not be made of these inputs */
	run(inputs: readonly Given[], parameters: P, context: RecipeContext): Product | Promise<Product>;
	/** Adds to a report what can only be told beside that of the result before. */
	follow?(report: Record<string, unknown>, before: Readonly<Record<string, unknown>>): Record<string, unknown>;
}

/** Declares a recipe; its functions get the parameters as the schema lets them through. */
export const recipe = <P extends object>(r: Recipe<P>): Recipe => r as unknown as Recipe;

/** The inputs that play a role. */
export const playing = <T extends { role: string }>(inputs: readonly T[], role: string): T[] => inputs.filter((g) => g.role === role);

/** The one input that plays a role. @throws RangeError when none does: the caller has let it through */
export function theOne<T extends { role: string }>(inputs: readonly T[], role: string): T {
	const found = inputs.find((g) => g.role === role);
	if (!found) throw new RangeError(`nothing plays the role "${role}"`);
	return found;
}
