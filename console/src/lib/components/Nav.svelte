<script lang="ts">
  import { Figures } from '../figures.svelte';
  import { LISTED, PAGES } from '../pages';
  import { href, router } from '../router.svelte';
  import Mark from './Mark.svelte';

  const figures = new Figures();
  const here = $derived(
    { person: 'people', docket: 'dockets', application: 'applications' }[
      router.view.page as string
    ] ?? router.view.page
  );
  let nav: HTMLElement;
  $effect(() => {
    void [here, figures.asked.data]; // the figures make the line longer
    const link = nav.querySelector<HTMLElement>('[aria-current]');
    if (link) nav.scrollLeft = link.offsetLeft - nav.clientWidth / 2 + link.offsetWidth / 2;
  });
</script>

<nav aria-label="Pages" bind:this={nav}>
  <div class="head"><Mark /></div>
  {#each LISTED as page (page)}
    <a href={href({ page })} aria-current={page === here ? 'page' : undefined}>
      {PAGES[page].name}
      {#if figures.waiting(page)}
        <span class="alert"
          >{figures.waiting(page)}<span class="visually-hidden"> waiting</span></span
        >
      {:else if figures.count(page)}
        <span class="count mono">{figures.count(page)}</span>
      {/if}
    </a>
  {/each}
</nav>

<style>
  @media (min-width: 801px) {
    nav {
      position: sticky;
      top: 0;
      height: 100vh;
      overflow-y: auto;
    }
  }
  nav {
    border-right: 1px solid var(--color-surface-300-700);
    padding: 16px 12px;
    display: flex;
    flex-direction: column;
    gap: 2px;
  }
  .head {
    margin: 0 8px 14px;
  }
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
  /* One line that can be moved along; where one is comes into view. */
  @media (max-width: 800px) {
    nav {
      flex-direction: row;
      overflow-x: auto;
      position: relative; /* what is hidden for the eye would else widen the page itself */
      border-right: 0;
      border-bottom: 1px solid var(--color-surface-300-700);
      padding: 8px 12px;
      scrollbar-width: thin;
    }
    .head {
      margin: 2px 12px 2px 0;
      flex: none;
    }
    a {
      flex: none;
      gap: 8px;
    }
  }
</style>
