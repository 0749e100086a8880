<script lang="ts">
  import { untrack } from 'svelte';
  import type { Wish } from '../../lib/plan.svelte';
  import { session } from '../../lib/session.svelte';
  import { api, got, type Schemas } from '../../lib/api';
  import Later from '../../lib/components/Later.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import StateMark from '../../lib/components/StateMark.svelte';
  import Filters from '../../lib/components/Filters.svelte';
  import SortHead from '../../lib/components/SortHead.svelte';
  import { chips, PEOPLE } from '../../lib/filters';
  import { dateOf, plural } from '../../lib/format';
  import { Listing } from '../../lib/listing.svelte';
  import { Load } from '../../lib/load.svelte';
  import { href, type Query } from '../../lib/router.svelte';

  let { query = {} }: { query?: Query } = $props();
  const q = $derived(query.q ?? '');
  let text = $derived(q);
  const list = new Listing<Schemas['PersonRow']>(
    (asked, cursor) =>
      got(api.GET('/api/v1/people', { params: { query: { ...asked, limit: 50, cursor } } })),
    () => ({ page: 'people', query })
  );
  $effect(() => {
    void query;
    untrack(() => list.again());
  });

  let picked = $state<string[]>([]);
  let making = $state(false);
  let wish = $state.raw<{ wish: Wish; who: string; fresh?: string } | null>(null);

  /** Of whom no plan was confirmed nobody is left behind. */
  const takingOut = new Load(() => {
    const path = { who: unconfirmed };
    const body = { reason: 'no plan for them was confirmed' };
    return got(api.POST('/api/v1/people/{who}/decline', { params: { path }, body }));
  });
  let unconfirmed = '';

  function closed(confirmed: boolean): void {
    unconfirmed = (!confirmed && wish?.fresh) || '';
    wish = null;
    if (unconfirmed) void takingOut.run();
  }
  const filtered = $derived(chips(PEOPLE, query).length > 0);
  const people = (count: number) => plural(count, 'person', 'people');

  function search(event: SubmitEvent): void {
    event.preventDefault();
    list.ask({ q: text.trim() });
  }
</script>

<svelte:head><title>People · Yugum</title></svelte:head>
<h1>People</h1>
<div class="facts">
  {#if list.count !== null}
    <span><b>{list.count}</b> {q ? `found for “${q}”` : filtered ? 'fit' : 'in all'}</span>
  {/if}
  {#if session.mayAct}
    <button class="button do new" onclick={() => (making = true)}>New joiner …</button>
  {/if}
</div>
<form class="search" role="search" aria-label="People" onsubmit={search}>
  <input
    aria-label="Any part of a name, login or number"
    bind:value={text}
    placeholder="Any part of a name, login or number"
  />
  <button class="button">Search</button>
</form>
<Filters fields={PEOPLE} {query} onask={(change) => list.ask(change)} />
<ProblemNote problem={takingOut.problem ?? list.load.problem} />
{#if list.rows.length}
  <div class="scroll">
    <table class="list">
      <thead>
        <tr
          >{#if session.mayAct}<th><span class="visually-hidden">Pick</span></th>{/if}
          <SortHead {list} first="name" name="name">Name</SortHead>
          <SortHead {list} first="name" name="login">Login</SortHead>
          <SortHead {list} first="name" name="number">Number</SortHead>
          <SortHead {list} first="name" name="department">Department</SortHead>
          <th>Title</th>
          <SortHead {list} first="name" name="site">Site</SortHead>
          <SortHead {list} first="name" name="begins">Begins</SortHead>
          <th class="num">Open accounts</th><th>State</th></tr
        >
      </thead>
      <tbody>
        {#each list.rows as row (row.id)}
          <tr>
            {#if session.mayAct}
              <td
                ><input
                  type="checkbox"
                  value={row.id}
                  bind:group={picked}
                  aria-label="Pick {row.display_name}"
                /></td
              >
            {/if}
            <td class="name"
              ><a href={href({ page: 'person', who: row.id })}>{row.display_name}</a></td
            >
            <td class="mono">{row.user_name}</td>
            <td class="mono">{row.employee_number}</td>
            <td>{row.department}</td>
            <td>{row.title}</td>
            <td class="soft">{row.site}</td>
            <td class="soft">{row.starts ? dateOf(row.starts, 'UTC') : '–'}</td>
            <td class="num mono">{row.open_accounts}</td>
            <td><StateMark state={row.state} /></td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
  {#if list.next}
    <p>
      <button class="button" onclick={() => list.load.run()} disabled={list.load.busy}
        >Show more</button
      >
      <span class="soft">{people(list.rows.length)} shown</span>
    </p>
  {/if}
{:else if list.count !== null && q}
  <p>Nobody fits “{q}”. Any part of a name, login or number finds somebody.</p>
{:else if list.count !== null && filtered}
  <p>Nobody fits these filters. Take one away to see more.</p>
{:else if list.count !== null}
  <p>Nobody is known yet. A new joiner is the first.</p>
{/if}

{#if picked.length}
  <div class="bar" role="region" aria-label="What is picked">
    <b>{people(picked.length)}</b>
    <button
      class="button cut"
      onclick={() =>
        (wish = { wish: { verb: 'leaver', who: [...picked] }, who: people(picked.length) })}
      >Leaver …</button
    >
    <button
      class="button"
      onclick={() =>
        (wish = { wish: { verb: 'absence', who: [...picked] }, who: people(picked.length) })}
      >Absence …</button
    >
    <button class="button plain" onclick={() => (picked = [])}>Pick nobody</button>
  </div>
{/if}
{#if making}
  <Later
    load={() => import('./NewJoiner.svelte')}
    onclose={() => (making = false)}
    onmade={(login, name) => {
      making = false;
      wish = { wish: { verb: 'joiner', who: [login] }, who: name, fresh: login };
    }}
  />
{/if}
{#if wish}
  <Later
    load={() => import('../../lib/components/PlanPanel.svelte')}
    wish={wish.wish}
    who={wish.who}
    onclose={closed}
  />
{/if}

<style>
  .new {
    margin-left: auto;
  }
  .bar {
    position: sticky;
    bottom: 0;
    display: flex;
    gap: 10px;
    align-items: center;
    padding: 10px 0;
    background: var(--paper);
    border-top: 2px solid var(--ink);
  }
  .search {
    display: flex;
    gap: 8px;
    max-width: 460px;
    margin-bottom: 14px;
  }
</style>
