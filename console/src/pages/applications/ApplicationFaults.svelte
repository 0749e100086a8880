<script lang="ts">
  import { api, got } from '../../lib/api';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import Moment from '../../lib/components/Moment.svelte';
  import { ask } from '../../lib/query.svelte';
  import { href } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';

  /** What of an application cannot be understood, and what there should not be so. */
  let { id }: { id: string } = $props();
  const load = ask(
    ['applications', 'accounts'],
    () => ['unreadable', id],
    (signal) =>
      got(
        api.GET('/api/v1/applications/{application_id}/unreadable', {
          params: { path: { application_id: id }, query: { limit: 20 } },
          signal
        })
      )
  );
  const found = ask(
    ['findings', 'accounts', 'people'],
    () => ['findings', 'of', id],
    (signal) =>
      got(api.GET('/api/v1/findings', { params: { query: { application: id, limit: 1 } }, signal }))
  );
  const RETRY = '/api/v1/applications/{application_id}/unreadable/{external_id}/retry';
  const again = (external_id: string): Promise<void> =>
    load.after(() =>
      got(api.POST(RETRY, { params: { path: { application_id: id, external_id } } }))
    );
  const rows = $derived(load.data?.items ?? []);
  const findings = $derived(found.data?.total ?? 0);
</script>

<ProblemNote problem={load.problem ?? found.problem} />
<p>
  {#if findings}
    <a href={href({ page: 'findings', query: { application: id } })}
      >{findings} {findings === 1 ? 'finding' : 'findings'} here</a
    >
  {:else if found.data}<span class="soft">Nothing was found here that should not be.</span>{/if}
</p>
{#if rows.length}
  <h2>Records that cannot be understood</h2>
  <div class="scroll">
    <table class="list">
      <thead
        ><tr
          ><th scope="col">Login</th><th scope="col">Its id</th><th scope="col">Why</th><th
            scope="col">Seen</th
          >{#if session.mayAct}<th scope="col"><span class="visually-hidden">What to do</span></th
            >{/if}</tr
        ></thead
      >
      <tbody>
        {#each rows as row (row.external_id)}
          <tr>
            <td class="name mono">{row.login || 'none'}</td>
            <td class="mono">{row.external_id}</td>
            <td>{row.reason}</td>
            <td class="soft"><Moment at={row.at} zone={session.zone} /></td>
            {#if session.mayAct}
              <td
                ><button
                  class="button slim"
                  aria-label="Look again at {row.login || row.external_id}"
                  disabled={load.acting}
                  onclick={() => void again(row.external_id)}>Look again</button
                ></td
              >
            {/if}
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
{/if}
