import { Document, NodeIO } from '@gltf-transform/core';
import type { TriangleMesh } from '../mesh/extract';

/** A mesh with a name and a colour, as it goes into a file. */
export interface NamedMesh {
	name: string;
	/** `#rrggbb` */
	color: string;
	mesh: TriangleMesh;
}

/** Names in files: letters, digits, dash and underscore only. */
export const fileName = (name: string): string =>
	name
		.normalize('NFKD')
		.replace(/[^\w-]+/g, '_')
		.replace(/^_+|_+$/g, '') || 'unnamed';

const oneLine = (text: string) => text.replace(/[\r\n]+/g, ' ');

/** Vertices as text, full precision, one a line: the same mesh is often written in several formats. */
const written = new WeakMap<TriangleMesh, string[]>();

function vertexLines(mesh: TriangleMesh): string[] {
	let lines = written.get(mesh);
	if (!lines) {
		const p = mesh.positions;
		lines = new Array<string>(p.length / 3);
		for (let v = 0, i = 0; i < p.length; v++, i += 3) lines[v] = `${p[i]} ${p[i + 1]} ${p[i + 2]}`;
		written.set(mesh, lines);
	}
	return lines;
}

/** Triangles as text, one a line, their vertex numbers counted from `base`. */
function triangleLines(mesh: TriangleMesh, base: number, before = ''): string[] {
	const t = mesh.triangles;
	const lines = new Array<string>(t.length / 3);
	for (let k = 0, i = 0; i < t.length; k++, i += 3) lines[k] = `${before}${t[i]! + base} ${t[i + 1]! + base} ${t[i + 2]! + base}`;
	return lines;
}

/** Wavefront OBJ, one group a mesh, full precision. */
export function writeObj(meshes: readonly NamedMesh[]): string {
	const out: string[] = ['# coordinates: easting northing elevation'];
	let base = 1;
	for (const { name, mesh } of meshes) {
		out.push(`g ${fileName(name)}`);
		const vertices = vertexLines(mesh);
		if (vertices.length) out.push(`v ${vertices.join('\nv ')}`);
		const triangles = triangleLines(mesh, base, 'f ');
		if (triangles.length) out.push(triangles.join('\n'));
		base += mesh.positions.length / 3;
	}
	return out.join('\n') + '\n';
}

/**
 * Binary STL, little endian as every machine that runs this. Its numbers have 24 bits, so coordinates are written relative to `origin`, which stands in the header.
 */
export function writeStl(meshes: readonly NamedMesh[], origin: readonly [number, number, number]): Uint8Array {
	const count = meshes.reduce((n, m) => n + m.mesh.triangles.length / 3, 0);
	const bytes = new Uint8Array(84 + 50 * count);
	const view = new DataView(bytes.buffer);
	new TextEncoder().encodeInto(`origin ${origin.join(' ')}`, bytes.subarray(0, 80));
	view.setUint32(80, count, true);
	const record = new Float32Array(12);
	const recordBytes = new Uint8Array(record.buffer);
	let o = 84;
	for (const { mesh } of meshes)
		for (let t = 0; t < mesh.triangles.length; t += 3) {
			for (let i = 0; i < 3; i++)
				for (let c = 0; c < 3; c++) record[3 + 3 * i + c] = mesh.positions[3 * mesh.triangles[t + i]! + c]! - origin[c]!;
			const [ux, uy, uz] = [record[6]! - record[3]!, record[7]! - record[4]!, record[8]! - record[5]!];
			const [wx, wy, wz] = [record[9]! - record[3]!, record[10]! - record[4]!, record[11]! - record[5]!];
			const [nx, ny, nz] = [uy * wz - uz * wy, uz * wx - ux * wz, ux * wy - uy * wx];
			const l = Math.sqrt(nx * nx + ny * ny + nz * nz) || 1;
			record[0] = nx / l;
			record[1] = ny / l;
			record[2] = nz / l;
			bytes.set(recordBytes, o);
			o += 50;
		}
	return bytes;
}

/**
 * Binary glTF. The format is right-handed with Y up, so (easting, elevation, −northing) is written, relative to `origin`: its numbers
 * have 24 bits. A node above all meshes moves them to where they belong, in any program that reads the format.
 */
