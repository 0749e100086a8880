<script lang="ts">
  import { api, got } from '../../lib/api';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { dateOf, plural } from '../../lib/format';
  import { ask } from '../../lib/query.svelte';
  import { session } from '../../lib/session.svelte';
  import OrderActs from './OrderActs.svelte';
  import type { Ordering } from './ordering.svelte';

  /** One order: how far it is, whom it serves, and what comes next. */
  let { acts, order }: { acts: Ordering; order: string } = $props();
  const load = ask(
    ['seats'],
    () => ['order', order],
    (signal) =>
      got(api.GET('/api/v1/orders/{order_id}', { params: { path: { order_id: order } }, signal }))
  );
  const view = $derived(load.data);
  const day = (said: string | null): string => (said ? dateOf(said, session.zone) : '');
</script>

<ProblemNote problem={load.problem} />
{#if view}
  <section aria-label={view.name}>
    <h3><b>{view.name}: {plural(view.count, 'seat')}, {view.state}</b></h3>
    <p>
      Asked for by {view.author}{view.needed_by ? `, needed by ${day(view.needed_by)}` : ''}: {view.reason}
      <br />
      {#if view.decided_by}{view.state === 'refused' ? 'Refused' : 'Agreed to'} by {view.decided_by}{view.answer
          ? `: ${view.answer}`
          : ''}.{/if}
      {#if view.expected && view.state === 'expected'}Expected on {day(view.expected)}{view.overdue
          ? ', which is past'
          : ''}.{/if}
      {#if view.arrived}{plural(view.arrived, 'seat')} arrived{view.counted === false
          ? '; the application has not counted them yet'
          : ''}.{/if}
    </p>
    {#if view.serves.length}
      <p>It serves {view.serves.map((s) => s.person_name ?? s.login).join(', ')}.</p>
    {/if}
    <p>
      <a href="/api/v1/orders/{view.id}/request" download="{view.name}.csv">The request as CSV</a>
    </p>
    <OrderActs {acts} {view} />
  </section>
{/if}

<style>
  section {
    border-left: 2px solid var(--color-surface-contrast-50-950);
    padding-left: 14px;
    margin: 14px 0;
  }
</style>
