import { DxfWriter, point3d, Units } from '@tarikjabiri/dxf';
import { layerName } from '../formats/layer-dxf';
import type { SectionDrawing } from './section-drawing';

/**
 * A section as DXF: x is distance along the section, y elevation (not exaggerated). Contacts, faults and terrain as polylines,
 * units as closed polylines, holes as lines, each on a layer of its own name.
 */
export function sectionDxf(d: SectionDrawing): string {
	const dxf = new DxfWriter();
	dxf.setUnits(d.lengthUnit === 'ft' ? Units.Feet : Units.Meters);
	const layers = new Set<string>();
	const layer = (name: string) => {
		const clean = layerName(name);
		if (!layers.has(clean)) {
			layers.add(clean);
			dxf.addLayer(clean, 7, 'CONTINUOUS');
		}
		return clean;
	};
	const vertices = (points: ArrayLike<number>) => {
		const out = [];
		for (let i = 0; i < points.length; i += 2) out.push({ point: { x: points[i]!, y: points[i + 1]! } });
		return out;
	};
	for (const [unit, rings] of d.picture.fills)
		for (const ring of rings) dxf.addLWPolyline(vertices(ring), { flags: 1, layerName: layer(`unit ${d.units[unit]!.name}`) });
	for (const [surface, lines] of d.picture.lines) {
		const s = d.surfaces.get(surface);
		if (s) for (const line of lines) dxf.addLWPolyline(vertices(line), { layerName: layer(`${s.kind} ${s.name}`) });
	}
	for (const hole of d.holes) {
		dxf.addLWPolyline(vertices(hole.points), { layerName: layer('holes') });
		dxf.addText(point3d(hole.points[0]!, hole.points[1]!, 0), (d.maxZ - d.minZ) / 60, hole.name.slice(0, 200).replace(/[\r\n]/g, ' '), {
			layerName: layer('hole names')
		});
	}
	return dxf.stringify();
}
