<script lang="ts">
  import { clockOf, dateOf, dayOf } from '../format';
  import { session } from '../session.svelte';

  /** What time it is where the organisation is. */
  const clock = $derived(session.clock);
</script>

{#if clock}
  <div class="clock">
    <b
      >{dayOf(clock.now, clock.zone).split(' ')[0]}
      {dateOf(clock.now, clock.zone)}, {clockOf(clock.now, clock.zone)}</b
    >
    <small class="soft">{clock.simulated ? 'simulated clock' : 'clock'} · {clock.zone}</small>
  </div>
{/if}

<style>
  .clock {
    margin-left: auto;
    text-align: right;
    line-height: 17px;
    display: grid;
  }
  small {
    font-size: 12.5px;
  }
  @media (max-width: 640px) {
    .clock {
      margin: 0 auto 0 0;
      text-align: left;
    }
  }
</style>
