/**
 * Colours of the International Chronostratigraphic Chart (International Commission on Stratigraphy; colours by the Commission for the
 * Geological Map of the World), by the names of eons, eras, periods, epochs.
 */
const CHART: Record<string, string> = {
	Phanerozoic: '#9AD9DD',
	Cenozoic: '#F2F91D',
	Quaternary: '#F9F97F',
	Holocene: '#FEF2E0',
	Pleistocene: '#FFF2AE',
	Neogene: '#FFE619',
	Pliocene: '#FFFF99',
	Miocene: '#FFFF00',
	Paleogene: '#FD9A52',
	Oligocene: '#FDC07A',
	Eocene: '#FDB46C',
	Paleocene: '#FDA75F',
	Mesozoic: '#67C5CA',
	Cretaceous: '#7FC64E',
	'Upper Cretaceous': '#A6D84A',
	'Lower Cretaceous': '#8CCD57',
	Jurassic: '#34B2C9',
	'Upper Jurassic': '#B3E3EE',
	'Middle Jurassic': '#80CFD8',
	'Lower Jurassic': '#42AED0',
	Triassic: '#812B92',
	'Upper Triassic': '#BD8CC3',
	'Middle Triassic': '#B168B1',
	'Lower Triassic': '#983999',
	Paleozoic: '#99C08D',
	Permian: '#F04028',
	Lopingian: '#FBA794',
	Guadalupian: '#FB745C',
	Cisuralian: '#EF5845',
	Carboniferous: '#67A599',
	Pennsylvanian: '#99C2B5',
	Mississippian: '#678F66',
	Devonian: '#CB8C37',
	'Upper Devonian': '#F1E19D',
	'Middle Devonian': '#F1C868',
	'Lower Devonian': '#E5AC4D',
	Silurian: '#B3E1B6',
	Pridoli: '#E6F5E1',
	Ludlow: '#BFE6CF',
	Wenlock: '#B3E1C2',
	Llandovery: '#99D7B3',
	Ordovician: '#009270',
	'Upper Ordovician': '#7FCA93',
	'Middle Ordovician': '#4DB47E',
	'Lower Ordovician': '#1A9D6F',
	Cambrian: '#7FA056',
	Furongian: '#B3E095',
	Miaolingian: '#A6CF86',
	Terreneuvian: '#8CB06C',
	Proterozoic: '#F73563',
	Neoproterozoic: '#FEB342',
	Ediacaran: '#FED96A',
	Cryogenian: '#FECC5C',
	Tonian: '#FEBF4E',
	Mesoproterozoic: '#FDB462',
	Stenian: '#FED99A',
	Ectasian: '#FDCC8A',
	Calymmian: '#FDC07A',
	Paleoproterozoic: '#F74370',
	Statherian: '#F875A7',
	Orosirian: '#F76898',
	Rhyacian: '#F75B89',
	Siderian: '#F74F7C',
	Archean: '#F0047F',
	Neoarchean: '#F99BC1',
	Mesoarchean: '#F768A9',
	Paleoarchean: '#F4449F',
	Eoarchean: '#DA037F',
	Hadean: '#AE027E'
};

const plain = (name: string) =>
	name
		.toLowerCase()
		.replace(/palaeo/g, 'paleo')
		.replace(/archaean/g, 'archean')
		.replace(/\b(late|upper)\b/g, 'upper')
		.replace(/\b(early|lower)\b/g, 'lower')
		.replace(/\bmid\b/g, 'middle')
		.trim();
const BY_NAME = new Map(Object.entries(CHART).map(([name, color]) => [plain(name), color]));

/** Colour of a name of the chart; British spellings, late and early instead of upper and lower are understood. Null for other names. */
export const timeColor = (name: string): string | null => BY_NAME.get(plain(name)) ?? null;
