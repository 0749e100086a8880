<script lang="ts">
  import type { Figures } from '../figures.svelte';
  import { PAGES, type Named } from '../pages';
  import { href } from '../router.svelte';

  /** A page in the list of pages, with how much is there or waits. */
  let { page, here, figures }: { page: Named; here: boolean; figures: Figures } = $props();
</script>

<a href={href({ page })} aria-current={here ? 'page' : undefined}>
  {PAGES[page].name}
  {#if figures.waiting(page)}
    <span class="alert">{figures.waiting(page)}<span class="visually-hidden"> waiting</span></span>
  {:else if figures.count(page)}
    <span class="count mono">{figures.count(page)}</span>
  {/if}
</a>

<style>
  a {
    display: flex;
    justify-content: space-between;
    padding: 6px 8px;
    border-radius: 4px;
    color: var(--color-surface-contrast-50-950);
    font-weight: 500;
  }
  a:hover {
    background: var(--color-surface-200-800);
    text-decoration: none;
  }
  a[aria-current] {
    background: var(--color-surface-contrast-50-950);
    color: var(--color-surface-50-950);
    font-weight: 640;
  }
  .count {
    color: var(--color-surface-600-400);
  }
  a[aria-current] .count {
    color: inherit;
  }
  .alert {
    background: var(--color-error-500);
    color: var(--color-error-contrast-500);
    border-radius: 9px;
    padding: 0 7px;
    font-size: 12.5px;
    line-height: 18px;
    height: 18px;
    margin-top: 1px;
  }
  @media (max-width: 800px) {
    a {
      flex: none;
      gap: 8px;
    }
  }
</style>
