<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import { clockOf, dateOf, plural } from '../../lib/format';
  import { session } from '../../lib/session.svelte';
  import Moment from '../../lib/components/Moment.svelte';

  let { row }: { row: Schemas['ApplicationRow'] } = $props();
  const zone = $derived(session.zone);
</script>

{#if row.problem}
  <span class="bad">▲ {row.problem}</span>
{:else if row.paused_until}
  <span class="warn"
    >paused until <Moment at={row.paused_until} {zone} said={clockOf(row.paused_until, zone)} />,
    cut-offs pass</span
  >
{:else if row.covered === false}
  <span class="bad">▲ its sign-on is not cut off by Yugum</span>
{:else if row.covered}
  <span>covered by the sign-on of {row.through}</span>
{:else}
  <span>answers</span>
{/if}
{#if row.left_this_hour === 0}
  <div class="warn small">no removal left this hour, the next ones wait</div>
{:else if row.left_this_hour !== null}
  <div class="soft small">
    {plural(row.left_this_hour, 'removal')} left this hour, {row.taken_this_hour} made
  </div>
{/if}
{#if row.credential_ends}
  <div class="soft small">credential until {dateOf(row.credential_ends, zone)}</div>
{/if}

<style>
  .bad {
    color: var(--color-error-600-400);
    font-weight: 600;
  }
  .warn {
    color: var(--color-warning-700-300);
    font-weight: 600;
  }
</style>
