const sources = import.meta.glob<string>(
	['../../../../docs/{tour,gather,check,workbench,logs,stratigraphy,grids,modelling,results,expressions,command-line,api}.md'],
	{
		query: '?raw',
		import: 'default',
		eager: true
	}
);

export interface ManualPage {
	/** In its address. */
	name: string;
	title: string;
	text: string;
	headings: { text: string; id: string }[];
}

/** The part of an address that leads to a heading, as hosts of Markdown make it. */
export const anchorOf = (heading: string): string =>
	heading
		.toLowerCase()
		.replace(/[`*_]/g, '')
		.replace(/[^\p{L}\p{N}\s-]/gu, '')
		.trim()
		.replace(/\s+/g, '-');

const ORDER = [
	'tour',
	'gather',
	'check',
	'workbench',
	'logs',
	'stratigraphy',
	'grids',
	'modelling',
	'results',
	'expressions',
	'command-line',
	'api'
];

/** The manual: the documents of the project that are for those who use it, in the order in which they are read. */
export const MANUAL: ManualPage[] = Object.entries(sources)
	.map(([path, text]) => {
		const name = /([\w-]+)\.md$/.exec(path)![1]!;
		const headings = [...text.matchAll(/^#{1,3} (.+)$/gm)].map((m) => ({ text: m[1]!.replace(/[`*]/g, ''), id: anchorOf(m[1]!) }));
		return { name, title: headings[0]?.text ?? name, text, headings };
	})
	.sort((a, b) => ORDER.indexOf(a.name) - ORDER.indexOf(b.name));
