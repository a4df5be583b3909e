<script lang="ts">
	import { FAULT_RED } from '#core/palette';
	import type { FaultSpec } from '#core/model/ground';
	import type { Unit } from '#core/units/column';

	/**
	 * The faults as a small drawing: a column for each, from the youngest unit that it cuts downwards; a line to the fault that it ends
	 * on, a rounded end where it dies out, dashed when it is off.
	 */
	let {
		faults,
		units,
		choose,
		chosen = null
	}: { faults: FaultSpec[]; units: Unit[]; choose: (id: string) => void; chosen?: string | null } = $props();
	const WIDTH = 296;
	const ROW = 13;
	const TOP = 16;
	const left = 78;
	const x = (i: number) => left + 18 + ((i * (WIDTH - left - 30)) / Math.max(1, faults.length - 1 || 1)) * (faults.length > 1 ? 1 : 0.5);
	const first = (f: FaultSpec) =>
		Math.max(
			0,
			units.findIndex((u) => u.id === f.youngestCut)
		);
	const bottom = $derived(TOP + units.length * ROW);
	const spoken = (f: FaultSpec) =>
		`${f.name}: cuts ${units[first(f)]?.name ?? 'nothing'} and older${f.endsOn ? `, ends on ${faults.find((o) => o.id === f.endsOn)?.name ?? '?'}` : ''}${f.tips ? ', dies out' : ''}${f.on ? '' : ', off'}`;
</script>

<figure class="mb-3">
	<svg
		width={WIDTH}
		height={bottom + 12}
		viewBox="0 0 {WIDTH} {bottom + 12}"
		class="font-condensed block text-[11px]"
		role="group"
		aria-label="What the faults cut, and on what they end"
	>
		{#each units as u, r (u.id)}
			<rect x="0" y={TOP + r * ROW} width={WIDTH} height={ROW} fill={u.color} opacity=".38" />
			<text x="3" y={TOP + r * ROW + 10} fill="currentColor">{u.name.length > 15 ? `${u.name.slice(0, 14)}…` : u.name}</text>
		{/each}
		{#each faults as f, i (f.id)}
			{@const o = faults.findIndex((q) => q.id === f.endsOn)}
			{@const y0 = TOP + first(f) * ROW}
			<g
				role="button"
				tabindex="0"
				aria-label={spoken(f)}
				aria-pressed={chosen === f.id}
				class="cursor-pointer"
				onclick={() => choose(f.id)}
				onkeydown={(e) => (e.key === 'Enter' || e.key === ' ') && (e.preventDefault(), choose(f.id))}
			>
				<title>{spoken(f)}</title>
				<rect x={x(i) - 9} y={TOP} width="18" height={bottom - TOP} fill="transparent" />
				<path
					d="M{x(i)} {y0}V{f.tips ? bottom - 6 : bottom}"
					stroke={FAULT_RED}
					stroke-width={chosen === f.id ? 4 : 2.4}
					stroke-dasharray={f.on ? '' : '3 3'}
					fill="none"
				/>
				{#if f.tips}<circle cx={x(i)} cy={bottom - 4} r="3.4" fill="none" stroke={FAULT_RED} stroke-width="1.6" />{/if}
				{#if o >= 0}<path d="M{x(i)} {y0 + 5}H{x(o)}" stroke={FAULT_RED} stroke-width="1.2" fill="none" /><circle
						cx={x(o)}
						cy={y0 + 5}
						r="2.6"
						fill={FAULT_RED}
					/>{/if}
				<text x={x(i)} y="11" text-anchor="middle" fill="currentColor" font-weight={chosen === f.id ? 600 : 400}
					>{f.name.replace(/\s*fault\s*/i, '').slice(0, 9) || i + 1}</text
				>
			</g>
		{/each}
	</svg>
	<figcaption class="quiet text-xs">
		Each line begins at the youngest unit that its fault cuts; a dot is where it ends on another, a ring that it dies out.
	</figcaption>
</figure>
