/** Hands bytes or text to the browser as a file. */
export function saveBlob(name: string, blob: Blob): void {
	const url = URL.createObjectURL(blob);
	const a = document.createElement('a');
	a.href = url;
	a.download = name.replace(/[\\/:*?"<>|]/g, '-');
	a.click();
	setTimeout(() => URL.revokeObjectURL(url), 10_000);
}

export const saveText = (name: string, text: string, type = 'text/plain'): void => saveBlob(name, new Blob([text], { type }));
