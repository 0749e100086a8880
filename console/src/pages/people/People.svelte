<script lang="ts">
  import { session } from '../../lib/session.svelte';
  import { api, got, type Schemas } from '../../lib/api';
  import { PEOPLE_COLUMNS } from '../../lib/columns';
  import Later from '../../lib/components/Later.svelte';
  import PickBar from '../../lib/components/PickBar.svelte';
  import ListPart from '../../lib/components/ListPart.svelte';
  import SearchBox from '../../lib/components/SearchBox.svelte';
  import StateMark from '../../lib/components/StateMark.svelte';
  import { PEOPLE } from '../../lib/filters';
  import { Listing } from '../../lib/listing.svelte';
  import { href, type Query } from '../../lib/router.svelte';
  import { MOST_ISSUED } from './issue.svelte';
  import { people, PeoplePlans } from './plans.svelte';

  let { query = {} }: { query?: Query } = $props();
  const q = $derived(query.q ?? '');
  const list = new Listing<Schemas['PersonRow']>(
    ['people', 'accounts'],
    () => ({ page: 'people', query }),
    (query, signal) => got(api.GET('/api/v1/people', { params: { query }, signal }))
  );

  const plans = new PeoplePlans(list);
  let filing = $state(false);
  let issuing = $state.raw<string[] | null>(null);

  /** Whoever fits by now is meant; who fits later is not among them. */
  async function issue(): Promise<void> {
    if (!list.everything) {
      issuing = [...list.picked];
      return;
    }
    const rows = await list.all(MOST_ISSUED);
    if (rows) issuing = rows.map((r) => r.id); // else the list says what is wrong
  }
</script>

<svelte:head><title>People · Yugum</title></svelte:head>
<h1>People</h1>
<div class="facts">
  {#if list.count !== null}
    <span><b>{list.count}</b> {q ? `found for “${q}”` : list.filtered ? 'fit' : 'in all'}</span>
  {/if}
  {#if session.mayAct}
    <button class="button new" onclick={() => (filing = true)}>From a file …</button>
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

<PickBar {list} words={people}>
  <button class="button cut" onclick={() => plans.plan('leaver')}>Leaver …</button>
  <button class="button" onclick={() => plans.plan('absence')}>Absence …</button>
  <button class="button" onclick={issue}>New credentials …</button>
</PickBar>
{#if issuing}
  <Later
    load={() => import('./IssueDialog.svelte')}
    who={issuing}
    onclose={() => (issuing = null)}
  />
{/if}
{#if filing}
  <Later load={() => import('./PeopleFile.svelte')} onclose={() => (filing = false)} />
{/if}
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
</style>
