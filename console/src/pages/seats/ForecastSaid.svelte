<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import { dateOf, plural } from '../../lib/format';
  import { session } from '../../lib/session.svelte';

  /** Whether and when a pool runs short, and what is on its way. */
  let { view }: { view: Schemas['ForecastView'] } = $props();
  const day = (said: string): string => dateOf(said, session.zone);
</script>

<p>
  {#if view.short_on}
    <b class="short">It runs short on {day(view.short_on)}</b>; at most {plural(
      view.lacking,
      'seat'
    )} lacking.
  {:else}<b>It does not run short</b> in the next two years.{/if}
</p>
{#if view.before && view.before.short_on !== view.short_on}
  <p class="soft">
    On {day(view.before.made_on)} it was {view.before.short_on
      ? `to run short on ${day(view.before.short_on)}`
      : 'not to run short'}.
  </p>
{/if}
{#each view.orders as one (one.name)}
  <p>
    {one.name}: {plural(one.left, 'seat')}
    {one.expected ? `expected on ${day(one.expected)}` : one.state}{one.overdue
      ? ', which is past: not counted'
      : ''}.
  </p>
{/each}
