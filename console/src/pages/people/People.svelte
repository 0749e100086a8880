<script lang="ts">
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
  import { Listing } from '../../lib/listing.svelte';
  import { href, type Query } from '../../lib/router.svelte';
  import { people, PeoplePlans } from './plans.svelte';

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

  const plans = new PeoplePlans(list);
  const filtered = $derived(chips(PEOPLE, query).length > 0);

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
    <button class="button do new" onclick={() => (plans.making = true)}>New joiner …</button>
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
<ProblemNote problem={plans.takingOut.problem ?? list.problem} />
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
  <button class="button cut" onclick={() => plans.plan('leaver')}>Leaver …</button>
  <button class="button" onclick={() => plans.plan('absence')}>Absence …</button>
</PickBar>
{#if plans.making}
  <Later
    load={() => import('./NewJoiner.svelte')}
    onclose={() => (plans.making = false)}
    onmade={(login, name) => plans.made(login, name)}
  />
{/if}
{#if plans.wish}
  <Later
    load={() => import('../../lib/components/PlanPanel.svelte')}
    wish={plans.wish.wish}
    who={plans.wish.who}
    onclose={(confirmed) => plans.closed(confirmed)}
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
