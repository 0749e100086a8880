<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import Later from '../../lib/components/Later.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { Load } from '../../lib/load.svelte';
  import ShowMore from '../../lib/components/ShowMore.svelte';
  import { Listing } from '../../lib/listing.svelte';
  import { href } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';
  import type { Wish } from '../../lib/plan.svelte';
  import Moment from '../../lib/components/Moment.svelte';

  const list = new Listing<Schemas['Deviation']>(
    ['findings'],
    () => ({ page: 'findings', part: 'outside' }),
    (query, signal) => got(api.GET('/api/v1/findings/outside', { params: { query }, signal }))
  );
  let done = $state<Record<string, string>>({});
  let chosen = '';
  const decide = new Load(async () => {
    const [id = '', how] = chosen.split(' ');
    const params = { path: { deviation_id: id } };
    const reply =
      how === 'keep'
        ? await got(api.POST('/api/v1/findings/outside/{deviation_id}/keep', { params }))
        : await got(api.POST('/api/v1/findings/outside/{deviation_id}/revert', { params }));
    done[id] = reply.docket ?? 'kept';
    return reply;
  });
  function act(id: string, how: string): void {
    chosen = `${id} ${how}`;
    void decide.run();
  }
  let wish = $state.raw<Wish | null>(null);
  let whose = $state('');
  const MEANS: Record<Schemas['Meaning'], string> = {
    leaver: 'Leaver …',
    absence: 'Absence …',
    precaution: 'Precaution …'
  };
  /** The same for all other applications of the person, as what the change means. */
  function follow(row: Schemas['Deviation'], means: Schemas['Meaning']): void {
    whose = row.person_name ?? row.login;
    const who = [row.person_id ?? ''];
    wish =
      means === 'precaution'
        ? { verb: 'account', action: 'suspend', accounts: row.elsewhere }
        : { verb: means, who };
  }
  const rows = $derived(list.rows);
</script>

{#if rows.length}
  <h2>Changed outside Yugum</h2>
  <ProblemNote problem={decide.problem} />
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
            <td>
              {#if done[row.id] === 'kept'}kept
              {:else if done[row.id]}put back by
                <a href={href({ page: 'docket', name: done[row.id] ?? '' })}>{done[row.id]}</a>
              {:else}
                <button
                  class="button slim"
                  onclick={() => act(row.id, 'keep')}
                  disabled={decide.busy}>Keep</button
                >
                <button
                  class="button slim"
                  onclick={() => act(row.id, 'revert')}
                  disabled={decide.busy}>Put back</button
                >
                {#if row.means.length && session.mayAct}
                  <div class="soft">also in {row.elsewhere.length} other applications:</div>
                  {#each row.means as means (means)}
                    <button class="button slim" onclick={() => follow(row, means)}
                      >{MEANS[means]}</button
                    >
                  {/each}
                {/if}
              {/if}
            </td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
  <ShowMore {list} />
{/if}
{#if wish}
  <Later
    load={() => import('../../lib/components/PlanPanel.svelte')}
    {wish}
    who={whose}
    onclose={() => (wish = null)}
  />
{/if}
