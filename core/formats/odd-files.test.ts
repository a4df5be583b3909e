import { strToU8, zipSync } from 'fflate';
import { describe, expect, it } from 'vitest';
import { rowOf } from '../tables/raw-table';
import { encodingNamed, decodingOf } from './code-pages';
import { readLas, tableOfLas } from './las';
import { headOf } from './reader';
import { partsOfFile, readTabular, tabularFormat, workbookFormat } from './tabular';
import { readVectors } from './vectors';
import { readAgs, tableOfGroup } from './ags';

const text = (s: string) => new TextEncoder().encode(s);
const dxf = (entities: string, blocks = '') =>
	text(`0\nSECTION\n2\nBLOCKS\n${blocks}0\nENDSEC\n0\nSECTION\n2\nENTITIES\n${entities}0\nENDSEC\n0\nEOF\n`);
const pairs = (...list: (string | number)[]) => list.join('\n') + '\n';

describe('a drawing', () => {
	const lines = async (entities: string, blocks = '') =>
		(await readVectors(dxf(entities, blocks), 'a.dxf')).features.map((f) => (f.geometry as { coordinates: number[][] }).coordinates);
	it('has circles, arcs and ellipses as lines on the curve, within a thousandth of its radius', async () => {
		const [circle, arc, ellipse] = await lines(
			pairs(0, 'CIRCLE', 8, 'c', 10, 100, 20, 50, 40, 10) +
				pairs(0, 'ARC', 8, 'c', 10, 0, 20, 0, 40, 5, 50, 350, 51, 10) +
				pairs(0, 'ELLIPSE', 8, 'c', 10, 0, 20, 0, 11, 8, 21, 0, 40, 0.5, 41, 0, 42, 2 * Math.PI)
		);
		for (const [x, y] of circle!) expect(Math.hypot(x! - 100, y! - 50)).toBeCloseTo(10, 9);
		expect(circle![0]).toEqual(circle!.at(-1));
		const middles = circle!.slice(1).map((p, i) => Math.hypot((p[0]! + circle![i]![0]!) / 2 - 100, (p[1]! + circle![i]![1]!) / 2 - 50));
		expect(10 - Math.min(...middles)).toBeLessThan(0.01);
		expect(arc![0]![1]).toBeCloseTo(5 * Math.sin((-10 * Math.PI) / 180), 9);
		expect(arc!.at(-1)![1]).toBeCloseTo(5 * Math.sin((10 * Math.PI) / 180), 9);
		for (const [x, y] of ellipse!) expect((x! / 8) ** 2 + (y! / 4) ** 2).toBeCloseTo(1, 9);
	});
	it('has bulges as arcs: half a circle between two points', async () => {
		const [line] = await lines(pairs(0, 'LWPOLYLINE', 8, 'b', 90, 2, 70, 0, 10, 0, 20, 0, 42, 1, 10, 10, 20, 0));
		expect(line!.length).toBeGreaterThan(20);
		for (const [x, y] of line!) expect(Math.hypot(x! - 5, y!)).toBeCloseTo(5, 9);
		// A positive bulge runs anticlockwise: below the chord that goes east.
		expect(Math.min(...line!.map((p) => p[1]!))).toBeCloseTo(-5, 6);
	});
	it('has a spline that begins and ends at its ends, and stays a line where its controls are one', async () => {
		const [line] = await lines(
			pairs(
				0,
				'SPLINE',
				8,
				's',
				70,
				8,
				71,
				3,
				...[0, 0, 0, 0, 1, 1, 1, 1].flatMap((k) => [40, k]),
				...[0, 1, 2, 3].flatMap((v) => [10, v, 20, 2 * v, 30, 0])
			)
		);
		expect(line![0]).toEqual([0, 0, 0]);
		expect(line!.at(-1)![0]).toBeCloseTo(3, 12);
		for (const [x, y] of line!) expect(y).toBeCloseTo(2 * x!, 9);
	});
	it('has blocks where they are inserted: moved, scaled, turned, and within each other', async () => {
		const block =
			pairs(0, 'BLOCK', 2, 'MARK', 10, 1, 20, 1) +
			pairs(0, 'LINE', 8, '0', 10, 1, 20, 1, 11, 2, 21, 1) +
			pairs(0, 'ENDBLK') +
			pairs(0, 'BLOCK', 2, 'TWO', 10, 0, 20, 0) +
			pairs(0, 'INSERT', 8, '0', 2, 'MARK', 10, 5, 20, 0) +
			pairs(0, 'ENDBLK');
		const layer = await readVectors(dxf(pairs(0, 'INSERT', 8, 'wells', 2, 'TWO', 10, 100, 20, 200, 41, 2, 42, 2, 50, 90), block), 'a.dxf');
		const [line] = layer.features.map((f) => (f.geometry as { coordinates: number[][] }).coordinates);
		expect(line!.map((p) => p.map((v) => Math.round(v * 1e9) / 1e9))).toEqual([
			[100, 210, 0],
			[100, 212, 0]
		]);
		expect(layer.features[0]!.properties!['layer']).toBe('wells');
	});
	it('that inserts itself has an end', async () => {
		const layer = await readVectors(
			dxf(
				pairs(0, 'INSERT', 8, '0', 2, 'LOOP', 10, 0, 20, 0) + pairs(0, 'POINT', 10, 1, 20, 2),
				pairs(0, 'BLOCK', 2, 'LOOP') + pairs(0, 'INSERT', 8, '0', 2, 'LOOP', 10, 1, 20, 0) + pairs(0, 'ENDBLK')
			),
			'a.dxf'
		);
		expect(layer.features).toHaveLength(1);
		expect(layer.notes!.join()).toContain('nested');
	});
	it('has what is drawn on a plane of its own where that plane is', async () => {
		const [line] = await lines(pairs(0, 'LWPOLYLINE', 8, 'e', 90, 2, 10, 3, 20, 4, 10, 5, 20, 6, 210, 0, 220, 0, 230, -1));
		expect(line!.map((p) => p.slice(0, 2))).toEqual([
			[-3, 4],
			[-5, 6]
		]);
	});
	it('has faces of a mesh, texts as points, and counts what is not read', async () => {
		const mesh =
			pairs(0, 'POLYLINE', 8, 'm', 70, 64, 71, 3, 72, 1) +
			[
				[0, 0, 0],
				[4, 0, 1],
				[0, 4, 2]
			]
				.map(([x, y, z]) => pairs(0, 'VERTEX', 8, 'm', 10, x!, 20, y!, 30, z!, 70, 192))
				.join('') +
			pairs(0, 'VERTEX', 8, 'm', 10, 0, 20, 0, 30, 0, 70, 128, 71, 1, 72, -2, 73, 3) +
			pairs(0, 'SEQEND');
		const layer = await readVectors(
			dxf(mesh + pairs(0, 'TEXT', 8, 't', 10, 7, 20, 8, 1, 'Old shaft') + pairs(0, 'HATCH', 8, 'h') + pairs(0, 'HATCH', 8, 'h')),
			'a.dxf'
		);
		expect(layer.features.map((f) => f.geometry)).toEqual([
			{
				type: 'Polygon',
				coordinates: [
					[
						[0, 0, 0],
						[4, 0, 1],
						[0, 4, 2],
						[0, 0, 0]
					]
				]
			},
			{ type: 'Point', coordinates: [7, 8, 0] }
		]);
		expect(layer.features[1]!.properties!['text']).toBe('Old shaft');
		expect(layer.notes).toEqual(['2 HATCH left out']);
	});
});

