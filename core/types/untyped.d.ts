/** Packages that come without types, as far as they are used here. */
declare module 'sql.js/dist/sql-wasm-inline.js' {
	import type { SqlJsStatic } from 'sql.js';
	export default function initSqlJs(): Promise<SqlJsStatic>;
}

declare module 'shpjs' {
	import type { FeatureCollection, Geometry } from 'geojson';
	export function parseShp(shp: ArrayBufferView): Geometry[];
	export function parseDbf(dbf: ArrayBufferView, encoding?: string): Record<string, unknown>[];
	export function combine(parts: [Geometry[], Record<string, unknown>[] | undefined]): FeatureCollection;
}
declare module 'svg-to-pdfkit' {
	interface Options {
		width?: number;
		height?: number;
		assumePt?: boolean;
		fontCallback?: (family: string, bold: boolean, italic: boolean) => string;
		imageCallback?: (link: string) => string;
		warningCallback?: (message: string) => void;
	}
	export default function svgToPdf(document: object, svg: string, x: number, y: number, options?: Options): void;
}
