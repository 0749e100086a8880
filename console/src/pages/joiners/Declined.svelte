<script lang="ts">
  import { api, got } from '../../lib/api';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { momentOf } from '../../lib/format';
  import { ask } from '../../lib/query.svelte';
  import { session } from '../../lib/session.svelte';

  const load = ask(
    ['people'],
    () => ['people/declined'],
    (signal) =>
      got(api.GET('/api/v1/people/declined', { params: { query: { limit: 20 } }, signal }))
  );
  const rows = $derived(load.data?.items ?? []);
  const more = $derived((load.data?.total ?? 0) - rows.length);
</script>

<ProblemNote problem={load.problem} />
{#if rows.length}
  <h2>Declined before they began</h2>
  <div class="scroll">
    <table class="list">
      <thead
        ><tr><th>Who</th><th>Login</th><th>Number</th><th>By</th><th>When</th><th>Why</th></tr
        ></thead
      >
      <tbody>
        {#each rows as row (row.id)}
          <tr>
            <td class="name">{row.display_name}</td>
            <td class="mono">{row.user_name}</td>
            <td class="mono">{row.employee_number}</td>
            <td>{row.author}</td>
            <td>{momentOf(row.at, session.zone)}</td>
            <td>{row.reason}</td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
  {#if more > 0}<p class="soft">
      {more} more: <span class="mono">yugum people declined</span>.
    </p>{/if}
{/if}
