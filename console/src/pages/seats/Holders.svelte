<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import StateMark from '../../lib/components/StateMark.svelte';
  import { dateOf } from '../../lib/format';
  import { Load } from '../../lib/load.svelte';
  import { href } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';

  let { pool }: { pool: string } = $props();
  let rows = $state.raw<Schemas['SeatHolder'][]>([]);
  let next = $state<string | null>(null);
  const load = new Load(async () => {
    const params = { path: { pool_id: pool }, query: { limit: 50, cursor: next ?? undefined } };
    const page = await got(api.GET('/api/v1/seats/{pool_id}/holders', { params }));
    rows = [...rows, ...page.items];
    next = page.next ?? null;
  });
  void load.run();
</script>

<h2>Who waits, and who holds one</h2>
<ProblemNote problem={load.problem} />
<div class="scroll">
  <table class="list">
    <thead><tr><th>Person</th><th>Login</th><th>Since</th><th>Account</th><th>Seat</th></tr></thead>
    <tbody>
      {#each rows as row (row.id)}
        <tr>
          <td class="name">
            {#if row.person_id}<a href={href({ page: 'person', who: row.person_id })}
                >{row.person_name}</a
              >{:else}nobody{/if}
          </td>
          <td class="mono">{row.login ?? ''}</td>
          <td class="soft">{dateOf(row.since_at, session.zone)}</td>
          <td
            >{#if row.account_state}<StateMark state={row.account_state} />{/if}</td
          >
          <td>{row.state === 'waiting' ? `waiting, number ${row.place} in line` : row.state}</td>
        </tr>
      {/each}
    </tbody>
  </table>
</div>
{#if next}<p>
    <button class="button" onclick={() => load.run()} disabled={load.busy}>Show more</button>
  </p>{/if}
