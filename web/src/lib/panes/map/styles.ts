import { CONTOUR, CONTOUR_TEXT, COPPER, DRAWN, DRAWN_DARK, FAULT_DARK, FAULT_RED, HELD, INK, NOTED, OUTLINE, QUIET } from '#core/palette';
import { Circle, Fill, RegularShape, Stroke, Style, Text } from 'ol/style';
import { MultiLineString, type LineString } from 'ol/geom';
import type { FeatureLike } from 'ol/Feature';

const FONT = '12px "IBM Plex Sans Condensed"';
const halo = new Stroke({ color: 'rgba(255,255,255,0.9)', width: 3 });

export const contourStyle = (f: FeatureLike): Style =>
	new Style({
		stroke: new Stroke({ color: CONTOUR, width: f.get('major') ? 1.1 : 0.5 }),
		...(f.get('major')
			? {
					text: new Text({
						text: String(f.get('value')),
						placement: 'line',
						font: '12px "IBM Plex Sans Condensed"',
						fill: new Fill({ color: CONTOUR_TEXT }),
						stroke: halo,
						repeat: 500
					})
				}
			: {})
	});

export const geologyStyle = (f: FeatureLike): Style =>
	new Style({ fill: new Fill({ color: `${f.get('color')}C8` }), stroke: new Stroke({ color: OUTLINE, width: 0.7 }) });

/** Name of a unit, only where its face has room for it. */
export const faceNameStyle = (f: FeatureLike): Style =>
	new Style({
		text: new Text({
			text: String(f.get('label') ?? ''),
			font: FONT,
			overflow: false,
			fill: new Fill({ color: INK }),
			stroke: new Stroke({ color: 'rgba(255,255,255,0.7)', width: 3 })
		})
	});

export const collarStyle =
	(selected: ReadonlySet<string>, labels: boolean) =>
	(f: FeatureLike): Style[] => {
		const name = f.get('name') as string;
		const color = (f.get('color') as string | undefined) ?? '#fff';
		const radius = (f.get('radius') as number | undefined) ?? 3.6;
		const dot = new Style({
			image: new Circle({ radius, fill: new Fill({ color }), stroke: new Stroke({ color: INK, width: 1.4 }) }),
			...(labels || selected.has(name)
				? { text: new Text({ text: name, offsetY: -10, font: FONT, fill: new Fill({ color: INK }), stroke: halo }) }
				: {}),
			zIndex: 5
		});
		if (!selected.has(name)) return [dot];
		return [
			new Style({ image: new Circle({ radius: radius + 4.4, stroke: new Stroke({ color: DRAWN, width: 2 }) }), zIndex: 6 }),
			new Style({ image: new Circle({ radius: radius + 2.8, stroke: new Stroke({ color: '#fff', width: 1.4 }) }), zIndex: 6 }),
			dot
		];
	};

export const pathStyle = new Style({ stroke: new Stroke({ color: INK, width: 1.1 }) });

/** Short ticks on the side that a fault dips to, 46 pixels apart. */
function ticks(f: FeatureLike, resolution: number): MultiLineString {
	const line = (f.getGeometry() as LineString).getCoordinates() as [number, number][];
	const dip = ((f.get('dipAzimuth') as number) * Math.PI) / 180;
	const out: [number, number][][] = [];
	let next = 23 * resolution;
	let along = 0;
	for (let i = 0; i + 1 < line.length; i++) {
		const [[x0, y0], [x1, y1]] = [line[i]!, line[i + 1]!];
		const length = Math.hypot(x1 - x0, y1 - y0);
		const [ux, uy] = [(x1 - x0) / length, (y1 - y0) / length];
		const side = uy * Math.sin(dip) - ux * Math.cos(dip) >= 0 ? 1 : -1;
		for (; next <= along + length; next += 46 * resolution) {
			const [x, y] = [x0 + ux * (next - along), y0 + uy * (next - along)];
			out.push([
				[x, y],
				[x + side * uy * 8 * resolution, y - side * ux * 8 * resolution]
			]);
		}
		along += length;
	}
	return new MultiLineString(out);
}

