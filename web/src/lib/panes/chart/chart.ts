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
import { BoxAndWiskers, BoxPlotController } from '@sgratzl/chartjs-chart-boxplot';

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

export { Chart, type ChartConfiguration };
