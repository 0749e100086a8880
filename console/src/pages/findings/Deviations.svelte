<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import Later from '../../lib/components/Later.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import ShowMore from '../../lib/components/ShowMore.svelte';
  import { Listing } from '../../lib/listing.svelte';
  import { session } from '../../lib/session.svelte';
  import Moment from '../../lib/components/Moment.svelte';
  import { Deciding } from './deciding.svelte';
  import DeviationActs from './DeviationActs.svelte';

  const list = new Listing<Schemas['Deviation']>(
    ['findings'],
    () => ({ page: 'findings', part: 'outside' }),
    (query, signal) => got(api.GET('/api/v1/findings/outside', { params: { query }, signal }))
  );
  const it = new Deciding();
  const rows = $derived(list.rows);
</script>

{#if rows.length}
  <h2>Changed outside Yugum</h2>
  <ProblemNote problem={it.problem} />
  <div class="scroll">
    <table class="list">
      <thead>
        <tr
          ><th>Login</th><th>Application</th><th>What</th><th>Before → now</th><th>Seen</th><th
            >Decide</th
          ></tr
        >
      </thead>
      <tbody>
        {#each rows as row (row.id)}
          <tr>
            <td class="name mono">{row.login}</td>
            <td>{row.application_name}</td>
            <td>{row.kind} {row.item}</td>
            <td>{row.was} → <b>{row.now_is}</b></td>
            <td class="soft"><Moment at={row.seen_at} zone={session.zone} /></td>
            <td><DeviationActs {row} {it} /></td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
  <ShowMore {list} />
{/if}
{#if it.wish}
  <Later
    load={() => import('../../lib/components/PlanPanel.svelte')}
    wish={it.wish}
    who={it.whose}
    onclose={() => (it.wish = null)}
  />
{/if}
