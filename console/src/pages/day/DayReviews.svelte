<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import { momentOf } from '../../lib/format';
  import { href } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';
  import { MEASURES } from '../../lib/words';

  /** Precautions somebody meant to look at again today. */
  let { rows }: { rows: Schemas['DaySheet']['reviews'] } = $props();
</script>

{#if rows.length}
  <h2>Precautions to look at again</h2>
  <div class="scroll">
    <table class="list">
      <tbody>
        {#each rows as row (row.id)}
          <tr>
            <td class="name"
              ><a href={href({ page: 'person', who: row.person_id })}>{row.name}</a></td
            >
            <td>{MEASURES[row.measure]}</td>
            <td>{row.ground}</td>
            <td class="soft">by {row.author}</td>
            <td>since {momentOf(row.made_at, session.zone)}</td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
{/if}
