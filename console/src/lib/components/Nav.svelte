<script lang="ts">
  import { Figures } from '../figures.svelte';
  import { LISTED } from '../pages';
  import { router } from '../router.svelte';
  import Mark from './Mark.svelte';
  import NavLink from './NavLink.svelte';

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
    <NavLink {page} here={page === here} {figures} />
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
  }
</style>
