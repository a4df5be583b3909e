// Compiles core/kernels/assembly/*.ts to WebAssembly and writes each as a TypeScript module with the bytes in base64.
import { existsSync, mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import asc from 'assemblyscript/asc';

mkdirSync('core/kernels/generated', { recursive: true });
for (const name of ['cholesky', 'field', 'fourier', 'inverse-distance']) {
	const out = `core/kernels/generated/${name}.wasm`;
	const { error, stderr } = await asc.main([
		`core/kernels/assembly/${name}.ts`,
		'--outFile',
		out,
		'--enable',
		'simd',
		'-O3',
		'--noAssert',
		'--runtime',
		'stub',
		'--initialMemory',
		'16',
		'--exportRuntime',
		'--memoryBase',
		'0'
	]);
	if (error) {
		console.error(stderr.toString());
		throw error;
	}
	const base64 = readFileSync(out).toString('base64');
	const text = `/** WebAssembly of core/kernels/assembly/${name}.ts. */\nexport const ${name.replace(/-(.)/g, (_, c) => c.toUpperCase())} = '${base64}';\n`;
	const module = `core/kernels/generated/${name}.ts`;
	// What is the same stays untouched: it may be read just now.
	if (existsSync(module) && readFileSync(module, 'utf8') === text) continue;
	writeFileSync(`${module}.new`, text);
	renameSync(`${module}.new`, module);
}
