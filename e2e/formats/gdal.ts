import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

// Files of other programs are read to the same values, and files written here are read by them: GDAL from Debian stands for them.
const folder = mkdtempSync(join(tmpdir(), 'malachite-gdal-'));
export const at = (name: string) => join(folder, name);
export const gdal = (command: string, ...args: string[]) =>
	execFileSync(command, args, { encoding: 'utf8', stdio: ['ignore', 'pipe', 'pipe'], env: { ...process.env, CPL_LOG: '/dev/null' } });
export const bytesOf = (name: string) => new Uint8Array(readFileSync(at(name)));
