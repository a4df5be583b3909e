import * as yup from 'yup';
import { freeKey, type ReadingColumn } from '../../datasets/readings';
import { dipoleAnomaly, prismGravity, prismMagnetic, stepGravity, type Field } from '../../potential/prism';
import { fail } from '../../problem';
import { numbersIn, productOfReadings, readingsIn } from '../opened';
import { columnPerhaps, numberFrom, oneOfWords, perhaps } from '../parameters';
import { recipe, theOne } from '../recipe';
import { READINGS } from '../roles';

const BODIES = {
	dipole: 'magnetic dipole',
	block: 'magnetic block',
	heavy: 'block of another density',
	step: 'step of a slab of another density'
} as const;

interface Body {
	body: keyof typeof BODIES;
	column: string;
	x: number | null;
	y: number | null;
	depth: number;
	width: number;
	length: number;
	thickness: number;
	moment: number;
	magnetisation: number;
	density: number;
	azimuth: number;
	inclination: number;
	declination: number;
}
const of = (...is: string[]) => ({ when: { parameter: 'body', is } });

/** The field of a simple body at stations, beside what was read. */
export const modelledField = recipe<Body>({
	id: 'modelled-field',
	title: 'Field of a simple body',
	about:
		'The stations with one more column: the field of a dipole, a block or a step, to get a feeling for depth; held against what was read.',
	version: 1,
	previews: true,
	form: 'places',
	roles: { readings: { ...READINGS, title: 'Stations', prefers: ['stations', 'places'] } },
	parameters: yup
		.object({
			body: oneOfWords('Body', BODIES, 'dipole'),
			column: columnPerhaps('readings', 'Read', ['number'], { help: 'What it is held against; levels are brought together.' }),
			x: perhaps('East', -1e8, 1e8, { unit: 'length', help: 'Of its middle; left empty: where most was read.' }),
			y: perhaps('North', -1e8, 1e8, { unit: 'length' }),
			depth: numberFrom('Depth of its top', 100, 0, 1e5, { unit: 'length', help: 'Below the stations; of a dipole of its middle.' }),
			width: numberFrom('Wide', 100, 0.1, 1e6, { ...of('block', 'heavy'), unit: 'length' }),
			length: numberFrom('Long', 100, 0.1, 1e6, { ...of('block', 'heavy'), unit: 'length' }),
			thickness: numberFrom('High', 100, 0.1, 1e6, { ...of('block', 'heavy', 'step'), unit: 'length' }),
			azimuth: numberFrom('Turned to', 0, 0, 360, {
				...of('block', 'heavy', 'step'),
				unit: 'degrees',
				help: 'Its long side, clockwise from north; of a step its edge, with the slab to the right.'
			}),
			moment: numberFrom('Moment, 10⁶ A m²', 10, -1e9, 1e9, of('dipole')),
			magnetisation: numberFrom('Magnetisation, A/m', 1, -1e4, 1e4, of('block')),
			density: numberFrom('Density above that around, kg/m³', 300, -1e4, 1e4, of('heavy', 'step')),
			inclination: numberFrom('Inclination', 60, -90, 90, { ...of('dipole', 'block'), unit: 'degrees' }),
			declination: numberFrom('Declination', 0, -180, 180, { ...of('dipole', 'block'), unit: 'degrees' })
		})
		.noUnknown() as never,
	run(inputs, p, { project }) {
		const given = theOne(inputs, 'readings');
		const r = readingsIn(given);
		const read = p.column ? numbersIn(given, r, p.column) : null;
		const metres = project.lengthUnit === 'ft' ? 0.3048 : 1;
		const placed = Array.from({ length: r.rowCount }, (_, i) => i).filter((i) => Number.isFinite(r.x[i]!) && Number.isFinite(r.y[i]!));
		if (placed.length === 0) fail('no-readings', `no station of ${given.name} has a place`, 'Choose other stations.', 'readings');
		const most = read
			? placed.reduce((a, i) => (read[i]! > (Number.isFinite(read[a]!) ? read[a]! : -Infinity) ? i : a), placed[0]!)
			: placed[Math.floor(placed.length / 2)]!;
		const [cx, cy] = [p.x ?? r.x[most]!, p.y ?? r.y[most]!];
		const turn = (p.azimuth * Math.PI) / 180;
		const field: Field = { inclination: p.inclination, declination: p.declination };
		// About the body, its long side to the north.
		const turned: Field = { inclination: p.inclination, declination: p.declination - p.azimuth };
		const half = (v: number) => (v * metres) / 2;
		const [d, h] = [p.depth * metres, p.thickness * metres];
		const box = { x1: -half(p.width), x2: half(p.width), y1: -half(p.length), y2: half(p.length), z1: -d - h, z2: -d };
		const compute = (i: number): number => {
			const [e, n] = [(r.x[i]! - cx) * metres, (r.y[i]! - cy) * metres];
			const [across, along] = [e * Math.cos(turn) - n * Math.sin(turn), e * Math.sin(turn) + n * Math.cos(turn)];
			switch (p.body) {
				case 'dipole':
					return dipoleAnomaly([e, n, Math.max(d, 1e-3)], p.moment * 1e6, field);
				case 'block':
					return prismMagnetic({ ...box, z2: Math.min(box.z2, -1e-3) }, p.magnetisation, turned, turned, across, along, 0);
				case 'heavy':
					return prismGravity(box, p.density, across, along, 0);
				case 'step':
					return stepGravity(across, d, d + h, p.density);
			}
		};
		const values = new Float64Array(r.rowCount).fill(NaN);
		for (const i of placed) values[i] = compute(i);
		// Only its shape tells of a body: the level of both is brought together by the mean.
		let [shift, n, squares] = [0, 0, 0];
		if (read) {
			for (const i of placed) if (Number.isFinite(read[i]!)) [shift, n] = [shift + read[i]! - values[i]!, n + 1];
			shift = n ? shift / n : 0;
			for (const i of placed) {
				values[i]! += shift;
				if (Number.isFinite(read[i]!)) squares += (read[i]! - values[i]!) ** 2;
			}
		}
		const columns: ReadingColumn[] = [...r.columns];
		columns.push({
			key: freeKey('modelled', columns),
			label: 'Modelled',
			type: 'number',
			unit: p.body === 'heavy' || p.body === 'step' ? 'mGal' : 'nT',
			values
		});
		return productOfReadings(
			{ ...r, columns },
			{
				at: { x: cx, y: cy },
				...(read ? { misfit: Math.sqrt(squares / Math.max(1, n)), level: shift } : {}),
				words: `Field of a ${BODIES[p.body]} at ${p.depth} ${project.lengthUnit} under E ${cx.toFixed(0)}, N ${cy.toFixed(0)}.`
			}
		);
	}
});
