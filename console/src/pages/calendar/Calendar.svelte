<script lang="ts">
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { clockOf, longDay, plural } from '../../lib/format';
  import { href } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';
  import { monthName } from './month';
  import Month from './Month.svelte';
  import { kindOf, ShownMonth } from './shown.svelte';

  const shown = new ShownMonth();
  const entries = $derived(shown.byDay[shown.day] ?? []);
</script>

<svelte:head><title>Calendar · Yugum</title></svelte:head>
<h1>{shown.month ? monthName(shown.month) : 'Calendar'}</h1>
<div class="facts">
  {#if shown.asked.data}<span
      ><b>{plural(shown.asked.data.length, 'entry', 'entries')}</b> in these weeks</span
    >{/if}
  <span><a href="/api/v1/calendar.ics" download="yugum.ics">As iCalendar</a></span>
  <span class="turn">
    <button class="button plain" onclick={() => shown.turn(-1)}>Earlier</button>
    <button class="button plain" onclick={() => shown.turn(1)}>Later</button>
  </span>
</div>
<ProblemNote problem={shown.asked.problem} />
<Month {shown} />
{#if shown.day && shown.asked.data}
  <h2>{longDay(`${shown.day}T12:00:00Z`, 'UTC')}</h2>
  {#if entries.length}
    <div class="scroll">
      <table class="list">
        <thead
          ><tr><th>Name</th><th>Time</th><th>Application</th><th>Because</th><th>What</th></tr
          ></thead
        >
        <tbody>
          {#each entries as entry (entry.id)}
            <tr>
              <td class="name"
                ><a href={href({ page: 'person', who: entry.person_id })}>{entry.display_name}</a
                ></td
              >
              <td>{clockOf(entry.at, session.zone)}</td>
              <td>{entry.application_name ?? ''}</td>
              <td>{entry.text}</td>
              <td>
                {kindOf(entry)}
                {#if entry.number}<a href={href({ page: 'docket', name: entry.number })}
                    >{entry.number}</a
                  >{/if}
              </td>
            </tr>
          {/each}
        </tbody>
      </table>
    </div>
  {:else}
    <p>Nothing is dated on this day.</p>
  {/if}
{/if}

<style>
  .turn {
    margin-left: auto;
    display: flex;
    gap: 6px;
  }
  h2 {
    margin: 18px 0 8px;
  }
</style>
