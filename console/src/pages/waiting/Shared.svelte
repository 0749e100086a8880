<script lang="ts">
  import { api, got } from '../../lib/api';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { ask } from '../../lib/query.svelte';
  import { session } from '../../lib/session.svelte';
  import Moment from '../../lib/components/Moment.svelte';

  const load = ask(
    ['shared', 'people'],
    () => ['shared', 'due'],
    (signal) =>
      got(api.GET('/api/v1/shared', { params: { query: { due: true, limit: 200 } }, signal }))
  );
  const rows = $derived(load.data?.items ?? []);

  const changed = (id: string): Promise<void> =>
    load.after(() => {
      const path = { shared_id: id };
      return got(api.POST('/api/v1/shared/{shared_id}/changed', { params: { path }, body: {} }));
    });
</script>

<ProblemNote problem={load.problem} />
{#if rows.length}
  <h2>Shared credentials to change</h2>
  <div class="scroll">
    <table class="list">
      <thead>
        <tr
          ><th>Credential</th><th>Where</th><th>Who knew it and has left</th><th>Since</th><th
            >Who changes it</th
          ><th>Done</th></tr
        >
      </thead>
      <tbody>
        {#each rows as row (row.id)}
          <tr>
            <td class="name">{row.name}</td>
            <td>{row.place}</td>
            <td>{row.left.join(', ')}</td>
            <td
              >{#if row.due_since}<Moment at={row.due_since} zone={session.zone} />{/if}</td
            >
            <td>{row.owner_name ?? 'nobody is named'}</td>
            <td>
              {#if session.mayAct}
                <button class="button" onclick={() => void changed(row.id)}>It is changed</button>
              {/if}
            </td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
{/if}