describe('a table beside shapes', () => {
	it('knows its letters by name', () => {
		expect(['UTF-8', '1252', 'cp850', 'ANSI 1251', 'ISO 8859-1', '65001', 'no such'].map(encodingNamed)).toEqual([
			'utf-8',
			'windows-1252',
			'cp850',
			'windows-1251',
			'windows-1252',
			'utf-8',
			null
		]);
		const { encoding, mend } = decodingOf('cp850');
		expect(mend(new TextDecoder(encoding).decode(Uint8Array.of(0x84, 0x94, 0x81, 0xe1)))).toBe('äöüß');
	});
});

describe('a KML description', () => {
	it('that is a table becomes properties, one that is markup becomes text', async () => {
		const place = (d: string) =>
			text(
				`<?xml version="1.0"?><kml xmlns="http://www.opengis.net/kml/2.2"><Placemark><name>P</name><description><![CDATA[${d}]]></description><Point><coordinates>1,2</coordinates></Point></Placemark></kml>`
			);
		const of = async (d: string) => (await readVectors(place(d), 'a.kml')).features[0]!.properties!;
		expect(await of('<table><tr><td>Depth</td><td>12&nbsp;m</td></tr><tr><th>Rock</th><td><b>Slate</b></td></tr></table>')).toMatchObject({
			Depth: '12 m',
			Rock: 'Slate'
		});
		expect((await of('<p>An <i>old</i> well<script>alert(1)</script></p>'))['description']).not.toContain('<');
	});
});

