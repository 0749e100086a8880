<script lang="ts">
  import { LISTED, PAGES, type Named } from '../pages';
  import { href, router } from '../router.svelte';
  import { session } from '../session.svelte';
  import Mark from './Mark.svelte';

  type Counts = {
    people?: Record<string, number>;
    dockets?: number;
    waiting_seats?: number;
    tasks?: number;
    applications?: number;
    outside?: number;
    rules?: number;
    approvals?: number;
  };
  const counts = $derived((session.counts?.counts ?? {}) as Counts);
  const people = $derived(Object.values(counts.people ?? {}).reduce((a, b) => a + b, 0));
  /** How many there are, and how many of those wait for somebody. */
  const numbers = $derived<Partial<Record<Named, number>>>({
    people,
    dockets: counts.dockets,
    applications: counts.applications,
    findings: counts.outside,
    rules: counts.rules
  });
  const alerts = $derived<Partial<Record<Named, number>>>({
    seats: counts.waiting_seats,
    waiting: (counts.tasks ?? 0) + (counts.approvals ?? 0)
  });
  const here = $derived(
    { person: 'people', docket: 'dockets' }[router.view.page as string] ?? router.view.page
  );
  let nav: HTMLElement;
  $effect(() => {
    void [here, counts]; // the figures make the line longer
    const link = nav.querySelector<HTMLElement>('[aria-current]');
    if (link) nav.scrollLeft = link.offsetLeft - nav.clientWidth / 2 + link.offsetWidth / 2;
  });
</script>

<nav aria-label="Pages" bind:this={nav}>
  <div class="head"><Mark /></div>
  {#each LISTED as page (page)}
    <a href={href({ page })} aria-current={page === here ? 'page' : undefined}>
      {PAGES[page].name}
      {#if alerts[page]}
        <span class="alert" title="waiting">{alerts[page]}</span>
      {:else if numbers[page]}
        <span class="count mono">{numbers[page]}</span>
      {/if}
    </a>
  {/each}
</nav>

<style>
  nav {
    border-right: 1px solid var(--rule);
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
    color: var(--ink);
    font-weight: 500;
  }
  a:hover {
    background: var(--faint);
    text-decoration: none;
  }
  a[aria-current] {
    background: var(--ink);
    color: var(--paper);
    font-weight: 640;
  }
  .count {
    color: var(--soft);
  }
  a[aria-current] .count {
    color: inherit;
  }
  .alert {
    background: var(--signal);
    color: var(--on-signal);
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
      border-right: 0;
      border-bottom: 1px solid var(--rule);
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