/** A normal or reverse fault: a heavy line with ticks on the side that it dips to. */
export const faultStyle =
	(selected: string | null) =>
	(f: FeatureLike, resolution: number): Style[] => [
		new Style({ geometry: ticks(f, resolution), stroke: new Stroke({ color: FAULT_RED, width: 1.6 }) }),
		...(f.get('id') === selected
			? [new Style({ stroke: new Stroke({ color: DRAWN, width: 6 }) }), new Style({ stroke: new Stroke({ color: '#fff', width: 4 }) })]
			: []),
		new Style({
			stroke: new Stroke({ color: FAULT_RED, width: 2.4 }),
			text: new Text({
				text: f.get('name') as string,
				placement: 'line',
				font: FONT,
				textBaseline: 'bottom',
				offsetY: -4,
				fill: new Fill({ color: FAULT_DARK }),
				stroke: halo
			})
		})
	];

export const sectionStyle = (f: FeatureLike): Style[] => {
	const end = (text: string) =>
		new Text({ text, font: '600 13px "IBM Plex Sans"', offsetY: -11, fill: new Fill({ color: DRAWN_DARK }), stroke: halo });
	if (f.get('faint')) return [new Style({ stroke: new Stroke({ color: 'rgba(43,95,168,0.6)', width: 1.2, lineDash: [6, 4] }) })];
	return [
		new Style({ stroke: new Stroke({ color: '#fff', width: 4 }) }),
		new Style({ stroke: new Stroke({ color: DRAWN, width: 2 }) }),
		...(f.get('end') ? [new Style({ text: end(f.get('end') as string) })] : [])
	];
};

/** What kind of plane or line a symbol stands for, after the word that the geologist used. */
export function symbolKind(
	feature: string,
	dip: number,
	polarity: number
): 'bedding' | 'overturned' | 'horizontal' | 'vertical' | 'foliation' | 'joint' | 'line' {
	const word = feature.toLowerCase();
	if (/lineat|slicken|fold axis|hinge|plunge/.test(word)) return 'line';
	if (/foliat|cleav|schist|gneiss/.test(word)) return 'foliation';
	if (/joint|fract|vein|dyke/.test(word)) return 'joint';
	if (polarity < 0) return 'overturned';
	if (dip < 1.5) return 'horizontal';
	return dip > 88.5 ? 'vertical' : 'bedding';
}

/**
 * Orientation symbols as on geological map sheets (FGDC 2006, section 6 and 8): a strike line with a tick down the dip for bedding, a
 * crossed circle where it lies flat, a tick to both sides where it stands, a hook where it is overturned, a triangle for foliation, a
 * box for joints, an arrow for lines; the dip as a number.
 */
export const orientationStyle = new Style({
	renderer: (coordinates, state) => {
		const [x, y] = coordinates as number[];
		const { context, pixelRatio, feature, resolution } = state;
		const kind = feature.get('symbol') as ReturnType<typeof symbolKind>;
		const azimuth = ((feature.get('dipAzimuth') as number) * Math.PI) / 180;
		const size = (feature.get('scale') as number | undefined) ?? 1;
		const color = (feature.get('color') as string | undefined) ?? INK;
		context.save();
		context.translate(x!, y!);
		context.scale(pixelRatio * size, pixelRatio * size);
		context.rotate(azimuth);
		context.fillStyle = INK;
		const draw = () => {
			context.beginPath();
			if (kind === 'horizontal') {
				context.arc(0, 0, 5, 0, 7);
				context.moveTo(-8, 0);
				context.lineTo(8, 0);
				context.moveTo(0, -8);
				context.lineTo(0, 8);
			} else if (kind === 'line') {
				context.moveTo(0, 9);
				context.lineTo(0, -9);
				context.moveTo(-3.2, -4.5);
				context.lineTo(0, -9);
				context.lineTo(3.2, -4.5);
			} else {
				context.moveTo(-8, 0);
				context.lineTo(8, 0);
				if (kind === 'bedding' || kind === 'vertical') {
					context.moveTo(0, kind === 'vertical' ? 5 : 0);
					context.lineTo(0, -5);
				} else if (kind === 'overturned') {
					context.moveTo(0, 5);
					context.arc(2.5, 0, 2.5, Math.PI, 0, false);
					context.moveTo(0, -5);
					context.lineTo(0, 5);
				}
			}
			context.stroke();
			if (kind === 'foliation') {
				context.beginPath();
				context.moveTo(-4, 0);
				context.lineTo(0, -6);
				context.lineTo(4, 0);
				context.fill();
			} else if (kind === 'joint') context.strokeRect(-3, -5.5, 6, 5.5);
		};
		// A pale line beneath keeps the symbol readable on any ground.
		context.lineWidth = 4;
		context.strokeStyle = 'rgba(255,255,255,0.75)';
		draw();
		context.lineWidth = 1.6;
		context.strokeStyle = INK;
		draw();
		// The colour of the row stands in the middle, so that the symbol reads on any ground.
		context.beginPath();
		context.arc(0, 0, 2.6, 0, 7);
		context.fillStyle = color;
		context.fill();
		context.lineWidth = 0.9;
		context.stroke();
		context.restore();
		// From far away the numbers would only hide the map.
		if (resolution > 13 || kind === 'horizontal') return;
		const away = 13 * size * pixelRatio;
		context.save();
		context.translate(x! + away * Math.sin(azimuth), y! - away * Math.cos(azimuth));
		context.scale(pixelRatio, pixelRatio);
		context.font = FONT;
		context.textAlign = 'center';
		context.textBaseline = 'middle';
		context.lineWidth = 2.5;
		context.strokeStyle = 'rgba(255,255,255,0.85)';
		context.strokeText(String(Math.round(feature.get('dip') as number)), 0, 0);
		context.fillStyle = INK;
		context.fillText(String(Math.round(feature.get('dip') as number)), 0, 0);
		context.restore();
	}
});

