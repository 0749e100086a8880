<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import { momentOf } from '../../lib/format';
  import { href } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';

  import DayStuck from './DayStuck.svelte';

  let { sheet }: { sheet: Schemas['DaySheet'] } = $props();
  const SHOWN = 3;
</script>

<div class="cards">
  <section class="sheet" class:bad={sheet.open_late.length > 0}>
    <h2>Past their time, still open</h2>
    {#each sheet.open_late.slice(0, SHOWN) as row (row.person_id + row.application_name)}
      <div>
        <a class="within" href={href({ page: 'person', who: row.person_id })}>{row.display_name}</a>
        · {row.application_name} since {momentOf(row.access_ends, session.zone)}
        {#if row.contact}<span class="soft">· on call: {row.contact}</span>{/if}
      </div>
    {:else}
      <div class="soft">Nobody who has left can get in.</div>
    {/each}
  </section>
  <DayStuck rows={sheet.stuck} />
  <section class="sheet">
    <h2>Lost for good this week</h2>
    {#each sheet.last_call.slice(0, SHOWN) as row (row.account_id)}
      <div>
        {momentOf(row.recoverable_until, session.zone)}
        {row.application_name} of
        {#if row.person_id}
          <a class="within" href={href({ page: 'person', who: row.person_id })}
            >{row.display_name}</a
          >
        {:else}{row.login}{/if}
      </div>
    {:else}
      <div class="soft">No window closes within seven days.</div>
    {/each}
  </section>
</div>
