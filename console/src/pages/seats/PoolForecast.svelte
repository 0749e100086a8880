<script lang="ts">
  import { api, got } from '../../lib/api';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { dateOf, plural } from '../../lib/format';
  import { ask } from '../../lib/query.svelte';
  import { session } from '../../lib/session.svelte';
  import PeriodTable from './PeriodTable.svelte';
  import StepChart from './StepChart.svelte';
  import WhatIf from './WhatIf.svelte';
  import ForecastSaid from './ForecastSaid.svelte';
  import { Asking } from './whatIf.svelte';

  let { id }: { id: string } = $props();
  const load = ask(
    ['seats', 'people', 'rules'],
    () => ['forecast', id],
    (signal) =>
      got(
        api.GET('/api/v1/seats/{pool_id}/forecast', { params: { path: { pool_id: id } }, signal })
      )
  );
  const asking = new Asking(() => id);
  const view = $derived(asking.found ?? load.data);
  const day = (said: string): string => dateOf(said, session.zone);
</script>

<section aria-labelledby="forecast">
  <h2 id="forecast">What comes</h2>
  <ProblemNote problem={load.problem} />
  {#if view}
    {#if asking.found}
      <p role="status">
        <b>What would be, if.</b> Nothing was changed.
        <button class="button plain" onclick={asking.asItIs}>As it is</button>
      </p>
    {/if}
    <ForecastSaid {view} />
    <StepChart {view} zone={session.zone} />
    {#each view.renewals as one (one.purchase.id)}
      <p>
        {plural(one.purchase.count, 'seat')} end on <b>{day(one.ends)}</b>: decide by
        <b>{day(one.decide_by)}</b>{one.lacking
          ? `; without them ${plural(one.lacking, 'seat')} lacking.`
          : '; they are not needed then.'}
      </p>
    {/each}
    <details>
      <summary>As a table, and what is assumed</summary>
      <ul>
        {#each view.assumes as text (text)}<li>{text}</li>{/each}
      </ul>
      <PeriodTable periods={view.periods} zone={session.zone} />
    </details>
    {#if session.mayAct}<WhatIf {asking} />{/if}
  {/if}
</section>
