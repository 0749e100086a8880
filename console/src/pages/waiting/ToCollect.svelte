<script lang="ts">
  import { api, got } from '../../lib/api';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { dateOf } from '../../lib/format';
  import { ask } from '../../lib/query.svelte';
  import { href } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';

  const load = ask(
    ['shared', 'people'],
    () => ['equipment', 'due'],
    (signal) =>
      got(api.GET('/api/v1/equipment', { params: { query: { due: true, limit: 200 } }, signal }))
  );
  const rows = $derived(load.data?.items ?? []);

  const back = (id: string): Promise<void> =>
    load.after(() => {
      const path = { thing_id: id };
      return got(api.POST('/api/v1/equipment/{thing_id}/back', { params: { path }, body: {} }));
    });
</script>

<ProblemNote problem={load.problem} />
{#if rows.length}
  <h2>To collect</h2>
  <div class="scroll">
    <table class="list">
      <thead>
        <tr><th>From whom</th><th>What</th><th>Number</th><th>Leaves</th><th>Done</th></tr>
      </thead>
      <tbody>
        {#each rows as row (row.id)}
          <tr>
            <td class="name"
              ><a href={href({ page: 'person', who: row.holder_id ?? '' })}>{row.display_name}</a
              ></td
            >
            <td>{row.name}</td>
            <td class="mono">{row.id}</td>
            <td
              >{row.last_working_day
                ? dateOf(`${row.last_working_day}T12:00:00Z`, 'UTC')
                : row.access_ends
                  ? dateOf(row.access_ends, session.zone)
                  : ''}</td
            >
            <td>
              {#if session.mayAct}
                <button
                  class="button slim"
                  aria-label="It is back: {row.name} of {row.display_name}"
                  onclick={() => void back(row.id)}>It is back</button
                >
              {/if}
            </td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
{/if}
