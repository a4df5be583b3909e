import {
	BarController,
	BarElement,
	CategoryScale,
	Chart,
	Legend,
	LinearScale,
	LineController,
	LineElement,
	LogarithmicScale,
	PointElement,
	ScatterController,
	Ticks,
	Tooltip,
	type ChartConfiguration
} from 'chart.js';
import { AXES } from '#core/palette';
import { BoxAndWiskers, BoxPlotController } from '@sgratzl/chartjs-chart-boxplot';
import { sheetOf } from '../sheet';

Chart.register(
	BarController,
	BarElement,
	CategoryScale,
	Legend,
	LinearScale,
	LineController,
	LineElement,
	LogarithmicScale,
	PointElement,
	ScatterController,
	Tooltip,
	BoxPlotController,
	BoxAndWiskers
);
Chart.defaults.font.family = '"IBM Plex Sans Condensed", "IBM Plex Sans", sans-serif';
Chart.defaults.font.size = 12;
// Thousands are parted by a thin space, as everywhere.
Chart.defaults.locale = 'en';
Chart.defaults.scales.linear.ticks.callback = function (value, index, ticks) {
	return Ticks.formatters.numeric.call(this, Number(value), index, ticks).replaceAll(',', '\u2009');
};

/** Text and lines of all axes as they are now; what is saved is on paper, and always as by day. */
let axes: readonly [string, string] = AXES.day;
// As functions, so that a chart that stands takes them when it is drawn again.
const [text, line] = [() => axes[0], () => axes[1]];
Chart.defaults.set('scale', { ticks: { color: text }, title: { color: text }, grid: { color: line }, border: { color: line } });
function dress(as: keyof typeof AXES): void {
	axes = AXES[as];
	for (const chart of Object.values(Chart.instances)) chart.update('none');
}
const asThePage = () => dress(document.documentElement.dataset['theme'] === 'malachite-night' ? 'night' : 'day');
if (typeof document !== 'undefined') {
	asThePage();
	new MutationObserver(asThePage).observe(document.documentElement, { attributes: true, attributeFilter: ['data-theme'] });
}

/** A chart as a picture on paper, drawn anew at the size that is wanted. @param width pixels */
export function chartPicture(chart: Chart, width: number, height: number): HTMLCanvasElement {
	const { canvas } = chart;
	const parent = canvas.parentElement!;
	const ratio = Math.max(width / parent.clientWidth, height / parent.clientHeight);
	const was = chart.options.devicePixelRatio;
	try {
		chart.options.devicePixelRatio = ratio;
		chart.resize(Math.round(width / ratio), Math.round(height / ratio));
		dress('day');
		const out = sheetOf(width, height);
		out.context.drawImage(canvas, 0, 0, width, height);
		return out.canvas;
	} finally {
		chart.options.devicePixelRatio = was ?? window.devicePixelRatio;
		chart.resize();
		asThePage();
	}
}

export { Chart, type ChartConfiguration };
