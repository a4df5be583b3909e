/** Values in the cells of a box, for VTK XML image data. */
interface CellValues {
	name: string;
	/** x fastest. */
	values: Float32Array;
}

const safe = (name: string): string => name.replace(/[^\w.-]+/g, ' ').trim() || 'values';

/**
 * VTK XML image data (VTK file formats, version 1.0) with one array for each list of cell values, appended raw.
 * @param size cells along x, y and z
 */
export function writeImageData(
	size: readonly [number, number, number],
	origin: readonly [number, number, number],
	cell: readonly [number, number, number],
	arrays: readonly CellValues[]
): Uint8Array {
	let offset = 0;
	const heads = arrays.map((a) => {
		const head = `<DataArray type="Float32" Name="${safe(a.name)}" format="appended" offset="${offset}"/>`;
		offset += 4 + a.values.byteLength;
		return head;
	});
	const extent = size.map((n) => `0 ${n}`).join(' ');
	const before = new TextEncoder().encode(`<?xml version="1.0"?>
<VTKFile type="ImageData" version="0.1" byte_order="LittleEndian">
<ImageData WholeExtent="${extent}" Origin="${origin.join(' ')}" Spacing="${cell.join(' ')}"><Piece Extent="${extent}">
<CellData>${heads.join('')}</CellData>
</Piece></ImageData>
<AppendedData encoding="raw">_`);
	const after = new TextEncoder().encode('</AppendedData>\n</VTKFile>\n');
	const out = new Uint8Array(before.length + offset + after.length);
	out.set(before);
	const view = new DataView(out.buffer);
	let at = before.length;
	for (const a of arrays) {
		view.setUint32(at, a.values.byteLength, true);
		at += 4;
		for (let i = 0; i < a.values.length; i++, at += 4) view.setFloat32(at, a.values[i]!, true);
	}
	out.set(after, at);
	return out;
}
