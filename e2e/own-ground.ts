import { seededRandom } from '#core/statistics/random';

/** Files of a ground that is not the demo: forty holes with messy spellings, one of them with a digit lost in its easting. */
export function ownGround(seed = 5, holes = 40): Record<string, string> {
	const { uniform } = seededRandom(seed);
	const [x0, y0] = [512_000, 6_645_000];
	const files: Record<string, string[]> = {
		'bh_collars.csv': ['BHID,East,North,RL,EOH'],
		'bh_log.csv': ['BHID,From,To,Lith'],
		'assay.csv': ['BHID,From,To,Cu_pct']
	};
	for (let i = 0; i < holes; i++) {
		const name = `BH${String(i + 1).padStart(3, '0')}`;
		const [x, y] = [x0 + 90 * (i % 8) + 20 * uniform(), y0 + 90 * Math.floor(i / 8) + 20 * uniform()];
		files['bh_collars.csv']!.push([name, (i === 17 ? x / 10 : x).toFixed(1), y.toFixed(1), '240.0', '120'].join());
		const bases = [8 + 2 * uniform(), 40 + 0.02 * (x - x0), 75 + 0.02 * (x - x0), 120];
		['Till', 'Shale', 'Limestone', 'Granite'].forEach((code, k) => {
			const spelled = uniform() < 0.1 ? code.toUpperCase() : uniform() < 0.03 ? 'no core' : code;
			files['bh_log.csv']!.push([name, k ? bases[k - 1]!.toFixed(1) : '0', bases[k]!.toFixed(1), spelled].join());
		});
		for (let d = 0; d < 120; d += 20) files['assay.csv']!.push([name, d, d + 20, (0.4 * uniform()).toFixed(3)].join());
	}
	const terrain = ['ncols 20', 'nrows 20', `xllcorner ${x0 - 100}`, `yllcorner ${y0 - 100}`, 'cellsize 50', 'NODATA_value -9999'];
	for (let j = 0; j < 20; j++) terrain.push(Array.from({ length: 20 }, () => '240.0').join(' '));
	return {
		...Object.fromEntries(Object.entries(files).map(([name, lines]) => [name, `${lines.join('\n')}\n`])),
		'dem.asc': `${terrain.join('\n')}\n`
	};
}
