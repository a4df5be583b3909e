<script lang="ts">
	import { semivariance, type Variogram } from '#core/grades/variogram';

	/** What can be drawn of a report: a histogram, values of one against another, a variogram with its model. */
	let { report }: { report: Readonly<Record<string, unknown>> } = $props();
	const [W, H] = [206, 96];
	const short = (v: number) => String(Number(v.toPrecision(4)));
	const histogram = $derived(report['histogram'] as { limits: number[]; counts: number[] } | undefined);
	const pairs = $derived(report['pairs'] as { first: number; second: number }[] | undefined);
	const lags = $derived(report['lags'] as { distance: number; semivariance: number; pairs: number }[] | undefined);
	const model = $derived(report['variogram'] as { nugget: number; shape: 'spherical'; sill: number; range: number } | undefined);
	const variogram = $derived<Variogram | null>(
		model ? { nugget: model.nugget, structures: [{ shape: model.shape, sill: model.sill, range: model.range }] } : null
	);
	/** Both axes of a scatter have one scale, so that equal values lie on the diagonal. */
	const span = $derived.by((): [number, number] => {
		const all = (pairs ?? []).flatMap((p) => [p.first, p.second]);
		return all.length ? [Math.min(...all), Math.max(...all)] : [0, 1];
	});
	const far = $derived(Math.max(1e-9, ...(lags ?? []).map((l) => l.distance)));
	const high = $derived(Math.max(1e-300, ...(lags ?? []).map((l) => l.semivariance), model ? model.nugget + model.sill : 0) * 1.05);
	const curve = $derived(
		variogram
			? Array.from({ length: 61 }, (_, i) => {
					const h = Math.max(1e-9, (i / 60) * far);
					return `${((W * h) / far).toFixed(1)},${(H - (H * semivariance(variogram, h)) / high).toFixed(1)}`;
				}).join(' ')
			: ''
	);
</script>

{#if histogram && histogram.counts.length > 1}
	{@const most = Math.max(1, ...histogram.counts)}
	<figure class="mt-2">
		<svg viewBox="0 0 {W} 54" class="block w-full" role="img" aria-label="Histogram of the differences">
			{#each histogram.counts as n, i (i)}<rect
					x={(i * W) / histogram.counts.length}
					y={54 - (54 * n) / most}
					width={W / histogram.counts.length - 0.6}
					height={(54 * n) / most}
					fill="var(--color-primary)"
				/>{/each}
		</svg>
		<figcaption class="numbers quiet flex justify-between text-xs">
			<span>{short(histogram.limits[0]!)}</span><span>difference</span><span>{short(histogram.limits.at(-1)!)}</span>
		</figcaption>
	</figure>
{/if}
{#if pairs?.length}
	{@const [low, top] = span}
	{@const at = (v: number) => (top > low ? (v - low) / (top - low) : 0.5)}
	<figure class="mt-2">
		<svg
			viewBox="0 0 {W} {W}"
			class="rule block w-full border"
			role="img"
			aria-label="Values of the second grid against those of the first"
		>
			<path d="M0 {W}L{W} 0" stroke="currentColor" stroke-opacity=".35" stroke-dasharray="4 3" />
			{#each pairs as p, i (i)}<circle
					cx={W * at(p.first)}
					cy={W - W * at(p.second)}
					r="1.3"
					fill="var(--color-info)"
					fill-opacity=".55"
				/>{/each}
		</svg>
		<figcaption class="numbers quiet flex justify-between text-xs">
			<span>{short(low)}</span><span>first across, second up</span><span>{short(top)}</span>
		</figcaption>
	</figure>
{/if}
{#if lags?.length && variogram}
	<figure class="mt-2">
		<svg viewBox="0 0 {W} {H}" class="rule block w-full border-b border-l" role="img" aria-label="Variogram of the readings, and its model">
			<polyline points={curve} fill="none" stroke="var(--color-primary)" stroke-width="1.6" />
			{#each lags as l (l.distance)}<circle
					cx={(W * l.distance) / far}
					cy={H - (H * l.semivariance) / high}
					r="2.6"
					fill="var(--color-base-100)"
					stroke="currentColor"><title>{short(l.distance)}: {short(l.semivariance)}, {l.pairs} pairs</title></circle
				>{/each}
		</svg>
		<figcaption class="numbers quiet flex justify-between text-xs">
			<span>0</span><span>variogram</span><span>{short(far)}</span>
		</figcaption>
	</figure>
{/if}
