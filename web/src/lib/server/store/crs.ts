import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import type { Coordinates } from '#core/geometry/coordinates';
import { fitSimilarity, residuals, similarityParts, type CommonPoint } from '#core/geometry/similarity';
import { fail } from '#core/problem';

/** A coordinate system by its EPSG code. */
interface CoordinateSystem {
	epsg: number;
	name: string;
	/** PROJ string. */
	definition: string;
	unit: string;
	wkt: string;
	/** Where it is used, in words. */
	area: string;
}

let systems: Record<string, [string, string, string, string, string]> | null = null;

function known(): NonNullable<typeof systems> {
	systems ??= JSON.parse(
		readFileSync(
			process.env['MALACHITE_DIST'] ? `${process.env['MALACHITE_DIST']}/epsg.json` : fileURLToPath(new URL('./epsg.json', import.meta.url)),
			'utf8'
		)
	) as NonNullable<typeof systems>;
	return systems;
}

/** The system of an EPSG code, or null when it is not known. The definitions are made when the application is built. */
export function systemOf(epsg: number): CoordinateSystem | null {
	const s = known()[epsg];
	return s ? { epsg, name: s[0], definition: s[1], unit: s[2], wkt: s[3], area: s[4] } : null;
}

/** Systems whose code begins with what is looked for, or whose name or area has all of its words; names first. */
export function findSystems(text: string, most = 20): Pick<CoordinateSystem, 'epsg' | 'name' | 'unit' | 'area'>[] {
	const words = text
		.toLowerCase()
		.replace(/^epsg[: ]*/, '')
		.split(/[\s/,]+/)
		.filter(Boolean);
	if (words.length === 0) return [];
	const found: { epsg: number; rank: number }[] = [];
	for (const [code, [name, , , , area]] of Object.entries(known())) {
		const plain = name.toLowerCase();
		const rank =
			words.length === 1 && code.startsWith(words[0]!)
				? code.length - words[0]!.length
				: words.every((w) => plain.includes(w))
					? (plain.startsWith('wgs 84 ') ? 8 : plain.startsWith('etrs89 ') ? 9 : 10) + plain.length / 100
					: words.every((w) => plain.includes(w) || area.toLowerCase().includes(w))
						? 20
						: -1;
		if (rank >= 0) found.push({ epsg: Number(code), rank });
	}
	found.sort((a, b) => a.rank - b.rank || a.epsg - b.epsg);
	return found.slice(0, most).map(({ epsg }) => {
		const { name, unit, area } = systemOf(epsg)!;
		return { epsg, name, unit, area };
	});
}

/** @throws ProblemError `unknown-system`, `system-in-degrees` when models can not be made in the system of a code; 0 is a local grid */
export function requirePlaneSystem(epsg: number | undefined): void {
	if (!epsg) return;
	const s =
		systemOf(epsg) ??
		fail('unknown-system', `EPSG:${epsg} is not known`, 'Look for the system by its name, or take 0 for a local grid.', 'crs');
	if (s.unit === 'degree')
		fail(
			'system-in-degrees',
			`${s.name} (EPSG:${epsg}) counts in degrees; a model needs metres or feet`,
			'Take a projected system of the area, for example its UTM zone. Files in degrees are brought into it.',
			'crs'
		);
}

/** What a user says of the coordinates of a file. */
export interface CoordinateChoice {
	fromEpsg?: number | undefined;
	sitePoints?: CommonPoint[] | undefined;
	verticalShift?: number | undefined;
}

/** Farthest that a common point may lie off before it is refused, as a share of the size of the site. */
const WORST_RESIDUAL = 0.01;

/**
 * What brings the coordinates of a file into the system of a project.
 * @throws ProblemError `unknown-system`, `no-system`, `site-points`
 */
export function coordinatesFor(projectEpsg: number, c: CoordinateChoice): Coordinates & { residuals?: number[] } {
	const shift = c.verticalShift ? { verticalShift: c.verticalShift } : {};
	if (c.sitePoints) {
		try {
			const site = fitSimilarity(c.sitePoints);
			const off = residuals(site, c.sitePoints);
			const size = Math.max(...c.sitePoints.map((p) => Math.hypot(p[2] - site.to[0], p[3] - site.to[1])));
			if (Math.max(...off) > WORST_RESIDUAL * size)
				fail(
					'site-points',
					`the common points do not fit together: they lie up to ${Math.max(...off).toFixed(2)} off`,
					`Residuals: ${off.map((r) => r.toFixed(2)).join(', ')}; scale ${similarityParts(site).scale.toFixed(6)}. Look for exchanged or mistyped coordinates.`,
					'sitePoints'
				);
			return { ...shift, site, residuals: off };
		} catch (error) {
			if (!(error instanceof RangeError)) throw error;
			return fail(
				'site-points',
				'the site grid needs at least two different common points',
				'Give site easting, site northing, project easting, project northing of each.',
				'sitePoints'
			);
		}
	}
	if (!c.fromEpsg || c.fromEpsg === projectEpsg) return shift;
	const from =
		systemOf(c.fromEpsg) ?? fail('unknown-system', `EPSG:${c.fromEpsg} is not known`, 'Look the code up in the EPSG register.', 'fromEpsg');
	if (!projectEpsg)
		return fail(
			'no-system',
			'the project is on a local grid, so nothing can be reprojected into it',
			'Set the coordinate system of the project, or give common points of a site grid.',
			'fromEpsg'
		);
	const to =
		systemOf(projectEpsg) ??
		fail('unknown-system', `EPSG:${projectEpsg} of the project is not known`, 'Set another coordinate system for the project.', 'crs');
	return { ...shift, fromEpsg: from.epsg, toEpsg: to.epsg, from: from.definition, to: to.definition };
}
