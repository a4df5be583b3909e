<script lang="ts">
	let { data } = $props();
</script>

<svelte:head><title>API · Malachite</title></svelte:head>
{#snippet json(value: unknown)}
	<pre class="bg-base-100 rule overflow-x-auto border p-2">{JSON.stringify(value, null, 2)}</pre>
{/snippet}
<main class="mx-auto max-w-4xl px-6 py-8">
	<h1 class="text-2xl font-semibold">API, version {data.version}</h1>
	<p class="mt-1 mb-4">
		Everything that the screens do goes through these operations, below <code>/api/v1</code>. Machine-readable:
		<a class="link" href="/api/v1/openapi.json" data-sveltekit-reload>openapi.json</a>. Errors are <code>application/problem+json</code>
		with <code>title</code>,
		<code>hint</code> and, for invalid input, the path of each field.
	</p>
	{#each data.groups as [tag, list] (tag)}
		<h2 class="rule mt-6 mb-2 border-b text-lg font-semibold">{tag}</h2>
		{#each list ?? [] as o (o.operationId)}
			{@const [status, answer] = Object.entries(o.responses)[0]!}
			{@const [media, told] = Object.entries(answer.content)[0]!}
			<article class="mb-4">
				<p><span class="text-primary font-semibold uppercase">{o.method}</span> <code>{o.path}</code></p>
				<p>{o.summary}. <span class="quiet">{answer.description}.</span></p>
				{#if o.parameters?.some((p) => p.in === 'query')}<p class="text-sm">
						Query: {#each o.parameters.filter((p) => p.in === 'query') as p (p.name)}<code class="mr-2"
								>{p.name}{p.required ? ' *' : ''}</code
							>{/each}
					</p>{/if}
				{#if o.requestBody}
					{@const body = Object.values(o.requestBody.content)[0]!}
					<details class="text-sm">
						<summary class="cursor-pointer">Body</summary>
						{#if body.example}<p class="quiet mt-1">For example</p>
							{@render json(body.example)}{/if}
						{@render json(body.schema)}
					</details>
				{/if}
				<details class="text-sm">
					<summary class="cursor-pointer">Answer {status}, {media}</summary>
					{@render json(told.schema)}
				</details>
			</article>
		{/each}
	{/each}
</main>
