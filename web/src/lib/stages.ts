import { FolderInput, Hammer, ListChecks, PenLine, Presentation, ScanSearch } from '@lucide/svelte';

/** The six stages, in the order of the work. */
export const STAGES = [
	{ id: 'gather', label: 'Gather', icon: FolderInput, help: 'Bring files in and say what their columns mean' },
	{ id: 'check', label: 'Check', icon: ListChecks, help: 'See what is wrong or doubtful, mend it or leave it out' },
	{ id: 'interpret', label: 'Interpret', icon: PenLine, help: 'Units, column, faults' },
	{ id: 'build', label: 'Build', icon: Hammer, help: 'Make the model' },
	{ id: 'examine', label: 'Examine', icon: ScanSearch, help: 'Look hard at the result' },
	{ id: 'present', label: 'Present', icon: Presentation, help: 'Hand it over' }
] as const;
export type Stage = (typeof STAGES)[number]['id'];
