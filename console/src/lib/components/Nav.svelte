<script lang="ts">
  import { href, router, type View } from '../router.svelte';
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
  const lines = $derived<{ view: View; name: string; count?: number; alert?: number }[]>([
    { view: { page: 'day' }, name: 'Day sheet' },
    { view: { page: 'calendar' }, name: 'Calendar' },
    { view: { page: 'people', q: '' }, name: 'People', count: people },
    { view: { page: 'joiners' }, name: 'Joiners' },
    { view: { page: 'dockets' }, name: 'Dockets', count: counts.dockets },
    { view: { page: 'seats' }, name: 'Seats', alert: counts.waiting_seats },
    {
      view: { page: 'waiting' },
      name: 'Waiting',
      alert: (counts.tasks ?? 0) + (counts.approvals ?? 0)
    },
    { view: { page: 'applications' }, name: 'Applications', count: counts.applications },
    { view: { page: 'groups' }, name: 'Groups' },
    { view: { page: 'findings' }, name: 'Findings', count: counts.outside },
    { view: { page: 'last-call' }, name: 'Last call' },
    { view: { page: 'rules' }, name: 'Rules', count: counts.rules },
    { view: { page: 'mail' }, name: 'Mail' },
    { view: { page: 'access' }, name: 'Access' },
    { view: { page: 'words' }, name: 'Words' }
  ]);
  const here = $derived(
    { person: 'people', docket: 'dockets' }[router.view.page as string] ?? router.view.page
  );
</script>

<nav aria-label="Pages">
  <div class="head"><Mark /></div>
  {#each lines as line (line.name)}
    <a href={href(line.view)} aria-current={line.view.page === here ? 'page' : undefined}>
      {line.name}
      {#if line.alert}
        <span class="alert" title="waiting">{line.alert}</span>
      {:else if line.count}
        <span class="count mono">{line.count}</span>
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
  @media (max-width: 800px) {
    nav {
      flex-direction: row;
      flex-wrap: wrap;
      border-right: 0;
      border-bottom: 1px solid var(--rule);
      padding: 8px 12px;
    }
    .head {
      margin: 2px 12px 2px 0;
    }
    a {
      gap: 8px;
    }
  }
</style>
