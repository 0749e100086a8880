<script lang="ts">
  import { tick } from 'svelte';
  import { api, got } from '../../lib/api';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { ask } from '../../lib/query.svelte';
  import { href, type Query } from '../../lib/router.svelte';
  import GuideText from './GuideText.svelte';

  /** The guide, at the part that is asked for. */
  let { query = {} }: { query?: Query } = $props();
  const name = $derived(query.of ?? 'getting-started');
  const pages = ask(
    [],
    () => ['guide'],
    (signal) => got(api.GET('/api/v1/guide', { signal }))
  );
  const page = ask(
    [],
    () => ['guide', name],
    (signal) => got(api.GET('/api/v1/guide/{name}', { params: { path: { name } }, signal }))
  );
  const shown = $derived(page.data?.name === name ? page.data : null);
  $effect(() => {
    const part = query.part;
    if (shown && part) void tick().then(() => document.getElementById(part)?.scrollIntoView());
  });
</script>

<svelte:head><title>{shown?.title ?? 'Guide'} · Yugum</title></svelte:head>
<ProblemNote problem={page.problem ?? pages.problem} />
<div class="guide">
  <nav aria-label="Guide">
    {#each pages.data ?? [] as one (one.name)}
      <a
        href={href({ page: 'guide', query: { of: one.name } })}
        aria-current={one.name === name ? 'page' : undefined}>{one.title.split(':')[0]}</a
      >
    {/each}
  </nav>
  {#if shown}<GuideText html={shown.html} />{:else if !page.problem}<h1>Guide</h1>{/if}
</div>

<style>
  .guide {
    display: grid;
    grid-template-columns: 190px minmax(0, 1fr);
    gap: 8px 32px;
    align-items: start;
  }
  nav {
    display: grid;
    gap: 6px;
    position: sticky;
    top: 12px;
  }
  nav [aria-current] {
    font-weight: 600;
    text-decoration: none;
  }
  @media (max-width: 860px) {
    .guide {
      grid-template-columns: minmax(0, 1fr);
    }
    nav {
      position: static;
      display: flex;
      flex-wrap: wrap;
      gap: 4px 14px;
      order: 2;
    }
  }
</style>
