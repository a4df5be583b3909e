import { countFindings } from '../checks/check';
import type { Finding } from '../checks/finding';
import { AIR } from '../mesh/cut-lattice';
import { misfits, misfitSummary, type Misfit } from '../mesh/misfit';
import { partsOf, solidOf, unitsIn } from '../mesh/extract';
import type { BackFlag } from '../model/back-flag';
import type { BuiltModel } from '../model/build';
import type { Ground } from '../model/fit-ground';
import { faultOffsets } from '../model/offsets';
import type { StratigraphicColumn } from '../units/column';

/** What a build has to say about itself; the same from the web, the API and the command line. */
export interface ModelReport {
	spacing: number;
	cells: number;
	triangles: number;
	/** Share by which the volumes of all units and the air differ from the box. */
	volumeError: number;
	/** With the volumes of the connected parts, the greatest first, twenty at most. */
	volumes: { unit: string; name: string; color: string; volume: number; parts: number[] }[];
	surfaces: { unit: string; name: string; contacts: number; measured: number; rms: number; max: number }[];
	/** How far the model agrees with the logs along the holes; null when nothing was logged. */
	agreement: Agreement | null;
	/** Throws of the contacts along the faults. */
	offsets: { fault: string; unit: string; places: number; least: number; mean: number; most: number }[];
	/** Findings of the engine. */
	findings: { kind: string; severity: string; message: string; hint: string; hole?: string }[];
}

export interface Agreement {
	/** Length that was compared, and the share of it on which log and model have the same unit. */
	compared: number;
	share: number;
	/** By logged unit: lengths that the model gives to each unit; null is above the terrain or outside the extent. */
	units: { unit: string; logged: number; agreed: number; modelled: { unit: string | null; length: number }[] }[];
	/** Where they differ, the longest first. */
	mismatches: { hole: string; from: number; to: number; logged: string; modelled: string; x: number; y: number; z: number }[];
}

/** How a comparison of the logs with the model reads. */
export function agreementOf(flag: BackFlag, column: StratigraphicColumn): Agreement | null {
	const width = column.length + 1;
	const id = (i: number) => column[i]?.id ?? null;
	const units = column.flatMap((u, i) => {
		const row = Array.from(flag.lengths.subarray(i * width, (i + 1) * width));
		const logged = row.reduce((a, b) => a + b, 0);
		return logged > 0 ? [{ unit: u.id, logged, agreed: row[i]!, modelled: row.flatMap((length, k) => (length > 0 ? [{ unit: id(k), length }] : [])) }] : [];
	});
	if (units.length === 0) return null;
	return {
		compared: flag.compared,
		share: flag.compared > 0 ? flag.agreed / flag.compared : 0,
		units,
		mismatches: flag.mismatches.map((m) => ({ ...m, logged: column[m.logged]!.id, modelled: column[m.modelled]!.id }))
	};
}

/** Throws along each fault, by contact. */
function offsetsOf(ground: Ground): ModelReport['offsets'] {
	return ground.faults.flatMap((f, k) => {
		const all = faultOffsets(ground, k);
		return [...new Set(all.map((o) => o.surface))].sort((a, b) => a - b).map((surface) => {
			const throws = all.filter((o) => o.surface === surface).map((o) => o.throw);
			return { fault: f.id, unit: ground.input.column[surface]!.id, places: throws.length, least: Math.min(...throws), mean: throws.reduce((a, b) => a + b, 0) / throws.length, most: Math.max(...throws) };
		});
	});
}

/** @param flag comparison of the logs with the model, when there are holes */
export function reportOf(ground: Ground, built: BuiltModel, spacing: number, flag: BackFlag | null): { report: ModelReport; misfits: Misfit[] } {
	const { input } = ground;
	const { lattice: l, mesh } = built;
	const list = misfits(mesh, input.contacts, spacing);
	const box = l.nx * l.dx * (l.ny * l.dy) * (l.nz * l.dz);
	let sum = mesh.volumes.get(AIR) ?? 0;
	for (const u of unitsIn(mesh)) sum += mesh.volumes.get(u)!;
	return {
		misfits: list,
		report: {
			spacing,
			cells: l.nx * l.ny * l.nz,
			triangles: mesh.front.length,
			volumeError: Math.abs(sum / box - 1),
			volumes: input.column.map((u, i) => ({ unit: u.id, name: u.name, color: u.color, volume: mesh.volumes.get(i) ?? 0, parts: partsOf(solidOf(mesh, i)).slice(0, 20) })),
			surfaces: input.column.flatMap((u, i) => {
				const own = list.filter((m) => input.contacts[m.contact]!.surface === i);
				if (own.length === 0) return [];
				const s = misfitSummary(own);
				return [{ unit: u.id, name: u.contact === 'intrusive' ? `boundary of ${u.name}` : `base of ${u.name}`, contacts: own.length, measured: s.count, rms: s.rms, max: s.max }];
			}),
			agreement: flag ? agreementOf(flag, input.column) : null,
			offsets: offsetsOf(ground),
			findings: ground.findings.map(({ kind, severity, message, hint, hole }) => ({ kind, severity, message, hint, ...(hole ? { hole } : {}) }))
		}
	};
}

/** Rows held back and noted, by rule. */
export const findingCounts = (findings: readonly Finding[]) => ({
	held: new Set(findings.filter((f) => f.severity === 'held').map((f) => `${f.table}\t${f.row}`)).size,
	noted: findings.filter((f) => f.severity === 'noted').length,
	byRule: countFindings(findings)
});
