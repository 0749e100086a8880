<script lang="ts">
  import { session } from '../../lib/session.svelte';
  import { api, got, type Schemas } from '../../lib/api';
  import { PEOPLE_COLUMNS } from '../../lib/columns';
  import ListPart from '../../lib/components/ListPart.svelte';
  import SearchBox from '../../lib/components/SearchBox.svelte';
  import StateMark from '../../lib/components/StateMark.svelte';
  import { PEOPLE } from '../../lib/filters';
  import { Listing } from '../../lib/listing.svelte';
  import { href, type Query } from '../../lib/router.svelte';
  import PeopleActs from './PeopleActs.svelte';
  import { PeoplePlans } from './plans.svelte';

  let { query = {} }: { query?: Query } = $props();
  const q = $derived(query.q ?? '');
  const list = new Listing<Schemas['PersonRow']>(
    ['people', 'accounts'],
    () => ({ page: 'people', query }),
    (query, signal) => got(api.GET('/api/v1/people', { params: { query }, signal }))
  );

  const plans = new PeoplePlans(list);
</script>

<svelte:head><title>People · Yugum</title></svelte:head>
<h1>People</h1>
<div class="facts">
  {#if list.count !== null}
    <span><b>{list.count}</b> {q ? `found for “${q}”` : list.filtered ? 'fit' : 'in all'}</span>
  {/if}
  {#if session.mayAct}
    <button class="button new" onclick={() => (plans.filing = true)}>From a file …</button>
    <button class="button do" onclick={() => (plans.making = true)}>New joiner …</button>
  {/if}
</div>
<SearchBox
  label="People"
  hint="Any part of a name, login or number"
  asked={q}
  onask={(text) => list.ask({ q: text })}
/>
<ListPart
  {list}
  page="people"
  columns={PEOPLE_COLUMNS}
  fields={PEOPLE}
  first="name"
  label="People"
  to={(row) => href({ page: 'person', who: row.id })}
  picks={session.mayAct}
  problem={plans.takingOut.problem}
  none={q
    ? `Nobody fits “${q}”. Any part of a name, login or number finds somebody.`
    : 'Nobody fits these filters. Take one away to see more.'}
>
  {#snippet cell(row, column)}
    {#if column.name === 'state'}<StateMark state={row.state} />{:else}{column.text(row)}{/if}
  {/snippet}
  <p>Nobody is known yet. Take the people there are from a file, or make a new joiner.</p>
</ListPart>

<PeopleActs {list} {plans} />

<style>
  .new {
    margin-left: auto;
  }
</style>