/** A dot in the colour and size of its row. */
export const dotStyle = (f: FeatureLike): Style => {
	const text = f.get('text') as string | undefined;
	return new Style({
		image: new Circle({
			radius: f.get('radius') as number,
			fill: new Fill({ color: f.get('color') as string }),
			stroke: new Stroke({ color: f.get('chosen') ? DRAWN : 'rgba(30,42,38,0.7)', width: f.get('chosen') ? 3 : 0.8 })
		}),
		...(text ? { text: new Text({ text, offsetY: -10, font: FONT, fill: new Fill({ color: INK }), stroke: halo }) } : {})
	});
};

/** Shares of units as sectors, clockwise from north in the order of the column. */
export const pieStyle = new Style({
	renderer: (coordinates, state) => {
		const [x, y] = coordinates as number[];
		const { context, pixelRatio, feature } = state;
		const parts = feature.get('parts') as { color: string; share: number }[];
		const radius = (feature.get('radius') as number) * pixelRatio;
		let angle = -Math.PI / 2;
		context.lineWidth = 0.8 * pixelRatio;
		context.strokeStyle = INK;
		for (const p of parts) {
			context.beginPath();
			if (p.share < 0.9999) context.moveTo(x!, y!);
			context.arc(x!, y!, radius, angle, angle + p.share * 2 * Math.PI);
			context.closePath();
			context.fillStyle = p.color;
			context.fill();
			context.stroke();
			angle += p.share * 2 * Math.PI;
		}
	}
});

/** Strokes of the mark of an absence about its middle, for a half width of 1: each a line, some of them dashed. */
export const ABSENCE_STROKES: Record<
	string,
	{ lines: readonly (readonly (readonly [number, number])[])[]; color: string; dash?: boolean }
> = {
	// A wavy cut.
	removed: {
		lines: [
			[
				[-1, 0.1],
				[-0.66, -0.35],
				[-0.33, 0.35],
				[0, -0.35],
				[0.33, 0.35],
				[0.66, -0.35],
				[1, 0.1]
			]
		],
		color: INK
	},
	// Two layers that meet, nothing between.
	'not-deposited': {
		lines: [
			[
				[-1, -0.22],
				[1, -0.22]
			],
			[
				[-1, 0.22],
				[1, 0.22]
			]
		],
		color: INK,
		dash: true
	},
	// A slash with two half arrows.
	'cut-out': {
		lines: [
			[
				[-0.6, 0.9],
				[0.6, -0.9]
			],
			[
				[0.55, -0.1],
				[0.05, 0.6]
			],
			[
				[-0.55, 0.1],
				[-0.05, -0.6]
			]
		],
		color: FAULT_RED
	},
	// A hole that ends.
	'not-reached': {
		lines: [
			[
				[0, -0.9],
				[0, 0.4]
			],
			[
				[-0.45, 0.4],
				[0.45, 0.4]
			]
		],
		color: INK
	},
	// An empty frame.
	'not-logged': {
		lines: [
			[
				[-0.55, -0.55],
				[0.55, -0.55],
				[0.55, 0.55],
				[-0.55, 0.55],
				[-0.55, -0.55]
			]
		],
		color: QUIET,
		dash: true
	}
};
const MARK = 8;

