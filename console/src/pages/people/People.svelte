<script lang="ts">
  import type { Wish } from '../../lib/plan.svelte';
  import { session } from '../../lib/session.svelte';
  import { api, got, type Schemas } from '../../lib/api';
  import { PEOPLE_COLUMNS } from '../../lib/columns';
  import Later from '../../lib/components/Later.svelte';
  import List from '../../lib/components/List.svelte';
  import ListBar from '../../lib/components/ListBar.svelte';
  import PickBar from '../../lib/components/PickBar.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import StateMark from '../../lib/components/StateMark.svelte';
  import Filters from '../../lib/components/Filters.svelte';
  import { chips, PEOPLE } from '../../lib/filters';
  import { plural } from '../../lib/format';
  import { Listing } from '../../lib/listing.svelte';
  import { Load } from '../../lib/load.svelte';
  import { href, type Query } from '../../lib/router.svelte';

  let { query = {} }: { query?: Query } = $props();
  const q = $derived(query.q ?? '');
  let text = $derived(q);
  const list = new Listing<Schemas['PersonRow']>(
    ['people', 'accounts'],
    () => ({ page: 'people', query }),
    (asked, cursor, signal) =>
      got(
        api.GET('/api/v1/people', {
          params: { query: { ...asked, limit: cursor ? 200 : 100, cursor } },
          signal
        })
      )
  );

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

  /** What is picked: those one by one, or whoever the list fits when the plan is made. */
  function picked(verb: Wish['verb']): { wish: Wish; who: string } {
    return list.everything
      ? { wish: { verb, matching: list.asked as Wish['matching'] }, who: `${list.count} people` }
      : { wish: { verb, who: [...list.picked] }, who: people(list.picked.size) };
  }

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
<div class="asked">
  <Filters fields={PEOPLE} {query} onask={(change) => list.ask(change)} />
  <ListBar {list} page="people" columns={PEOPLE_COLUMNS} />
</div>
<ProblemNote problem={takingOut.problem ?? list.problem} />
{#if list.rows.length}
  <List
    {list}
    columns={PEOPLE_COLUMNS}
    first="name"
    label="People"
    to={(row) => href({ page: 'person', who: row.id })}
    picks={session.mayAct}
  >
    {#snippet cell(row, column)}
      {#if column.name === 'state'}<StateMark state={row.state} />{:else}{column.text(row)}{/if}
    {/snippet}
  </List>
{:else if list.count !== null && q}
  <p>Nobody fits “{q}”. Any part of a name, login or number finds somebody.</p>
{:else if list.count !== null && filtered}
  <p>Nobody fits these filters. Take one away to see more.</p>
{:else if list.count !== null}
  <p>Nobody is known yet. A new joiner is the first.</p>
{/if}

<PickBar {list} words={people}>
  <button class="button cut" onclick={() => (wish = picked('leaver'))}>Leaver …</button>
  <button class="button" onclick={() => (wish = picked('absence'))}>Absence …</button>
</PickBar>
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
  .search {
    display: flex;
    gap: 8px;
    max-width: 460px;
    margin-bottom: 14px;
  }
</style>
