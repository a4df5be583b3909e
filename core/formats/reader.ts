import type { Holds, ReadFor } from './known';
import { isZip, zipEntries } from './xlsx';

/** What is seen of a file before it is read. */
export interface FileHead {
	bytes: Uint8Array;
	name: string;
	/** How it begins, byte by byte. */
	text: string;
	/** Names in an archive; none of what is no archive or a damaged one. */
	entries: readonly string[];
}

/** How the files of a format are told by their head, and read. @param Asked which part of a file, or how it is written */
export interface Reader<T, Asked = string> {
	is(head: FileHead): boolean;
	/** @throws ProblemError, or any error of a damaged file */
	read(bytes: Uint8Array, name: string, asked?: Asked): T | Promise<T>;
}

/** A reader for each format of what files hold; what is told first is asked first. */
export type Readers<H extends Holds, T, Asked = string> = { readonly [F in ReadFor<H>]: Reader<T, Asked> };

const HEAD = 4096;

export function headOf(bytes: Uint8Array, name: string): FileHead {
	const safely = () => {
		try {
			return [...zipEntries(bytes, name).keys()];
		} catch {
			return [];
		}
	};
	return { bytes, name, text: new TextDecoder('latin1').decode(bytes.subarray(0, HEAD)), entries: isZip(bytes) ? safely() : [] };
}

/** Which of some formats a file has, by its first bytes, and by its name where these say too little; null when none. */
export function formatAmong<F extends string>(
	readers: Readonly<Record<F, Pick<Reader<unknown>, 'is'>>>,
	bytes: Uint8Array,
	name: string
): F | null {
	const head = headOf(bytes, name);
	return (Object.keys(readers) as F[]).find((f) => readers[f].is(head)) ?? null;
}
