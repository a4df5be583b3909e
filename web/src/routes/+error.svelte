<script lang="ts">
	import { page } from '$app/state';
	const gone = $derived(page.status === 404);
</script>

<svelte:head><title>{gone ? 'Not found' : 'Something went wrong'} · Malachite</title></svelte:head>
<main class="mx-auto max-w-xl px-6 py-16">
	<img src="/mark.svg" alt="" class="mb-4 h-10 w-10" />
	<h1 class="text-xl font-semibold">{gone ? 'There is nothing at this address' : 'This page could not be shown'}</h1>
	<p class="my-3">
		{gone ? 'It may be mistyped, or what it led to was deleted.' : (page.error?.message ?? '')}
	</p>
	<p class="flex gap-4">
		{#if !gone}<button class="btn btn-primary btn-sm" onclick={() => location.reload()}>Try again</button>{/if}
		<a class="link" href="/">All projects</a>
	</p>
</main>
