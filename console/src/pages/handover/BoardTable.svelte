<script lang="ts">
  import { asked, because, kindOf, newHome, things } from '../../lib/handover';
  import { session } from '../../lib/session.svelte';
  import Moment from '../../lib/components/Moment.svelte';
  import { keyOf, type Board } from './board.svelte';

  let { board }: { board: Board } = $props();
</script>

<div class="scroll">
  <table class="list">
    <thead
      ><tr>
        {#if session.mayAct}<th scope="col"
            ><input
              type="checkbox"
              aria-label="All that are shown"
              checked={board.chosen.length === board.rows.length}
              onchange={() => board.pickAll()}
            /></th
          >{/if}
        <th scope="col">Who</th><th scope="col">Access ends</th><th scope="col">Application</th><th
          scope="col">What</th
        ><th scope="col">Its new home</th>
      </tr></thead
    >
    <tbody>
      {#each board.rows as row (keyOf(row))}
        <tr>
          {#if session.mayAct}<td
              ><input
                type="checkbox"
                aria-label="{row.name}: {kindOf(row)} in {row.application_name}"
                checked={board.picked.has(keyOf(row))}
                onchange={() => board.pick(row)}
              /></td
            >{/if}
          <th scope="row" class="name"><a href="/people/{row.user_name}">{row.name}</a></th>
          <td class="soft"><Moment at={row.leaves_at} zone={session.zone} /></td>
          <td>{row.application_name}</td>
          <td>{things(row)}</td>
          <td class={{ short: row.settled === 'open' && !asked(row) }}
            >{newHome(row)}
            {#if because(row)}<span class="soft">({because(row)})</span>{/if}</td
          >
        </tr>
      {/each}
    </tbody>
  </table>
</div>

<style>
  .short {
    color: var(--color-error-600-400);
  }
</style>