const SHEET = (rows: string, more = '') =>
	`<?xml version="1.0"?><worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheetData>${rows}</sheetData>${more}</worksheet>`;
const workbook = (sheet: string, more: Record<string, Uint8Array> = {}) =>
	zipSync({
		'[Content_Types].xml': strToU8(
			'<?xml version="1.0"?><Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="xml" ContentType="application/xml"/></Types>'
		),
		'_rels/.rels': strToU8(
			'<?xml version="1.0"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="rId1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/officeDocument" Target="xl/workbook.xml"/></Relationships>'
		),
		'xl/workbook.xml': strToU8(
			'<?xml version="1.0"?><workbook xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main" xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships"><sheets><sheet name="Log" sheetId="1" r:id="rId1"/></sheets></workbook>'
		),
		'xl/_rels/workbook.xml.rels': strToU8(
			'<?xml version="1.0"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="rId1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/worksheet" Target="worksheets/sheet1.xml"/></Relationships>'
		),
		'xl/worksheets/sheet1.xml': strToU8(sheet),
		...more
	});
const cell = (r: string, v: string) =>
	/^-?[\d.]+$/.test(v) ? `<c r="${r}"><v>${v}</v></c>` : `<c r="${r}" t="inlineStr"><is><t>${v}</t></is></c>`;
const row = (n: number, ...cells: string[]) =>
	`<row r="${n}">${cells.map((v, i) => (v === '' ? '' : cell(`${'ABCDEF'[i]}${n}`, v))).join('')}</row>`;

