<script lang="ts">
	import Dialog from './Dialog.svelte';
	import { singleKeys } from './shortcuts.svelte';

	let { close }: { close: () => void } = $props();
	const KEYS = [
		['1 – 6', 'go to a stage'],
		['M S D L T C N G', 'turn the current pane into map, section, space (3D), log, table, chart, stereonet, lineage'],
		['arrows, + − 0', 'in a picture: move or turn it, zoom, show all'],
		['Space', 'in map or section: read what lies in the middle'],
		['Enter', 'in map or section: press at the middle; with a tool: the next vertex, Backspace takes it back, Shift Enter ends the line'],
		['Page up, Page down', 'in a section: step through the set; in a log: the hole before, the next'],
		['Ctrl K', 'find holes, units, objects, commands and pages of the manual'],
		['Ctrl Z, Ctrl Shift Z', 'undo, redo'],
		['Esc', 'leave a tool, drop the selection'],
		['?', 'this list']
	];
</script>

<Dialog label="Keys" {close}>
	<div class="p-5">
		<h2 class="panel-title mb-2">Keys</h2>
		<table class="plain">
			<tbody
				>{#each KEYS as [key, what] (key)}<tr><td class="coordinates whitespace-nowrap">{key}</td><td>{what}</td></tr>{/each}</tbody
			>
		</table>
		<label class="mt-3 flex items-center gap-2"
			><input
				type="checkbox"
				class="checkbox checkbox-sm"
				checked={singleKeys.on}
				onchange={(e) => singleKeys.set(e.currentTarget.checked)}
			/>shortcuts of one key (1 – 6, M, S, D …)</label
		>
		<p class="quiet mt-3 text-sm">More in the <a class="link" href="/docs">manual</a>.</p>
		<button class="btn btn-sm mt-3" onclick={close}>Close</button>
	</div>
</Dialog>
