<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import Moment from '../../lib/components/Moment.svelte';
  import StepMark from '../../lib/components/StepMark.svelte';
  import { clockOf } from '../../lib/format';
  import { href } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';
  import { VERBS } from '../../lib/words';

  /** A docket of the day sheet: when, whom, what, and how far it is. */
  let { row, dated }: { row: Schemas['DayDocket']; dated: boolean } = $props();

  function mark(row: Schemas['DayDocket']): string {
    if (row.state === 'done') return 'done';
    if (row.state === 'scheduled') return 'due';
    return row.note && row.steps_done < row.steps_total ? 'stuck' : 'settling';
  }
  function say(row: Schemas['DayDocket']): string {
    if (row.state === 'done') return row.steps_total ? 'done' : 'nothing to do';
    if (row.state === 'scheduled') return 'to come';
    return row.note || `${row.steps_done} of ${row.steps_total} steps`;
  }
</script>

<tr>
  <td class={['mono at', { dated }]}
    ><Moment
      at={row.due_at}
      zone={session.zone}
      said={dated ? undefined : clockOf(row.due_at, session.zone)}
    /></td
  >
  <td class="name who"
    ><a href={href({ page: 'person', who: row.person_id })}>{row.display_name}</a></td
  >
  <td>
    {#if dated}{VERBS[row.verb]}:{/if}
    {row.title}{#if row.change}, to {row.change}{/if}
  </td>
  <td class="soft">{row.site}</td>
  <td class="how">
    <span class="state"
      ><StepMark state={mark(row)} />
      <a href={href({ page: 'docket', name: row.number })}>{row.number}</a>
      <span class="note">{say(row)}</span></span
    >
  </td>
</tr>

<style>
  .at {
    width: 66px;
    white-space: nowrap;
  }
  .at.dated {
    width: 150px;
  }
  .who {
    width: 19%;
  }
  .how {
    width: 38%;
  }
  .how .state {
    align-items: flex-start;
  }
  .note {
    white-space: normal;
  }
</style>
