import { zlibSync } from 'fflate';

/** An 8-bit RGB picture as PNG (W3C 2003). @param rgb rows from the top, 3 × width × height */
export function writePng(width: number, height: number, rgb: Uint8Array): Uint8Array {
	const raw = new Uint8Array(height * (1 + 3 * width));
	for (let row = 0; row < height; row++) raw.set(rgb.subarray(3 * width * row, 3 * width * (row + 1)), row * (1 + 3 * width) + 1);
	const head = new Uint8Array(13);
	const v = new DataView(head.buffer);
	v.setUint32(0, width);
	v.setUint32(4, height);
	head.set([8, 2, 0, 0, 0], 8);
	const parts = [
		new Uint8Array([0x89, 0x50, 0x4e, 0x47, 13, 10, 26, 10]),
		chunk('IHDR', head),
		chunk('IDAT', zlibSync(raw)),
		chunk('IEND', new Uint8Array(0))
	];
	const out = new Uint8Array(parts.reduce((n, p) => n + p.length, 0));
	let at = 0;
	for (const p of parts) {
		out.set(p, at);
		at += p.length;
	}
	return out;
}

function chunk(type: string, data: Uint8Array): Uint8Array {
	const out = new Uint8Array(12 + data.length);
	const v = new DataView(out.buffer);
	v.setUint32(0, data.length);
	out.set(new TextEncoder().encode(type), 4);
	out.set(data, 8);
	v.setUint32(8 + data.length, crc(out.subarray(4, 8 + data.length)));
	return out;
}

const CRC = Uint32Array.from({ length: 256 }, (_, n) => {
	let c = n;
	for (let k = 0; k < 8; k++) c = c & 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1;
	return c;
});

function crc(bytes: Uint8Array): number {
	let c = 0xffffffff;
	for (const b of bytes) c = CRC[(c ^ b) & 255]! ^ (c >>> 8);
	return (c ^ 0xffffffff) >>> 0;
}
