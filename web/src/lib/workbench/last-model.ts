const modelKey = (project: string) => `malachite.model.${project}`;
/** The model of a project that was worked on last in this browser. */
export function keptModel(project: string): string | null {
	try {
		return localStorage.getItem(modelKey(project));
	} catch {
		return null;
	}
}
/** Remembers the model that is worked on. */
export function keepModel(project: string, model: string): void {
	try {
		localStorage.setItem(modelKey(project), model);
	} catch {
		// A browser without storage begins with the first model; the workbench knows better a moment later.
	}
}
