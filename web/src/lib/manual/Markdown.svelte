<script lang="ts">
	import { marked, type Token, type Tokens } from 'marked';
	import { anchorOf } from './pages';

	/** A document of the project as elements; nothing of it becomes markup by itself. */
	let { text }: { text: string } = $props();
	const tokens = $derived(marked.lexer(text));
	/** Links between documents lead to their pages. */
	const address = (href: string) =>
		/^[\w-]+\.md/.test(href) ? `/docs/${href.replace('.md', '')}` : /^(https?:|#|\/)/.test(href) ? href : undefined;
	const plain = (t: string) =>
		t.replaceAll('&quot;', '"').replaceAll('&#39;', '’').replaceAll('&lt;', '<').replaceAll('&gt;', '>').replaceAll('&amp;', '&');
	const inner = (t: Token): Token[] =>
		'tokens' in t && t.tokens ? t.tokens : [{ type: 'raw', raw: 'text' in t ? String(t.text) : t.raw } as Token];
</script>

{#snippet inline(list: Token[])}
	{#each list as t, i (i)}{#if t.type === 'strong'}<strong>{@render inline(inner(t))}</strong>{:else if t.type === 'em'}<em
				>{@render inline(inner(t))}</em
			>{:else if t.type === 'codespan'}<code class="bg-base-200 px-1 text-[13px]">{plain((t as Tokens.Codespan).text)}</code
			>{:else if t.type === 'link'}<a class="link" href={address((t as Tokens.Link).href)}>{@render inline(inner(t))}</a
			>{:else if t.type === 'br'}<br />{:else if 'tokens' in t && t.tokens}{@render inline(t.tokens)}{:else}{plain(
				'text' in t ? String(t.text) : t.raw
			)}{/if}{/each}
{/snippet}

{#snippet blocks(list: Token[])}
	{#each list as t, i (i)}
		{#if t.type === 'heading'}
			{@const h = t as Tokens.Heading}
			<svelte:element
				this={`h${Math.min(h.depth, 4)}`}
				id={anchorOf(h.text)}
				class={h.depth === 1
					? 'mb-3 text-2xl font-semibold'
					: h.depth === 2
						? 'rule mt-6 mb-2 border-b pb-1 text-lg font-semibold'
						: 'mt-4 mb-1 font-semibold'}>{@render inline(inner(t))}</svelte:element
			>
		{:else if t.type === 'paragraph'}<p class="my-2 max-w-[78ch]">{@render inline(inner(t))}</p>
		{:else if t.type === 'code'}<pre class="bg-base-200 my-2 overflow-x-auto p-3 text-[13px]">{(t as Tokens.Code).text}</pre>
		{:else if t.type === 'list'}
			{@const l = t as Tokens.List}
			<svelte:element this={l.ordered ? 'ol' : 'ul'} class="my-2 max-w-[78ch] pl-6 {l.ordered ? 'list-decimal' : 'list-disc'}">
				{#each l.items as item, k (k)}<li class="my-1">{@render blocks(item.tokens)}</li>{/each}
			</svelte:element>
		{:else if t.type === 'table'}
			{@const table = t as Tokens.Table}
			<div class="my-3 overflow-x-auto">
				<table class="plain text-sm">
					<thead
						><tr
							>{#each table.header as c, k (k)}{#if c.text}<th>{@render inline(c.tokens)}</th>{:else}<td></td>{/if}{/each}</tr
						></thead
					>
					<tbody
						>{#each table.rows as row, r (r)}<tr
								>{#each row as c, k (k)}{#if k === 0}<th scope="row">{@render inline(c.tokens)}</th>{:else}<td
											>{@render inline(c.tokens)}</td
										>{/if}{/each}</tr
							>{/each}</tbody
					>
				</table>
			</div>
		{:else if t.type === 'text'}{@render inline(inner(t))}
		{:else if t.type !== 'space' && t.type !== 'html' && t.type !== 'hr'}<p class="my-2">{t.raw}</p>{/if}
	{/each}
{/snippet}

{@render blocks(tokens)}
