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

export { Chart, type ChartConfiguration };