/** A unit at a hole: a disc of its parts, or the mark of why it is not there; one set by hand is underlined. */
export const unitMarkStyle = new Style({
	renderer: (coordinates, state) => {
		const { context, pixelRatio, feature } = state;
		const why = feature.get('absence') as string | null;
		if (!why) return pieStyle.getRenderer()!(coordinates, state);
		const [x, y] = coordinates as number[];
		const { lines, color, dash } = ABSENCE_STROKES[why]!;
		const size = MARK * pixelRatio;
		context.beginPath();
		context.arc(x!, y!, size * 1.25, 0, 2 * Math.PI);
		context.fillStyle = 'rgba(255,255,255,0.85)';
		context.fill();
		for (const line of [
			...lines,
			...(feature.get('byHand')
				? [
						[
							[-1, 1.15],
							[1, 1.15]
						] as const
					]
				: [])
		]) {
			context.beginPath();
			line.forEach(([u, v], i) => (i ? context.lineTo(x! + u * size, y! + v * size) : context.moveTo(x! + u * size, y! + v * size)));
			context.strokeStyle = color;
			context.lineWidth = 1.8 * pixelRatio;
			context.setLineDash(dash ? [3 * pixelRatio, 2 * pixelRatio] : []);
			context.stroke();
		}
		context.setLineDash([]);
	}
});

/** Lines of the grid of the project, and of latitude and longitude. */
export const graticuleStyle = (f: FeatureLike): Style =>
	new Style({
		stroke: new Stroke({
			color: f.get('geographic') ? 'rgba(43,95,168,0.55)' : 'rgba(30,42,38,0.35)',
			width: 0.8,
			lineDash: f.get('geographic') ? [5, 4] : []
		}),
		text: new Text({
			text: f.get('name') as string,
			placement: 'line',
			textAlign: f.get('geographic') ? 'right' : 'left',
			textBaseline: 'bottom',
			font: FONT,
			fill: new Fill({ color: f.get('geographic') ? DRAWN_DARK : INK }),
			stroke: halo,
			overflow: true
		})
	});

export const measureStyle = new Style({
	stroke: new Stroke({ color: COPPER, width: 2.2 }),
	fill: new Fill({ color: 'rgba(43,95,168,0.08)' }),
	image: new Circle({ radius: 3.5, fill: new Fill({ color: COPPER }) })
});

export const probeStyle = [
	new Style({ image: new Circle({ radius: 6, stroke: new Stroke({ color: '#fff', width: 4 }) }) }),
	new Style({ image: new Circle({ radius: 6, stroke: new Stroke({ color: COPPER, width: 2 }) }) })
];

/** A place that a result tells of. */
export const markStyle = new Style({ image: new Circle({ radius: 7, stroke: new Stroke({ color: NOTED, width: 2.4 }) }) });

/** What was brought in as points, lines and polygons. */
const thingStyle = new Style({
	stroke: new Stroke({ color: DRAWN, width: 1.4 }),
	fill: new Fill({ color: 'rgba(43, 95, 168, 0.08)' }),
	image: new Circle({ radius: 3, fill: new Fill({ color: DRAWN }), stroke: new Stroke({ color: '#fff', width: 1 }) })
});

/** A place with open findings: plum octagon where something is held back, ochre ring where it is noted. */
export const findingStyle = (f: FeatureLike): Style =>
	f.get('severity') === 'held'
		? new Style({
				image: new RegularShape({ points: 8, radius: 9, angle: Math.PI / 8, stroke: new Stroke({ color: HELD, width: 2 }) }),
				zIndex: 2
			})
		: new Style({ image: new Circle({ radius: 8, stroke: new Stroke({ color: NOTED, width: 2 }) }), zIndex: 1 });

/** What was brought in or made: rows as dots, lines that have a value with it, all else in one colour. */
export function madeStyle(f: FeatureLike): Style {
	if (f.get('radius') !== undefined) return dotStyle(f);
	const value = f.get('value') as unknown;
	if (typeof value !== 'number' || !f.getGeometry()?.getType().endsWith('LineString')) return thingStyle;
	return new Style({
		stroke: new Stroke({ color: DRAWN_DARK, width: 1 }),
		text: new Text({
			text: String(value),
			placement: 'line',
			font: FONT,
			repeat: 400,
			fill: new Fill({ color: DRAWN_DARK }),
			stroke: halo
		})
	});
}
