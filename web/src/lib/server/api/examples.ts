/** A body of each operation that is not plain from its schema, as someone would send it; the tests hold each against its schema. */
export const EXAMPLES: Readonly<Record<string, unknown>> = {
	createProject: { name: 'Isle of Tarrow', author: 'Tarrow Survey', crs: 32628, lengthUnit: 'm' },
	patchProject: { extent: { minX: 400000, minY: 4990000, minZ: -450, maxX: 406000, maxY: 4995000, maxZ: 450 }, revision: 3 },
	importFile: {
		fileId: '6f1f2c1e-8f0a-4c0d-9a53-0d7b1f0f2a11',
		name: 'Collars',
		as: 'table',
		kind: 'collars',
		mapping: { HoleID: 'hole', Easting: 'easting', Northing: 'northing', Elevation: 'elevation', Depth: 'totalDepth' }
	},
	deleteSources: { objects: ['6f1f2c1e-8f0a-4c0d-9a53-0d7b1f0f2a11', '0f3f2d5e-1a2b-4c3d-8e9f-a0b1c2d3e4f5'] },
	takeFirstSteps: { take: ['units', 'extent', 'spacing', 'section'] },
	setColumn: {
		units: [
			{ id: 'tuff', name: 'Hask Tuff', color: '#C98B7B', contact: 'erosional' },
			{ id: 'slate', name: 'Skerra Slate', color: '#666B85', contact: 'conformable' }
		],
		revision: 4
	},
	setLumping: { codes: { TUF: 'tuff', Tuff: 'tuff', SLA: 'slate' }, revision: 2 },
	setFaults: {
		faults: [
			{
				id: 'sallow',
				name: 'Sallow Fault',
				trace: [
					[403200, 4990200],
					[404100, 4994800]
				],
				dip: 70,
				dipAzimuth: 95,
				youngestCut: 'slate',
				halfWidth: 5,
				on: true,
				uncertainty: 10
			}
		],
		revision: 5
	},
	setSection: {
		trace: [
			[400700, 4992200],
			[405600, 4993000]
		],
		corridor: 250,
		revision: 6
	},
	addSections: {
		sections: [
			{
				name: 'Adit',
				trace: [
					[401200, 4992900],
					[402900, 4993300]
				],
				corridor: 80,
				exaggeration: 2,
				set: 'Underground'
			}
		]
	},
	removeSections: { ids: ['6f1f2c1e-8f0a-4c0d-9a53-0d7b1f0f2a11'] },
	changeSections: { sections: [{ id: '6f1f2c1e-8f0a-4c0d-9a53-0d7b1f0f2a11', revision: 1, name: 'Old adit', exaggeration: null }] },
	setSpacing: { spacing: 40, leastPart: 20000, finer: { surfaces: [{ unit: 'tuff', spacing: 20 }], units: [], dense: false }, revision: 2 },
	editRow: { column: 'Depth', value: '120.5', revision: 7 },
	editCells: { cells: [{ n: 12, column: 'Lithology', value: 'SST' }], revision: 7 },
	mend: { rule: 'overlap', mend: 'exclude', rows: [17, 18], revision: 7 },
	previewMend: { rule: 'overlap', mend: 'exclude', rows: [17, 18] },
	newLog: { of: '6f1f2c1e-8f0a-4c0d-9a53-0d7b1f0f2a11', name: 'Lithology, coarse', recode: { TUF: 'volcanic', LAV: 'volcanic' } },
	setRecode: { recode: { TUF: 'volcanic' }, revision: 3 },
	pickIntervals: { rule: { by: 'thin', thinner: 0.5, between: 'same' } },
	previewRelog: { act: { do: 'dissolve', rows: [12, 17], into: 'nearest' } },
	relog: { act: { do: 'give', rows: [12, 17], code: 'slate' }, note: 'seen in the photographs', revision: 4 },
	restoreIntervals: { rows: [12], revision: 5 },
	markSeen: { table: '6f1f2c1e-8f0a-4c0d-9a53-0d7b1f0f2a11', rule: 'gap', rows: [31], seen: true, reason: 'open hole, as drilled' },
	setRules: { rules: { gap: { severity: 'noted', bounds: { least: 0.5 } } }, accept: false, revision: 1 },
	setCalculated: { columns: [{ name: 'W + Sn', expression: 'WO3_ppm + Sn_ppm' }], revision: 7 },
	keepModel: { name: 'Before the northern holes' },
	undo: { change: 118 },
	redo: { change: 118 }
};
