<script lang="ts">
  import { api, got } from '../../lib/api';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { longDay } from '../../lib/format';
  import { ask } from '../../lib/query.svelte';
  import { session } from '../../lib/session.svelte';
  import DayCards from './DayCards.svelte';
  import DayWaits from './DayWaits.svelte';
  import DayList from './DayList.svelte';
  import DayReviews from './DayReviews.svelte';
  import Later from '../../lib/components/Later.svelte';
  import StandingTable from '../../lib/components/StandingTable.svelte';

  const load = ask(
    ['dockets', 'findings', 'accounts', 'people', 'decisions'],
    () => ['day'],
    (signal) => got(api.GET('/api/v1/day', { signal }))
  );

  const sheet = $derived(load.data);
  const groups: [string, string[], string][] = [
    ['Starting', ['joiner', 'returner'], 'start'],
    ['Moving', ['mover'], 'move'],
    ['Leaving', ['leaver', 'absence'], 'leave'],
    ['Put back', ['undo', 'restore'], 'put back']
  ];
  const of = (verbs: string[]) => sheet?.dockets.filter((d) => verbs.includes(d.verb)) ?? [];
</script>

<svelte:head><title>Day sheet · Yugum</title></svelte:head>
<ProblemNote problem={load.problem} />
{#if sheet}
  <h1>{longDay(sheet.now, session.zone)}</h1>
  <div class="facts">
    {#each groups as [, verbs, word] (word)}
      {#if of(verbs).length}<span><b>{of(verbs).length}</b> {word}</span>{/if}
    {/each}
    <span>
      <b>{sheet.last_call.length}</b>
      {sheet.last_call.length === 1 ? 'window closes' : 'windows close'} this week
    </span>
    <span><b>{sheet.later.length}</b> due in the next seven days</span>
  </div>
  {#if session.mayAct && !sheet.dockets.length && !sheet.later.length}
    <Later
      load={() => import('./FirstSteps.svelte')}
      login={session.view?.operator.login ?? ''}
      password={session.view?.password ?? true}
    />
  {/if}
  <DayWaits />
  <DayCards {sheet} />
  {#each groups as [title, verbs] (title)}
    <DayList {title} rows={of(verbs)} dated={false} />
  {/each}
  {#if sheet.standing.length}
    <h2>Not as it should be</h2>
    <StandingTable rows={sheet.standing} named={true} />
  {/if}
  <DayReviews rows={sheet.reviews} />
  <DayList title="The next seven days" rows={sheet.later} dated={true} />
  {#if !sheet.dockets.length && !sheet.later.length}
    <p class="none">
      Whoever starts, moves or leaves today stands here. <a href="/people">Find somebody</a> to begin.
    </p>
  {/if}
{/if}

<style>
  .none {
    margin-top: 18px;
  }
</style>
