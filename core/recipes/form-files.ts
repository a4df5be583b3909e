import { endingsFor, type Holds } from '../formats/known';
import type { Form } from './recipe';

/** What a file of a result holds, by its form. */
const HOLDS = {
	grid: 'grid',
	faces: 'layer',
	lines: 'layer',
	places: 'layer',
	solids: 'solids',
	blocks: 'blocks'
} as const satisfies Partial<Record<Form, Holds>>;

/** Forms that have files of their own; the others are told as a table. */
export type FileForm = keyof typeof HOLDS;

/** Whether a form has files of its own. */
const isFileForm = (form: string | null): form is FileForm => form !== null && Object.hasOwn(HOLDS, form);

/** Endings of the files in which a result of a form can be saved: its own, and what is said of it as a table or JSON. */
export const endingsOfForm = (form: string | null): string[] => [...(isFileForm(form) ? endingsFor(HOLDS[form]) : []), 'csv', 'json'];
