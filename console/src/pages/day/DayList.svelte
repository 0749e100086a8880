<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import StepMark from '../../lib/components/StepMark.svelte';
  import { clockOf } from '../../lib/format';
  import { href } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';
  import { VERBS } from '../../lib/words';
  import Moment from '../../lib/components/Moment.svelte';

  interface Props {
    title: string;
    rows: Schemas['DayDocket'][];
    dated: boolean;
  }
  let { title, rows, dated }: Props = $props();

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

{#if rows.length}
  <h2>{title}</h2>
  <div class="scroll">
    <table class="list even" class:dated>
      <tbody>
        {#each rows as row (row.id)}
          <tr>
            <td class="mono at"
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
        {/each}
      </tbody>
    </table>
  </div>
{/if}

<style>
  .even {
    table-layout: fixed;
    min-width: 760px;
  }
  .at {
    width: 66px;
    white-space: nowrap;
  }
  .dated .at {
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
