<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { Load } from '../../lib/load.svelte';
  import ShowMore from '../../lib/components/ShowMore.svelte';
  import { Listing } from '../../lib/listing.svelte';
  import { href } from '../../lib/router.svelte';

  const list = new Listing<Schemas['Proposal'] & { id: string }>(
    ['accounts'],
    () => ({ page: 'findings', part: 'review' }),
    async (query, signal) => {
      const page = await got(api.GET('/api/v1/accounts/proposals', { params: { query }, signal }));
      return { ...page, items: page.items.map((p) => ({ ...p, id: p.account_id + p.person_id })) };
    }
  );
  let chosen = { account: '', who: '' };
  const link = new Load(async () => {
    const params = { path: { account_id: chosen.account } };
    await got(
      api.PUT('/api/v1/accounts/{account_id}/person', {
        params,
        body: { who: chosen.who, kind: null }
      })
    );
    await list.again();
    return true;
  });
  function act(account: string, who: string): void {
    chosen = { account, who };
    void link.run();
  }
  const rows = $derived(list.rows);
</script>

{#if rows.length}
  <h2>Whose account is it?</h2>
  <ProblemNote problem={link.problem} />
  <div class="scroll">
    <table class="list">
      <thead>
        <tr
          ><th>Account</th><th>Application</th><th>Perhaps of</th><th>Because of the same</th><th
            class="num">Sure</th
          ><th>Decide</th></tr
        >
      </thead>
      <tbody>
        {#each rows as row (row.account_id + row.person_id)}
          <tr>
            <td class="name mono">{row.login}</td>
            <td>{row.application_name}</td>
            <td>
              <a href={href({ page: 'person', who: row.person_id })}>{row.person_name}</a>
              <span class="soft">no. {row.employee_number}, {row.department}</span>
            </td>
            <td>{row.rule}</td>
            <td class="num mono">{row.confidence} %</td>
            <td>
              <button
                class="button slim"
                onclick={() => act(row.account_id, row.person_id)}
                disabled={link.busy}>It is theirs</button
              >
              <button
                class="button slim"
                onclick={() => act(row.account_id, '')}
                disabled={link.busy}>It is nobody’s</button
              >
            </td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
  <ShowMore {list} />
{/if}
