<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import { dateOf, money } from '../../lib/format';
  import { href } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';
  import { FINDINGS } from '../../lib/words';
  import Moment from '../../lib/components/Moment.svelte';

  let { rows }: { rows: Schemas['Finding'][] } = $props();
</script>

<div class="scroll">
  <table class="list">
    <thead>
      <tr
        ><th>Who</th><th>Login</th><th>Application</th><th>What</th><th>Since</th><th class="num"
          >A month</th
        ><th>Kind</th></tr
      >
    </thead>
    <tbody>
      {#each rows as row (row.kind + row.key)}
        <tr>
          <td class="name">
            {#if row.person_id}
              <a href={href({ page: 'person', who: row.person_id })}>{row.display_name}</a>
            {:else}{row.display_name ?? ''}{/if}
          </td>
          <td class="mono">{row.login}</td>
          <td>{row.application_name}</td>
          <td>{row.text}</td>
          <td class="soft">
            {#if row.since}<Moment
                at={row.since}
                zone={session.zone}
                said={dateOf(row.since, session.zone)}
              />{/if}
          </td>
          <td class="num mono">{row.cents ? money(row.cents, 'EUR') : ''}</td>
          <td>{FINDINGS[row.kind] ?? row.kind}</td>
        </tr>
      {/each}
    </tbody>
  </table>
</div>
