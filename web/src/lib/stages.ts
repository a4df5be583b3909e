import { FolderInput, Hammer, ListChecks, PenLine, Presentation, ScanSearch } from '$lib/icons';

/** The six stages, in the order of the work. Those with panes have legend and details beside them: what is selected or made stands there. */
export const STAGES = [
	{ id: 'gather', label: 'Gather', icon: FolderInput, help: 'Bring files in and say what their columns mean', panes: false },
	{ id: 'check', label: 'Check', icon: ListChecks, help: 'See what is wrong or doubtful, mend it or leave it out', panes: false },
	{ id: 'interpret', label: 'Interpret', icon: PenLine, help: 'Units, column, faults', panes: true },
	{ id: 'build', label: 'Build', icon: Hammer, help: 'Make the model', panes: true },
	{ id: 'examine', label: 'Examine', icon: ScanSearch, help: 'Look hard at the result', panes: true },
	{ id: 'present', label: 'Present', icon: Presentation, help: 'Hand it over', panes: false }
] as const;
export type Stage = (typeof STAGES)[number]['id'];
