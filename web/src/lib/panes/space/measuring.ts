import { spaced } from '#core/formats/ticks';
import { measureLine, planeThrough } from '#core/scene/measure';

/** What is drawn in space by pressing: the ends of a distance, three points of a plane, an outline round intervals. */
export type Tool = '' | 'line' | 'plane' | 'outline';

/** What was measured between points, or what to do next. @param unit of lengths */
export function measuredText(tool: Tool, measured: readonly [number, number, number][], unit: string): string {
	if (tool === 'line' && measured.length === 2) {
		const m = measureLine(measured[0]!, measured[1]!);
		return `${spaced(m.length, 1)} ${unit} · bearing ${String(Math.round(m.bearing) % 360).padStart(3, '0')}° · ${m.plunge >= 0 ? 'plunge' : 'rise'} ${Math.abs(m.plunge).toFixed(1)}° · horizontal ${spaced(m.horizontal, 1)} ${unit} · vertical ${spaced(m.vertical, 1)} ${unit}`;
	}
	if (tool === 'plane' && measured.length === 3) {
		const p = planeThrough(measured[0]!, measured[1]!, measured[2]!);
		return p
			? `plane dips ${p.dip.toFixed(1)}° to ${String(Math.round(p.dipAzimuth) % 360).padStart(3, '0')}°`
			: 'the three points lie on one line';
	}
	if (tool === 'outline') return 'draw round intervals; with Ctrl they are added; Esc leaves';
	return tool === 'line'
		? `press ${measured.length === 1 ? 'the second' : 'the first'} point`
		: `press point ${(measured.length % 3) + 1} of 3`;
}
