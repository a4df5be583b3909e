<svelte:options namespace="svg" />

<script lang="ts">
	import { INK } from '#core/palette';
	import { faceLabels } from '#core/scene/face-labels';
	import type { Face, Place } from './section-drawing';

	interface Props {
		faces: readonly Face[];
		/** What is seen of the section, pixels. */
		frame: { x0: number; x1: number; y0: number; y1: number };
		place: Place;
		alongOf: (x: number) => number;
		elevationOf: (y: number) => number;
	}
	let { faces, frame, place, alongOf, elevationOf }: Props = $props();
	/** By distance and elevation, so that they move with the picture; found anew when it has come to rest. */
	let names = $state.raw<{ along: number; z: number; text: string }[]>([]);
	function find() {
		const named = faces.map(({ info, rings }) => ({
			text: info.name,
			width: 6.2 * info.name.length,
			rings: rings.map((r) => Array.from(r, (v, i) => (i % 2 ? place.Y(v) : place.X(v))))
		}));
		const found = faceLabels(named, [frame.x0 + 4, frame.y0 + 4, frame.x1 - 4, frame.y1 - 4]);
		names = found.map((l) => ({ text: l.text, along: alongOf(l.x), z: elevationOf(l.y) }));
	}
	$effect(() => {
		void [faces, place, frame];
		const rest = setTimeout(find, 120);
		return () => clearTimeout(rest);
	});
</script>

{#each names as l, i (i)}<text
		x={place.X(l.along)}
		y={place.Y(l.z) + 4}
		text-anchor="middle"
		class="pointer-events-none"
		stroke="#fff"
		stroke-opacity=".55"
		stroke-width="3"
		paint-order="stroke"
		fill={INK}>{l.text}</text
	>{/each}
