/** What a pane can show. */
export const VIEWS = [
	{ id: 'map', label: 'Map', key: 'm' },
	{ id: 'section', label: 'Section', key: 's' },
	{ id: 'space', label: 'Space', key: 'd' },
	{ id: 'log', label: 'Log', key: 'l' },
	{ id: 'correlation', label: 'Correlation', key: 'r' },
	{ id: 'table', label: 'Table', key: 't' },
	{ id: 'chart', label: 'Chart', key: 'c' },
	{ id: 'profiles', label: 'Profiles', key: 'p' },
	{ id: 'grids', label: 'Grids', key: 'b' },
	{ id: 'net', label: 'Stereonet', key: 'n' },
	{ id: 'lineage', label: 'Lineage', key: 'g' }
] as const;

export type View = (typeof VIEWS)[number]['id'];
