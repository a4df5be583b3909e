import PDFDocument from 'pdfkit';
import svgToPdf from 'svg-to-pdfkit';
import type { Page } from '#core/logs/pages';

const POINTS_PER_MM = 72 / 25.4;

/**
 * Pages of SVG in mm as a PDF of the same true size. Nothing that a drawing names is read from disk or network.
 * @param fonts files of the regular and the bold face
 */
export function writePdf(pages: readonly Page[], title: string, fonts: readonly string[]): Promise<Uint8Array> {
	const [regular, bold = regular] = fonts;
	const document = new PDFDocument({
		autoFirstPage: false,
		compress: true,
		info: { Title: title, Creator: 'Malachite' },
		...(regular ? { font: regular } : {})
	});
	if (regular) document.registerFont('regular', regular).registerFont('bold', bold!);
	const parts: Uint8Array[] = [];
	const done = new Promise<Uint8Array>((resolve, reject) => {
		document.on('data', (part: Uint8Array) => parts.push(part));
		document.on('end', () => resolve(new Uint8Array(Buffer.concat(parts))));
		document.on('error', reject);
	});
	for (const p of pages) {
		const [width, height] = [p.width * POINTS_PER_MM, p.height * POINTS_PER_MM];
		document.addPage({ size: [width, height], margin: 0 });
		// The size in mm is that of the page already: given to this writer, too, it would be taken for pixels and shrink the drawing.
		svgToPdf(document, p.svg.replace(/width="[\d.]+mm" height="[\d.]+mm"/, `width="${width}" height="${height}"`), 0, 0, {
			width,
			height,
			assumePt: true,
			fontCallback: (_family, isBold) => (regular ? (isBold ? 'bold' : 'regular') : isBold ? 'Helvetica-Bold' : 'Helvetica'),
			imageCallback: (link) => (link.startsWith('data:image/') ? link : ''),
			warningCallback: () => {}
		});
	}
	document.end();
	return done;
}
