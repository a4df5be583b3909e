const modules = new Map<string, WebAssembly.Module>();

/** Makes an instance of a compiled kernel, with a memory of its own. */
export function instantiate<Exports>(base64: string): Exports {
	let module = modules.get(base64);
	if (!module) modules.set(base64, (module = new WebAssembly.Module(Uint8Array.from(atob(base64), (c) => c.charCodeAt(0)))));
	const abort = () => {
		throw new Error('a kernel aborted');
	};
	return new WebAssembly.Instance(module, { env: { abort } }).exports as unknown as Exports;
}

/** A kernel's own data lie below this address. */
export const BASE = 65536;

/** Grows a kernel's memory so that it reaches at least `bytes`. */
export function reach(memory: WebAssembly.Memory, bytes: number): void {
	const missing = bytes - memory.buffer.byteLength;
	if (missing > 0) memory.grow(Math.ceil(missing / 65536));
}
