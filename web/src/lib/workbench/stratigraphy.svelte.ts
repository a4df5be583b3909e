import type { SetAbsence } from '#core/stratigraphy/units-in-holes';
import type { Tie } from '#core/stratigraphy/ties';
import type { Scheme } from '#core/units/scheme';
import type { OfProject } from '$lib/api/of-project';
import type { ProjectObject } from '$lib/api/types';

interface Host {
	api: OfProject;
	object: (kind: string) => ProjectObject | undefined;
	attempt: (what: () => Promise<unknown>) => Promise<boolean>;
	refresh: () => Promise<unknown>;
}

/** Schemes of ranks and ties between holes, which all models of a project share. */
export class Stratigraphy {
	private storing: Promise<unknown> = Promise.resolve();

	constructor(private readonly host: Host) {}

	get schemes(): readonly Scheme[] {
		return (this.host.object('schemes')?.state['schemes'] as Scheme[] | undefined) ?? [];
	}
	get ties(): readonly Tie[] {
		return (this.host.object('ties')?.state['ties'] as Tie[] | undefined) ?? [];
	}

	get absences(): readonly SetAbsence[] {
		return (this.host.object('absences')?.state['absences'] as SetAbsence[] | undefined) ?? [];
	}

	/** Stores schemes as they are changed from those that stand then; one change after the other. */
	setSchemes(change: (schemes: readonly Scheme[]) => readonly Scheme[]): Promise<boolean> {
		return this.store('schemes', (revision) => this.host.api.ask('setSchemes', { body: { schemes: change(this.schemes), revision } }));
	}
	setTies(change: (ties: readonly Tie[]) => readonly Tie[]): Promise<boolean> {
		return this.store('ties', (revision) => this.host.api.ask('setTies', { body: { ties: change(this.ties), revision } }));
	}

	setAbsences(change: (absences: readonly SetAbsence[]) => readonly SetAbsence[]): Promise<boolean> {
		return this.store('absences', (revision) => this.host.api.ask('setAbsences', { body: { absences: change(this.absences), revision } }));
	}

	private store(kind: 'schemes' | 'ties' | 'absences', put: (revision: number) => Promise<unknown>): Promise<boolean> {
		const stored = this.storing.then(() =>
			this.host.attempt(async () => {
				await put(this.host.object(kind)?.revision ?? 1);
				await this.host.refresh();
			})
		);
		this.storing = stored;
		return stored;
	}
}