describe('a workbook', () => {
	it('with a picture in it is a workbook', () => {
		const bytes = workbook(SHEET(row(1, 'hole', 'depth') + row(2, 'A', '5')), {
			'xl/media/logo.png': Uint8Array.of(0x89, 0x50, 0x4e, 0x47)
		});
		expect([workbookFormat(headOf(bytes, '').entries), tabularFormat(bytes)]).toEqual(['xlsx', 'xlsx']);
	});
	it('whose names are merged downwards has them in each row', async () => {
		const raw = await readTabular(
			workbook(
				SHEET(
					row(1, 'hole', 'from', 'to', 'code') +
						row(2, 'A', '0', '5', 'S') +
						row(3, '', '5', '9', 'L') +
						row(4, '', '9', '12', 'M') +
						row(5, 'B', '0', '3', 'S'),
					'<mergeCells count="1"><mergeCell ref="A2:A4"/></mergeCells>'
				)
			),
			'x.xlsx'
		);
		expect(raw.columns[0]).toEqual(['A', 'A', 'A', 'B']);
	});
	it('with two cells a million rows apart is refused before memory is filled', async () => {
		await expect(
			readTabular(workbook(SHEET('<row r="1"><c r="A1"><v>1</v></c></row><row r="1048576"><c r="XFD1048576"><v>2</v></c></row>')), 'x.xlsx')
		).rejects.toThrow('1,048,576 rows and 16,384 columns');
	});
	it('of the other kind (ODS) is read, too: numbers, dates, repeated and merged cells, comments left out', async () => {
		const t = (v: string) => `<table:table-cell office:value-type="string"><text:p>${v}</text:p></table:table-cell>`;
		const n = (v: string, more = '') =>
			`<table:table-cell ${more} office:value-type="float" office:value="${v}"><text:p>shown otherwise</text:p></table:table-cell>`;
		const content = `<office:document-content><office:body><office:spreadsheet><table:table table:name="Log &amp; more"><table:table-row>${t('hole')}${t('from')}${t('to')}${t('date')}</table:table-row><table:table-row><table:table-cell table:number-rows-spanned="2" office:value-type="string"><text:p>A<text:s text:c="2"/>1</text:p></table:table-cell>${n('0')}${n('5.25')}<table:table-cell office:value-type="date" office:date-value="2024-05-31T00:00:00"><office:annotation><text:p>look</text:p></office:annotation><text:p>31.5.</text:p></table:table-cell></table:table-row><table:table-row><table:covered-table-cell/>${n('5.25')}${n('9')}<table:table-cell table:number-columns-repeated="16380"/></table:table-row><table:table-row table:number-rows-repeated="1048570"><table:table-cell table:number-columns-repeated="16384"/></table:table-row></table:table></office:spreadsheet></office:body></office:document-content>`;
		const bytes = zipSync({ mimetype: strToU8('application/vnd.oasis.opendocument.spreadsheet'), 'content.xml': strToU8(content) });
		expect(await partsOfFile(bytes, 'x.ods')).toMatchObject({ format: 'ods', parts: [{ name: 'Log & more', rows: 3 }] });
		const raw = await readTabular(bytes, 'x.ods');
		expect([raw.header, rowOf(raw, 0), rowOf(raw, 1)]).toEqual([
			['hole', 'from', 'to', 'date'],
			['A  1', '0', '5.25', '2024-05-31'],
			['A  1', '5.25', '9', '']
		]);
	});
});

describe('a file that is not whole', () => {
	it('LAS that stops before its STOP says so', () => {
		const las = (stop: number) =>
			tableOfLas(
				readLas(
					text(
						`~Version\nVERS. 2.0:\nWRAP. NO:\n~Well\nSTRT.M 0:\nSTOP.M ${stop}:\nSTEP.M 1:\nNULL. -999:\nWELL. A:\n~Curve\nDEPT.M:\nGR.API:\n~A\n0 5\n1 6\n2 7\n`
					),
					'a.las'
				),
				'a.las'
			);
		expect(las(2).notes).toBeUndefined();
		expect(las(50).notes![0]).toContain('stops at 50, and stops at 2');
	});
	it('AGS that is cut off, or lacks the parents of its rows, says so', () => {
		const group = (name: string, head: string[], ...data: string[][]) =>
			[
				['GROUP', name],
				['HEADING', ...head],
				['UNIT', ...head.map(() => '')],
				['TYPE', ...head.map(() => 'X')],
				...data.map((d) => ['DATA', ...d])
			]
				.map((l) => l.map((c) => `"${c}"`).join(','))
				.join('\r\n') + '\r\n';
		const whole =
			group('PROJ', ['PROJ_ID'], ['1']) +
			'\r\n' +
			group('LOCA', ['LOCA_ID', 'LOCA_NATE'], ['A', '1']) +
			'\r\n' +
			group('GEOL', ['LOCA_ID', 'GEOL_TOP', 'GEOL_BASE'], ['A', '0', '5'], ['Z', '0', '5']);
		const notes = (t: string) => readAgs(text(t), 'a.ags').notes.map((n) => n.message);
		expect(notes(whole).filter((m) => /LOCA/.test(m))).toEqual(['1 hole has no row in LOCA: Z']);
		expect(notes(whole.slice(0, -4)).some((m) => m.includes('cut off'))).toBe(true);
		const { groups, notes: remarks } = readAgs(text(whole), 'a.ags');
		expect(tableOfGroup(groups, 'a.ags', 'GEOL', remarks).notes).toEqual(['GEOL: 1 hole has no row in LOCA: Z']);
	});
});
