import type { Scheme, SchemeUnit } from './scheme';

/**
 * Units of the International Chronostratigraphic Chart (International Commission on Stratigraphy, v2023/09) down to epochs, with the age of
 * the base in million years; the top of each is the base of the one before it.
 */
const CHART: readonly (readonly [
	era: string,
	base: number,
	periods: readonly (readonly [string, number, readonly (readonly [string, number])[]])[]
])[] = [
	[
		'Cenozoic',
		66,
		[
			[
				'Quaternary',
				2.58,
				[
					['Holocene', 0.0117],
					['Pleistocene', 2.58]
				]
			],
			[
				'Neogene',
				23.03,
				[
					['Pliocene', 5.333],
					['Miocene', 23.03]
				]
			],
			[
				'Paleogene',
				66,
				[
					['Oligocene', 33.9],
					['Eocene', 56],
					['Paleocene', 66]
				]
			]
		]
	],
	[
		'Mesozoic',
		251.902,
		[
			[
				'Cretaceous',
				145,
				[
					['Upper Cretaceous', 100.5],
					['Lower Cretaceous', 145]
				]
			],
			[
				'Jurassic',
				201.4,
				[
					['Upper Jurassic', 161.5],
					['Middle Jurassic', 174.7],
					['Lower Jurassic', 201.4]
				]
			],
			[
				'Triassic',
				251.902,
				[
					['Upper Triassic', 237],
					['Middle Triassic', 247.2],
					['Lower Triassic', 251.902]
				]
			]
		]
	],
	[
		'Paleozoic',
		538.8,
		[
			[
				'Permian',
				298.9,
				[
					['Lopingian', 259.51],
					['Guadalupian', 273.01],
					['Cisuralian', 298.9]
				]
			],
			[
				'Carboniferous',
				358.9,
				[
					['Pennsylvanian', 323.2],
					['Mississippian', 358.9]
				]
			],
			[
				'Devonian',
				419.2,
				[
					['Upper Devonian', 382.7],
					['Middle Devonian', 393.3],
					['Lower Devonian', 419.2]
				]
			],
			[
				'Silurian',
				443.8,
				[
					['Pridoli', 423],
					['Ludlow', 427.4],
					['Wenlock', 433.4],
					['Llandovery', 443.8]
				]
			],
			[
				'Ordovician',
				485.4,
				[
					['Upper Ordovician', 458.4],
					['Middle Ordovician', 470],
					['Lower Ordovician', 485.4]
				]
			],
			[
				'Cambrian',
				538.8,
				[
					['Furongian', 497],
					['Miaolingian', 509],
					['Series 2', 521],
					['Terreneuvian', 538.8]
				]
			]
		]
	],
	[
		'Neoproterozoic',
		1000,
		[
			['Ediacaran', 635, []],
			['Cryogenian', 720, []],
			['Tonian', 1000, []]
		]
	],
	[
		'Mesoproterozoic',
		1600,
		[
			['Stenian', 1200, []],
			['Ectasian', 1400, []],
			['Calymmian', 1600, []]
		]
	],
	[
		'Paleoproterozoic',
		2500,
		[
			['Statherian', 1800, []],
			['Orosirian', 2050, []],
			['Rhyacian', 2300, []],
			['Siderian', 2500, []]
		]
	],
	['Neoarchean', 2800, []],
	['Mesoarchean', 3200, []],
	['Paleoarchean', 3600, []],
	['Eoarchean', 4031, []]
];

/** The chart as a scheme of eras, periods and epochs. @param colorOf colour of a unit of time by its name */
export function internationalChart(id: string, colorOf: (name: string) => string): Scheme {
	const units: SchemeUnit[] = [];
	let last = 0;
	const put = (name: string, rank: number, parent: string, top: number, base: number): string => {
		const own = name.toLowerCase().replace(/[^a-z0-9]+/g, '-');
		units.push({ id: own, name, rank, parent, top, base, error: null, color: colorOf(name), lithology: '' });
		return own;
	};
	for (const [era, base, periods] of CHART) {
		const eraId = put(era, 0, '', last, base);
		for (const [period, periodBase, epochs] of periods) {
			const periodId = put(period, 1, eraId, last, periodBase);
			for (const [epoch, epochBase] of epochs) {
				put(epoch, 2, periodId, last, epochBase);
				last = epochBase;
			}
			last = periodBase;
		}
		last = base;
	}
	return { id, name: 'International time chart', ranks: ['Era', 'Period', 'Epoch'], units };
}
