import type { SetAbsence } from '#core/stratigraphy/units-in-holes';
import type { Tie } from '#core/stratigraphy/ties';
import type { Scheme } from '#core/units/scheme';
import { call } from '$lib/api/client';
import type { ProjectObject } from '$lib/api/types';

interface Host {
	path: (rest: string) => string;
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
		return this.store('schemes', () => change(this.schemes));
	}
	setTies(change: (ties: readonly Tie[]) => readonly Tie[]): Promise<boolean> {
		return this.store('ties', () => change(this.ties));
	}

	setAbsences(change: (absences: readonly SetAbsence[]) => readonly SetAbsence[]): Promise<boolean> {
		return this.store('absences', () => change(this.absences));
	}

	private store(kind: 'schemes' | 'ties' | 'absences', list: () => readonly object[]): Promise<boolean> {
		const stored = this.storing.then(() =>
			this.host.attempt(async () => {
				await call('PUT', this.host.path(`/${kind}`), { [kind]: list(), revision: this.host.object(kind)?.revision ?? 1 });
				await this.host.refresh();
			})
		);
		this.storing = stored;
		return stored;
	}
}
