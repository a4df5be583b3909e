import * as yup from 'yup';
import type { Feature } from 'geojson';
import { surfaceName } from '../model/surface-name';
import { cutSection, pointOnTrace, traceLength } from '../sections/section';
import { ringArea } from '../sections/geology-map';
import { solidsOf, traceOf, unitsByNumber } from './opened';
import { playing, recipe, theOne } from './recipe';
import { MODEL, SECTIONS } from './roles';

/** Where the surfaces of a model are cut by sections: lines in space, to centimetres, with the areas of the units. */
export const linesOnSections = recipe({
	id: 'lines-on-sections',
	title: 'Lines on sections',
	about:
		'Where boundaries and faults of a model run on sections, as lines in space for other programs, with the area of each unit on each.',
	version: 1,
	form: 'lines',
	roles: { model: MODEL, sections: SECTIONS },
	parameters: yup.object({}).noUnknown(),
	refuse: (inputs) => void playing(inputs, 'sections').forEach(traceOf),
	run(inputs) {
		const given = theOne(inputs, 'model');
		const mesh = solidsOf(given);
		const units = unitsByNumber(given);
		const faults = (given.pack!.info['faults'] ?? []) as { name: string }[];
		const features: Feature[] = [];
		const areas: { section: string; unit: string; area: number }[] = [];
		const round = (v: number) => Math.round(v * 100) / 100;
		let length = 0;
		for (const s of playing(inputs, 'sections')) {
			const trace = traceOf(s);
			length += traceLength(trace);
			const cut = cutSection(mesh, trace);
			for (const [unit, rings] of [...cut.fills].sort(([a], [b]) => a - b)) {
				// Holes run the other way round than what they lie in.
				const area = Math.abs(rings.reduce((sum, r) => sum + ringArea(r), 0));
				areas.push({ section: s.name, unit: units[unit]!.name, area });
			}
			for (const [surface, lines] of [...cut.lines].sort(([a], [b]) => a - b)) {
				const { name, kind } = surfaceName(units, faults, surface);
				for (const line of lines)
					features.push({
						type: 'Feature',
						properties: { section: s.name, name, kind },
						geometry: {
							type: 'LineString',
							coordinates: Array.from({ length: line.length / 2 }, (_, i) => {
								const [x, y] = pointOnTrace(trace, line[2 * i]!);
								return [round(x), round(y), round(line[2 * i + 1]!)];
							})
						}
					});
			}
		}
		const names = playing(inputs, 'sections').map((s) => s.name);
		return {
			pack: { info: { features }, arrays: {} },
			report: {
				lines: features.length,
				length,
				areas,
				words: `${given.name} on ${names.length === 1 ? 'the section' : 'the sections'} ${names.join(', ')}.`
			}
		};
	}
});
