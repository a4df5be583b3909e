<script lang="ts">
	import { MANUAL } from '$lib/manual/pages';
	import Markdown from '$lib/manual/Markdown.svelte';

	let { data } = $props();
</script>

<svelte:head><title>{data.page.title} · Manual · Malachite</title></svelte:head>

<div class="mx-auto grid max-w-5xl grid-cols-1 gap-8 px-4 py-8 sm:px-6 md:grid-cols-[180px_minmax(0,1fr)]">
	<nav aria-label="Manual" class="text-sm">
		<a href="/" class="mb-3 flex items-center gap-2 font-semibold"><img src="/mark.svg" alt="" class="h-7 w-7" />Malachite</a>
		<ul>
			{#each MANUAL as m (m.name)}
				<li>
					<a
						href="/docs/{m.name}"
						class="block py-1.5 {m.name === data.page.name ? 'text-primary font-medium' : 'hover:underline'}"
						aria-current={m.name === data.page.name ? 'page' : undefined}>{m.title}</a
					>
				</li>
			{/each}
			<li><a class="block py-1.5 hover:underline" href="/api-docs">Operations of the API</a></li>
		</ul>
	</nav>
	<main class="bg-base-100 rule min-w-0 border px-6 py-5"><Markdown text={data.page.text} /></main>
</div>
