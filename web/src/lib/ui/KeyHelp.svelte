<script lang="ts">
	let { close }: { close: () => void } = $props();
	let button: HTMLButtonElement;
	$effect(() => button.focus());
	const KEYS = [
		['1 – 6', 'go to a stage'],
		['M S D L T C N G', 'turn the current pane into map, section, space (3D), log, table, chart, stereonet, lineage'],
		['arrows, + − 0', 'in a picture: move or turn it, zoom, show all'],
		['Page up, Page down', 'in a section: step through the set; in a log: the hole before, the next'],
		['Ctrl K', 'find holes, units, objects and commands'],
		['Ctrl Z, Ctrl Shift Z', 'undo, redo'],
		['Esc', 'leave a tool, drop the selection'],
		['?', 'this list']
	];
</script>

<div class="fixed inset-0 z-50 bg-black/20" role="presentation" onclick={close}></div>
<div class="bg-base-100 rule fixed top-24 left-1/2 z-50 w-[460px] -translate-x-1/2 border p-5 shadow-xl" role="dialog" aria-label="Keys">
	<h2 class="panel-title mb-2">Keys</h2>
	<table class="plain">
		<tbody
			>{#each KEYS as [key, what] (key)}<tr><td class="coordinates whitespace-nowrap">{key}</td><td>{what}</td></tr>{/each}</tbody
		>
	</table>
	<button bind:this={button} class="btn btn-sm mt-3" onclick={close}>Close</button>
</div>