export async function writeGltf(meshes: readonly NamedMesh[], origin: readonly [number, number, number]): Promise<Uint8Array> {
	const document = new Document();
	const buffer = document.createBuffer();
	const place = document.createNode('origin').setTranslation([origin[0], origin[2], -origin[1]]);
	document.createScene('model').setExtras({ axes: 'x east, y up, z south' }).addChild(place);
	for (const { name, color, mesh } of meshes) {
		const positions = new Float32Array(mesh.positions.length);
		for (let i = 0; i < positions.length; i += 3) {
			positions[i] = mesh.positions[i]! - origin[0];
			positions[i + 1] = mesh.positions[i + 2]! - origin[2];
			positions[i + 2] = -(mesh.positions[i + 1]! - origin[1]);
		}
		const rgb = [1, 3, 5].map((i) => (parseInt(color.slice(i, i + 2), 16) / 255) ** 2.2) as [number, number, number];
		const material = document
			.createMaterial(name)
			.setBaseColorFactor([...rgb, 1])
			.setRoughnessFactor(0.9)
			.setMetallicFactor(0)
			.setDoubleSided(true);
		const primitive = document
			.createPrimitive()
			.setAttribute('POSITION', document.createAccessor().setType('VEC3').setArray(positions).setBuffer(buffer))
			.setIndices(document.createAccessor().setType('SCALAR').setArray(mesh.triangles.slice()).setBuffer(buffer))
			.setMaterial(material);
		place.addChild(document.createNode(name).setMesh(document.createMesh(name).addPrimitive(primitive)));
	}
	return new NodeIO().writeBinary(document);
}

/** VTK XML polygonal data, ASCII, full precision, with the number of each mesh as cell data `part` and their names as field data `parts`. */
export function writeVtp(meshes: readonly NamedMesh[]): string {
	const points: string[] = [];
	const cells: string[] = [];
	const parts: string[] = [];
	let [base, count] = [0, 0];
	meshes.forEach(({ mesh }, part) => {
		const vertices = vertexLines(mesh);
		const triangles = triangleLines(mesh, base);
		if (vertices.length) points.push(vertices.join('\n'));
		if (triangles.length) {
			cells.push(triangles.join('\n'));
			parts.push(`${part} `.repeat(triangles.length - 1) + part);
		}
		base += vertices.length;
		count += triangles.length;
	});
	const offsets = Array.from({ length: count }, (_, i) => 3 * (i + 1)).join(' ');
	// Text in ASCII arrays is written as the numbers of its bytes, each name ended by a zero.
	const names = meshes.map((m) => [...new TextEncoder().encode(oneLine(m.name)), 0].join(' ')).join(' ');
	return `<?xml version="1.0"?>
<VTKFile type="PolyData" version="0.1" byte_order="LittleEndian">
<PolyData><FieldData><DataArray type="String" Name="parts" NumberOfTuples="${meshes.length}" format="ascii">${names}</DataArray></FieldData>
<Piece NumberOfPoints="${base}" NumberOfVerts="0" NumberOfLines="0" NumberOfStrips="0" NumberOfPolys="${count}">
<CellData Scalars="part"><DataArray type="Int32" Name="part" format="ascii">${parts.join(' ')}</DataArray></CellData>
<Points><DataArray type="Float64" NumberOfComponents="3" format="ascii">
${points.join('\n')}
</DataArray></Points>
<Polys><DataArray type="Int32" Name="connectivity" format="ascii">
${cells.join('\n')}
</DataArray><DataArray type="Int32" Name="offsets" format="ascii">${offsets}</DataArray></Polys>
</Piece></PolyData>
</VTKFile>
`;
}

/** Writes a surface as binary PLY with double coordinates. */
export function writePly(mesh: TriangleMesh): Uint8Array {
	const vertices = mesh.positions.length / 3;
	const faces = mesh.triangles.length / 3;
	const head = new TextEncoder().encode(
		`ply\nformat binary_little_endian 1.0\nelement vertex ${vertices}\nproperty double x\nproperty double y\nproperty double z\nelement face ${faces}\nproperty list uchar uint vertex_indices\nend_header\n`
	);
	const bytes = new Uint8Array(head.length + 24 * vertices + 13 * faces);
	bytes.set(head);
	const view = new DataView(bytes.buffer);
	let at = head.length;
	for (const v of mesh.positions) {
		view.setFloat64(at, v, true);
		at += 8;
	}
	for (let t = 0; t < mesh.triangles.length; t += 3) {
		view.setUint8(at++, 3);
		for (let k = 0; k < 3; k++) {
			view.setUint32(at, mesh.triangles[t + k]!, true);
			at += 4;
		}
	}
	return bytes;
}
